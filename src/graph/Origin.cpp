#include "graph/Origin.h"

#include "geometry/ElementTransfer.h"

#include <cstring>
#include <set>

namespace seedloom {

namespace {

bool sameValues(const Column& a, const Column& b) {
    if (a.storage() == b.storage()) return true;
    if (a.type() != b.type() || a.size() != b.size()) return false;
    return std::visit(
        [&](const auto& shared) {
            using Values = std::decay_t<decltype(*shared)>;
            const auto* other = b.as<typename Values::value_type>();
            if constexpr (std::is_same_v<typename Values::value_type, std::string>)
                return *shared == *other;
            else
                return std::memcmp(shared->data(), other->data(), shared->size() * sizeof(typename Values::value_type)) == 0;  // NaN included
        },
        a.data());
}

class Search {
public:
    Search(const Loom& loom, const std::string& attribute, const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf)
        : loom_(loom), attribute_(attribute), outcomeOf_(outcomeOf) {}

    std::vector<Origin> run(const std::string& node) {
        std::vector<std::string> open{node};
        std::set<std::string> seen{node};
        std::map<std::string, OriginKind> found;
        while (!open.empty()) {
            const std::string id = open.back();
            open.pop_back();
            if (const auto kind = judged(id)) found.emplace(id, *kind);
            for (const Link& link : loom_.links)
                if (link.to == id && seen.insert(link.from).second) open.push_back(link.from);
        }
        std::vector<Origin> out;
        for (const Node& n : loom_.nodes)
            if (const auto it = found.find(n.id); it != found.end()) out.push_back({n.id, it->second});
        return out;
    }

private:
    std::optional<FoundColumn> columnIn(const Geometry& g) const { return findColumn(g, attribute_, Element::point); }

    std::optional<OriginKind> judged(const std::string& id) const {
        const auto outcome = outcomeOf_(id);
        const auto now = outcome ? columnIn(outcome->geometry) : std::nullopt;
        if (!now) return {};
        for (const Link& link : loom_.links) {
            if (link.to != id) continue;
            const auto feed = outcomeOf_(link.from);
            const auto before = feed ? columnIn(feed->output(outputOf(loom_, link))) : std::nullopt;
            if (!before) continue;
            if (before->element != now->element) return OriginKind::changed;
            if (sameValues(before->column, now->column)) return {};
            return before->column.size() == now->column.size() ? OriginKind::changed : OriginKind::spread;
        }
        return OriginKind::made;
    }

    const Loom& loom_;
    const std::string& attribute_;
    const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf_;
};

}  // namespace

std::vector<Origin> originsOf(const Loom& loom, const std::string& node, const std::string& attribute,
                              const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf) {
    return Search(loom, attribute, outcomeOf).run(node);
}

}  // namespace seedloom

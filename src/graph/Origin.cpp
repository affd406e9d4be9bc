#include "graph/Origin.h"

#include "geometry/Difference.h"
#include "geometry/ElementTransfer.h"

#include <cstring>
#include <set>

namespace seedloom {

namespace {

bool sameValues(const Column& a, const Column& b) {
    if (a.storage() == b.storage()) return true;
    if (a.type() != b.type() || a.size() != b.size()) return false;
    if (a.size() == 0) return true;
    return std::visit(
        [&](const auto& shared) {
            using Values = std::decay_t<decltype(*shared)>;
            const auto* other = b.as<typename Values::value_type>();
            if constexpr (std::is_same_v<typename Values::value_type, std::string>) return *shared == *other;
            else return std::memcmp(shared->data(), other->data(), shared->size() * sizeof(typename Values::value_type)) == 0;  // NaN included
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

/// Where a row of a node's result was before the node.
struct Before {
    std::string from;
    Index row;
    bool moved;
};

class ElementSearch {
public:
    using OutcomeOf = std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>;
    ElementSearch(const Loom& loom, Element element, const OutcomeOf& outcomeOf) : loom_(loom), element_(element), outcomeOf_(outcomeOf) {}

    std::map<std::string, OriginKind> run(std::string node, Index row) const {
        std::map<std::string, OriginKind> found;
        auto outcome = outcomeOf_(node);
        const Geometry* now = outcome ? &outcome->geometry : nullptr;
        while (now && row < now->count(element_)) {
            const auto step = stepBefore(node, *now, row);
            if (!step) {
                found.emplace(node, OriginKind::made);
                break;
            }
            if (step->second.moved) found.emplace(node, OriginKind::changed);
            outcome = step->first.first;
            now = step->first.second;
            node = step->second.from;
            row = step->second.row;
        }
        return found;
    }

private:
    using Feed = std::pair<std::shared_ptr<const NodeOutcome>, const Geometry*>;
    /// The first input that has the element.
    std::optional<std::pair<Feed, Before>> stepBefore(const std::string& node, const Geometry& now, Index row) const {
        for (const Link& link : loom_.links) {
            if (link.to != node) continue;
            auto feed = outcomeOf_(link.from);
            if (!feed) continue;
            const Geometry& before = feed->output(outputOf(loom_, link));
            const Difference difference = differenceOf(before, now);
            const Index was = (element_ == Element::point ? difference.was : difference.wasFace)[row];
            if (was == kNoRow) continue;
            bool moved = element_ == Element::point && difference.moved[row] != 0;
            if (element_ == Element::face)
                for (Index p : now.topology().face(row)) moved |= difference.moved[p] != 0;
            return std::pair{Feed{std::move(feed), &before}, Before{link.from, was, moved}};
        }
        return {};
    }
    const Loom& loom_;
    Element element_;
    const OutcomeOf& outcomeOf_;
};

}  // namespace

std::vector<Origin> originsOf(const Loom& loom, const std::string& node, const std::string& attribute,
                              const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf) {
    return Search(loom, attribute, outcomeOf).run(node);
}

std::vector<Origin> elementOriginsOf(const Loom& loom, const std::string& node, Element element, Index row,
                                     const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf) {
    if (element != Element::point && element != Element::face) return {};
    const auto found = ElementSearch(loom, element, outcomeOf).run(node, row);
    std::vector<Origin> out;
    for (const Node& n : loom.nodes)
        if (const auto it = found.find(n.id); it != found.end()) out.push_back({n.id, it->second});
    return out;
}

}  // namespace seedloom

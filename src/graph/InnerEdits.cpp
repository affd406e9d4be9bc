#include "graph/InnerEdits.h"

#include "fields/Formula.h"
#include "graph/ControlReadings.h"
#include "graph/Draft.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <set>

namespace seedloom {

const Loom* loomAt(const Loom& root, const std::vector<std::string>& path) {
    const Loom* at = &root;
    for (const std::string& id : path) {
        const Node* node = at->node(id);
        if (!node || !node->graph) return nullptr;
        at = node->graph.get();
    }
    return at;
}

std::vector<std::string> validPath(const Loom& root, std::vector<std::string> path) {
    while (!loomAt(root, path)) path.pop_back();
    return path;
}

Edit lifted(const Loom& root, const std::vector<std::string>& path, const Edit& inner) {
    if (path.empty() || inner.empty()) return inner;
    const std::vector<std::string> outside(path.begin(), path.end() - 1);
    const Loom* around = loomAt(root, outside);
    const Loom* inside = loomAt(root, path);
    if (!around || !inside) return {};
    auto changed = applied(*inside, inner);
    if (!changed) return {};
    const std::size_t index = std::size_t(around->node(path.back()) - around->nodes.data());
    Node after = around->nodes[index];
    after.graph = InnerGraph(std::move(*changed));
    return lifted(root, outside, Edit{inner.label, {ItemChange<Node>{index, around->nodes[index], std::move(after)}}});
}

namespace {

using Ends = std::pair<std::string, std::string>;  // node and output

Ends startOf(const Loom& loom, const Link& link) {
    const Node* from = loom.node(link.from);
    const OperatorSpec* spec = from ? findOperator(from->op) : nullptr;
    const std::size_t output = outputOf(loom, link);
    return {link.from, spec && output > 0 ? spec->outputs[output].id : std::string()};
}

/// The one result that leaves the nodes; nothing where none does.
struct Border {
    std::vector<Ends> feeds;   ///< what comes in, each once, in the order of the links
    std::vector<Ends> leaves;  ///< results that are used outside
};

Border borderOf(const Loom& loom, const std::set<std::string>& inside) {
    Border out;
    const auto note = [](std::vector<Ends>& list, Ends ends) {
        if (std::find(list.begin(), list.end(), ends) == list.end()) list.push_back(std::move(ends));
    };
    for (const Link& link : loom.links) {
        if (inside.count(link.to) && !inside.count(link.from)) note(out.feeds, startOf(loom, link));
        if (!inside.count(link.to) && inside.count(link.from)) note(out.leaves, startOf(loom, link));
    }
    return out;
}

/// What no other chosen node uses: where nothing leaves, the last of these is the result.
std::string lastOf(const Loom& loom, const std::set<std::string>& inside) {
    std::string last;
    for (const Node& node : loom.nodes)
        if (inside.count(node.id) && std::none_of(loom.links.begin(), loom.links.end(), [&](const Link& l) { return l.from == node.id && inside.count(l.to); }))
            last = node.id;
    return last;
}

Loom innerLoomOf(const Loom& loom, const std::set<std::string>& inside, const Border& border, Cell corner, std::vector<std::string>& ports) {
    Loom inner;
    for (Node node : loom.nodes) {
        if (!inside.count(node.id)) continue;
        node.cell = {node.cell.column - corner.column + 1, node.cell.row - corner.row};
        inner.nodes.push_back(std::move(node));
    }
    std::vector<std::string> inputs;
    int row = 0;
    for (const Ends& feed : border.feeds) {
        Node input;
        input.op = kInnerInput;
        input.id = inner.freeNodeId("input");
        input.label = nameOf(loom, feed.first);
        input.cell = {0, row++};
        const std::string port = inputs.empty() ? "in" : fmt::format("in_{}", inputs.size() + 1);
        if (!inputs.empty()) input.settings["name"] = port;
        ports.push_back(port);
        inputs.push_back(input.id);
        inner.nodes.push_back(std::move(input));
    }
    for (Link link : loom.links) {
        if (!inside.count(link.to)) continue;
        if (!inside.count(link.from)) {
            const auto feed = std::find(border.feeds.begin(), border.feeds.end(), startOf(loom, link));
            link.from = inputs[std::size_t(feed - border.feeds.begin())];
            link.out.clear();
        }
        inner.links.push_back(std::move(link));
    }
    Node output;
    output.op = "output";
    output.id = inner.freeNodeId("result");
    int columns = 0, lastRow = 0;
    const Ends result = border.leaves.empty() ? Ends{lastOf(loom, inside), ""} : border.leaves.front();
    for (const Node& node : inner.nodes) columns = std::max(columns, node.cell.column);
    if (const Node* node = inner.node(result.first)) lastRow = node->cell.row;
    output.cell = {columns + 1, lastRow};
    inner.output = output.id;
    inner.links.push_back({result.first, result.second, output.id, "", Json::object()});
    inner.nodes.push_back(std::move(output));
    return inner;
}

}  // namespace

std::optional<Error> foldProblem(const Loom& loom, const std::vector<std::string>& nodes) {
    const std::set<std::string> inside(nodes.begin(), nodes.end());
    if (inside.empty()) return Error{"fold.none", "Choose the nodes to fold first."};
    for (const std::string& id : inside) {
        const Node* node = loom.node(id);
        if (!node) return Error{"fold.none", "Choose the nodes to fold first."};
        if (node->op == "output" || node->op == kInnerInput)
            return Error{"fold.output", fmt::format("{} can't be folded: it belongs to this graph. Leave it out.", displayName(*node))};
    }
    for (const Link& link : loom.links) {
        if (!inside.count(link.from) || inside.count(link.to)) continue;
        for (const std::string& id : inside)
            if (reaches(loom, link.to, id))
                return Error{"fold.ring", fmt::format("{} stands between the chosen nodes. Choose it as well.", nameOf(loom, link.to))};
    }
    const Border border = borderOf(loom, inside);
    if (border.leaves.size() > 1)
        return Error{"fold.results", fmt::format("{} and {} are both used outside, and a nest has one result. Leave one of them out.",
                                                 nameOf(loom, border.leaves[0].first), nameOf(loom, border.leaves[1].first))};
    return {};
}

Edit foldIntoNest(const Loom& loom, const std::vector<std::string>& nodes, std::string* id) {
    if (foldProblem(loom, nodes)) return {};
    const std::set<std::string> inside(nodes.begin(), nodes.end());
    const Border border = borderOf(loom, inside);
    Cell corner{1 << 28, 1 << 28};
    const Node* leftmost = nullptr;
    for (const Node& node : loom.nodes) {
        if (!inside.count(node.id)) continue;
        if (!leftmost || node.cell < leftmost->cell) leftmost = &node;
        corner = {std::min(corner.column, node.cell.column), std::min(corner.row, node.cell.row)};
    }
    std::vector<std::string> ports;
    Node nest;
    nest.op = kNest;
    nest.id = loom.freeNodeId(kNest);
    nest.cell = leftmost->cell;
    nest.graph = InnerGraph(innerLoomOf(loom, inside, border, corner, ports));
    if (id) *id = nest.id;
    Draft draft(loom, fmt::format("Fold {}", namesOf(loom, nodes)));
    for (std::size_t i = draft.loom().nodes.size(); i-- > 0;)
        if (inside.count(draft.loom().nodes[i].id)) draft.remove(&Loom::nodes, i);
    draft.add(&Loom::nodes, nest);
    // What used the result uses the nest, in the place of the old link.
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        Link link = draft.loom().links[i];
        if (!inside.count(link.from) || inside.count(link.to)) continue;
        link.from = nest.id, link.out.clear();
        draft.replace(&Loom::links, i, std::move(link));
    }
    draft.removeLinksIf([&](const Link& link) { return inside.count(link.to) > 0; });
    for (std::size_t i = 0; i < border.feeds.size(); ++i)
        draft.add(&Loom::links, Link{border.feeds[i].first, border.feeds[i].second, nest.id, i == 0 ? std::string() : ports[i], Json::object()});
    return draft.finish();
}

namespace {

/// What the nest's own settings are written as, by the control that each stands for.
std::map<std::string, Json> givenTo(const Node& nest) {
    std::map<std::string, Json> out;
    for (const Control& control : nest.graph->controls) {
        const auto written = nest.settings.find(control.id);
        out[control.id] = written == nest.settings.end() ? control.fallback : *written;
    }
    return out;
}

/// Whether a written setting is the same wherever it is read: a plain value, a control, or a formula of such.
bool oneValueEverywhere(const Json& written) {
    const auto source = sourceFromJson(written);
    if (!source) return false;
    if (std::holds_alternative<FixedSource>(*source) || std::holds_alternative<ControlSource>(*source)) return true;
    const auto* text = std::get_if<FormulaSource>(&*source);
    const auto formula = text ? parseFormula(text->text) : Result<std::shared_ptr<const FormulaNode>>(Error{});
    return formula && namesIn(**formula).attributes.empty();
}

}  // namespace

std::optional<Error> unfoldProblem(const Loom& loom, const std::string& id) {
    const Node* nest = loom.node(id);
    if (!nest || nest->op != kNest || !nest->graph) return Error{"fold.nest", "Choose a nest to unfold."};
    for (const Control& control : nest->graph->controls) {
        const auto written = nest->settings.find(control.id);
        if (written == nest->settings.end() || oneValueEverywhere(*written)) continue;
        return Error{"fold.setting", fmt::format("{} takes its value from the geometry, once for the whole nest. Give it a value or a control, then unfold.",
                                                 control.label.empty() ? control.id : control.label)};
    }
    return {};
}

Edit unfoldNest(const Loom& loom, const std::string& id, std::vector<std::string>* ids) {
    if (unfoldProblem(loom, id)) return {};
    const Node* nest = loom.node(id);
    const Loom inner = *nest->graph;
    const std::map<std::string, Json> given = givenTo(*nest);
    const Cell at = nest->cell;
    Draft draft(loom, fmt::format("Unfold {}", displayName(*nest)));
    std::map<std::string, std::string> renamed;
    std::map<std::string, std::string> portOf;  // inner inputs
    for (const Node& node : inner.nodes)
        if (node.op == kInnerInput) portOf[node.id] = innerPortOf(node);
    // The nest goes first, so that its cell is free; what stands behind makes room.
    const auto feedOf = [&](const std::string& port) -> std::optional<Link> {
        for (const Link& link : loom.links)
            if (link.to == id && (link.in.empty() ? std::string("in") : link.in) == port) return link;
        return {};
    };
    for (std::size_t i = draft.loom().nodes.size(); i-- > 0;)
        if (draft.loom().nodes[i].id == id) draft.remove(&Loom::nodes, i);
    for (Node node : inner.nodes) {
        if (node.op == kInnerInput || node.id == inner.output) continue;
        const std::string old = node.id;
        node.id = draft.loom().freeNodeId(old);
        node.cell = {at.column + std::max(node.cell.column - 1, 0), at.row + node.cell.row};
        node = withControlsWritten(std::move(node), given);
        node.skipped = node.skipped || nest->skipped;
        while (draft.loom().nodeAt(node.cell)) draft.makeRoom(node.cell);
        renamed[old] = node.id;
        if (ids) ids->push_back(node.id);
        draft.add(&Loom::nodes, std::move(node));
    }
    const auto outside = [&](Link link) -> std::optional<Link> {
        if (const auto port = portOf.find(link.from); port != portOf.end()) {
            const auto feed = feedOf(port->second);
            if (!feed) return {};
            link.from = feed->from, link.out = feed->out;
        } else if (renamed.count(link.from)) {
            link.from = renamed[link.from];
        }
        return link;
    };
    std::optional<Link> result;
    for (const Link& link : inner.links)
        if (link.to == inner.output) result = outside(link);
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        Link link = draft.loom().links[i];
        if (link.from != id || !result) continue;
        link.from = result->from, link.out = result->out;
        draft.replace(&Loom::links, i, std::move(link));
    }
    draft.removeLinksIf([&](const Link& link) { return link.from == id || link.to == id; });
    for (const Link& link : inner.links) {
        if (!renamed.count(link.to)) continue;
        if (auto moved = outside(link)) {
            moved->to = renamed[link.to];
            draft.add(&Loom::links, std::move(*moved));
        }
    }
    for (Note note : inner.notes) {
        note.id = draft.loom().freeNoteId();
        note.cell = {at.column + std::max(note.cell.column - 1, 0), at.row + note.cell.row};
        draft.add(&Loom::notes, std::move(note));
    }
    if (draft.loom().output == id) draft.setOutput("");
    return draft.finish();
}

}  // namespace seedloom

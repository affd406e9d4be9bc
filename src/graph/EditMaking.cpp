// The edits for what people do in the weave and in the panels.
#include "graph/Edit.h"
#include "operators/Catalogue.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace seedloom {

namespace {

/// Builds an edit step by step against a working copy, so that indices are right at each step.
class Draft {
public:
    Draft(const Loom& loom, std::string label) : loom_(loom), edit_{std::move(label), {}} {}

    const Loom& loom() const { return loom_; }
    Edit finish() { return std::move(edit_); }

    template <class T> void replace(const std::vector<T> Loom::*list, std::size_t index, T after) {
        const T& before = (loom_.*list)[index];
        if (!(before == after)) push(ItemChange<T>{index, before, std::move(after)});
    }
    template <class T> void add(const std::vector<T> Loom::*list, T item) { push(ItemChange<T>{(loom_.*list).size(), {}, std::move(item)}); }
    template <class T> void remove(const std::vector<T> Loom::*list, std::size_t index) { push(ItemChange<T>{index, (loom_.*list)[index], {}}); }

    void changeNode(const std::string& id, auto&& change) {
        for (std::size_t i = 0; i < loom_.nodes.size(); ++i)
            if (loom_.nodes[i].id == id) {
                Node after = loom_.nodes[i];
                change(after);
                return replace(&Loom::nodes, i, std::move(after));
            }
    }
    void setOutput(const std::string& id) {
        if (loom_.output != id) push(TextChange{TextField::output, loom_.output, id});
    }
    void setName(const std::string& name) {
        if (loom_.name != name) push(TextChange{TextField::name, loom_.name, name});
    }
    void setValue(const std::string& control, const Json& after) {
        const Json before = loom_.values.contains(control) ? loom_.values[control] : Json();
        if (before != after) push(ValueChange{control, before, after});
    }
    void removeLinksIf(auto&& matches) {
        for (std::size_t i = loom_.links.size(); i-- > 0;)
            if (matches(loom_.links[i])) remove(&Loom::links, i);
    }

    /// Moves what stands at `cell`, and what stands behind it without a gap, one column on.
    void makeRoom(Cell cell) {
        const Node* there = loom_.nodeAt(cell);
        if (!there) return;
        const std::string id = there->id;
        makeRoom({cell.column + 1, cell.row});
        changeNode(id, [&](Node& n) { ++n.cell.column; });
    }

private:
    void push(Change change) {
        Edit step{"", {change}};
        loom_ = *applied(loom_, step);
        edit_.changes.push_back(std::move(change));
    }

    Loom loom_;
    Edit edit_;
};

std::string labelOf(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return spec ? spec->label : op;
}

std::string nameOf(const Loom& loom, const std::string& id) {
    const Node* node = loom.node(id);
    return node ? displayName(*node) : id;
}

Node newNode(const Loom& loom, const std::string& op, Cell cell) {
    Node node;
    node.op = op;
    node.id = loom.freeNodeId(op);
    node.cell = cell;
    return node;
}

const PortSpec* portOf(const Loom& loom, const Link& link) {
    const Node* to = loom.node(link.to);
    const OperatorSpec* spec = to ? findOperator(to->op) : nullptr;
    if (!spec || spec->inputs.empty()) return nullptr;
    return link.in.empty() ? &spec->inputs.front() : spec->input(link.in);
}

bool samePort(const Loom& loom, const Link& a, const Link& b) { return a.to == b.to && portOf(loom, a) == portOf(loom, b); }

bool takesInput(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return !spec || !spec->inputs.empty();
}

Cell freeCellNear(const Loom& loom, Cell cell) {
    while (loom.nodeAt(cell)) ++cell.row;
    return cell;
}

}  // namespace

bool reaches(const Loom& loom, const std::string& from, const std::string& to) {
    std::set<std::string> seen;
    std::vector<std::string> open{from};
    while (!open.empty()) {
        const std::string at = std::move(open.back());
        open.pop_back();
        if (at == to) return true;
        if (!seen.insert(at).second) continue;
        for (const Link& link : loom.links)
            if (link.from == at) open.push_back(link.to);
    }
    return false;
}

Edit setSetting(const Loom& loom, const std::string& node, const std::string& setting, const Json& value) {
    const Node* found = loom.node(node);
    const OperatorSpec* spec = found ? findOperator(found->op) : nullptr;
    const SettingSpec* declared = spec ? spec->setting(setting) : nullptr;
    Draft draft(loom, fmt::format("Change {} of {}", declared ? declared->label : setting, nameOf(loom, node)));
    draft.changeNode(node, [&](Node& n) {
        if (value.is_null() || (declared && value == declared->fallback))
            n.settings.erase(setting);
        else
            n.settings[setting] = value;
    });
    return draft.finish();
}

Edit setControlValue(const Loom& loom, const std::string& control, const Json& value) {
    const Control* found = loom.control(control);
    Draft draft(loom, fmt::format("Change {}", found && !found->label.empty() ? found->label : control));
    draft.setValue(control, found && value == found->fallback ? Json() : value);
    return draft.finish();
}

Edit applyPreset(const Loom& loom, const Preset& preset) {
    Draft draft(loom, fmt::format("Use preset {}", preset.name));
    for (const Control& control : loom.controls) {
        const auto it = preset.values.find(control.id);
        const Json value = it == preset.values.end() || *it == control.fallback ? Json() : *it;
        draft.setValue(control.id, value);
    }
    return draft.finish();
}

Edit setSkipped(const Loom& loom, const std::vector<std::string>& nodes, bool skipped) {
    Draft draft(loom, fmt::format("{} {}", skipped ? "Skip" : "Use", nodes.size() == 1 ? nameOf(loom, nodes[0]) : fmt::format("{} nodes", nodes.size())));
    for (const std::string& id : nodes) draft.changeNode(id, [&](Node& n) { n.skipped = skipped; });
    return draft.finish();
}

Edit renameNode(const Loom& loom, const std::string& node, const std::string& label) {
    Draft draft(loom, fmt::format("Rename {}", nameOf(loom, node)));
    draft.changeNode(node, [&](Node& n) { n.label = label == labelOf(n.op) ? std::string() : label; });
    return draft.finish();
}

Edit moveNode(const Loom& loom, const std::string& node, Cell to) {
    Draft draft(loom, fmt::format("Move {}", nameOf(loom, node)));
    const Node* moved = loom.node(node);
    if (!moved || to.column < 0 || to.row < 0) return draft.finish();
    const Node* there = loom.nodeAt(to);
    if (there && there->id != node) draft.changeNode(there->id, [from = moved->cell](Node& n) { n.cell = from; });
    draft.changeNode(node, [&](Node& n) { n.cell = to; });
    return draft.finish();
}

Edit renameLoom(const Loom& loom, const std::string& name) {
    Draft draft(loom, "Rename the loom");
    draft.setName(name);
    return draft.finish();
}

Edit addNode(const Loom& loom, const std::string& op, Cell cell, std::string* id) {
    Draft draft(loom, fmt::format("Add {}", labelOf(op)));
    Node node = newNode(loom, op, freeCellNear(loom, cell));
    if (id) *id = node.id;
    if (op == "output" && loom.output.empty()) draft.setOutput(node.id);
    draft.add(&Loom::nodes, std::move(node));
    return draft.finish();
}

Edit addNodeAfter(const Loom& loom, const std::string& op, const std::string& after, std::string* id) {
    const Node* before = loom.node(after);
    if (!before) return addNode(loom, op, {0, 0}, id);
    // A node that makes something new does not belong behind another: it starts a strand of its own.
    if (!takesInput(op)) return addNode(loom, op, {before->cell.column, before->cell.row + 1}, id);
    Draft draft(loom, fmt::format("Add {}", labelOf(op)));
    const Cell cell{before->cell.column + 1, before->cell.row};
    draft.makeRoom(cell);
    const Node node = newNode(loom, op, cell);
    if (id) *id = node.id;
    draft.add(&Loom::nodes, node);
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        Link link = draft.loom().links[i];
        if (link.from != after || !link.out.empty()) continue;
        link.from = node.id;
        draft.replace(&Loom::links, i, std::move(link));
    }
    draft.add(&Loom::links, Link{after, "", node.id, "", Json::object()});
    if (op == "output" && loom.output.empty()) draft.setOutput(node.id);
    return draft.finish();
}

Edit insertOnLink(const Loom& loom, const std::string& op, const Link& link, std::string* id) {
    const Node* from = loom.node(link.from);
    const Node* to = loom.node(link.to);
    if (!from || !to || !takesInput(op)) return addNode(loom, op, from ? from->cell : Cell{}, id);
    Draft draft(loom, fmt::format("Insert {}", labelOf(op)));
    const Cell cell{from->cell.column + 1, from->cell.row};
    draft.makeRoom(cell);
    const Node node = newNode(loom, op, cell);
    if (id) *id = node.id;
    draft.add(&Loom::nodes, node);
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        if (!(draft.loom().links[i] == link)) continue;
        Link rest = link;
        rest.from = node.id;
        rest.out.clear();
        draft.replace(&Loom::links, i, std::move(rest));
        break;
    }
    draft.add(&Loom::links, Link{link.from, link.out, node.id, "", Json::object()});
    return draft.finish();
}

Edit removeNodes(const Loom& loom, const std::vector<std::string>& nodes) {
    Draft draft(loom, fmt::format("Delete {}", nodes.size() == 1 ? nameOf(loom, nodes[0]) : fmt::format("{} nodes", nodes.size())));
    for (const std::string& id : nodes) {
        const Node* node = draft.loom().node(id);
        if (!node) continue;
        const Cell cell = node->cell;
        // What came in first takes the place of the node for all that hung on it.
        std::optional<Link> feed;
        for (const Link& link : draft.loom().links)
            if (link.to == id && !feed) feed = link;
        for (std::size_t i = 0; feed && i < draft.loom().links.size(); ++i) {
            Link link = draft.loom().links[i];
            if (link.from != id) continue;
            link.from = feed->from;
            link.out = feed->out;
            draft.replace(&Loom::links, i, std::move(link));
        }
        draft.removeLinksIf([&](const Link& link) { return link.to == id || link.from == id; });
        for (std::size_t i = draft.loom().nodes.size(); i-- > 0;)
            if (draft.loom().nodes[i].id == id) draft.remove(&Loom::nodes, i);
        for (int column = cell.column + 1;; ++column) {
            const Node* next = draft.loom().nodeAt({column, cell.row});
            if (!next) break;
            draft.changeNode(std::string(next->id), [](Node& n) { --n.cell.column; });
        }
        if (draft.loom().output == id) draft.setOutput("");
    }
    return draft.finish();
}

Edit addLink(const Loom& loom, const Link& link) {
    Draft draft(loom, fmt::format("Link {} to {}", nameOf(loom, link.from), nameOf(loom, link.to)));
    const PortSpec* port = portOf(loom, link);
    if (!port || !loom.node(link.from) || reaches(loom, link.to, link.from)) return draft.finish();
    for (const Link& old : loom.links)
        if (old.from == link.from && old.out == link.out && samePort(loom, old, link)) return draft.finish();
    if (!port->many) draft.removeLinksIf([&](const Link& old) { return samePort(loom, old, link); });
    draft.add(&Loom::links, link);
    return draft.finish();
}

Edit removeLink(const Loom& loom, const Link& link) {
    Draft draft(loom, fmt::format("Unlink {} from {}", nameOf(loom, link.to), nameOf(loom, link.from)));
    draft.removeLinksIf([&](const Link& old) { return old == link; });
    return draft.finish();
}

}  // namespace seedloom

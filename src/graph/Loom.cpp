#include "graph/Loom.h"

#include "operators/Catalogue.h"

#include <algorithm>

namespace seedloom {

namespace {

template <class T, class Key> const T* findBy(const std::vector<T>& items, Key&& matches) {
    const auto it = std::find_if(items.begin(), items.end(), matches);
    return it == items.end() ? nullptr : &*it;
}

}  // namespace

InnerGraph::InnerGraph(Loom loom) : loom_(std::make_shared<const Loom>(std::move(loom))) {}

bool InnerGraph::operator==(const InnerGraph& other) const { return loom_ == other.loom_ || (loom_ && other.loom_ && *loom_ == *other.loom_); }

const Node* Loom::node(std::string_view id) const {
    return findBy(nodes, [&](const Node& n) { return n.id == id; });
}
const Control* Loom::control(std::string_view id) const {
    return findBy(controls, [&](const Control& c) { return c.id == id; });
}
const Preset* Loom::preset(std::string_view wanted) const {
    return findBy(presets, [&](const Preset& p) { return p.name == wanted; });
}
const Note* Loom::note(std::string_view wanted) const {
    return findBy(notes, [&](const Note& n) { return n.id == wanted; });
}
Json Loom::valueInUse(const std::string& control) const {
    const auto it = values.find(control);
    return it == values.end() ? Json() : it->second;
}

Json Loom::fact(const std::string& key) const {
    const auto it = extra.find(key);
    return it == extra.end() ? Json() : *it;
}

const Node* Loom::nodeAt(Cell cell) const {
    return findBy(nodes, [&](const Node& n) { return n.cell == cell; });
}

std::string Loom::freeNodeId(const std::string& wanted) const {
    if (!node(wanted)) return wanted;
    for (int i = 2;; ++i)
        if (const std::string candidate = wanted + "_" + std::to_string(i); !node(candidate)) return candidate;
}

std::string Loom::freeNoteId() const {
    for (int i = 1;; ++i)
        if (const std::string id = "note_" + std::to_string(i); !note(id)) return id;
}

std::size_t outputOf(const Loom& loom, const Link& link) {
    const Node* from = loom.node(link.from);
    const OperatorSpec* spec = from ? findOperator(from->op) : nullptr;
    return spec ? spec->outputIndex(link.out).value_or(0) : 0;
}

std::string displayName(const Node& node) {
    if (!node.label.empty()) return node.label;
    const OperatorSpec* spec = findOperator(node.op);
    return spec ? spec->label : node.op;
}

}  // namespace seedloom

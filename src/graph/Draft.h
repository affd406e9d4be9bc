#pragma once
// For the files that make edits: builds one step by step against a working copy.
#include "graph/Edit.h"
#include "operators/Catalogue.h"

namespace seedloom {

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
    template <class T> void insert(const std::vector<T> Loom::*, std::size_t index, T item) { push(ItemChange<T>{index, {}, std::move(item)}); }
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
        const Json before = loom_.valueInUse(control);
        if (before != after) push(ValueChange{control, before, after});
    }
    void setFact(const std::string& key, const Json& after) {
        const Json before = loom_.fact(key);
        std::size_t index = 0;
        for (auto it = loom_.extra.begin(); it != loom_.extra.end() && it.key() != key; ++it) ++index;
        if (before != after) push(FactChange{key, before, after, index});
    }
    void removeLinksIf(auto&& matches) {
        for (std::size_t i = loom_.links.size(); i-- > 0;)
            if (matches(loom_.links[i])) remove(&Loom::links, i);
    }

    /// Moves what stands at `cell`, and what stands behind it without a gap, one column on. These nodes are returned.
    std::vector<std::string> makeRoom(Cell cell) {
        std::vector<std::string> moved;
        for (const Node* there; (there = loom_.nodeAt(cell)); ++cell.column) moved.push_back(there->id);
        for (auto id = moved.rbegin(); id != moved.rend(); ++id) changeNode(*id, [](Node& n) { ++n.cell.column; });
        return moved;
    }
    /// Moves what stands right of a cell that has become free, without a gap, one column back.
    void closeUp(Cell cell) {
        for (int column = cell.column + 1;; ++column) {
            const Node* next = loom_.nodeAt({column, cell.row});
            if (!next) return;
            changeNode(std::string(next->id), [](Node& n) { --n.cell.column; });
        }
    }

private:
    void push(Change change) {
        applyChange(loom_, change);
        edit_.changes.push_back(std::move(change));
    }

    Loom loom_;
    Edit edit_;
};

inline std::string labelOf(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return spec ? spec->label : op;
}

inline std::string nameOf(const Loom& loom, const std::string& id) {
    const Node* node = loom.node(id);
    return node ? displayName(*node) : id;
}

/// "Wobble", or "3 nodes".
inline std::string namesOf(const Loom& loom, const std::vector<std::string>& ids) {
    return ids.size() == 1 ? nameOf(loom, ids.front()) : std::to_string(ids.size()) + " nodes";
}

}  // namespace seedloom

#pragma once
// The document: one graph with its controls, presets and notes, as a plain value. What a loom file holds and this version does
// not know is kept in `extra` and written back as it was.
#include "graph/SharedJson.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace seedloom {

struct Control {
    std::string id, label, section;
    std::string type = "number";      ///< one of controlTypes()
    Json fallback = 0.0;              ///< the default: a plain value, or {"formula": …} over other controls
    std::optional<double> min, max;   ///< numbers outside are refused
    std::optional<double> low, high;  ///< where its slider runs; missing: from `min`, to `max`
    std::optional<double> step;       ///< what a hand's values are multiples of, from the slider's start on
    std::string unit, help;
    std::vector<std::string> choices;
    std::vector<std::string> pictures;  ///< of the choices, in their order: paths of files, or empty
    std::string shownWhen;              ///< a formula over other controls: whoever uses the loom sees it only where it holds; empty: always
    std::string allowedWhen;            ///< a formula over controls that must hold for the loom to be built
    Json extra = Json::object();
    bool operator==(const Control&) const = default;
};

struct Preset {
    std::string name;
    std::map<std::string, Json> values;  ///< control id → value
    Json extra = Json::object();
    bool operator==(const Preset&) const = default;
};

/// A place in the weave: columns run with the flow, rows are strands.
struct Cell {
    int column = 0, row = 0;
    auto operator<=>(const Cell&) const = default;
};

/// How many ink tints a card can have; 0 is none.
inline constexpr int kTints = 6;

struct Loom;

/// The graph inside a container node: a loom of its own, shared between documents and copied only when it is changed. Its controls are the
/// container's own settings. Equal where the contents are. An asset node has none: its loom lies in a file (graph/Assets).
class InnerGraph {
public:
    InnerGraph() = default;
    explicit InnerGraph(Loom loom);
    const Loom* get() const { return loom_.get(); }
    const std::shared_ptr<const Loom>& shared() const { return loom_; }
    const Loom* operator->() const { return loom_.get(); }
    const Loom& operator*() const { return *loom_; }
    explicit operator bool() const { return loom_ != nullptr; }
    bool operator==(const InnerGraph& other) const;

private:
    std::shared_ptr<const Loom> loom_;
};

struct Node {
    std::string id, op;
    std::string label;  ///< own name; empty shows the operator's
    Cell cell;
    SharedJson settings;  ///< setting id → plain value or source
    bool skipped = false;
    int tint = 0;      ///< 0 none, 1–6
    InnerGraph graph;  ///< of a container that is written here; empty in all other nodes, those of assets included
    Json extra = Json::object();
    bool operator==(const Node&) const = default;
};

/// An empty port name means the first port.
struct Link {
    std::string from, out, to, in;
    Json extra = Json::object();
    bool cut = false;  ///< drawn as two named ends instead of a thread
    bool operator==(const Link&) const = default;
};

struct Note {
    std::string id, text;
    Cell cell;
    int columns = 2;
    Json extra = Json::object();
    bool operator==(const Note&) const = default;
};

struct Loom {
    std::string name;
    std::vector<Control> controls;
    std::map<std::string, Json> values;  ///< control id → value in use, where it is not the default
    std::vector<Preset> presets;
    std::vector<Node> nodes;
    std::vector<Link> links;
    std::vector<Note> notes;
    std::string output;  ///< id of the output node
    Json extra = Json::object();

    const Node* node(std::string_view id) const;
    const Control* control(std::string_view id) const;
    const Preset* preset(std::string_view name) const;
    const Note* note(std::string_view id) const;
    /// Null where the control has its default.
    Json valueInUse(const std::string& control) const;
    /// What is told of the loom under this key of `extra`; null where nothing is.
    Json fact(const std::string& key) const;
    const Node* nodeAt(Cell cell) const;
    /// `wanted`, or with a number behind it where that is taken.
    std::string freeNodeId(const std::string& wanted) const;
    std::string freeNoteId() const;
    bool operator==(const Loom&) const = default;
};

/// What a node is called on screen: its own name, else its operator's label, else the operator's id.
std::string displayName(const Node& node);
/// The place of the output that a link starts at; the first where it names none that there is.
std::size_t outputOf(const Loom& loom, const Link& link);

}  // namespace seedloom

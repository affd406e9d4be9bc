#pragma once
// Where a graph reads controls, and writing something else there.
#include "graph/Loom.h"

namespace seedloom {

/// One place that reads a control.
struct ControlReading {
    std::vector<std::string> path;  ///< of containers around the node
    std::string node, setting;
    bool formula = false;  ///< as part of a formula; else it is the value itself
    bool operator==(const ControlReading&) const = default;
};

/// Every reading of every control, by its id: in settings of nodes, in the order of nodes, those in containers included. A container's control of the
/// same name hides the one outside.
std::map<std::string, std::vector<ControlReading>> controlReadings(const Loom& loom);
/// Controls whose default or conditions read this one.
std::vector<std::string> controlsReading(const Loom& loom, const std::string& control);

/// What a formula says in the place of a control: `ctl.id` for {"control": id}, a formula in brackets, a value.
std::string formulaOf(const Json& written);
/// A formula with `values` in the place of the controls named so.
std::string withControlsWritten(const std::string& formula, const std::map<std::string, Json>& values);
/// A control with `values` in its formulas.
Control withControlsWritten(Control control, const std::map<std::string, Json>& values);
/// A node with `values` (plain ones or sources, by control) wherever it, or what is inside of it, reads these controls.
Node withControlsWritten(Node node, std::map<std::string, Json> values);

}  // namespace seedloom

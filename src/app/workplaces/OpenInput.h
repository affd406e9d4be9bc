#pragma once
// Which input keeps a node from working as a solid, and where it is open.
#include "app/session/RebuildService.h"
#include "scene/Marks.h"

namespace seedloom::app {

struct OpenInput {
    std::string from;        ///< the node that gives it
    std::size_t output = 0;  ///< and at which output
    ElementMarks marks;      ///< its open edges, or those between faces that are turned against each other
};

/// Nothing where the node did not fail for that reason.
std::optional<OpenInput> openInputOf(const Loom& loom, const std::string& node, const RebuildService& rebuilds);

}  // namespace seedloom::app

#pragma once
// What is told of a mesh that was read, and what is offered for it.
#include "operators/OperatorCall.h"
#include "surface/Upright.h"

namespace seedloom {

/// The axis that a choice such as "-z" names.
SignedAxis axisOfUp(const std::string& up);

/// Counts, size, and beside the setting that helps: which way it seems to stand, small loose parts, doubled points, winding, place. What looks like a scan
/// gets a fix that does all of it and puts the steps behind it that close it and make its triangles even (graph/ScanCleaning).
void tellImported(OperatorCall& call, const Geometry& imported);

}  // namespace seedloom

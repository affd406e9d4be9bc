#pragma once
// What operators ask of inputs that must be solids.
#include "operators/OperatorCall.h"

namespace seedloom {

/// Fails with `code`.open or `code`.winding where a geometry is not closed or not wound alike, says where, and offers to show it and what mends it.
void needSolid(const OperatorCall& call, const Geometry& geometry, const std::string& name, const std::string& code);

}  // namespace seedloom

#pragma once
// What an operator makes of something simple, for its picture.
#include "geometry/Geometry.h"

#include <string>

namespace seedloom {

/// Empty for an operator that can show nothing by itself.
Geometry operatorSample(const std::string& op);

}  // namespace seedloom

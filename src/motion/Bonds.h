#pragma once
// Where bodies lie on each other with their faces, and could be glued.
#include "motion/RigidScene.h"

namespace seedloom {

/// Between two bodies, as they stand at the start.
struct Bond {
    std::uint32_t a = 0, b = 0;  ///< a < b
    Triple at{};                 ///< middle of where they touch, m
    Triple normal{};             ///< from a to b, a unit vector
    double area = 0;             ///< m²
};

/// Of surfaces in the world, by body: wherever faces look at each other and are no farther apart than `gap`, m. By bodies, in order. Throws Cancelled.
/// Method: triangles that overlap in their plane are clipped by each other (Sutherland & Hodgman, 1974).
std::vector<Bond> bondsBetween(const std::vector<std::vector<Triangle3>>& surfaces, double gap, const RunContext& run);

}  // namespace seedloom

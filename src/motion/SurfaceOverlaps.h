#pragma once
// Whether bodies stand in each other themselves, or just what stands for them does.
#include "motion/MovingModel.h"

namespace seedloom {

struct SurfaceOverlaps {
    std::vector<BodyOverlap> real, standIns;  ///< both as deep as they were told, in their order
};

/// Parts `told` (by hulls, boxes and the like, at `states`) into pairs of which one reaches into the other's closed surface by more than `part` of the smaller
/// one's size, looked at in the corners and middles of its triangles, and others. The ground, and surfaces that are open, have nothing else to go by: those
/// are real. Throws Cancelled.
SurfaceOverlaps bySurface(const MovingModel& model, const PieceList& pieces, const RigidScene& scene, const std::vector<BodyOverlap>& told,
                          const std::vector<BodyState>& states, double part, const RunContext& run);

}  // namespace seedloom

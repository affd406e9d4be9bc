#pragma once
// Bonds that hold bodies together until a load breaks them.
#include "motion/Bonds.h"

namespace seedloom {

struct Glue {
    std::vector<Bond> bonds;
    std::vector<double> strength;  ///< Pa, by bond: the largest pull that it holds
};
/// By bond: 1 while it holds.
using BondsLeft = std::vector<std::uint8_t>;

/// By body: the number of the clump it is in, that of its first body.
std::vector<std::uint32_t> clumpNumbers(std::size_t bodies, const Glue& glue, const BondsLeft& left);

/// The forces of a frame on the bodies.
struct FrameLoads {
    const StepLoads& contacts;
    Triple gravity{};  ///< m/s²
    const std::vector<std::uint8_t>* held = nullptr;
    bool weightBorne = false;  ///< what hangs on held bodies has borne its weight with these bonds and this gravity before
};

/// What is left of the bonds after a frame that began with `left`: in each clump the most loaded ones break first, then what they held is shared by the
/// others, and so on. `start` are the states at which the bonds were found, `now` those after the frame. Throws Cancelled.
BondsLeft bondsAfter(const Glue& glue, const BondsLeft& left, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& start,
                     const std::vector<BodyState>& now, const FrameLoads& loads, const RunContext& run);

}  // namespace seedloom

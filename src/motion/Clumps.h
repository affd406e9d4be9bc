#pragma once
// Bodies that hold together move as one.
#include "motion/RigidScene.h"

namespace seedloom {

/// Bodies as one: its frame is that of its own centre of gravity and axes of inertia.
struct Clump {
    struct Member {
        std::uint32_t body = 0;
        Triple at{};  ///< in the clump's frame
        Turn turn{0, 0, 0, 1};
    };
    std::vector<Member> members;
    double mass = 0;   ///< kg
    Triple inertia{};  ///< kg m², about the axes
    BodyState state;   ///< with the momentum of all members together; asleep if all are
};

/// By the numbers in `clumpOf`, in the order of their first body; each body by itself where it is null. A clump of one is that body, to the bit.
std::vector<Clump> clumpsOf(const std::vector<RigidBody>& bodies, const std::vector<BodyState>& states, const std::vector<std::uint32_t>* clumpOf);

/// Where its members are when the clump is here.
void moveMembers(const Clump& clump, const BodyState& now, std::vector<BodyState>& states);

}  // namespace seedloom

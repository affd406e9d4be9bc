#pragma once
// A frame of things that fall, as the operator Settle keeps it.
#include "geometry/Digest.h"
#include "motion/Glue.h"
#include "motion/MovingModel.h"
#include "operators/breaking/PieceList.h"

namespace seedloom {

/// What stays the same from frame to frame.
struct Settling {
    MovingModel model;
    std::shared_ptr<const RigidScene> scene;
    PieceList pieces;
    bool hasGround = false, wantsGlue = false;
    Glue glue;
    std::vector<BodyOverlap> startsInside;  ///< of each other
    std::vector<BodyOverlap> startsFitted;  ///< hulls of such as fit into each other
};

struct SettledFrame {
    std::shared_ptr<const Settling> all;
    std::vector<BodyState> bodies;
    std::vector<BodyPress> presses;
    int frame = 0, restsAt = -1;
    std::vector<BodyOverlap> inside;  ///< of each other, once all rest, or at the last frame
    Digest forces;                    ///< of all that acted
    std::shared_ptr<const BondsLeft> bonds;
    Digest borne;  ///< bonds, gravity and what is held where weight alone broke nothing
};

const SettledFrame& settled(const FrameState& state);
FrameState stateOf(SettledFrame frame);

/// All of a frame but what it shares with frame 0.
std::string saveSettled(const FrameState& state);
/// Nothing where the bytes are not those of a frame of these bodies.
std::optional<FrameState> restoreSettled(const FrameState& first, std::string_view bytes);

}  // namespace seedloom

#pragma once
// Profiles: curves that a Revolve turns about an axis. They are drawn beside that axis, upright in a plane through it.
#include "graph/Loom.h"

namespace seedloom {

/// How a profile for an axis is drawn.
struct ProfilePlane {
    int axis = 1;     ///< that it is turned about, 0–2
    int across = 2;   ///< the axis that the plane faces
    int outward = 0;  ///< the axis that leads away from what it is turned about
};

/// Nothing where the node is no list of points or drawn curve, or does not feed a Revolve directly.
std::optional<ProfilePlane> profilePlane(const Loom& loom, const std::string& node);
/// What a new node of `op` that feeds `fed` starts with: as a profile a short wall beside the axis, drawn lines in its plane; else nothing.
std::map<std::string, Json> profileStart(const std::string& op, const Node& fed);

}  // namespace seedloom

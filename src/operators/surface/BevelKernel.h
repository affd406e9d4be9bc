#pragma once
#include "fields/Evaluate.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct BevelOptions {
    std::vector<std::uint8_t> edges;   ///< by edge: replaced by strips; only edges of two faces that are wound alike
    std::vector<std::uint8_t> points;  ///< by point: corners that are cut off; used where no edge is chosen
    std::vector<float> width;          ///< by point, metres: from the old edge to the border of the strip, measured in the face
    int segments = 1;                  ///< faces across a strip; from 2 on the strip is round and touches both faces smoothly
};

/// Replaces edges by strips and corners by patches. Every border point lies in the plane of its face, or on an edge that is not chosen. Arcs are
/// exact circles where both faces are inset by the same width; corners of three or more strips are parts of a ball where one fits. Widths are made
/// smaller where faces have no room for them; `held` counts these points. Old corners that stay keep their attributes bit for bit, new ones are mixed
/// within the face they lie in. New faces get the tag `bevel`. Curves stay. Cost: O(corners · segments²).
Geometry bevel(const Geometry& in, const BevelOptions& options, const RunContext& run, std::size_t* held);

/// The half edge on the other side of each (a corner stands for the edge from it to the next), or ~0 where there are not just two that run
/// against each other.
std::vector<Index> twinCorners(const Topology& topology);

}  // namespace seedloom

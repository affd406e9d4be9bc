#pragma once
// Faces that belong together.
#include "geometry/Groups.h"

namespace seedloom {

/// Joins the faces on both sides of each edge where `together(face, other)` says so; at an edge of many faces the first with each of the others.
template <class Together> void joinAcrossEdges(const Topology& topology, Groups& groups, Together&& together) {
    const EdgeTable& edges = topology.edges();
    std::vector<Index> first(edges.edges.size(), ~Index{0});
    for (Index c = 0; c < topology.cornerCount(); ++c) {
        const Index e = edges.cornerEdge[c], f = topology.faceOfCorner()[c];
        if (first[e] == ~Index{0}) first[e] = f;
        else if (together(first[e], f)) groups.join(first[e], f);
    }
}

}  // namespace seedloom

#pragma once
// Where a ring of corners is begun, and which way it is gone around, so that it is the same for a face and one that lies against it.
#include "geometry/Topology.h"

namespace seedloom {

struct RingOrder {
    Index first = 0;      ///< the corner that it begins with
    bool turned = false;  ///< it goes the other way
    /// The corner of the face that is the k-th of the ring.
    Index corner(Index k, Index count) const { return turned ? (first + count - k) % count : (first + k) % count; }
};

/// From the least corner towards the lesser of its neighbours; `before` tells of two points which is less. Faces of no corners have no order.
template <class Before> RingOrder ringOrder(std::span<const Index> face, Before&& before) {
    RingOrder out;
    const auto n = Index(face.size());
    for (Index k = 1; k < n; ++k)
        if (before(face[k], face[out.first])) out.first = k;
    out.turned = n > 0 && before(face[(out.first + n - 1) % n], face[(out.first + 1) % n]);
    return out;
}

}  // namespace seedloom

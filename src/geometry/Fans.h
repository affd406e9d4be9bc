#pragma once
// Which faces at a point hang together by edges at it.
#include "geometry/Topology.h"

namespace seedloom {

class Fans {
public:
    explicit Fans(const Topology& topology) : t_(topology) {}
    /// How many fans there are at a point: one where a surface is a surface, more where parts only touch.
    std::size_t at(Index point);
    /// The fan, from 0, of each corner at the point asked for last, in the order of cornersOfPoint().
    std::vector<Index> ofCorners() const;

private:
    Index root(Index i) const;

    const Topology& t_;
    std::vector<std::pair<Index, Index>> sides_;
    mutable std::vector<Index> parent_;
};

}  // namespace seedloom

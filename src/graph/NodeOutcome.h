#pragma once
// What a node gave.
#include "geometry/Geometry.h"
#include "operators/Notice.h"

namespace seedloom {

struct NodeOutcome {
    Geometry geometry;
    std::vector<Geometry> others = {};  ///< of the second output and further ones
    std::vector<Notice> notices;
    bool failed = false;
    double ms = 0;            ///< time of the computation
    int parts = 0;            ///< of a container: how many parts or turns it ran
    std::uint64_t faces = 0;  ///< of the first output, with those of its copies
    bool coarse = false;      ///< a quick answer in the place of the whole one, or made from one

    /// Of an output by its place; empty where there is none.
    const Geometry& output(std::size_t i) const {
        static const Geometry none;
        return i == 0 ? geometry : i <= others.size() ? others[i - 1] : none;
    }
};

}  // namespace seedloom

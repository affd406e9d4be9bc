#pragma once
// Things that belong together, joined pair by pair.
#include "geometry/Topology.h"

#include <numeric>

namespace seedloom {

/// Union-find with halved paths. Source: Tarjan, van Leeuwen, "Worst-case Analysis of Set Union Algorithms", JACM 31(2), 1984.
class Groups {
public:
    explicit Groups(std::size_t count = 0) : parent_(count) { std::iota(parent_.begin(), parent_.end(), Index{0}); }
    /// The one that stands for the group of `i`: its first, whatever the order of joining was.
    Index find(Index i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void join(Index a, Index b) {
        a = find(a), b = find(b);
        parent_[std::max(a, b)] = std::min(a, b);
    }

private:
    std::vector<Index> parent_;
};

}  // namespace seedloom

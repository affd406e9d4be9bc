#include "geometry/Fans.h"

#include <algorithm>

namespace seedloom {

Index Fans::root(Index i) const {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
}

std::size_t Fans::at(Index point) {
    const auto corners = t_.cornersOfPoint()[point];
    const auto& edges = t_.edges();
    sides_.clear();
    parent_.resize(corners.size());
    for (Index i = 0; i < corners.size(); ++i) {
        const Index c = corners[i], face = t_.faceOfCorner()[c], begin = t_.faceStart()[face], end = t_.faceStart()[face + 1];
        sides_.push_back({edges.cornerEdge[c], i});
        sides_.push_back({edges.cornerEdge[c == begin ? end - 1 : c - 1], i});
        parent_[i] = i;
    }
    std::sort(sides_.begin(), sides_.end());
    std::size_t fans = corners.size();
    for (std::size_t i = 1; i < sides_.size(); ++i) {
        if (sides_[i].first != sides_[i - 1].first) continue;
        const Index a = root(sides_[i].second), b = root(sides_[i - 1].second);
        if (a != b) parent_[std::max(a, b)] = std::min(a, b), --fans;
    }
    return fans;
}

std::vector<Index> Fans::ofCorners() const {
    std::vector<Index> out(parent_.size());
    Index fans = 0;
    for (Index i = 0; i < out.size(); ++i) out[i] = root(i) == i ? fans++ : out[root(i)];
    return out;
}

}  // namespace seedloom

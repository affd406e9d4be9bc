#pragma once
// The plane of a polygon, as two axes.
#include <array>
#include <vector>

namespace seedloom {

struct RingFrame {
    using Place = std::array<double, 3>;
    Place origin{}, u{}, v{};

    /// Of a flat ring, in its first corner; seen from its front, v is to the left of u. Precondition: a corner at least.
    explicit RingFrame(const std::vector<Place>& ring);
    std::array<double, 2> flat(const Place& p) const;
    Place real(const std::array<double, 2>& p) const;
};

}  // namespace seedloom

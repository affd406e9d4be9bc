#include "breaking/RingFrame.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

RingFrame::RingFrame(const std::vector<Place>& ring) : origin(ring[0]) {
    Place n{};
    for (std::size_t k = 1; k + 1 < ring.size(); ++k) {
        Place a, b;
        for (std::size_t c = 0; c < 3; ++c) a[c] = ring[k][c] - origin[c], b[c] = ring[k + 1][c] - origin[c];
        n[0] += a[1] * b[2] - a[2] * b[1], n[1] += a[2] * b[0] - a[0] * b[2], n[2] += a[0] * b[1] - a[1] * b[0];
    }
    const double length = std::max(std::hypot(n[0], n[1], n[2]), 1e-300);
    for (double& c : n) c /= length;
    u = std::abs(n[0]) < 0.6 ? Place{0, n[2], -n[1]} : Place{-n[2], 0, n[0]};
    const double across = std::max(std::hypot(u[0], u[1], u[2]), 1e-300);
    for (double& c : u) c /= across;
    v = {n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]};
}

std::array<double, 2> RingFrame::flat(const Place& p) const {
    std::array<double, 2> out{};
    for (std::size_t c = 0; c < 3; ++c) out[0] += (p[c] - origin[c]) * u[c], out[1] += (p[c] - origin[c]) * v[c];
    return out;
}

RingFrame::Place RingFrame::real(const std::array<double, 2>& p) const {
    Place out;
    for (std::size_t c = 0; c < 3; ++c) out[c] = origin[c] + u[c] * p[0] + v[c] * p[1];
    return out;
}

}  // namespace seedloom

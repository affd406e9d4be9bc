#pragma once
// Choosing one of several: by shares, or by a number that goes round.
#include "geometry/Topology.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

/// Added to the seed of an operator, so that its chances have nothing to do with those of others, or of a source, that have the same seed for the same
/// elements.
enum class Chances : int { shapes = 1009, materials = 2003, transforms = 3001 };
inline double seedOf(double seed, Chances own) { return seed + double(int(own)) + 0.5; }

/// Things that come as often as their shares say. Shares are finite and not negative.
class Shares {
public:
    explicit Shares(std::vector<double> shares) : limit_(std::move(shares)) {
        for (std::size_t i = 1; i < limit_.size(); ++i) limit_[i] += limit_[i - 1];
    }
    /// False where there is nothing, or all shares are 0.
    bool possible() const { return !limit_.empty() && limit_.back() > 0; }
    /// The thing at a part in [0, 1) of the whole. Precondition: possible().
    Index at(double part) const {
        const auto found = std::upper_bound(limit_.begin(), limit_.end(), part * limit_.back());
        return Index(std::min<std::ptrdiff_t>(found - limit_.begin(), std::ptrdiff_t(limit_.size()) - 1));
    }

private:
    std::vector<double> limit_;
};

/// A number as a place among `count`, rounded down; after the last comes the first again. What is no number is 0.
inline Index goingRound(double number, Index count) {
    const double n = std::floor(number), round = n - std::floor(n / double(count)) * double(count);
    return std::isfinite(round) ? Index(std::clamp(round, 0.0, double(count - 1))) : 0;
}

}  // namespace seedloom

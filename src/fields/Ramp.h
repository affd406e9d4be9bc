#pragma once
// A drawn curve from x in 0–1 to a value, by knots with straight, smooth or stepped pieces.
#include <cstdint>
#include <vector>

namespace seedloom {

enum class RampShape : std::uint8_t { straight, smooth, step };

struct RampKnot {
    double x = 0, y = 0;
    RampShape shape = RampShape::straight;  ///< of the stretch after this knot
    bool operator==(const RampKnot&) const = default;
};

/// Smooth stretches are monotone cubics: they never overshoot their knots, ease out of the first and into the last of a run,
/// and pass through the knots between with one common slope. Source: Fritsch & Butland, SIAM J. Sci. Stat. Comput. 5(2), 1984.
class Ramp {
public:
    Ramp() = default;
    /// Knots are sorted by x (those with equal x keep their order). No knots give 0 everywhere.
    explicit Ramp(std::vector<RampKnot> knots);

    const std::vector<RampKnot>& knots() const { return knots_; }
    /// The value at `x`; before the first and after the last knot the ends are held.
    double at(double x) const;

private:
    std::vector<RampKnot> knots_;
    std::vector<double> slope_;
};

}  // namespace seedloom

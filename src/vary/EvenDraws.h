#pragma once
// Numbers that look drawn by chance and still cover their ranges evenly, however few there are.
#include "graph/Loom.h"

#include <vector>

namespace seedloom {

/// Points in a unit cube of so many dimensions: any first few of them cover it evenly, and more of them never change the first ones. Method: additive
/// recurrence with powers of the generalised golden ratio (Roberts 2018), shifted by the seed.
class EvenDraws {
public:
    EvenDraws(std::size_t dimensions, unsigned seed);
    std::size_t dimensions() const { return step_.size(); }
    /// 0 ≤ part < 1 of the point with that number, from 1.
    double part(std::size_t number, std::size_t dimension) const;

private:
    std::vector<double> step_, shift_;
};

/// What values of a control are drawn from: a range of numbers, or some values.
struct DrawnFrom {
    const Control* control = nullptr;
    double low = 0, high = 0;
    std::vector<Json> values;  ///< where there are any, these instead of the range
    /// 0 ≤ part < 1.
    Json at(double part) const;
    bool possible() const { return !values.empty() || high > low; }
};

/// Without the last digits, in which sums of fractions differ: 0.3 and not 0.30000000000000004.
double plainNumber(double value);

/// What a control offers by itself: its choices, yes and no, or its slider's range held inside its limits; not possible() where it offers nothing.
DrawnFrom drawnFrom(const Control& control);

}  // namespace seedloom

#pragma once
#include "surface/FinePlace.h"

#include <cmath>

namespace seedloom {

/// The volume between faces, which may leave holes, and the middle of their area: what a bowl, or a scan with holes, goes around.
class HollowVolume {
public:
    /// A face by its area vector (m², as long as it is large) and its middle.
    void add(const FinePlace& vector, const FinePlace& middle) {
        const double size = std::sqrt(dot(vector, vector));
        area_ += size;
        about_ += dot(vector, middle);
        for (std::size_t c = 0; c < 3; ++c) vector_[c] += vector[c], middle_[c] += size * middle[c];
    }
    double area() const { return area_; }
    /// m³, below 0 where the faces look inwards.
    double volume() const { return area_ > 0 ? (about_ - dot(vector_, middle_) / area_) / 3 : 0; }
    /// Flat and wavy sheets go around next to nothing. As part of their area to the power of 3/2 a ball has 0.09, a cap of 30° 0.05.
    bool isSheet() const { return std::abs(volume()) <= 0.02 * std::pow(area_, 1.5); }

private:
    double area_ = 0, about_ = 0;
    FinePlace vector_{}, middle_{};  ///< sums; the second times the area
};

}  // namespace seedloom

#pragma once
// The shortest displacement that has given lengths along given directions.
#include "geometry/Vec.h"

namespace seedloom {

/// Collects conditions n · d = distance and solves them in the least-squares sense; a little damping picks the shortest solution where
/// the directions are flat or share an edge. Walls and insets keep their width at edges and corners that way.
class LeastOffset {
public:
    void add(Vec3 n, double distance) {
        const double x = double(n.x), y = double(n.y), z = double(n.z);
        xx_ += x * x, xy_ += x * y, xz_ += x * z, yy_ += y * y, yz_ += y * z, zz_ += z * z;
        right_[0] += x * distance, right_[1] += y * distance, right_[2] += z * distance;
    }
    /// Held to `longest`; 0 where there are no usable directions.
    Vec3 solve(double longest) const {
        const double damp = 1e-6 * (xx_ + yy_ + zz_) + 1e-30;
        const double p = xx_ + damp, q = yy_ + damp, r = zz_ + damp;
        const double a = q * r - yz_ * yz_, b = xz_ * yz_ - xy_ * r, c = xy_ * yz_ - xz_ * q;
        const double det = p * a + xy_ * b + xz_ * c;
        const double e = p * r - xz_ * xz_, g = xy_ * xz_ - p * yz_, h = p * q - xy_ * xy_;
        const Vec3 d{float((a * right_[0] + b * right_[1] + c * right_[2]) / det), float((b * right_[0] + e * right_[1] + g * right_[2]) / det),
                     float((c * right_[0] + g * right_[1] + h * right_[2]) / det)};
        const double size = double(length(d));
        if (!std::isfinite(size)) return {};
        return size > longest ? d * float(longest / size) : d;
    }

private:
    double xx_ = 0, xy_ = 0, xz_ = 0, yy_ = 0, yz_ = 0, zz_ = 0;
    double right_[3] = {0, 0, 0};
};

}  // namespace seedloom

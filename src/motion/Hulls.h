#pragma once
// Convex shapes that stand for a solid where bodies meet: its hull, its box, or several hulls that follow its hollows.
#include "motion/SolidMoments.h"

namespace seedloom {

inline constexpr std::size_t kEveryCorner = ~std::size_t{0};

struct Hull {
    std::vector<Vec3> corners;
    std::vector<Triangle3> surface;  ///< wound anticlockwise seen from outside
    double volume = 0;
};

/// The convex hull of points; where they lie in a plane, a line or a place, it is made a little thick, so that it always has a volume. Corners
/// are left out as long as nothing stands out by more than a five-hundredth of the size; beyond `most` of them whatever does. Library: Bullet (exact hull by
/// Preparata and Hong). Empty for no points.
Hull hullOf(std::span<const Vec3> points, std::size_t most);

/// The box about points that is aligned to the axes of `moments`; empty for no points.
Hull boxOf(std::span<const Vec3> points, const InertiaAxes& axes);

/// Hulls that together hold the solid and, as far as `most` of them can, little else. Method: own; cut again and again by the plane along one of its axes
/// that saves most volume of hulls, the part first whose cut saves most.
std::vector<Hull> convexPartsOf(std::span<const Triangle3> surface, std::size_t most, std::size_t mostCorners);

}  // namespace seedloom

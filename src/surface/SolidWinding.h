#pragma once
// How often solids of two groups lie around a place.
#include "geometry/BoxTree.h"

#include <array>
#include <memory>
#include <optional>

namespace seedloom {

struct SolidWinding {
    int base = 0, cutters = 0;
};

/// Counts crossings along rays that run along an axis. Closed surfaces only.
class WindingRays {
public:
    /// Places of triangles, wound outward; `cutter` tells their group.
    WindingRays(std::vector<std::array<Vec3, 3>> triangles, const std::vector<std::uint8_t>& cutter);

    /// Just before the front of a triangle that lies on those with the numbers `own`; `step` is what it is behind them, less what it is before.
    SolidWinding inFrontOf(Vec3 a, Vec3 b, Vec3 c, const std::vector<Index>& own, SolidWinding step) const;

private:
    std::optional<SolidWinding> along(int axis, const std::array<double, 3>& from, const std::vector<Index>& own) const;

    std::vector<std::array<Vec3, 3>> triangles_;
    const std::vector<std::uint8_t>& cutter_;
    std::vector<Box> boxes_;
    std::unique_ptr<BoxTree> tree_;
};

}  // namespace seedloom

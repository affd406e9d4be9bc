#pragma once
// How often solids of two groups lie around a place.
#include "geometry/BoxTree.h"
#include "surface/FinePlace.h"

#include <array>
#include <optional>

namespace seedloom {

struct SolidWinding {
    int base = 0, cutters = 0;
};

/// Counts crossings along rays that run along an axis. Closed surfaces only.
class WindingRays {
public:
    /// Places of triangles, wound outward, and the tree of their boxes; `cutter` tells their group. Both must outlive this.
    WindingRays(std::vector<std::array<Vec3, 3>> triangles, const BoxTree& tree, const std::vector<std::uint8_t>& cutter);

    /// Just before the front of a triangle that lies on those with the numbers `own`; `step` is what it is behind them, less what it is before.
    SolidWinding inFrontOf(const std::array<FinePlace, 3>& corners, const std::vector<Index>& own, SolidWinding step) const;

private:
    std::optional<SolidWinding> along(int axis, const FinePlace& from, const std::vector<Index>& own) const;

    std::vector<std::array<Vec3, 3>> triangles_;
    const std::vector<std::uint8_t>& cutter_;
    const BoxTree& tree_;
};

}  // namespace seedloom

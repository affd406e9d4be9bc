#pragma once
// Points sorted into the cells of a grid, for finding those nearby.
#include "geometry/Geometry.h"

#include <algorithm>

namespace seedloom {

/// Cells are hashed, so space may be as large as it likes. Points that are no numbers are left out. Safe to search from several threads.
class PointGrid {
public:
    /// `cell`: size in metres, over 0: about as large as what is looked for.
    PointGrid(const std::vector<Vec3>& at, float cell);
    /// Points at most `distance` away, cell by cell.
    template <class Take> void within(Vec3 p, float distance, Take&& take) const { within(p, distance, Every{}, take); }
    /// Of many candidates one in so many, from which on: a sample that says nothing of their order.
    struct Every {
        std::size_t step = 1, first = 0;
    };
    /// How many points lie in the cells that are looked at for a distance: no less than within() gives.
    std::size_t candidates(Vec3 p, float distance) const {
        std::size_t out = 0;
        eachCell(p, distance, [&](const std::array<std::int64_t, 3>&, Index begin, Index end) { out += end - begin; });
        return out;
    }
    template <class Take> void within(Vec3 p, float distance, Every every, Take&& take) const {
        std::size_t next = every.first;
        eachCell(p, distance, [&](const std::array<std::int64_t, 3>& cell, Index begin, Index end) {
            const std::size_t count = end - begin;
            for (; next < count; next += every.step) {
                const Index k = begin + Index(next);
                const Vec3 way = at_[order_[k]] - p;
                // Other cells may share the bucket.
                if (dot(way, way) <= distance * distance && cellOf(at_[order_[k]]) == cell) take(order_[k]);
            }
            next -= count;
        });
    }

private:
    template <class Take> void eachCell(Vec3 p, float distance, Take&& take) const {
        const std::array<std::int64_t, 3> low = cellOf(p - Vec3{distance, distance, distance}), high = cellOf(p + Vec3{distance, distance, distance});
        for (std::int64_t x = low[0]; x <= high[0]; ++x)
            for (std::int64_t y = low[1]; y <= high[1]; ++y)
                for (std::int64_t z = low[2]; z <= high[2]; ++z) {
                    const std::array<std::int64_t, 3> cell{x, y, z};
                    const std::size_t bucket = bucketOf(cell);
                    take(cell, start_[bucket], start_[bucket + 1]);
                }
    }
    std::array<std::int64_t, 3> cellOf(Vec3 p) const;
    std::size_t bucketOf(const std::array<std::int64_t, 3>& cell) const;
    const std::vector<Vec3>& at_;
    double cell_;
    std::vector<Index> start_, order_;
};

/// A cell size that suits most of the distances: their median, or 1 where none is over 0.
float typicalReach(std::vector<float> distances);

}  // namespace seedloom

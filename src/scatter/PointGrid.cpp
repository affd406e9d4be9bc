#include "scatter/PointGrid.h"

#include "fields/Random.h"

#include <bit>
#include <numeric>

namespace seedloom {

PointGrid::PointGrid(const std::vector<Vec3>& at, float cell) : at_(at), cell_(double(cell)) {
    start_.assign(std::bit_ceil(std::max<std::size_t>(at.size(), 1)) + 1, 0);
    std::vector<Index> bucket(at.size(), ~0u);
    for (std::size_t i = 0; i < at.size(); ++i) {
        if (!isFinite(at[i])) continue;
        bucket[i] = Index(bucketOf(cellOf(at[i])));
        ++start_[bucket[i] + 1];
    }
    std::partial_sum(start_.begin(), start_.end(), start_.begin());
    order_.resize(start_.back());
    std::vector<Index> fill(start_.begin(), start_.end() - 1);
    for (Index i = 0; i < at.size(); ++i)
        if (bucket[i] != ~0u) order_[fill[bucket[i]]++] = i;
}

std::array<std::int64_t, 3> PointGrid::cellOf(Vec3 p) const {
    const auto index = [&](float v) { return std::int64_t(std::floor(std::clamp(double(v) / cell_, -1e15, 1e15))); };
    return {index(p.x), index(p.y), index(p.z)};
}

std::size_t PointGrid::bucketOf(const std::array<std::int64_t, 3>& cell) const {
    const std::uint64_t mixed = mixBits(std::uint64_t(cell[0]) * 0x9E3779B97F4A7C15ull + std::uint64_t(cell[1]) * 0xC2B2AE3D27D4EB4Full +
                                        std::uint64_t(cell[2]) * 0x165667B19E3779F9ull);
    return std::size_t(mixed) & (start_.size() - 2);
}

float typicalReach(std::vector<float> distances) {
    std::erase_if(distances, [](float d) { return !(d > 0) || !std::isfinite(d); });
    if (distances.empty()) return 1;
    const auto middle = distances.begin() + std::ptrdiff_t(distances.size() / 2);
    std::nth_element(distances.begin(), middle, distances.end());
    return *middle;
}

}  // namespace seedloom

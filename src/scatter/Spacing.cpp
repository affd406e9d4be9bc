#include "scatter/Spacing.h"

#include "fields/Random.h"

#include <limits>

namespace seedloom {

namespace {

constexpr int kMostLevels = 40;

}  // namespace

SpacedPoints::SpacedPoints(double cell) : finest_(cell), slots_(1024) {}

/// The level's number and three coordinates as one number that is never 0. Far cells may share one: then a few more points are looked at.
std::uint64_t SpacedPoints::cellAt(int level, std::int64_t x, std::int64_t y, std::int64_t z) const {
    return mixBits(std::uint64_t(x) * 0x9E3779B97F4A7C15ull + std::uint64_t(y) * 0xC2B2AE3D27D4EB4Full + std::uint64_t(z) * 0x165667B19E3779F9ull + std::uint64_t(level + 1)) | 1;
}

SpacedPoints::Slot& SpacedPoints::slotOf(std::uint64_t cell) {
    std::size_t i = std::size_t(cell >> 1) & (slots_.size() - 1);
    while (slots_[i].cell != 0 && slots_[i].cell != cell) i = (i + 1) & (slots_.size() - 1);
    if (slots_[i].cell == 0) slots_[i].cell = cell, ++slotsUsed_;
    return slots_[i];
}

const SpacedPoints::Slot* SpacedPoints::find(std::uint64_t cell) const {
    std::size_t i = std::size_t(cell >> 1) & (slots_.size() - 1);
    while (slots_[i].cell != 0) {
        if (slots_[i].cell == cell) return &slots_[i];
        i = (i + 1) & (slots_.size() - 1);
    }
    return nullptr;
}

void SpacedPoints::grow() {
    std::vector<Slot> before(slots_.size() * 2);
    before.swap(slots_);
    slotsUsed_ = 0;
    for (const Slot& slot : before)
        if (slot.cell != 0) slotOf(slot.cell).first = slot.first;
}

bool SpacedPoints::cellIsFree(std::uint64_t cell, Vec3 at, float distance) const {
    const Slot* slot = find(cell);
    for (Index i = slot ? slot->first : kNone; i != kNone; i = next_[i]) {
        const float apart = std::max(distance, distance_[i]);
        const Vec3 way = at_[i] - at;
        if (dot(way, way) < apart * apart) return false;
    }
    return true;
}

bool SpacedPoints::freeAt(int level, Vec3 at, float distance) const {
    const double cell = std::ldexp(finest_, level);
    const auto index = [&](float v) { return std::int64_t(std::floor(std::clamp(double(v) / cell, -1e15, 1e15))); };
    const std::int64_t x = index(at.x), y = index(at.y), z = index(at.z);
    if (!cellIsFree(cellAt(level, x, y, z), at, distance)) return false;  // most that are refused are refused here
    const float reach = std::max(distance, float(cell));
    const std::int64_t low[3] = {index(at.x - reach), index(at.y - reach), index(at.z - reach)}, high[3] = {index(at.x + reach), index(at.y + reach), index(at.z + reach)};
    for (std::int64_t i = low[0]; i <= high[0]; ++i)
        for (std::int64_t j = low[1]; j <= high[1]; ++j)
            for (std::int64_t k = low[2]; k <= high[2]; ++k)
                if ((i != x || j != y || k != z) && !cellIsFree(cellAt(level, i, j, k), at, distance)) return false;
    return true;
}

bool SpacedPoints::hasRoom(Vec3 at, float distance) const {
    for (int level = 0; level < int(levelUsed_.size()); ++level)
        if (levelUsed_[std::size_t(level)] && !freeAt(level, at, distance)) return false;
    return true;
}

bool SpacedPoints::take(Vec3 at, float distance) {
    if (!hasRoom(at, distance)) return false;
    const int level = double(distance) > finest_ ? std::min(int(std::ceil(std::log2(double(distance) / finest_))), kMostLevels) : 0;
    if (std::size_t(level) >= levelUsed_.size()) levelUsed_.resize(std::size_t(level) + 1, 0);
    levelUsed_[std::size_t(level)] = 1;
    if (slotsUsed_ * 2 > slots_.size()) grow();
    const double cell = std::ldexp(finest_, level);
    const auto index = [&](float v) { return std::int64_t(std::floor(std::clamp(double(v) / cell, -1e15, 1e15))); };
    Slot& slot = slotOf(cellAt(level, index(at.x), index(at.y), index(at.z)));
    at_.push_back(at);
    distance_.push_back(distance);
    next_.push_back(slot.first);
    slot.first = Index(at_.size() - 1);
    return true;
}

std::vector<std::uint8_t> keptApart(const std::vector<Vec3>& at, const std::vector<float>& distances, const std::vector<Index>& order, const RunContext& run) {
    const auto distanceOf = [&](Index i) { return distances.size() == 1 ? distances.front() : distances[i]; };
    // A point with the largest distance looks at all cells within it: they must not be too fine for that.
    constexpr float kFinest = 1.0f / 16;
    float largest = 0, least = std::numeric_limits<float>::max();
    for (float d : distances)
        if (std::isfinite(d) && d > 0) largest = std::max(largest, d), least = std::min(least, d);
    std::vector<std::uint8_t> kept(at.size(), 0);
    if (largest == 0) {
        for (Index i = 0; i < at.size(); ++i) kept[i] = isFinite(at[i]);
        return kept;
    }
    SpacedPoints taken(double(std::max(least, largest * kFinest)));
    for (std::size_t i = 0; i < order.size(); ++i) {
        if (i % 4096 == 0) run.poll();
        const float d = distanceOf(order[i]);
        kept[order[i]] = isFinite(at[order[i]]) && taken.take(at[order[i]], d > 0 && std::isfinite(d) ? d : 0);
    }
    return kept;
}

}  // namespace seedloom

#include "scatter/Spacing.h"

#include "fields/Random.h"

#include <limits>

namespace seedloom {

namespace {

constexpr int kMostLevels = 40;

}  // namespace

SpacedPoints::SpacedPoints(double cell) : finest_(cell), slots_(1024) {}

/// Never 0. Far blocks may share one: then a few more points are looked at.
std::uint64_t SpacedPoints::keyOf(int level, const Cell& b) {
    return mixBits(std::uint64_t(b[0]) * 0x9E3779B97F4A7C15ull + std::uint64_t(b[1]) * 0xC2B2AE3D27D4EB4Full + std::uint64_t(b[2]) * 0x165667B19E3779F9ull +
                   std::uint64_t(level + 1)) |
           1;
}

SpacedPoints::Cell SpacedPoints::cellOf(int level, Vec3 at) const {
    const double size = std::ldexp(finest_, level);
    const auto index = [&](float v) { return std::int64_t(std::floor(std::clamp(double(v) / size, -1e15, 1e15))); };
    return {index(at.x), index(at.y), index(at.z)};
}

Index SpacedPoints::findBlock(std::uint64_t key) const {
    for (std::size_t i = std::size_t(key >> 1) & (slots_.size() - 1); slots_[i].key != 0; i = (i + 1) & (slots_.size() - 1))
        if (slots_[i].key == key) return slots_[i].block;
    return kNone;
}

SpacedPoints::Block& SpacedPoints::blockFor(std::uint64_t key) {
    if (const Index known = findBlock(key); known != kNone) return blocks_[known];
    if (blocks_.size() * 2 >= slots_.size()) grow();
    std::size_t i = std::size_t(key >> 1) & (slots_.size() - 1);
    while (slots_[i].key != 0) i = (i + 1) & (slots_.size() - 1);
    slots_[i] = {key, Index(blocks_.size())};
    blocks_.emplace_back().fill(kNone);
    return blocks_.back();
}

void SpacedPoints::grow() {
    std::vector<Slot> before(slots_.size() * 2);
    before.swap(slots_);
    for (const Slot& slot : before) {
        if (slot.key == 0) continue;
        std::size_t i = std::size_t(slot.key >> 1) & (slots_.size() - 1);
        while (slots_[i].key != 0) i = (i + 1) & (slots_.size() - 1);
        slots_[i] = slot;
    }
}

bool SpacedPoints::blockIsFree(const Block& block, const Cell& first, const Cell& last, Vec3 at, float distance) const {
    for (std::int64_t x = first[0]; x <= last[0]; ++x)
        for (std::int64_t y = first[1]; y <= last[1]; ++y)
            for (std::int64_t z = first[2]; z <= last[2]; ++z)
                for (Index i = block[within(x, y, z)]; i != kNone; i = taken_[i].next) {
                    const Taken& other = taken_[i];
                    const float apart = std::max(distance, other.distance);
                    const Vec3 way = other.at - at;
                    if (dot(way, way) < apart * apart) return false;
                }
    return true;
}

bool SpacedPoints::freeAt(int level, Vec3 at, float distance) const {
    const float reach = std::max(distance, float(std::ldexp(finest_, level)));
    const Cell low = cellOf(level, at - Vec3{reach, reach, reach}), high = cellOf(level, at + Vec3{reach, reach, reach});
    for (std::int64_t x = low[0] >> kBlockBits; x <= high[0] >> kBlockBits; ++x)
        for (std::int64_t y = low[1] >> kBlockBits; y <= high[1] >> kBlockBits; ++y)
            for (std::int64_t z = low[2] >> kBlockBits; z <= high[2] >> kBlockBits; ++z) {
                const Index found = findBlock(keyOf(level, {x, y, z}));
                if (found == kNone) continue;
                const Cell corner{x * kBlock, y * kBlock, z * kBlock};
                Cell first, last;
                for (std::size_t c = 0; c < 3; ++c) first[c] = std::max(low[c], corner[c]), last[c] = std::min(high[c], corner[c] + kBlock - 1);
                if (!blockIsFree(blocks_[found], first, last, at, distance)) return false;
            }
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
    const Cell cell = cellOf(level, at);
    Index& last = blockFor(keyOf(level, {cell[0] >> kBlockBits, cell[1] >> kBlockBits, cell[2] >> kBlockBits}))[within(cell[0], cell[1], cell[2])];
    taken_.push_back({at, distance, last});
    last = Index(taken_.size() - 1);
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

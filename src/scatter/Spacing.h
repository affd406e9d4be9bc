#pragma once
// Points at least some distance apart.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Takes points one after another, each only where all taken before keep their distance from it and it keeps its own from them.
/// A hashed grid for every doubling of the distance, so that both fine and coarse distances cost a few look-ups.
class SpacedPoints {
public:
    /// `cell`: size of the finest grid's cells in metres, over 0; about the least distance, and no less than a sixteenth of the largest.
    explicit SpacedPoints(double cell);
    /// Whether it would be taken. Safe to ask from several threads while none takes.
    bool hasRoom(Vec3 at, float distance) const;
    /// False where a taken point is nearer than the larger one of both distances.
    bool take(Vec3 at, float distance);
    std::size_t count() const { return at_.size(); }

private:
    static constexpr Index kNone = ~0u;
    struct Slot {
        std::uint64_t cell = 0;
        Index first = kNone;
    };
    std::uint64_t cellAt(int level, std::int64_t x, std::int64_t y, std::int64_t z) const;
    Slot& slotOf(std::uint64_t cell);
    const Slot* find(std::uint64_t cell) const;
    bool freeAt(int level, Vec3 at, float distance) const;
    bool cellIsFree(std::uint64_t cell, Vec3 at, float distance) const;
    void grow();

    double finest_;
    std::vector<std::uint8_t> levelUsed_;
    std::vector<Slot> slots_;
    std::size_t slotsUsed_ = 0;
    std::vector<Vec3> at_;
    std::vector<float> distance_;
    std::vector<Index> next_;  ///< in the same cell
};

/// Of points in their order the ones that can stay (1) or have to go (0). `distances` holds one for all or one each; those that are not over 0 stand in nobody's way
/// of their own accord. Places that are no numbers go.
std::vector<std::uint8_t> keptApart(const std::vector<Vec3>& at, const std::vector<float>& distances, const std::vector<Index>& order, const RunContext& run);

}  // namespace seedloom

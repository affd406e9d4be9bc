#pragma once
// Points at least some distance apart.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Takes points one after another, each only where all taken before keep their distance from it and it keeps its own from them.
/// A grid of hashed blocks for every doubling of the distance, so that both fine and coarse distances cost a few look-ups.
class SpacedPoints {
public:
    /// `cell`: size of the finest grid's cells in metres, over 0; about the least distance, and no less than a sixteenth of the largest.
    explicit SpacedPoints(double cell);
    /// Whether it would be taken. Safe to ask from several threads while none takes.
    bool hasRoom(Vec3 at, float distance) const;
    /// False where a taken point is nearer than the larger one of both distances.
    bool take(Vec3 at, float distance);
    std::size_t count() const { return taken_.size(); }

private:
    static constexpr int kBlockBits = 2;
    static constexpr std::int64_t kBlock = 1 << kBlockBits;  ///< cells along each side of a block
    using Cell = std::array<std::int64_t, 3>;
    using Block = std::array<Index, kBlock * kBlock * kBlock>;  ///< the last point taken in each cell
    struct Taken {
        Vec3 at;
        float distance;
        Index next;  ///< in the same cell
    };
    struct Slot {
        std::uint64_t key = 0;
        Index block = kNone;
    };
    static std::uint64_t keyOf(int level, const Cell& block);
    static std::size_t within(std::int64_t x, std::int64_t y, std::int64_t z) {
        return std::size_t(((x & (kBlock - 1)) * kBlock + (y & (kBlock - 1))) * kBlock + (z & (kBlock - 1)));
    }
    Cell cellOf(int level, Vec3 at) const;
    Index findBlock(std::uint64_t key) const;
    Block& blockFor(std::uint64_t key);
    void grow();
    bool freeAt(int level, Vec3 at, float distance) const;
    bool blockIsFree(const Block& block, const Cell& first, const Cell& last, Vec3 at, float distance) const;

    double finest_;
    std::vector<std::uint8_t> levelUsed_;
    std::vector<Slot> slots_;  ///< which block a key has; neighbouring cells lie together in memory
    std::vector<Block> blocks_;
    std::vector<Taken> taken_;
};

/// Of points in their order the ones that can stay (1) or have to go (0). `distances` holds one for all or one each; those that are not over 0 stand in
/// nobody's way of their own accord. Places that are no numbers go.
std::vector<std::uint8_t> keptApart(const std::vector<Vec3>& at, const std::vector<float>& distances, const std::vector<Index>& order, const RunContext& run);

}  // namespace seedloom

#include "geometry/Weld.h"

#include "geometry/Measures.h"
#include "geometry/Rows.h"

#include <bit>
#include <limits>

namespace seedloom {

namespace {

/// A hashed grid of chains. Cells are at least twice the search distance, so eight of them at most are looked at.
class HashGrid {
public:
    HashGrid(std::size_t points, Vec3 origin, double cell)
        : origin_(origin), inverse_(1 / cell), mask_(std::bit_ceil(points * 2 + 16) - 1), head_(mask_ + 1, kNone), next_(points, kNone) {}

    struct Cell {
        std::int64_t x, y, z;
    };
    double scaled(float value, float origin) const { return (double(value) - origin) * inverse_; }
    Cell cellOf(Vec3 p) const {
        return {std::int64_t(std::floor(scaled(p.x, origin_.x))), std::int64_t(std::floor(scaled(p.y, origin_.y))),
                std::int64_t(std::floor(scaled(p.z, origin_.z)))};
    }
    std::size_t slot(Cell c) const {
        std::uint64_t h = std::uint64_t(c.x) * 0x9E3779B97F4A7C15ull ^ std::uint64_t(c.y) * 0xC2B2AE3D27D4EB4Full ^ std::uint64_t(c.z) * 0x165667B19E3779F9ull;
        return (h ^ (h >> 29)) * 0xBF58476D1CE4E5B9ull >> 20 & mask_;
    }
    void insert(Index p, Cell c) {
        next_[p] = head_[slot(c)];
        head_[slot(c)] = p;
    }
    /// Calls `use` for every inserted point in the cells that a ball of radius `reach` about `p` touches.
    template <class Use> void near(Vec3 p, double reach, Use&& use) const {
        const float r = static_cast<float>(reach) * 1.001f;
        const Cell lo = cellOf(p - Vec3{r, r, r}), hi = cellOf(p + Vec3{r, r, r});
        for (auto x = lo.x; x <= hi.x; ++x)
            for (auto y = lo.y; y <= hi.y; ++y)
                for (auto z = lo.z; z <= hi.z; ++z)
                    for (Index q = head_[slot({x, y, z})]; q != kNone; q = next_[q]) use(q);
    }

private:
    Vec3 origin_;
    double inverse_;
    std::size_t mask_;
    std::vector<Index> head_, next_;
};

/// The earlier points at the very same place, by a table of their bits (open addressing, linear probing).
std::vector<Index> sameEarlier(std::span<const Vec3> positions, std::span<const std::uint8_t> joins) {
    const std::size_t mask = std::bit_ceil(positions.size() * 2 + 16) - 1;
    std::vector<Index> table(mask + 1, kNone), out(positions.size());
    const auto slotOf = [&](Vec3 p) {
        // 0 and −0 are the same place; adding 0 makes them the same bits.
        const auto bits = [](float v) { return std::uint64_t(std::bit_cast<std::uint32_t>(v + 0.0f)); };
        std::uint64_t h = (bits(p.x) | bits(p.y) << 32) * 0x9E3779B97F4A7C15ull ^ bits(p.z) * 0xC2B2AE3D27D4EB4Full;
        h = (h ^ h >> 29) * 0xBF58476D1CE4E5B9ull;
        return std::size_t(h >> 20) & mask;
    };
    for (Index i = 0; i < positions.size(); ++i) {
        out[i] = i;
        const Vec3 p = positions[i];
        if (!isFinite(p) || (!joins.empty() && !joins[i])) continue;
        std::size_t slot = slotOf(p);
        while (table[slot] != kNone && !(positions[table[slot]] == p)) slot = (slot + 1) & mask;
        if (table[slot] == kNone) table[slot] = i;
        else out[i] = table[slot];
    }
    return out;
}

}  // namespace

std::vector<Index> nearestEarlier(std::span<const Vec3> positions, double distance, std::span<const std::uint8_t> joins) {
    if (!(distance > 0)) return sameEarlier(positions, joins);
    std::vector<Index> out(positions.size());
    const Bounds bounds = boundsOf(positions);
    const double reach = std::min(std::max(distance, 0.0), bounds.diagonal() * 2);
    const double even = bounds.diagonal() / (std::sqrt(double(positions.size())) + 1);
    const double cell = std::max({reach * 2.01, even, 1e-30});
    HashGrid grid(positions.size(), bounds.min, cell);
    const float limit = static_cast<float>(reach * reach);
    for (Index i = 0; i < positions.size(); ++i) {
        out[i] = i;
        const Vec3 p = positions[i];
        if (!isFinite(p) || (!joins.empty() && !joins[i])) continue;
        Index found = kNone;
        grid.near(p, reach, [&](Index q) {
            const Vec3 d = positions[q] - p;
            if (dot(d, d) <= limit && q < found) found = q;
        });
        if (found != kNone) out[i] = found;
        else grid.insert(i, grid.cellOf(p));
    }
    return out;
}

std::size_t countDoubled(std::span<const Vec3> positions, double distance) {
    const auto first = nearestEarlier(positions, distance);
    std::size_t count = 0;
    for (Index i = 0; i < first.size(); ++i) count += first[i] != i;
    return count;
}

namespace {

/// Adds the face's or curve's points to `run` without repeats of neighbours.
void appendDistinct(std::span<const Index> from, const std::vector<Index>& number, bool cyclic, std::vector<std::pair<Index, Index>>& run) {
    run.clear();
    for (Index i = 0; i < from.size(); ++i) {
        const Index p = number[from[i]];
        if (run.empty() || run.back().first != p) run.push_back({p, i});
    }
    while (cyclic && run.size() > 1 && run.back().first == run.front().first) run.pop_back();
}

}  // namespace

WeldResult weld(const Geometry& geometry, double distance, std::span<const std::uint8_t> joins) {
    const auto first = nearestEarlier(geometry.positions(), distance, joins);
    const Topology& t = geometry.topology();
    WeldResult out;
    RowPlan plan;
    std::vector<Index> number(first.size());
    for (Index i = 0; i < first.size(); ++i) {
        if (first[i] == i) {
            number[i] = static_cast<Index>(plan.points.size());
            plan.points.push_back(i);
        } else {
            number[i] = number[first[i]];
            ++out.joinedPoints;
        }
    }
    if (out.joinedPoints == 0) {
        out.geometry = geometry;
        return out;
    }
    std::vector<std::pair<Index, Index>> run;
    for (Index f = 0; f < t.faceCount(); ++f) {
        appendDistinct(t.face(f), number, true, run);
        if (run.size() < 3) {
            ++out.removedFaces;
            continue;
        }
        for (auto [point, corner] : run) plan.addCorner(point, t.faceStart()[f] + corner);
        plan.endFace(f);
    }
    for (Index c = 0; c < t.curveCount(); ++c) {
        appendDistinct(t.curve(c), number, t.curveClosed(c), run);
        for (auto [point, at] : run) plan.curvePoint.push_back(point);
        plan.endCurve(c, t.curveClosed(c));
    }
    out.geometry = takeRows(geometry, std::move(plan));
    return out;
}

}  // namespace seedloom

#include "geometry/PlanarFill.h"

#include "geometry/FlatRings.h"
#include "geometry/Triangulate.h"

#include <numeric>
#include <optional>

namespace seedloom {

namespace {

double cross(FlatPoint a, FlatPoint b, FlatPoint c) { return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x); }

/// Works on places in the rings, numbered one ring after the other.
class Filler {
public:
    Filler(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal)
        : positions_(positions), flatRings_(positions, rings, normal) {
        for (std::size_t r = 0; r < rings.size(); ++r) {
            auto& places = rings_.emplace_back();
            for (std::size_t i = 0; i < rings[r].size(); ++i) {
                places.push_back(Index(point_.size()));
                point_.push_back(rings[r][i]), flat_.push_back(flatRings_.ring(r)[i]);
            }
        }
    }

    std::vector<FilledFace> fill() {
        std::vector<std::vector<std::size_t>> holesOf(rings_.size());
        for (std::size_t r = 0; r < rings_.size(); ++r)
            if (!(flatRings_.area(r) > 0))
                if (const auto outer = outlineAround(r)) holesOf[*outer].push_back(r);
        std::vector<FilledFace> out;
        for (std::size_t outline = 0; outline < rings_.size(); ++outline) {
            if (!(flatRings_.area(outline) > 0)) continue;
            std::vector<Index> joined = rings_[outline];
            auto& inside = holesOf[outline];
            if (inside.empty()) {
                add(out, joined, outline);
                continue;
            }
            // From the right: a hole farther left may need the bridge of one before it.
            std::sort(inside.begin(), inside.end(),
                      [&](std::size_t a, std::size_t b) { return flat_[rings_[a][rightmost(rings_[a])]].x > flat_[rings_[b][rightmost(rings_[b])]].x; });
            for (std::size_t hole : inside) bridge(joined, rings_[hole]);
            cutEars(joined, outline, out);
        }
        return out;
    }

private:
    void add(std::vector<FilledFace>& out, const std::vector<Index>& places, std::size_t outline) const {
        FilledFace& face = out.emplace_back();
        face.outline = outline;
        for (Index place : places) face.points.push_back(point_[place]);
    }
    /// The least outline that holds a hole.
    std::optional<std::size_t> outlineAround(std::size_t hole) const {
        std::optional<std::size_t> best;
        for (std::size_t r : flatRings_.around(hole))
            if (flatRings_.area(r) > 0 && (!best || flatRings_.area(r) < flatRings_.area(*best))) best = r;
        return best;
    }
    std::size_t rightmost(const std::vector<Index>& ring) const {
        std::size_t best = 0;
        for (std::size_t i = 1; i < ring.size(); ++i)
            if (flat_[ring[i]].x > flat_[ring[best]].x) best = i;
        return best;
    }

    /// The place in `outline` that the hole's rightmost point sees to its right.
    std::size_t seenFrom(const std::vector<Index>& outline, FlatPoint from) const {
        std::size_t seen = 0;
        double nearest = std::numeric_limits<double>::max();
        for (std::size_t i = 0; i < outline.size(); ++i) {
            const std::size_t next = i + 1 == outline.size() ? 0 : i + 1;
            const FlatPoint a = flat_[outline[i]], b = flat_[outline[next]];
            if (!(a.y <= from.y && b.y > from.y)) continue;  // edges on the right run upwards
            const double x = a.x + (b.x - a.x) * (from.y - a.y) / (b.y - a.y);
            if (x < from.x || x >= nearest) continue;
            nearest = x;
            seen = a.x > b.x ? i : next;
        }
        // A corner inside the triangle to that point would be in the way: the one at the least angle is seen.
        const FlatPoint meet{nearest, from.y}, end = flat_[outline[seen]];
        double flattest = std::abs(end.y - from.y) / std::max(end.x - from.x, 1e-300);
        std::size_t best = seen;
        for (std::size_t i = 0; i < outline.size(); ++i) {
            const FlatPoint p = flat_[outline[i]];
            if (p.x <= from.x || (p.x == end.x && p.y == end.y)) continue;
            const double turn = end.y >= from.y ? 1 : -1;
            if (turn * cross(from, meet, p) < 0 || turn * cross(meet, end, p) < 0 || turn * cross(end, from, p) < 0) continue;
            // Where bridges end the outline passes a place several times: only one of these passes looks this way.
            if (!looksTo(outline, i, from)) continue;
            const double angle = std::abs(p.y - from.y) / (p.x - from.x);
            if (angle < flattest || (angle == flattest && best != seen && p.x < flat_[outline[best]].x)) flattest = angle, best = i;
        }
        return best;
    }
    /// Whether a place lies within the inner angle of the outline at its corner `i`.
    bool looksTo(const std::vector<Index>& outline, std::size_t i, FlatPoint to) const {
        const FlatPoint at = flat_[outline[i]], before = flat_[outline[(i + outline.size() - 1) % outline.size()]],
                        after = flat_[outline[(i + 1) % outline.size()]];
        const bool leftOfBefore = cross(before, at, to) >= 0, leftOfAfter = cross(at, after, to) >= 0;
        return cross(before, at, after) >= 0 ? leftOfBefore && leftOfAfter : leftOfBefore || leftOfAfter;
    }
    void bridge(std::vector<Index>& outline, const std::vector<Index>& hole) const {
        const std::size_t start = rightmost(hole), at = seenFrom(outline, flat_[hole[start]]);
        std::vector<Index> way;
        for (std::size_t i = 0; i <= hole.size(); ++i) way.push_back(hole[(start + i) % hole.size()]);
        way.push_back(outline[at]);
        outline.insert(outline.begin() + std::ptrdiff_t(at) + 1, way.begin(), way.end());
    }
    void cutEars(const std::vector<Index>& ring, std::size_t outline, std::vector<FilledFace>& out) const {
        std::vector<Vec3> points;
        for (Index place : ring) points.push_back(positions_[point_[place]]);
        std::vector<Index> order(ring.size());
        std::iota(order.begin(), order.end(), 0u);
        const auto n = static_cast<Index>(ring.size());
        const Triangles triangles = triangulate(Geometry(std::move(points), Topology(n, {0, n}, std::move(order), {0}, {}, {})));
        for (std::size_t t = 0; t < triangles.count(); ++t)
            add(out, {ring[triangles.corners[3 * t]], ring[triangles.corners[3 * t + 1]], ring[triangles.corners[3 * t + 2]]}, outline);
    }
    const std::vector<Vec3>& positions_;
    FlatRings flatRings_;
    std::vector<std::vector<Index>> rings_;  ///< as places
    std::vector<Index> point_;               ///< by place
    std::vector<FlatPoint> flat_;
};

}  // namespace

std::vector<FilledFace> fillRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal) {
    return Filler(positions, rings, normal).fill();
}

}  // namespace seedloom

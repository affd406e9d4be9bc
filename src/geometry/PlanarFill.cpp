#include "geometry/PlanarFill.h"

#include "geometry/Triangulate.h"

#include <numeric>
#include <optional>

namespace seedloom {

namespace {

struct Flat {
    double x = 0, y = 0;
};

double cross(Flat a, Flat b, Flat c) { return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x); }

class Filler {
public:
    Filler(const std::vector<Vec3>& positions, Vec3 normal) : positions_(positions), flat_(positions.size()) {
        const Vec3 u = anyPerpendicular(normal), v = seedloom::cross(normal, u);
        for (std::size_t i = 0; i < positions.size(); ++i) flat_[i] = {double(dot(positions[i], u)), double(dot(positions[i], v))};
    }

    std::vector<std::vector<Index>> fill(const std::vector<std::vector<Index>>& rings) {
        std::vector<std::size_t> outlines, holes;
        for (std::size_t r = 0; r < rings.size(); ++r) (areaOf(rings[r]) > 0 ? outlines : holes).push_back(r);
        std::vector<std::vector<std::size_t>> holesOf(rings.size());
        for (std::size_t hole : holes)
            if (const auto outer = outlineAround(rings, outlines, rings[hole])) holesOf[*outer].push_back(hole);
        std::vector<std::vector<Index>> out;
        for (std::size_t outline : outlines) {
            if (holesOf[outline].empty()) {
                out.push_back(rings[outline]);
                continue;
            }
            std::vector<Index> joined = rings[outline];
            // From the right: a hole farther left may need the bridge of one before it.
            auto& inside = holesOf[outline];
            std::sort(inside.begin(), inside.end(), [&](std::size_t a, std::size_t b) { return flat_[rings[a][rightmost(rings[a])]].x > flat_[rings[b][rightmost(rings[b])]].x; });
            for (std::size_t hole : inside) bridge(joined, rings[hole]);
            cutEars(joined, out);
        }
        return out;
    }

private:
    double areaOf(const std::vector<Index>& ring) const {
        double sum = 0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const Flat a = flat_[ring[i]], b = flat_[ring[i + 1 == ring.size() ? 0 : i + 1]];
            sum += a.x * b.y - b.x * a.y;
        }
        return sum / 2;
    }
    bool holds(const std::vector<Index>& ring, Flat p) const {
        bool inside = false;
        for (std::size_t i = 0, j = ring.size() - 1; i < ring.size(); j = i++) {
            const Flat a = flat_[ring[i]], b = flat_[ring[j]];
            if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) inside = !inside;
        }
        return inside;
    }
    std::optional<std::size_t> outlineAround(const std::vector<std::vector<Index>>& rings, const std::vector<std::size_t>& outlines, const std::vector<Index>& hole) const {
        std::optional<std::size_t> best;
        double least = 0;
        for (std::size_t outline : outlines) {
            if (!holds(rings[outline], flat_[hole.front()])) continue;
            const double area = areaOf(rings[outline]);
            if (!best || area < least) best = outline, least = area;
        }
        return best;
    }
    std::size_t rightmost(const std::vector<Index>& ring) const {
        std::size_t best = 0;
        for (std::size_t i = 1; i < ring.size(); ++i)
            if (flat_[ring[i]].x > flat_[ring[best]].x) best = i;
        return best;
    }

    /// The place in `outline` that the hole's rightmost point sees to its right.
    std::size_t seenFrom(const std::vector<Index>& outline, Flat from) const {
        std::size_t seen = 0;
        double nearest = std::numeric_limits<double>::max();
        for (std::size_t i = 0; i < outline.size(); ++i) {
            const std::size_t next = i + 1 == outline.size() ? 0 : i + 1;
            const Flat a = flat_[outline[i]], b = flat_[outline[next]];
            if (!(a.y <= from.y && b.y > from.y)) continue;  // edges on the right run upwards
            const double x = a.x + (b.x - a.x) * (from.y - a.y) / (b.y - a.y);
            if (x < from.x || x >= nearest) continue;
            nearest = x;
            seen = a.x > b.x ? i : next;
        }
        // A corner inside the triangle to that point would be in the way: the one at the least angle is seen.
        const Flat meet{nearest, from.y}, end = flat_[outline[seen]];
        double flattest = std::abs(end.y - from.y) / std::max(end.x - from.x, 1e-300);
        std::size_t best = seen;
        for (std::size_t i = 0; i < outline.size(); ++i) {
            const Flat p = flat_[outline[i]];
            if (p.x <= from.x || (p.x == end.x && p.y == end.y)) continue;
            const double turn = end.y >= from.y ? 1 : -1;
            if (turn * cross(from, meet, p) < 0 || turn * cross(meet, end, p) < 0 || turn * cross(end, from, p) < 0) continue;
            const double angle = std::abs(p.y - from.y) / (p.x - from.x);
            if (angle < flattest) flattest = angle, best = i;
        }
        return best;
    }
    void bridge(std::vector<Index>& outline, const std::vector<Index>& hole) const {
        const std::size_t start = rightmost(hole), at = seenFrom(outline, flat_[hole[start]]);
        std::vector<Index> way;
        for (std::size_t i = 0; i <= hole.size(); ++i) way.push_back(hole[(start + i) % hole.size()]);
        way.push_back(outline[at]);
        outline.insert(outline.begin() + std::ptrdiff_t(at) + 1, way.begin(), way.end());
    }
    void cutEars(const std::vector<Index>& ring, std::vector<std::vector<Index>>& out) const {
        std::vector<Vec3> points;
        for (Index p : ring) points.push_back(positions_[p]);
        std::vector<Index> order(ring.size());
        std::iota(order.begin(), order.end(), 0u);
        const auto n = static_cast<Index>(ring.size());
        const Triangles triangles = triangulate(Geometry(std::move(points), Topology(n, {0, n}, std::move(order), {0}, {}, {})));
        for (std::size_t t = 0; t < triangles.count(); ++t) out.push_back({ring[triangles.corners[3 * t]], ring[triangles.corners[3 * t + 1]], ring[triangles.corners[3 * t + 2]]});
    }
    const std::vector<Vec3>& positions_;
    std::vector<Flat> flat_;
};

}  // namespace

std::vector<std::vector<Index>> fillRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal) {
    return Filler(positions, normal).fill(rings);
}

}  // namespace seedloom

#include "breaking/ShellCracks.h"

#include "breaking/VoronoiWalls.h"
#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "geometry/NearestPlace.h"
#include "geometry/Triangulate.h"
#include "parallel/Loops.h"
#include "surface/PointsApart.h"

#include <map>
#include <set>

namespace seedloom {

namespace {

constexpr double kSnap = 0.02;       ///< of the shortest edge at a point: a border so near goes through the point
constexpr double kLeastSlope = 0.2;  ///< sine between a surface and a border: along a flatter one gaps would have no end

/// A corner of a fragment's face, by what makes it.
struct PartCorner {
    enum class Kind : std::uint8_t { point, edge, inner } kind;
    std::array<Index, 3> of;  ///< the corner of the triangle (0–2); the edge's triangle corners and the cell beyond; both cells beyond
    std::array<double, 3> weights;
};

/// A face's part in a cell.
struct Part {
    Index cell, face, triangle;
    bool whole = false;  ///< the face as it is
    std::vector<PartCorner> ring;
};

class Cracker {
public:
    Cracker(const Geometry& in, const std::vector<Vec3>& seeds, const std::vector<Vec3>& warp, const std::vector<float>& gap, const RunContext& run)
        : in_(in), seeds_(seeds), warp_(warp), gap_(gap), run_(run), triangles_(triangulate(in)), neighbours_(voronoiNeighbours(seeds, run)),
          normals_(pointNormals(in)), apart_(std::any_of(gap.begin(), gap.end(), [](float g) { return g > 0; })) {
        const Geometry points(seeds);
        const NearestPlace nearest(points, NearestPlace::On::points);
        cellOf_.resize(in.pointCount());
        forEach(in.pointCount(), run, [&](std::size_t p) { cellOf_[p] = nearest.find(warp[p]).points[0]; });
        shortest_.assign(in.pointCount(), std::numeric_limits<float>::max());
        for (const auto& e : in.topology().edges().edges) {
            const float length = distance(in.positions()[e.a], in.positions()[e.b]);
            for (Index p : {e.a, e.b}) shortest_[p] = std::min(shortest_[p], length);
        }
    }

    ShellCracks cracked() {
        std::vector<std::vector<Part>> chunks(chunkCount(in_.faceCount(), kFaces));
        std::vector<Index> firstTriangle(in_.faceCount() + 1, 0);
        for (Index f : triangles_.faceOf) ++firstTriangle[f + 1];
        for (std::size_t f = 0; f < in_.faceCount(); ++f) firstTriangle[f + 1] += firstTriangle[f];
        forChunks(
            in_.faceCount(), run_,
            [&](std::size_t chunk, Range range) {
                for (std::size_t f = range.begin; f < range.end; ++f) {
                    if (const auto cell = wholeIn(Index(f))) {
                        chunks[chunk].push_back({*cell, Index(f), 0, true, {}});
                        continue;
                    }
                    for (Index t = firstTriangle[f]; t < firstTriangle[f + 1]; ++t) cutTriangle(Index(f), t, chunks[chunk]);
                }
            },
            kFaces);
        std::vector<Part> parts;
        for (auto& chunk : chunks)
            for (Part& part : chunk) parts.push_back(std::move(part));
        std::stable_sort(parts.begin(), parts.end(), [](const Part& a, const Part& b) { return a.cell < b.cell; });
        return assembled(parts);
    }

private:
    static constexpr std::size_t kFaces = 2048;

    Index pointAt(Index triangle, Index k) const { return in_.topology().cornerPoint()[triangles_.corners[3 * triangle + k]]; }

    double squared(Index seed, Index p) const {
        double sum = 0;
        for (int c = 0; c < 3; ++c) {
            const double d = double(warp_[p][c]) - double(seeds_[seed][c]);
            sum += d * d;
        }
        return sum;
    }
    /// Metres along the surface from a point to the border between two cells, over 0 on the side of `i`.
    double metres(Index i, Index j, Index p) const {
        const Vec3 way = seeds_[j] - seeds_[i];
        const double between = double(length(way)), slope = double(dot(way, normals_[p])) / between;
        return (squared(j, p) - squared(i, p)) / (2 * between * std::max(kLeastSlope, std::sqrt(std::max(0.0, 1 - slope * slope))));
    }
    /// As far as the point's own cell where the border to this one passes near by: then the border goes through the point.
    double snapped(Index j, Index p) const {
        const Index own = cellOf_[p];
        if (j == own) return squared(own, p);
        // Of cells as small as edges it must not move a border past a third cell.
        const double reach = std::min(double(shortest_[p]), double(distance(seeds_[j], seeds_[own])));
        return squared(metres(own, j, p) < kSnap * reach ? own : j, p);
    }
    /// Over 0 where a point is inside of cell `i`, as far as its border to `j` goes. Without gaps a difference of squared distances, which is linear in
    /// space, so that three borders meet in one place; with gaps metres, less half the gap.
    double inside(Index i, Index j, Index p) const {
        if (!apart_) return snapped(j, p) - snapped(i, p);
        const double left = metres(i, j, p) - double(gap_[p]) / 2;
        return std::abs(left) < kSnap * double(shortest_[p]) ? 0 : left;
    }

    /// The cell that a face lies in with all its corners, nothing where a border may cross it.
    std::optional<Index> wholeIn(Index f) const {
        const auto face = in_.topology().face(f);
        if (face.empty()) return {};
        const Index cell = cellOf_[face[0]];
        for (Index p : face)
            if (cellOf_[p] != cell) return {};
        if (!apart_) return cell;
        for (Index j : neighbours_[cell])
            for (Index p : face)
                if (inside(cell, j, p) < 0) return {};
        return cell;
    }

    /// A border that was moved onto a corner may let cells meet that did not before: there all cells around take part.
    std::vector<Index> rivalsAround(Index t) const {
        std::set<Index> out;
        bool moved = false;
        for (Index k = 0; k < 3; ++k) {
            const Index p = pointAt(t, k), own = cellOf_[p];
            out.insert(own);
            for (Index j : neighbours_[own]) {
                out.insert(j);
                moved |= snapped(j, p) != squared(j, p);
            }
        }
        return moved ? std::vector<Index>(out.begin(), out.end()) : std::vector<Index>();
    }
    void cutTriangle(Index face, Index t, std::vector<Part>& out) const {
        std::set<Index> done;
        std::vector<Index> queue, rivals;
        for (Index k = 0; k < 3; ++k) queue.push_back(cellOf_[pointAt(t, k)]);
        const std::vector<Index> around = apart_ ? std::vector<Index>() : rivalsAround(t);
        while (!queue.empty()) {
            const Index cell = queue.back();
            queue.pop_back();
            if (!done.insert(cell).second) continue;
            Part part{cell, face, t, false, {}};
            for (Index k = 0; k < 3; ++k) {
                part.ring.push_back({PartCorner::Kind::point, {k, 0, 0}, {}});
                part.ring.back().weights[k] = 1;
            }
            rivals.clear();
            std::set_union(neighbours_[cell].begin(), neighbours_[cell].end(), around.begin(), around.end(), std::back_inserter(rivals));
            for (Index j : rivals) {
                if (j == cell) continue;
                const std::array<double, 3> at{inside(cell, j, pointAt(t, 0)), inside(cell, j, pointAt(t, 1)), inside(cell, j, pointAt(t, 2))};
                const bool tied = at[0] == 0 && at[1] == 0 && at[2] == 0;
                if (at[0] >= 0 && at[1] >= 0 && at[2] >= 0 && !tied) continue;
                queue.push_back(j);
                if (tied && cell < j) continue;  // of both the first has it
                if (tied) part.ring.clear();
                if (!part.ring.empty()) part.ring = clipped(part.ring, cell, j, at, t);
            }
            if (part.ring.size() >= 3) out.push_back(std::move(part));
        }
    }

    static double valueAt(const PartCorner& c, const std::array<double, 3>& at) { return c.weights[0] * at[0] + c.weights[1] * at[1] + c.weights[2] * at[2]; }

    std::vector<PartCorner> clipped(const std::vector<PartCorner>& ring, Index cell, Index j, const std::array<double, 3>& at, Index t) const {
        std::vector<PartCorner> out;
        for (std::size_t k = 0; k < ring.size(); ++k) {
            const PartCorner &from = ring[k], &to = ring[(k + 1) % ring.size()];
            const double s = valueAt(from, at), u = valueAt(to, at);
            if (s >= 0) out.push_back(from);
            if ((s > 0 && u < 0) || (s < 0 && u > 0)) out.push_back(between(from, to, cell, j, at, t, s / (s - u)));
        }
        if (out.size() < 3) out.clear();
        return out;
    }
    /// The edge of the triangle that two corners lie on, by its corners; nothing where they lie on none.
    static std::optional<std::array<Index, 2>> commonEdge(const PartCorner& a, const PartCorner& b) {
        for (Index k = 0; k < 3; ++k) {
            const auto on = [&](const PartCorner& c) {
                if (c.kind == PartCorner::Kind::point) return c.of[0] != k;
                return c.kind == PartCorner::Kind::edge && c.of[0] != k && c.of[1] != k;
            };
            if (on(a) && on(b)) return std::array<Index, 2>{(k + 1) % 3, (k + 2) % 3};
        }
        return {};
    }
    /// The cell on the other side of the border along which two corners of a ring lie; kNoCell where they lie on none.
    Index beyond(const PartCorner& a, const PartCorner& b, Index cell, Index t) const {
        const auto cells = [](const PartCorner& c) {
            return c.kind == PartCorner::Kind::edge ? std::array<Index, 2>{c.of[2], c.of[2]} : std::array<Index, 2>{c.of[0], c.of[1]};
        };
        const bool aIsPoint = a.kind == PartCorner::Kind::point, bIsPoint = b.kind == PartCorner::Kind::point;
        if (aIsPoint && bIsPoint) return kNoCell;
        for (Index x : cells(aIsPoint ? b : a)) {
            if (x == kNoCell) continue;
            if (aIsPoint || bIsPoint) {  // a border that goes through a corner of the triangle
                if (inside(cell, x, pointAt(t, (aIsPoint ? a : b).of[0])) == 0) return x;
            } else if (const auto other = cells(b); other[0] == x || other[1] == x) {
                return x;
            }
        }
        return kNoCell;
    }
    PartCorner between(const PartCorner& from, const PartCorner& to, Index cell, Index j, const std::array<double, 3>& at, Index t, double share) const {
        if (const auto edge = commonEdge(from, to)) {
            // By the edge's ends alone, in one order, whichever triangle asks.
            auto [a, b] = *edge;
            if (pointAt(t, a) > pointAt(t, b)) std::swap(a, b);
            PartCorner out{PartCorner::Kind::edge, {a, b, j}, {}};
            const double part = at[a] / (at[a] - at[b]);
            out.weights[a] = 1 - part, out.weights[b] = part;
            return out;
        }
        const Index other = beyond(from, to, cell, t);
        PartCorner out{PartCorner::Kind::inner, {std::min(j, other), std::max(j, other), 0}, {}};
        if (other != kNoCell) {
            // Where two borders meet: of all three cells' the same place.
            std::array<Index, 3> cells{cell, j, other};
            if (!apart_) std::sort(cells.begin(), cells.end());
            std::array<double, 3> u, w;
            for (Index k = 0; k < 3; ++k) u[k] = inside(cells[0], cells[1], pointAt(t, k)), w[k] = inside(cells[0], cells[2], pointAt(t, k));
            const std::array<double, 3> meet{u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]};
            const double sum = meet[0] + meet[1] + meet[2];
            bool within = sum != 0;
            for (double m : meet) within &= m / sum >= -1e-9 && m / sum <= 1 + 1e-9;
            if (within) {
                for (std::size_t k = 0; k < 3; ++k) out.weights[k] = std::clamp(meet[k] / sum, 0.0, 1.0);
                return out;
            }
        }
        for (std::size_t k = 0; k < 3; ++k) out.weights[k] = from.weights[k] + (to.weights[k] - from.weights[k]) * share;
        return out;
    }

    ShellCracks assembled(const std::vector<Part>& parts) const {
        MixPlan plan;
        std::vector<Index> cellOfFace;
        std::vector<std::uint8_t> crack;
        std::vector<Index> number(in_.pointCount(), kNoCell), owner(in_.pointCount(), kNoCell);
        std::map<std::array<Index, 5>, Index> made;
        Index current = kNoCell;
        const auto oldPoint = [&](Index p) {
            if (owner[p] != current) owner[p] = current, number[p] = plan.points.add(p), crack.push_back(0);
            return number[p];
        };
        for (const Part& part : parts) {
            if (part.cell != current) current = part.cell, made.clear(), run_.poll();
            if (part.whole) {
                const Topology& t = in_.topology();
                for (Index c = t.faceStart()[part.face]; c < t.faceStart()[part.face + 1]; ++c) {
                    plan.cornerPoint.push_back(oldPoint(t.cornerPoint()[c]));
                    plan.corners.add(c);
                }
                plan.endFace(part.face), cellOfFace.push_back(part.cell);
                continue;
            }
            std::vector<Index> ring;
            for (const PartCorner& c : part.ring) {
                if (c.kind == PartCorner::Kind::point) {
                    ring.push_back(oldPoint(pointAt(part.triangle, c.of[0])));
                    continue;
                }
                std::array<Index, 5> key{c.of[0], c.of[1], c.of[2], part.triangle, 1};
                if (c.kind == PartCorner::Kind::edge) key = {pointAt(part.triangle, c.of[0]), pointAt(part.triangle, c.of[1]), c.of[2], 0, 0};
                const auto [it, isNew] = made.try_emplace(key, plan.points.size());
                if (isNew) mix(plan.points, c, part.triangle, true), crack.push_back(1);
                ring.push_back(it->second);
            }
            addFace(plan, part, ring, cellOfFace);
        }
        return numbered(std::move(plan), std::move(crack), cellOfFace);
    }
    void addFace(MixPlan& plan, const Part& part, const std::vector<Index>& ring, std::vector<Index>& cellOfFace) const {
        std::vector<std::size_t> kept;
        for (std::size_t k = 0; k < ring.size(); ++k)
            if (std::find(ring.begin(), ring.begin() + std::ptrdiff_t(k), ring[k]) == ring.begin() + std::ptrdiff_t(k)) kept.push_back(k);
        if (kept.size() < 3) return;
        for (std::size_t k : kept) {
            plan.cornerPoint.push_back(ring[k]);
            mix(plan.corners, part.ring[k], part.triangle, false);
        }
        plan.endFace(part.face), cellOfFace.push_back(part.cell);
    }
    void mix(RowMix& rows, const PartCorner& c, Index t, bool points) const {
        const auto row = [&](Index k) { return points ? pointAt(t, k) : triangles_.corners[3 * t + k]; };
        if (c.kind == PartCorner::Kind::point) return void(rows.add(row(c.of[0])));
        if (c.kind == PartCorner::Kind::edge) return void(rows.add(row(c.of[0]), row(c.of[1]), float(c.weights[c.of[1]])));
        for (Index k = 0; k < 3; ++k) rows.part(row(k), float(c.weights[k]));
        rows.close();
    }

    /// Numbers what hangs together, in the order of cells and faces, and gives each its own faces in a row.
    ShellCracks numbered(MixPlan plan, std::vector<std::uint8_t> crack, const std::vector<Index>& cellOfFace) const {
        Geometry source = in_;
        source.setCopies(nullptr);
        ShellCracks out;
        out.geometry = takeMixed(source, std::move(plan));
        out.geometry.setColumn(Element::point, "crack", Column(std::move(crack)));
        out.geometry = withoutTouching(out.geometry);
        const Topology& t = out.geometry.topology();
        std::map<Index, std::int32_t> known;
        std::vector<std::int32_t> piece;
        for (std::size_t f = 0; f < cellOfFace.size(); ++f) {
            const auto [it, isNew] = known.try_emplace(t.connection().pieceOfPoint[t.face(f)[0]], std::int32_t(out.cellOfPiece.size()));
            if (isNew) out.cellOfPiece.push_back(cellOfFace[f]);
            piece.push_back(it->second);
        }
        out.geometry.setColumn(Element::face, "piece", Column(std::move(piece)));
        for (Element element : {Element::point, Element::corner, Element::face}) out.geometry.removeColumn(element, "normal");
        return out;
    }
    /// Where a border meets itself in a point, both sides get one each, unless the surface itself was so.
    Geometry withoutTouching(const Geometry& cracked) const {
        if (touchingPoints(cracked.topology()).empty() || !touchingPoints(in_.topology()).empty()) return cracked;
        std::vector<Vec3> made;
        return pointsApart(cracked, boundsOf(in_.positions()).diagonal() * kPointsApart, made);
    }

    const Geometry& in_;
    const std::vector<Vec3>& seeds_;
    const std::vector<Vec3>& warp_;
    const std::vector<float>& gap_;
    const RunContext& run_;
    Triangles triangles_;
    std::vector<std::vector<Index>> neighbours_;
    std::vector<Vec3> normals_;
    bool apart_;
    std::vector<Index> cellOf_;
    std::vector<float> shortest_;
};

}  // namespace

ShellCracks crackShell(const Geometry& surface, const std::vector<Vec3>& seeds, const std::vector<Vec3>& warp, const std::vector<float>& gap,
                       const RunContext& run) {
    return Cracker(surface, seeds, warp, gap, run).cracked();
}

}  // namespace seedloom

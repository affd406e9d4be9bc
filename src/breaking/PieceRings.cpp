#include "breaking/PieceRings.h"

#include "geometry/Groups.h"

#include <map>

namespace seedloom {

namespace {

constexpr float kFlat = 2e-6f;  ///< height of a triangle without area, part of its longest side

const RingCorner& next(const PieceRing& ring, std::size_t k) { return ring.corners[k + 1 == ring.corners.size() ? 0 : k + 1]; }
/// Where a corner lies on the triangle of a piece that has a side up to it. What was put onto that side is told by its own piece, of the same triangle.
const std::array<float, 3>& weightsAt(const TrianglePiece& piece, const RingCorner& corner) {
    const auto there = std::size_t(std::find(piece.points.begin(), piece.points.end(), corner.point) - piece.points.begin());
    return there < 3 ? piece.weights[there] : corner.piece->weights[corner.corner];
}
/// Puts a point onto the side that starts at `from`; what corners carry is mixed along it.
void insertCorner(PieceRing& ring, const ArrangedFaces& arranged, Index from, Index point, std::deque<std::vector<KeptPiece>>& together) {
    std::size_t k = 0;
    while (ring.corners[k].point != from) ++k;
    const RingCorner start = ring.corners[k], end = next(ring, k);
    const float whole = distance(arranged.place(start.point), arranged.place(end.point));
    const float t = whole > 0 ? std::clamp(distance(arranged.place(start.point), arranged.place(point)) / whole, 0.0f, 1.0f) : 0;
    KeptPiece made{*start.piece, ring.turned};
    made.piece.points[0] = point;
    const auto& at = start.piece->weights[start.corner];
    const auto& to = weightsAt(*start.piece, end);
    for (std::size_t i = 0; i < 3; ++i) made.piece.weights[0][i] = at[i] + (to[i] - at[i]) * t;
    together.push_back({made});
    ring.corners.insert(ring.corners.begin() + std::ptrdiff_t(k) + 1, {point, &together.back().front().piece, 0, start.kept});
    ring.panels.insert(ring.panels.begin() + std::ptrdiff_t(k), ring.panels[k]);
}

bool flatTriangle(const PieceRing& ring, const ArrangedFaces& arranged) {
    if (ring.corners.size() != 3) return false;
    const Vec3 a = arranged.place(ring.corners[0].point), b = arranged.place(ring.corners[1].point), c = arranged.place(ring.corners[2].point);
    const float longest = std::max({dot(b - a, b - a), dot(c - b, c - b), dot(a - c, a - c)});
    return length(cross(b - a, c - a)) <= kFlat * longest;
}

}  // namespace

void absorbFlat(std::vector<PieceRing>& rings, const ArrangedFaces& arranged, std::deque<std::vector<KeptPiece>>& together) {
    std::vector<std::uint8_t> flat(rings.size());
    for (std::size_t r = 0; r < rings.size(); ++r) flat[r] = flatTriangle(rings[r], arranged);
    if (std::find(flat.begin(), flat.end(), 1) == flat.end()) return;
    std::map<std::pair<Index, Index>, std::size_t> bySide;
    for (std::size_t r = 0; r < rings.size(); ++r)
        for (std::size_t k = 0; k < rings[r].corners.size(); ++k) bySide[{rings[r].corners[k].point, next(rings[r], k).point}] = r;
    for (int round = 0; round < 4; ++round)
        for (std::size_t r = 0; r < rings.size(); ++r) {
            if (flat[r] != 1) continue;
            const PieceRing& ring = rings[r];
            std::size_t longest = 0;
            const auto side = [&](std::size_t k) { return distance(arranged.place(ring.corners[k].point), arranged.place(next(ring, k).point)); };
            for (std::size_t k = 1; k < 3; ++k)
                if (side(k) > side(longest)) longest = k;
            const Index a = ring.corners[longest].point, b = next(ring, longest).point, c = ring.corners[(longest + 2) % 3].point;
            const auto beyond = bySide.find({b, a});
            if (beyond == bySide.end() || flat[beyond->second]) continue;
            const std::size_t there = beyond->second;
            PieceRing& other = rings[there];
            if (!ring.inside && other.inside) continue;
            if (std::any_of(other.corners.begin(), other.corners.end(), [&](const RingCorner& q) { return q.point == c; })) continue;
            insertCorner(other, arranged, b, c, together);
            bySide.erase({b, a}), bySide.erase({a, b});
            bySide[{b, c}] = bySide[{c, a}] = there;
            flat[r] = 2;
        }
    std::size_t kept = 0;
    for (std::size_t r = 0; r < rings.size(); ++r)
        if (flat[r] != 2) {
            if (kept != r) rings[kept] = std::move(rings[r]);
            ++kept;
        }
    rings.resize(kept);
}

std::vector<Index> fansOf(const std::vector<PieceRing>& rings, const PatchSides& sides) {
    struct Edge {
        Index ring, k;
    };
    std::map<std::pair<Index, Index>, std::vector<Edge>> byEnds;
    std::vector<Index> start{0};
    for (Index r = 0; r < rings.size(); ++r) {
        const auto& ring = rings[r].corners;
        for (Index k = 0; k < ring.size(); ++k) byEnds[std::minmax(ring[k].point, ring[(k + 1) % ring.size()].point)].push_back({r, k});
        start.push_back(start.back() + Index(ring.size()));
    }
    Groups groups(start.back());
    const auto corner = [&](const Edge& e, Index further) { return start[e.ring] + (e.k + further) % Index(rings[e.ring].corners.size()); };
    const auto mates = [&](const Edge& a, const Edge& b) {
        for (Index i : {0u, 1u})
            for (Index j : {0u, 1u})
                if (rings[a.ring].corners[corner(a, i) - start[a.ring]].point == rings[b.ring].corners[corner(b, j) - start[b.ring]].point)
                    groups.join(corner(a, i), corner(b, j));
    };
    for (const auto& [ends, list] : byEnds) {
        if (list.size() == 2) {
            mates(list[0], list[1]);
            continue;
        }
        for (const Edge& e : list) {
            const auto other = sides.across(ends.first, ends.second, {rings[e.ring].panels[e.k], rings[e.ring].turned});
            for (const Edge& f : list)
                if (other && rings[f.ring].panels[f.k] == other->panel && rings[f.ring].turned == other->front) mates(e, f);
        }
    }
    std::vector<Index> out(start.back());
    for (Index c = 0; c < out.size(); ++c) out[c] = groups.find(c);
    return out;
}

}  // namespace seedloom

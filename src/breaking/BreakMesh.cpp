#include "breaking/BreakMesh.h"

#include "breaking/PolygonMesh.h"
#include "breaking/RingFrame.h"
#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "geometry/Weld.h"
#include "parallel/Loops.h"

#include <cmath>

namespace seedloom {

namespace {

constexpr Index kInner = 0x80000000u;  ///< marks places inside, before they have their numbers

RingFrame::Place doubles(Vec3 p) { return {double(p.x), double(p.y), double(p.z)}; }

Triangles ringTriangles(const std::vector<Vec3>& ring) {
    std::vector<Index> corners(ring.size());
    for (Index k = 0; k < corners.size(); ++k) corners[k] = k;
    return triangulate(Geometry(ring, Topology(ring.size(), {0, Index(ring.size())}, std::move(corners), {0}, {}, {})));
}

/// The triangle of a polygon that a place lies in, or nearest to, and its shares of the corners.
BreakMesh::Mix mixAt(const std::array<double, 2>& p, const std::vector<std::array<double, 2>>& ring, const Triangles& triangles) {
    BreakMesh::Mix best{{0, 0, 0}, {1, 0, 0}};
    double most = -1e300;
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        const std::array<Index, 3> c{triangles.corners[3 * t], triangles.corners[3 * t + 1], triangles.corners[3 * t + 2]};
        const auto turn = [](const auto& a, const auto& b, const auto& q) { return (b[0] - a[0]) * (q[1] - a[1]) - (b[1] - a[1]) * (q[0] - a[0]); };
        const double whole = turn(ring[c[0]], ring[c[1]], ring[c[2]]);
        if (!(whole > 0)) continue;
        std::array<double, 3> share;
        for (std::size_t k = 0; k < 3; ++k) share[k] = turn(ring[c[(k + 1) % 3]], ring[c[(k + 2) % 3]], p) / whole;
        const double least = std::min({share[0], share[1], share[2]});
        if (least <= most) continue;
        most = least;
        double sum = 0;
        for (double& s : share) sum += s = std::max(s, 0.0);
        best = {c, {float(share[0] / sum), float(share[1] / sum), float(share[2] / sum)}};
    }
    return best;
}

}  // namespace

BreakMesh::BreakMesh(const Geometry& pieces, double detail, const RunContext& run, const Edges& whole) {
    std::vector<std::uint8_t> inside(pieces.faceCount(), 0);
    if (const auto* tag = pieces.values<std::uint8_t>(Element::face, "inside")) inside = *tag;
    double estimate = 0;
    for (Index f = 0; f < inside.size(); ++f)
        if (inside[f]) estimate += 3 * double(length(areaVector(pieces.topology().face(f), pieces.positions()))) / (0.866 * detail * detail) + 6;
    run.require(estimate, "corners");
    numberPlaces(pieces, inside);
    findCuts(pieces, inside);
    divideEdges(detail, whole);
    std::vector<std::vector<Vec3>> inner(cuts_.size());
    forEach(
        cuts_.size(), run, [&](std::size_t c) { mesh(cuts_[c], inner[c], detail); }, 64);
    for (std::size_t c = 0; c < cuts_.size(); ++c) {
        // Places inside were numbered from 0 so far, after those of the ring.
        cuts_[c].firstInner = Index(places_.size());
        for (auto& t : cuts_[c].triangles)
            for (Index& p : t)
                if (p & kInner) p = cuts_[c].firstInner + (p & ~kInner);
        places_.insert(places_.end(), inner[c].begin(), inner[c].end());
    }
}

void BreakMesh::numberPlaces(const Geometry& pieces, const std::vector<std::uint8_t>& inside) {
    std::vector<std::uint8_t> broken(pieces.pointCount(), 0);
    for (Index f = 0; f < inside.size(); ++f)
        for (Index p : pieces.topology().face(f)) broken[p] |= inside[f];
    const std::vector<Index> first = nearestEarlier(pieces.positions(), 0, broken);
    placeOfPoint_.assign(pieces.pointCount(), kNoPlace);
    for (Index p = 0; p < first.size(); ++p) {
        if (!broken[p]) continue;
        if (first[p] == p) placeOfPoint_[p] = Index(places_.size()), places_.push_back(pieces.positions()[p]);
        else placeOfPoint_[p] = placeOfPoint_[first[p]];
    }
}

void BreakMesh::findCuts(const Geometry& pieces, const std::vector<std::uint8_t>& inside) {
    std::map<std::vector<Index>, Index> known;
    uses_.resize(inside.size());
    for (Index f = 0; f < inside.size(); ++f) {
        if (!inside[f]) continue;
        const auto face = pieces.topology().face(f);
        const auto n = Index(face.size());
        const RingOrder order = ringOrder(face, [&](Index a, Index b) { return placeOfPoint_[a] < placeOfPoint_[b]; });
        std::vector<Index> ring;
        for (Index k = 0; k < n; ++k) ring.push_back(placeOfPoint_[face[order.corner(k, n)]]);
        const auto [it, isNew] = known.try_emplace(ring, Index(cuts_.size()));
        if (isNew) cuts_.push_back({std::move(ring), 0, {}, {}});
        uses_[f] = {it->second, order};
    }
}

void BreakMesh::divideEdges(double detail, const Edges& whole) {
    const std::size_t corners = places_.size();
    for (const Cut& cut : cuts_)
        for (std::size_t k = 0; k < cut.ring.size(); ++k) {
            const auto ends = std::pair(std::min(cut.ring[k], cut.ring[(k + 1) % cut.ring.size()]), std::max(cut.ring[k], cut.ring[(k + 1) % cut.ring.size()]));
            const Vec3 a = places_[ends.first], b = places_[ends.second];
            const auto parts = Index(std::ceil(double(distance(a, b)) / detail));
            if (ends.second >= corners || parts < 2 || whole.count(ends)) continue;
            const auto [it, isNew] = divided_.try_emplace(ends, Index(places_.size()), parts - 1);
            for (Index i = 1; isNew && i < parts; ++i) places_.push_back(mix(a, b, float(i) / float(parts)));
        }
}

std::vector<Index> BreakMesh::along(Index from, Index to) const {
    std::vector<Index> out;
    const auto found = divided_.find({std::min(from, to), std::max(from, to)});
    if (found == divided_.end()) return out;
    for (Index i = 0; i < found->second.second; ++i) out.push_back(found->second.first + i);
    if (from > to) std::reverse(out.begin(), out.end());
    return out;
}

void BreakMesh::mesh(Cut& cut, std::vector<Vec3>& inner, double detail) const {
    std::vector<Index> outline;
    std::vector<RingFrame::Place> corners;
    std::vector<Vec3> at;
    for (std::size_t k = 0; k < cut.ring.size(); ++k) {
        outline.push_back(cut.ring[k]);
        corners.push_back(doubles(places_[cut.ring[k]]));
        at.push_back(places_[cut.ring[k]]);
        const std::vector<Index> more = along(cut.ring[k], cut.ring[(k + 1) % cut.ring.size()]);
        outline.insert(outline.end(), more.begin(), more.end());
    }
    if (outline.size() == 3) {
        cut.triangles = {{outline[0], outline[1], outline[2]}};
        return;
    }
    const RingFrame frame(corners);
    std::vector<std::array<double, 2>> flat, ring;
    for (Index p : outline) flat.push_back(frame.flat(doubles(places_[p])));
    for (const auto& c : corners) ring.push_back(frame.flat(c));
    const PolygonMesh made = meshPolygon(flat, detail);
    if (made.triangles.size() + 2 != flat.size() + 2 * made.inner.size()) {
        // An outline that rounding has let cross itself: as it is, without places inside.
        std::vector<Vec3> all;
        for (Index p : outline) all.push_back(places_[p]);
        const Triangles as = ringTriangles(all);
        for (std::size_t t = 0; t < as.count(); ++t)
            cut.triangles.push_back({outline[as.corners[3 * t]], outline[as.corners[3 * t + 1]], outline[as.corners[3 * t + 2]]});
        return;
    }
    const Triangles triangles = ringTriangles(at);
    for (const auto& p : made.inner) {
        cut.inner.push_back(mixAt(p, ring, triangles));
        const Mix& mixed = cut.inner.back();
        RingFrame::Place place{};
        for (std::size_t k = 0; k < 3; ++k)
            for (std::size_t c = 0; c < 3; ++c) place[c] += double(mixed.weights[k]) * corners[mixed.corners[k]][c];
        inner.push_back({float(place[0]), float(place[1]), float(place[2])});
    }
    const auto number = [&](Index p) { return p < outline.size() ? outline[p] : kInner | (p - Index(outline.size())); };
    for (const auto& t : made.triangles) cut.triangles.push_back({number(t[0]), number(t[1]), number(t[2])});
}

}  // namespace seedloom

#include "geometry/Triangulate.h"

#include "geometry/Measures.h"

#include <numeric>

namespace seedloom {

namespace {

// Above this many corners a face is fanned: quadratic ear cutting would stall on a hostile file.
constexpr std::size_t kMostEarCorners = 4096;

// A corner that turns by less counts as straight: a fan over it would have triangles without area, which cross their neighbours.
constexpr double kLeastTurn = 1e-10;  // the sine, squared
// So does a corner that rounding may have put beside the line of its neighbours: of their greatest coordinate.
constexpr double kRounding = 2.5e-7;

/// How far a corner of many may be off by rounding, squared; cuts along a line leave such corners. Quads are too many to be asked.
double roundingOf(std::span<const Index> face, std::span<const Vec3> positions) {
    if (face.size() <= 4) return 0;
    float most = 0;
    for (Index p : face) most = std::max({most, std::abs(positions[p].x), std::abs(positions[p].y), std::abs(positions[p].z)});
    return double(most) * double(most) * kRounding * kRounding;
}

/// Every corner turns the same way, and none is straight.
bool convex(std::span<const Index> face, std::span<const Vec3> positions, Vec3 normal) {
    // From edge to edge, without the divisions of a remainder: this runs for every face of every model.
    const auto size = double(dot(normal, normal));
    const double rounding = roundingOf(face, positions);
    Vec3 before = positions[face.front()] - positions[face.back()];
    for (std::size_t i = 0, n = face.size(); i < n; ++i) {
        const Vec3 edge = positions[face[i + 1 == n ? 0 : i + 1]] - positions[face[i]];
        const double turn = double(dot(cross(before, edge), normal));
        if (turn <= 0 || turn * turn <= kLeastTurn * double(dot(before, before)) * double(dot(edge, edge)) * size) return false;
        if (rounding > 0 && turn * turn <= rounding * double(dot(before + edge, before + edge)) * size) return false;
        before = edge;
    }
    return true;
}

class EarCutter {
public:
    EarCutter(std::span<const Index> face, std::span<const Vec3> positions, Vec3 normal) : left_(face.size()), rounding_(roundingOf(face, positions)) {
        std::iota(left_.begin(), left_.end(), 0u);
        const Vec3 u = anyPerpendicular(normalized(normal)), v = cross(normalized(normal), u);
        const auto along = [](Vec3 p, Vec3 axis) { return double(p.x) * double(axis.x) + double(p.y) * double(axis.y) + double(p.z) * double(axis.z); };
        for (Index p : face) flat_.push_back({along(positions[p], u), along(positions[p], v)});
    }

    template <class Emit> void run(Emit&& emit) {
        while (left_.size() > 3) {
            const std::size_t ear = findEar();
            emit(at(ear + left_.size() - 1), at(ear), at(ear + 1));
            left_.erase(left_.begin() + static_cast<std::ptrdiff_t>(ear));
        }
        emit(left_[0], left_[1], left_[2]);
    }

private:
    Index at(std::size_t i) const { return left_[i % left_.size()]; }
    struct Flat {
        double x, y;
        bool operator==(const Flat&) const = default;
    };
    static double area(Flat a, Flat b, Flat c) { return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x); }
    std::size_t findEar() const {
        const std::size_t n = left_.size();
        std::size_t best = 0;
        double bestArea = -1e300;
        for (std::size_t i = 0; i < n; ++i) {
            const Index a = at(i + n - 1), b = at(i), c = at(i + 1);
            const double size = area(flat_[a], flat_[b], flat_[c]);
            if (size > bestArea) bestArea = size, best = i;
            if (turns(a, b, c, size) && clear(a, b, c)) return i;
        }
        return best;  // A polygon that crosses itself has no clean ear: cut the largest corner.
    }
    /// So little that the way from a over b to c counts as straight.
    bool straight(Index a, Index b, Index c, double size) const {
        const auto squared = [&](Index from, Index to) {
            const double x = flat_[to].x - flat_[from].x, y = flat_[to].y - flat_[from].y;
            return x * x + y * y;
        };
        return size * size <= std::max(kLeastTurn * squared(a, b) * squared(b, c), rounding_ * squared(a, c));
    }
    bool turns(Index a, Index b, Index c, double size) const { return size > 0 && !straight(a, b, c, size); }
    /// On the line through a and b, or left of it: a point on a side would be left over without area.
    bool within(Index a, Index b, Index p) const {
        const double size = area(flat_[a], flat_[b], flat_[p]);
        return size >= 0 || straight(a, b, p, size);
    }
    bool clear(Index a, Index b, Index c) const {
        for (Index p : left_) {
            if (p == a || p == b || p == c || flat_[p] == flat_[a] || flat_[p] == flat_[b] || flat_[p] == flat_[c]) continue;
            if (within(a, b, p) && within(b, c, p) && within(c, a, p)) return false;
        }
        return true;
    }
    std::vector<Index> left_;
    std::vector<Flat> flat_;
    double rounding_;
};

}  // namespace

Triangles triangulate(const Geometry& geometry) {
    Triangles out;
    const auto& topology = geometry.topology();
    const auto& positions = geometry.positions();
    out.corners.reserve(geometry.cornerCount() * 3 / 2);
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        const auto face = topology.face(f);
        const Index first = topology.faceStart()[f];
        const auto emit = [&](Index a, Index b, Index c) {
            out.corners.insert(out.corners.end(), {first + a, first + b, first + c});
            out.faceOf.push_back(static_cast<Index>(f));
        };
        if (face.size() < 3) continue;
        if (face.size() == 3) {
            emit(0, 1, 2);
            continue;
        }
        const Vec3 normal = areaVector(face, positions);
        if (face.size() > kMostEarCorners || !isFinite(normal) || convex(face, positions, normal))
            for (Index i = 2; i < face.size(); ++i) emit(0, i - 1, i);
        else EarCutter(face, positions, normal).run(emit);
    }
    return out;
}

Rows cornersAtPoints(const Geometry& geometry, const Triangles& triangles) {
    const auto& cornerPoint = geometry.topology().cornerPoint();
    Rows out;
    out.start.assign(geometry.pointCount() + 1, 0);
    for (Index c : triangles.corners) ++out.start[cornerPoint[c] + 1];
    std::partial_sum(out.start.begin(), out.start.end(), out.start.begin());
    out.values.resize(triangles.corners.size());
    std::vector<Index> fill(out.start.begin(), out.start.end() - 1);
    for (Index i = 0; i < triangles.corners.size(); ++i) out.values[fill[cornerPoint[triangles.corners[i]]]++] = i;
    return out;
}

}  // namespace seedloom

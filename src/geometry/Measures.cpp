#include "geometry/Measures.h"

#include <optional>

namespace seedloom {

void Bounds::add(Vec3 p) {
    if (!isFinite(p)) return;
    if (empty) {
        min = max = p;
        empty = false;
        return;
    }
    min = {std::min(min.x, p.x), std::min(min.y, p.y), std::min(min.z, p.z)};
    max = {std::max(max.x, p.x), std::max(max.y, p.y), std::max(max.z, p.z)};
}

Bounds boundsOf(std::span<const Vec3> positions) {
    Bounds bounds;
    for (Vec3 p : positions) bounds.add(p);
    return bounds;
}

namespace {

bool within(Vec3 p, const Bounds& bounds) {
    return !bounds.empty && p.x >= bounds.min.x && p.y >= bounds.min.y && p.z >= bounds.min.z && p.x <= bounds.max.x && p.y <= bounds.max.y &&
           p.z <= bounds.max.z;
}

void addPlaced(const Geometry& geometry, const Affine* place, Bounds& bounds) {
    for (Vec3 p : geometry.positions()) bounds.add(place ? place->point(p) : p);
    const Copies* copies = geometry.copies();
    if (!copies) return;
    std::vector<std::optional<Bounds>> shapes(copies->shapes.size());
    for (std::size_t i = 0; i < copies->place.size(); ++i) {
        const Geometry& shape = *copies->shapes[copies->shapeOf[i]];
        auto& of = shapes[copies->shapeOf[i]];
        if (!of) of = boundsOf(shape);
        const Affine whole = place ? *place * copies->place[i] : copies->place[i];
        // Of many copies few reach out: those whose box lies within are passed over.
        bool inside = !of->empty;
        for (int c = 0; inside && c < 8; ++c) inside = within(whole.point(of->corner(c)), bounds);
        if (!inside) addPlaced(shape, &whole, bounds);
    }
}

}  // namespace

Bounds boundsOf(const Geometry& geometry) {
    Bounds bounds;
    addPlaced(geometry, nullptr, bounds);
    return bounds;
}

Vec3 areaVector(std::span<const Index> face, std::span<const Vec3> positions) {
    if (face.size() < 3) return {};
    const Vec3 origin = positions[face[0]];
    Vec3 sum{};
    for (std::size_t i = 2; i < face.size(); ++i) sum += cross(positions[face[i - 1]] - origin, positions[face[i]] - origin);
    return sum * 0.5f;
}

Vec3 centreOf(std::span<const Index> face, std::span<const Vec3> positions) {
    Vec3 sum{};
    for (Index p : face) sum += positions[p];
    return face.empty() ? sum : sum / static_cast<float>(face.size());
}

std::vector<Vec3> faceNormals(const Geometry& geometry) {
    std::vector<Vec3> out(geometry.faceCount());
    const auto& positions = geometry.positions();
    for (std::size_t f = 0; f < out.size(); ++f) out[f] = normalized(areaVector(geometry.topology().face(f), positions));
    return out;
}

std::vector<Vec3> faceCentres(const Geometry& geometry) {
    std::vector<Vec3> out(geometry.faceCount());
    for (std::size_t f = 0; f < out.size(); ++f) out[f] = centreOf(geometry.topology().face(f), geometry.positions());
    return out;
}

namespace {

float cornerAngle(std::span<const Index> face, std::size_t i, std::span<const Vec3> positions) {
    const Vec3 at = positions[face[i]];
    const Vec3 a = positions[face[i + 1 == face.size() ? 0 : i + 1]] - at;
    const Vec3 b = positions[face[i == 0 ? face.size() - 1 : i - 1]] - at;
    return std::atan2(length(cross(a, b)), dot(a, b));
}

}  // namespace

namespace {

/// The normal of the plane a curve lies in, its largest component positive, so that a small edit cannot turn it over.
Vec3 curvePlane(std::span<const Index> curve, std::span<const Vec3> positions) {
    Vec3 plane = normalized(areaVector(curve, positions), {});
    if (plane == Vec3{}) {
        const Vec3 chord = curve.empty() ? Vec3{} : positions[curve.back()] - positions[curve.front()];
        return std::abs(chord.z) > 0.9f * length(chord) ? Vec3{0, 1, 0} : Vec3{0, 0, 1};
    }
    const float x = std::abs(plane.x), y = std::abs(plane.y), z = std::abs(plane.z);
    const float largest = z >= x && z >= y ? plane.z : y >= x ? plane.y : plane.x;
    return largest < 0 ? -plane : plane;
}

void addCurveNormals(const Geometry& geometry, std::vector<Vec3>& normals) {
    const Topology& t = geometry.topology();
    const auto& positions = geometry.positions();
    for (std::size_t c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        const Vec3 plane = curvePlane(curve, positions);
        for (std::size_t i = 0; i < curve.size(); ++i)
            if (normals[curve[i]] == Vec3{}) normals[curve[i]] = cross(curveTangent(curve, t.curveClosed(c), i, positions), plane);
    }
}

}  // namespace

Vec3 curveTangent(std::span<const Index> curve, bool closed, std::size_t i, std::span<const Vec3> positions) {
    const std::size_t n = curve.size();
    const bool cyclic = closed && n > 2;
    const Vec3 at = positions[curve[i]];
    const Vec3 before = i > 0 ? positions[curve[i - 1]] : cyclic ? positions[curve[n - 1]] : at;
    const Vec3 after = i + 1 < n ? positions[curve[i + 1]] : cyclic ? positions[curve[0]] : at;
    return normalized(normalized(at - before, {}) + normalized(after - at, {}), normalized(after - before, {1, 0, 0}));
}

std::vector<Vec3> pointNormals(const Geometry& geometry) {
    const auto& positions = geometry.positions();
    std::vector<Vec3> sum(geometry.pointCount());
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        const auto face = geometry.topology().face(f);
        const Vec3 normal = normalized(areaVector(face, positions), {});
        for (std::size_t i = 0; i < face.size(); ++i) sum[face[i]] += normal * cornerAngle(face, i, positions);
    }
    addCurveNormals(geometry, sum);
    for (Vec3& n : sum) n = normalized(n);
    return sum;
}

CornerNormals::CornerNormals(const Geometry& geometry, double maxDegrees)
    : geometry_(geometry), faceOf_(geometry.topology().faceOfCorner()), around_(geometry.topology().cornersOfPoint()),
      limit_(static_cast<float>(std::cos(radians(std::clamp(maxDegrees, 0.0, 180.0)))) - 1e-6f), normal_(geometry.faceCount()), angle_(geometry.cornerCount()) {
}

void CornerNormals::prepare(std::size_t begin, std::size_t end) {
    const Topology& t = geometry_.topology();
    for (std::size_t f = begin; f < end; ++f) {
        normal_[f] = normalized(areaVector(t.face(f), geometry_.positions()));
        for (std::size_t i = 0; i < t.face(f).size(); ++i) angle_[t.faceStart()[f] + i] = cornerAngle(t.face(f), i, geometry_.positions());
    }
}

Vec3 CornerNormals::of(Index corner) const {
    const Vec3 own = normal_[faceOf_[corner]];
    Vec3 sum{};
    for (Index other : around_[geometry_.topology().cornerPoint()[corner]])
        if (dot(own, normal_[faceOf_[other]]) >= limit_) sum += normal_[faceOf_[other]] * angle_[other];
    return normalized(sum, own);
}

std::vector<Vec3> cornerNormals(const Geometry& geometry, double maxDegrees) {
    CornerNormals normals(geometry, maxDegrees);
    normals.prepare(0, geometry.faceCount());
    std::vector<Vec3> out(geometry.cornerCount());
    for (Index c = 0; c < out.size(); ++c) out[c] = normals.of(c);
    return out;
}

double surfaceArea(const Geometry& geometry) {
    double total = 0;
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) total += double(length(areaVector(geometry.topology().face(f), geometry.positions())));
    return total;
}

double signedVolume(const Geometry& geometry) {
    const auto& positions = geometry.positions();
    const Vec3 centre = boundsOf(positions).centre();
    double total = 0;
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        const auto face = geometry.topology().face(f);
        if (face.size() < 3) continue;
        const Vec3 a = positions[face[0]] - centre;
        for (std::size_t i = 2; i < face.size(); ++i) {
            const Vec3 b = positions[face[i - 1]] - centre, c = positions[face[i]] - centre;
            total += double(a.x) * (double(b.y) * c.z - double(b.z) * c.y) + double(a.y) * (double(b.z) * c.x - double(b.x) * c.z) +
                     double(a.z) * (double(b.x) * c.y - double(b.y) * c.x);
        }
    }
    return total / 6;
}

double curveLength(const Geometry& geometry, std::size_t c) {
    const auto curve = geometry.topology().curve(c);
    const auto& positions = geometry.positions();
    double total = 0;
    for (std::size_t i = 1; i < curve.size(); ++i) total += double(distance(positions[curve[i - 1]], positions[curve[i]]));
    if (geometry.topology().curveClosed(c) && curve.size() > 2) total += double(distance(positions[curve.back()], positions[curve.front()]));
    return total;
}

}  // namespace seedloom

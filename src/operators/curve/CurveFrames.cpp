#include "operators/curve/CurveFrames.h"

#include "geometry/Measures.h"

namespace seedloom {

namespace {

Vec3 carried(Vec3 up, Vec3 fromPlace, Vec3 fromTangent, Vec3 toPlace, Vec3 toTangent) {
    const Vec3 v1 = toPlace - fromPlace;
    const float c1 = dot(v1, v1);
    if (c1 < 1e-24f) return up;
    const Vec3 upL = up - v1 * (2 / c1 * dot(v1, up)), tangentL = fromTangent - v1 * (2 / c1 * dot(v1, fromTangent));
    const Vec3 v2 = toTangent - tangentL;
    const float c2 = dot(v2, v2);
    return c2 < 1e-24f ? upL : upL - v2 * (2 / c2 * dot(v2, upL));
}

Vec3 squareTo(Vec3 v, Vec3 axis) { return normalized(v - axis * dot(v, axis), anyPerpendicular(axis)); }

}  // namespace

CurveFrames framesOf(const Geometry& geometry, std::size_t c, Vec3 hint) {
    const auto curve = geometry.topology().curve(c);
    const bool closed = geometry.topology().curveClosed(c) && curve.size() > 2;
    const auto& positions = geometry.positions();
    const std::size_t n = curve.size();
    CurveFrames out;
    if (n == 0) return out;
    out.tangent.resize(n), out.side.resize(n), out.up.resize(n), out.along.resize(n);
    for (std::size_t i = 0; i < n; ++i) out.tangent[i] = curveTangent(curve, closed, i, positions);
    std::vector<Vec3> up(n);
    up[0] = squareTo(hint, out.tangent[0]);
    for (std::size_t i = 1; i < n; ++i)
        up[i] = squareTo(carried(up[i - 1], positions[curve[i - 1]], out.tangent[i - 1], positions[curve[i]], out.tangent[i]), out.tangent[i]);
    float gap = 0;
    if (closed) {
        // What is left after one round is spread over all points, so that the directions meet at the seam.
        const Vec3 back = squareTo(carried(up[n - 1], positions[curve[n - 1]], out.tangent[n - 1], positions[curve[0]], out.tangent[0]), out.tangent[0]);
        gap = std::atan2(dot(cross(back, up[0]), out.tangent[0]), dot(back, up[0]));
    }
    double length = 0;
    const double whole = curveLength(geometry, c);
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) length += double(distance(positions[curve[i - 1]], positions[curve[i]]));
        out.up[i] = rotateAbout(up[i], out.tangent[i], gap * float(i) / float(n));
        out.side[i] = cross(out.tangent[i], out.up[i]);
        out.along[i] = whole > 0 ? static_cast<float>(length / whole) : 0;
    }
    out.length = whole;
    return out;
}

Geometry withAlong(const Geometry& geometry) {
    if (geometry.column(Element::point, "along")) return geometry;
    std::vector<float> along(geometry.pointCount(), 0);
    for (std::size_t c = 0; c < geometry.curveCount(); ++c) {
        const auto curve = geometry.topology().curve(c);
        const double whole = curveLength(geometry, c);
        double length = 0;
        for (std::size_t i = 0; i < curve.size(); ++i) {
            if (i > 0) length += double(distance(geometry.positions()[curve[i - 1]], geometry.positions()[curve[i]]));
            along[curve[i]] = whole > 0 ? static_cast<float>(length / whole) : 0;
        }
    }
    Geometry out = geometry;
    out.setColumn(Element::point, "along", Column(std::move(along)));
    return out;
}

}  // namespace seedloom

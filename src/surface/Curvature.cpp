#include "surface/Curvature.h"

#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

struct Vec3d {
    double x = 0, y = 0, z = 0;
    explicit Vec3d(Vec3 v) : x(double(v.x)), y(double(v.y)), z(double(v.z)) {}
    Vec3d(double a, double b, double c) : x(a), y(b), z(c) {}
};
Vec3d operator-(Vec3d a, Vec3d b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
Vec3d operator+(Vec3d a, Vec3d b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
Vec3d operator*(Vec3d a, double s) { return {a.x * s, a.y * s, a.z * s}; }
double dot(Vec3d a, Vec3d b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
Vec3d cross(Vec3d a, Vec3d b) { return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x}; }
double size(Vec3d a) { return std::sqrt(dot(a, a)); }

/// A plane at a point or triangle, by two directions at right angles, and its normal.
struct Frame {
    Vec3d u{1, 0, 0}, v{0, 1, 0}, n{0, 0, 1};
};

Frame frameOf(Vec3 normal) {
    const Vec3 u = anyPerpendicular(normal);
    return {Vec3d(u), Vec3d(seedloom::cross(normal, u)), Vec3d(normal)};
}

/// A symmetric 2×2 matrix: (a b; b c).
struct Bend {
    double a = 0, b = 0, c = 0;
};

/// A triangle's bend as a tensor in space, which needs no frame to be read; floats, as a million of them pass through memory.
struct Piece {
    float xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
    Vec3 normal;
    std::array<float, 3> area{};

    void setBend(const Bend& bend, const Frame& f) {
        const auto entry = [&](double Vec3d::*i, double Vec3d::*j) {
            return float(bend.a * (f.u.*i) * (f.u.*j) + bend.b * ((f.u.*i) * (f.v.*j) + (f.v.*i) * (f.u.*j)) + bend.c * (f.v.*i) * (f.v.*j));
        };
        xx = entry(&Vec3d::x, &Vec3d::x), xy = entry(&Vec3d::x, &Vec3d::y), xz = entry(&Vec3d::x, &Vec3d::z);
        yy = entry(&Vec3d::y, &Vec3d::y), yz = entry(&Vec3d::y, &Vec3d::z), zz = entry(&Vec3d::z, &Vec3d::z);
        normal = {float(f.n.x), float(f.n.y), float(f.n.z)};
    }
    Vec3d times(Vec3d v) const {
        return {double(xx) * v.x + double(xy) * v.y + double(xz) * v.z, double(xy) * v.x + double(yy) * v.y + double(yz) * v.z,
                double(xz) * v.x + double(yz) * v.y + double(zz) * v.z};
    }
};

/// The bend in the directions of `to`, after both are turned the shortest way until their normals agree.
Bend carried(const Piece& piece, const Frame& to) {
    Vec3d u = to.u, v = to.v;
    const Vec3d n(piece.normal);
    const double along = dot(to.n, n);
    if (along > -1 + 1e-12) {
        const Vec3d perpendicular = n - to.n * along, mean = (to.n + n) * (1 / (1 + along));
        u = u - mean * dot(u, perpendicular);
        v = v - mean * dot(v, perpendicular);
    } else {
        u = u * -1, v = v * -1;
    }
    const Vec3d bentU = piece.times(u), bentV = piece.times(v);
    return {dot(u, bentU), dot(v, bentU), dot(v, bentV)};
}

struct Triangle {
    std::array<Index, 3> point;
    std::array<Vec3d, 3> edge;  ///< edge i is opposite to point i
    double area;
};

/// The share of a triangle's area that belongs to each of its points (Meyer et al., "Discrete Differential-Geometry Operators", 2003, 3.3).
std::array<double, 3> cornerAreas(const Triangle& t) {
    std::array<double, 3> square{}, weight{};
    for (std::size_t i = 0; i < 3; ++i) square[i] = dot(t.edge[i], t.edge[i]);
    for (std::size_t i = 0; i < 3; ++i) weight[i] = square[i] * (square[(i + 1) % 3] + square[(i + 2) % 3] - square[i]);
    for (std::size_t i = 0; i < 3; ++i)
        if (weight[i] <= 0) {
            // Obtuse at point i: half of it goes there.
            std::array<double, 3> out{t.area / 4, t.area / 4, t.area / 4};
            out[i] = t.area / 2;
            return out;
        }
    const double scale = t.area / (2 * (weight[0] + weight[1] + weight[2]));
    return {scale * (weight[1] + weight[2]), scale * (weight[2] + weight[0]), scale * (weight[0] + weight[1])};
}

/// The bend of a triangle by least squares: three edges, the change of the normal along each.
bool bendOf(const Triangle& t, const std::vector<Vec3>& normals, const Frame& frame, Bend& out) {
    double w00 = 0, w01 = 0, w11 = 0, m0 = 0, m1 = 0, m2 = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        const double u = dot(t.edge[i], frame.u), v = dot(t.edge[i], frame.v);
        const Vec3d change = Vec3d(normals[t.point[(i + 2) % 3]]) - Vec3d(normals[t.point[(i + 1) % 3]]);
        const double du = dot(change, frame.u), dv = dot(change, frame.v);
        w00 += u * u, w01 += u * v, w11 += v * v;
        m0 += du * u, m1 += du * v + dv * u, m2 += dv * v;
    }
    // (w00 w01 0; w01 w00+w11 w01; 0 w01 w11) (a b c) = (m0 m1 m2), by Cramer's rule.
    const double middle = w00 + w11;
    const double det = w00 * (middle * w11 - w01 * w01) - w01 * w01 * w11;
    if (!(std::abs(det) > 1e-300)) return false;
    out.a = (m0 * (middle * w11 - w01 * w01) - w01 * (m1 * w11 - w01 * m2)) / det;
    out.b = (w00 * (m1 * w11 - w01 * m2) - m0 * w01 * w11) / det;
    out.c = (w00 * (middle * m2 - m1 * w01) - w01 * (w01 * m2) + m0 * w01 * w01) / det;
    return std::isfinite(out.a) && std::isfinite(out.b) && std::isfinite(out.c);
}

/// The triangles, and those at each point.
struct Fans {
    explicit Fans(const Geometry& g) : triangles(triangulate(g)), ofPoint(cornersAtPoints(g, triangles)) {}
    Triangles triangles;
    Rows ofPoint;
};

Triangle triangleOf(const Geometry& g, const Triangles& triangles, std::size_t i) {
    const auto& at = g.positions();
    const auto& cornerPoint = g.topology().cornerPoint();
    std::array<Index, 3> p{};
    for (std::size_t k = 0; k < 3; ++k) p[k] = cornerPoint[triangles.corners[3 * i + k]];
    const Vec3d a(at[p[0]]), b(at[p[1]]), c(at[p[2]]);
    Triangle out{p, {c - b, a - c, b - a}, 0};
    out.area = size(cross(out.edge[1], out.edge[2])) / 2;
    return out;
}

/// True, with the frame, where the triangle has an area to speak of.
bool frameOfTriangle(const Triangle& t, Frame& frame) {
    const Vec3d normal = cross(t.edge[1], t.edge[2]);
    const double length = size(normal), side = size(t.edge[0]);
    if (!(length > 0) || !(side > 0) || !std::isfinite(length)) return false;
    frame.n = normal * (1 / length);
    frame.u = t.edge[0] * (1 / side);
    frame.v = cross(frame.n, frame.u);
    return true;
}

/// Normals at points, each triangle weighted by the sine of its corner over the lengths of the two sides there, which is exact on a
/// ball and needs no angle (Max, "Weights for Computing Vertex Normals from Facet Normals", 1999).
std::vector<Vec3> normalsOf(const Geometry& g, const Fans& fans, const RunContext& run) {
    std::vector<Vec3> out(g.pointCount());
    forEach(out.size(), run, [&](std::size_t p) {
        Vec3d sum(0, 0, 0);
        const Vec3d at(g.positions()[p]);
        for (Index corner : fans.ofPoint[p]) {
            const Index first = corner - corner % 3;
            const auto place = [&](Index k) { return Vec3d(g.positions()[g.topology().cornerPoint()[fans.triangles.corners[first + (corner + k) % 3]]]); };
            const Vec3d a = place(1) - at, b = place(2) - at;
            const double lengths = dot(a, a) * dot(b, b);
            if (lengths > 0 && std::isfinite(lengths)) sum = sum + cross(a, b) * (1 / lengths);
        }
        const double length = size(sum);
        if (length > 0) out[p] = {float(sum.x / length), float(sum.y / length), float(sum.z / length)};
    });
    return out;
}

/// Calls take(point, frame, mean bend of the triangles there) for all points that have faces.
template <class Take> void eachBend(const Geometry& g, const RunContext& run, Take&& take) {
    const Fans fans(g);
    const std::vector<Vec3> normals = normalsOf(g, fans, run);
    std::vector<Piece> pieces(fans.triangles.count());
    forEach(pieces.size(), run, [&](std::size_t i) {
        const Triangle t = triangleOf(g, fans.triangles, i);
        Frame frame;
        Bend bend;
        if (!frameOfTriangle(t, frame) || !bendOf(t, normals, frame, bend)) return;
        pieces[i].setBend(bend, frame);
        const auto areas = cornerAreas(t);
        std::copy(areas.begin(), areas.end(), pieces[i].area.begin());
    });
    forEach(g.pointCount(), run, [&](std::size_t p) {
        const Frame frame = frameOf(normals[p]);
        Bend sum;
        double area = 0;
        for (Index corner : fans.ofPoint[p]) {
            const Piece& piece = pieces[corner / 3];
            const double w = double(piece.area[corner % 3]);
            if (!(w > 0)) continue;
            const Bend bend = carried(piece, frame);
            sum.a += w * bend.a, sum.b += w * bend.b, sum.c += w * bend.c;
            area += w;
        }
        if (area > 0) take(p, frame, Bend{sum.a / area, sum.b / area, sum.c / area});
    });
}

}  // namespace

std::vector<Curvature> curvatureOf(const Geometry& g, const RunContext& run) {
    std::vector<Curvature> out(g.pointCount());
    eachBend(g, run, [&](std::size_t p, const Frame&, const Bend& bend) {
        const double mean = (bend.a + bend.c) / 2, spread = std::hypot((bend.a - bend.c) / 2, bend.b);
        out[p] = {float(mean + spread), float(mean - spread)};
    });
    return out;
}

std::vector<Vec3> principalDirectionsOf(const Geometry& g, bool largest, const RunContext& run) {
    std::vector<Vec3> out(g.pointCount());
    eachBend(g, run, [&](std::size_t p, const Frame& frame, const Bend& bend) {
        const double angle = std::atan2(2 * bend.b, bend.a - bend.c) / 2 + (largest ? 0 : kPi / 2), length = std::hypot(bend.a - bend.c, 2 * bend.b);
        const Vec3d way = (frame.u * std::cos(angle) + frame.v * std::sin(angle)) * length;
        out[p] = {float(way.x), float(way.y), float(way.z)};
    });
    return out;
}

std::vector<Vec3> gradientOf(const Geometry& g, const std::vector<float>& values, const RunContext& run) {
    const Fans fans(g);
    std::vector<Vec3> out(g.pointCount());
    forEach(out.size(), run, [&](std::size_t p) {
        Vec3d sum(0, 0, 0);
        double area = 0;
        for (Index corner : fans.ofPoint[p]) {
            const Triangle t = triangleOf(g, fans.triangles, corner / 3);
            Frame frame;
            if (!frameOfTriangle(t, frame)) continue;
            Vec3d gradient(0, 0, 0);
            for (std::size_t k = 0; k < 3; ++k) gradient = gradient + cross(frame.n, t.edge[k]) * (double(values[t.point[k]]) / (2 * t.area));
            sum = sum + gradient * t.area;
            area += t.area;
        }
        if (area > 0) out[p] = {float(sum.x / area), float(sum.y / area), float(sum.z / area)};
    });
    return out;
}

}  // namespace seedloom

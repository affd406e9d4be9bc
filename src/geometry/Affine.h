#pragma once
// A 3×4 affine map: linear part by columns, then translation.
#include "geometry/Vec.h"

namespace seedloom {

struct Affine {
    Vec3 x{1, 0, 0}, y{0, 1, 0}, z{0, 0, 1}, move{};

    Vec3 vector(Vec3 v) const { return x * v.x + y * v.y + z * v.z; }
    Vec3 point(Vec3 p) const { return vector(p) + move; }
    double determinant() const { return double(dot(cross(x, y), z)); }
    /// True where the map turns a counter-clockwise face into a clockwise one.
    bool mirrors() const { return determinant() < 0; }
    /// Maps a normal (by the cofactor matrix, which also exists for flat maps).
    Vec3 normal(Vec3 n) const {
        const float sign = mirrors() ? -1.0f : 1.0f;
        return normalized((cross(y, z) * n.x + cross(z, x) * n.y + cross(x, y) * n.z) * sign, n);
    }
    Affine operator*(const Affine& inner) const { return {vector(inner.x), vector(inner.y), vector(inner.z), point(inner.move)}; }
    bool operator==(const Affine&) const = default;
};

/// The map back. Precondition: the determinant is not 0.
inline Affine inverse(const Affine& m) {
    const auto det = float(m.determinant());
    const Vec3 rx = cross(m.y, m.z) / det, ry = cross(m.z, m.x) / det, rz = cross(m.x, m.y) / det;
    Affine out{{rx.x, ry.x, rz.x}, {rx.y, ry.y, rz.y}, {rx.z, ry.z, rz.z}, {}};
    out.move = -out.vector(m.move);
    return out;
}

}  // namespace seedloom

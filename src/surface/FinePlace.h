#pragma once
// Places before they are rounded to a geometry's numbers.
#include "geometry/Vec.h"

#include <array>

namespace seedloom {

using FinePlace = std::array<double, 3>;

inline FinePlace fine(Vec3 p) { return {double(p.x), double(p.y), double(p.z)}; }
inline Vec3 rounded(const FinePlace& p) { return {float(p[0]), float(p[1]), float(p[2])}; }
inline FinePlace minus(const FinePlace& a, const FinePlace& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
inline double dot(const FinePlace& a, const FinePlace& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
inline FinePlace cross(const FinePlace& a, const FinePlace& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }

}  // namespace seedloom

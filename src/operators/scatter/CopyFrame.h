#pragma once
// Directions for something that is placed.
#include "geometry/Affine.h"

namespace seedloom {

/// Turns +Y to `up` the shortest way. Straight down: half a turn about X.
inline Affine standingOn(Vec3 up) {
    const Vec3 axis{up.z, 0, -up.x};  // +Y × up
    const float sine = length(axis);
    if (sine < 1e-7f) return up.y >= 0 ? Affine{} : Affine{{1, 0, 0}, {0, -1, 0}, {0, 0, -1}, {}};
    const float turn = std::atan2(sine, up.y);
    const Vec3 about = axis / sine;
    return {rotateAbout({1, 0, 0}, about, turn), up, rotateAbout({0, 0, 1}, about, turn), {}};
}

/// +X along `along`, +Y as near to `up` as that allows.
inline Affine runningAlong(Vec3 along, Vec3 up) {
    const Vec3 side = normalized(cross(along, up), anyPerpendicular(along));
    return {along, cross(side, along), side, {}};
}

/// +Y along `up`, +X as near to `along` as that allows.
inline Affine standingTowards(Vec3 up, Vec3 along) {
    const Vec3 side = normalized(cross(along, up), anyPerpendicular(up));
    return {cross(up, side), up, side, {}};
}

/// Of a unit quaternion x y z w; one without length turns nothing.
inline Affine turnedBy(Vec4 q) {
    const float size = std::sqrt(q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w);
    if (!(size > 1e-12f) || !std::isfinite(size)) return {};
    q = q * (1 / size);
    const Vec3 axis{q.x, q.y, q.z};
    const auto map = [&](Vec3 v) { return v + cross(axis, cross(axis, v) + v * q.w) * 2; };
    return {map({1, 0, 0}), map({0, 1, 0}), map({0, 0, 1}), {}};
}

inline Affine turnAbout(Vec3 axis, float degreesTurned) {
    const auto turn = float(radians(double(degreesTurned)));
    const auto map = [&](Vec3 v) { return turn == 0 ? v : rotateAbout(v, axis, turn); };
    return {map({1, 0, 0}), map({0, 1, 0}), map({0, 0, 1}), {}};
}

}  // namespace seedloom

#include "meshes/GltfPlace.h"

namespace seedloom {

namespace {

/// Source: Shepperd, "Quaternion from Rotation Matrix", Journal of Guidance and Control 1(3), 1978.
Vec4 quaternionOf(Vec3 x, Vec3 y, Vec3 z) {
    const float trace = x.x + y.y + z.z;
    Vec4 q;
    if (trace > x.x && trace > y.y && trace > z.z) q = {y.z - z.y, z.x - x.z, x.y - y.x, 1 + trace};
    else if (x.x > y.y && x.x > z.z) q = {1 + 2 * x.x - trace, x.y + y.x, z.x + x.z, y.z - z.y};
    else if (y.y > z.z) q = {x.y + y.x, 1 + 2 * y.y - trace, y.z + z.y, z.x - x.z};
    else q = {z.x + x.z, y.z + z.y, 1 + 2 * z.z - trace, x.y - y.x};
    const float size = std::sqrt(q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w);
    return q * (1 / size);
}

}  // namespace

std::optional<GltfPlace> gltfPlaceOf(const Affine& map) {
    constexpr float kSquare = 1e-4f;
    const Vec3 size{length(map.x), length(map.y), length(map.z)};
    if (!(std::min({size.x, size.y, size.z}) > 1e-20f) || !isFinite(size) || !isFinite(map.move)) return {};
    Vec3 x = map.x / size.x, y = map.y / size.y, z = map.z / size.z;
    if (std::max({std::abs(dot(x, y)), std::abs(dot(y, z)), std::abs(dot(z, x))}) > kSquare) return {};
    const bool mirrored = dot(cross(x, y), z) < 0;
    if (mirrored) x = -x;
    return GltfPlace{map.move, {mirrored ? -size.x : size.x, size.y, size.z}, quaternionOf(x, y, z)};
}

Affine affineOf(const GltfPlace& p) {
    const auto [x, y, z, w] = p.turn;
    return {Vec3{1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)} * p.size.x,
            Vec3{2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)} * p.size.y,
            Vec3{2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)} * p.size.z, p.move};
}

std::array<float, 16> gltfMatrix(const Affine& m) {
    return {m.x.x, m.x.y, m.x.z, 0, m.y.x, m.y.y, m.y.z, 0, m.z.x, m.z.y, m.z.z, 0, m.move.x, m.move.y, m.move.z, 1};
}

}  // namespace seedloom

#include "meshes/GltfPlace.h"

#include "motion/Turns.h"

namespace seedloom {

namespace {

Vec4 quaternionOf(Vec3 x, Vec3 y, Vec3 z) {
    const auto row = [&](int i) { return Triple{double(x[i]), double(y[i]), double(z[i])}; };
    const Turn q = turnOf({row(0), row(1), row(2)});
    return {float(q[0]), float(q[1]), float(q[2]), float(q[3])};
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

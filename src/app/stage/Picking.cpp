#include "app/stage/Picking.h"

#include <limits>

namespace seedloom::app {

namespace {

constexpr double kReach = 8;  // pixels

struct Ray {
    Vec3 from, along;
};

Ray rayThrough(const StageCamera& camera, QSizeF size, QPointF at) {
    const Vec3 along = camera.ray(at, size);
    return {camera.rayStart(at, size), along};
}

}  // namespace

std::optional<float> rayMeets(Vec3 from, Vec3 along, Vec3 a, Vec3 b, Vec3 c) {
    const Vec3 ab = b - a, ac = c - a, p = cross(along, ac);
    const float det = dot(ab, p);
    if (std::abs(det) < 1e-20f) return {};
    const float inverse = 1 / det;
    const Vec3 s = from - a;
    const float u = dot(s, p) * inverse;
    if (u < 0 || u > 1) return {};
    const Vec3 q = cross(s, ab);
    const float v = dot(along, q) * inverse;
    if (v < 0 || u + v > 1) return {};
    const float t = dot(ac, q) * inverse;
    return t > 0 ? std::optional(t) : std::nullopt;
}

namespace {

/// Whether a ray passes a ball; most copies are passed over by it.
bool passes(const Ray& ray, Vec3 middle, float radius) {
    const Vec3 to = middle - ray.from;
    const float along = dot(to, ray.along);
    return dot(to, to) - along * along <= radius * radius && along > -radius;
}

/// The copy that the ray meets nearer than `nearest`.
void meetCopies(const DrawCopies& copies, const std::vector<Affine>& places, const Ray& ray, float& nearest, std::optional<Picked>& found) {
    const DrawScene& shape = *copies.shape;
    const Vec3 middle = shape.bounds.centre();
    const float reach = float(shape.bounds.diagonal() / 2);
    for (Index row : copies.rows) {
        const Affine& place = places[row];
        const float size = std::sqrt(std::max({dot(place.x, place.x), dot(place.y, place.y), dot(place.z, place.z)}));
        // Leaning axes reach farther than any one of them.
        if (!passes(ray, place.point(middle), reach * size * 1.74f) || place.determinant() == 0) continue;
        const Affine back = inverse(place);
        const Vec3 from = back.point(ray.from), along = back.vector(ray.along);  // of another length: distances stay those of the world
        for (std::size_t t = 0; t < shape.triangleFace.size(); ++t) {
            const auto corner = [&](std::size_t k) { return shape.vertices[shape.triangles[t * 3 + k]].position; };
            const auto met = rayMeets(from, along, corner(0), corner(1), corner(2));
            if (!met || *met >= nearest) continue;
            nearest = *met;
            found = Picked{Element::copy, row, ray.from + ray.along * *met};
        }
    }
}

}  // namespace

std::optional<Picked> pickAt(const DrawScene& mesh, const StageCamera& camera, QSizeF size, QPointF at, bool points) {
    const Ray ray = rayThrough(camera, size, at);
    std::optional<Picked> face;
    float nearest = std::numeric_limits<float>::max();
    const auto corner = [&](std::size_t i) { return mesh.vertices[mesh.triangles[i]].position; };
    for (std::size_t t = 0; t < mesh.triangleFace.size(); ++t) {
        const auto met = rayMeets(ray.from, ray.along, corner(t * 3), corner(t * 3 + 1), corner(t * 3 + 2));
        if (!met || *met >= nearest) continue;
        nearest = *met;
        face = Picked{Element::face, mesh.triangleFace[t], ray.from + ray.along * *met};
    }
    for (const DrawCopies& copies : mesh.copies) meetCopies(copies, mesh.geometry.copies()->place, ray, nearest, face);
    // Points that are hidden behind the face under the pointer are not meant.
    const float slack = float(camera.metresPerPixel(size) * kReach * 2);
    std::optional<Picked> point;
    double closest = kReach;
    const auto& positions = mesh.geometry.positions();
    const bool every = points || mesh.faceCount == 0;
    std::vector<std::uint8_t> onFace;
    if (!every) {
        onFace.assign(positions.size(), 0);
        for (Index p : mesh.geometry.topology().cornerPoint()) onFace[p] = 1;
    }
    for (Index i = 0; i < positions.size(); ++i) {
        if (!every && onFace[i]) continue;
        bool behind = false;
        const double far = QLineF(camera.project(positions[i], size, &behind), at).length();
        if (behind || far >= closest || (face && dot(positions[i] - ray.from, ray.along) > nearest + slack)) continue;
        closest = far;
        point = Picked{Element::point, i, positions[i]};
    }
    return point ? point : face;
}

}  // namespace seedloom::app

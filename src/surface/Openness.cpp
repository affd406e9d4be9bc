#include "surface/Openness.h"

#include "geometry/Measures.h"
#include "geometry/RayScene.h"
#include "parallel/Loops.h"

#include <limits>

namespace seedloom {

namespace {

constexpr std::size_t kRayChunk = 256;

/// Even over the unit disc, so that lifted to the sphere it is weighted by the cosine (Malley's method); a golden-angle spiral.
Vec3 rayInPattern(int i, int rays, float turn) {
    const float radius = std::sqrt((float(i) + 0.5f) / float(rays));
    const float angle = float(i) * 2.39996323f + turn;
    return {radius * std::cos(angle), radius * std::sin(angle), std::sqrt(std::max(0.0f, 1 - radius * radius))};
}

float offsetOf(const Geometry& g) { return float(boundsOf(g.positions()).diagonal() * 1e-5); }

}  // namespace

std::vector<float> opennessOf(const Geometry& g, int rays, double reach, const RunContext& run) {
    const RayScene scene(g);
    const auto normals = pointNormals(g);
    const auto& at = g.positions();
    const float start = offsetOf(g), end = reach > 0 ? float(reach) : std::numeric_limits<float>::infinity();
    std::vector<float> out(g.pointCount(), 1.0f);
    forEach(
        out.size(), run,
        [&](std::size_t p) {
            if (!isFinite(at[p]) || !isFinite(normals[p])) return;
            const Vec3 n = normals[p], u = anyPerpendicular(n), v = cross(n, u), from = at[p] + n * start;
            int blocked = 0;
            for (int i = 0; i < rays; ++i) {
                const Vec3 d = rayInPattern(i, rays, float(p % 64) * 0.0981748f);
                blocked += scene.blocked(from, u * d.x + v * d.y + n * d.z, start, end);
            }
            out[p] = 1 - float(blocked) / float(rays);
        },
        kRayChunk);
    return out;
}

std::vector<float> pointThickness(const Geometry& g, const RunContext& run) {
    const RayScene scene(g);
    const auto normals = pointNormals(g);
    const auto& at = g.positions();
    const float start = offsetOf(g);
    std::vector<float> out(g.pointCount(), 0.0f);
    forEach(
        out.size(), run,
        [&](std::size_t p) {
            if (isFinite(at[p]) && isFinite(normals[p])) out[p] = scene.firstHit(at[p], -normals[p], start).value_or(0);
        },
        kRayChunk);
    return out;
}

}  // namespace seedloom

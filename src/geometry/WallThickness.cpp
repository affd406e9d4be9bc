#include "geometry/WallThickness.h"

#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/RayScene.h"
#include "geometry/Triangulate.h"

#include <limits>

namespace seedloom {

std::optional<WallThickness> wallThickness(const Geometry& g, std::size_t mostSamples) {
    const Checkup facts = checkupOf(g);
    if (!facts.closed || facts.nonFinitePoints > 0 || mostSamples == 0) return {};
    const RayScene scene(g);
    // From triangles: the middle of a face that is not flat lies beside it, and a ray from there meets the face itself.
    const Triangles triangles = triangulate(g);
    // Inside out, the inside is the other way.
    const float inwards = facts.volume < 0 ? 1.0f : -1.0f;
    const auto start = float(boundsOf(g.positions()).diagonal() * 1e-5);
    WallThickness out;
    out.least = std::numeric_limits<double>::max();
    const std::size_t step = (triangles.count() + mostSamples - 1) / mostSamples;
    for (std::size_t i = 0; i < triangles.count(); i += step) {
        const auto place = [&](std::size_t k) { return g.positions()[g.topology().cornerPoint()[triangles.corners[3 * i + k]]]; };
        const Vec3 a = place(0), b = place(1), c = place(2);
        const Vec3 way = normalized(cross(b - a, c - a), {}) * inwards;
        if (!(length(way) > 0.5f)) continue;
        const auto hit = scene.firstHit((a + b + c) * (1.0f / 3), way, start);
        if (!hit) continue;
        const auto far = double(*hit);
        if (far < out.least) out.least = far, out.thinnestFace = triangles.faceOf[i];
        out.mean += far;
        ++out.samples;
    }
    if (out.samples == 0) return {};
    out.mean /= double(out.samples);
    return out;
}

}  // namespace seedloom

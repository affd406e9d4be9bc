#include "geometry/WallThickness.h"

#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/RayScene.h"

#include <limits>

namespace seedloom {

std::optional<WallThickness> wallThickness(const Geometry& g, std::size_t mostSamples) {
    const Checkup facts = checkupOf(g);
    if (!facts.closed || facts.nonFinitePoints > 0 || mostSamples == 0) return {};
    const RayScene scene(g);
    const auto normals = faceNormals(g), centres = faceCentres(g);
    // Inside out, the inside is the other way.
    const float inwards = facts.volume < 0 ? 1.0f : -1.0f;
    const auto start = float(boundsOf(g.positions()).diagonal() * 1e-5);
    WallThickness out;
    out.least = std::numeric_limits<double>::max();
    const std::size_t step = (g.faceCount() + mostSamples - 1) / mostSamples;
    for (std::size_t f = 0; f < g.faceCount(); f += step) {
        const Vec3 way = normals[f] * inwards;
        if (!(length(way) > 0.5f)) continue;
        const auto hit = scene.firstHit(centres[f], way, start);
        if (!hit) continue;
        const auto far = double(*hit);
        if (far < out.least) out.least = far, out.thinnestFace = Index(f);
        out.mean += far;
        ++out.samples;
    }
    if (out.samples == 0) return {};
    out.mean /= double(out.samples);
    return out;
}

}  // namespace seedloom

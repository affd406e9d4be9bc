#include "operators/breaking/SoundMove.h"

#include "geometry/SelfIntersections.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <algorithm>

namespace seedloom {

namespace {

constexpr int kMostEasings = 8;
constexpr float kEasing = 1.0f / 64;  // nobody sees it

/// The parts with faces that cross.
std::vector<std::uint8_t> crossingParts(const Geometry& geometry, const std::vector<Index>& partOfPoint, std::size_t parts, const RunContext& run) {
    std::vector<std::uint8_t> out(parts);
    for (const Index face : facesCrossingWithinPieces(geometry, run)) out[partOfPoint[geometry.topology().face(face).front()]] = 1;
    return out;
}

}  // namespace

Geometry movedSoundly(const Geometry& in, const std::vector<Index>& partOfPoint, std::size_t parts,
                      const std::function<Affine(std::size_t part, float ease)>& mapOf, const RunContext& run) {
    std::vector<Affine> maps(parts);
    forEach(parts, run, [&](std::size_t i) { maps[i] = mapOf(i, 1); });
    Geometry out = movedParts(in, partOfPoint, maps);
    std::vector<std::uint8_t> before;
    for (int easing = 1; in.faceCount() > 0 && easing <= kMostEasings; ++easing) {
        std::vector<std::uint8_t> crossing = crossingParts(out, partOfPoint, parts, run);
        if (std::find(crossing.begin(), crossing.end(), 1) == crossing.end()) break;
        if (before.empty()) before = crossingParts(in, partOfPoint, parts, run);
        bool eased = false;
        for (std::size_t i = 0; i < parts; ++i)
            if (crossing[i] && !before[i]) maps[i] = mapOf(i, 1 - float(easing) * kEasing), eased = true;
        if (!eased) break;
        out = movedParts(in, partOfPoint, maps);
    }
    return out;
}

}  // namespace seedloom

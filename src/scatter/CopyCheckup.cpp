#include "scatter/CopyCheckup.h"

#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"
#include "scatter/CopyOverlap.h"

namespace seedloom {

namespace {

Geometry ownPart(const Geometry& geometry) {
    Geometry out = geometry;
    out.setCopies(nullptr);
    return out;
}

struct ShapeFacts {
    Checkup facts;
    std::vector<Vec3> areas;  ///< area vector of each face
};

/// The area once mapped: the cofactors of the map carry area vectors.
double mappedArea(const ShapeFacts& shape, const Affine& place) {
    const double size = double(length(place.x));
    const auto near = [&](double a, double b) { return std::abs(a - b) <= 1e-5 * size; };
    const bool even = near(double(length(place.y)), size) && near(double(length(place.z)), size) &&
                      std::abs(double(dot(place.x, place.y))) <= 1e-5 * size * size && std::abs(double(dot(place.y, place.z))) <= 1e-5 * size * size &&
                      std::abs(double(dot(place.z, place.x))) <= 1e-5 * size * size;
    if (even) return shape.facts.area * size * size;
    const Vec3 x = cross(place.y, place.z), y = cross(place.z, place.x), z = cross(place.x, place.y);
    double area = 0;
    for (Vec3 v : shape.areas) area += double(length(x * v.x + y * v.y + z * v.z));
    return area;
}

/// How many copies show each shape.
std::vector<std::uint64_t> uses(const Copies& copies) {
    std::vector<std::uint64_t> out(copies.shapes.size(), 0);
    for (Index shape : copies.shapeOf) ++out[shape];
    return out;
}

}  // namespace

Checkup checkupUnbaked(const Geometry& geometry, const RunContext& run) {
    const Geometry own = ownPart(geometry);
    Checkup out = checkupOf(own);
    const Copies* copies = geometry.copies();
    if (!copies) return out;
    if (own.faceCount() == 0) out.closed = out.manifold = out.consistentWinding = true;
    const std::vector<std::uint64_t> used = uses(*copies);
    std::vector<ShapeFacts> shapes(copies->shapes.size());
    std::uint64_t faces = own.faceCount();
    for (std::size_t s = 0; s < shapes.size(); ++s) {
        if (used[s] == 0) continue;
        const Geometry shape = bakeCopies(*copies->shapes[s]);
        Checkup& c = shapes[s].facts = checkupOf(shape);
        for (std::size_t f = 0; f < shape.faceCount(); ++f) shapes[s].areas.push_back(areaVector(shape.topology().face(f), shape.positions()));
        faces += shape.faceCount() * used[s];
        out.openEdges += c.openEdges * used[s], out.nonmanifoldEdges += c.nonmanifoldEdges * used[s], out.nonmanifoldPoints += c.nonmanifoldPoints * used[s];
        out.degenerateFaces += c.degenerateFaces * used[s], out.doubledPoints += c.doubledPoints * used[s], out.nonFinitePoints += c.nonFinitePoints * used[s];
        if (shape.faceCount() == 0) continue;
        out.closed &= c.closed, out.manifold &= c.manifold, out.consistentWinding &= c.consistentWinding;
    }
    // In chunks of a fixed size, so that sums are the same for any number of threads.
    std::vector<std::array<double, 2>> sums(chunkCount(copies->place.size()));
    forChunks(copies->place.size(), run, [&](std::size_t chunk, Range range) {
        for (std::size_t i = range.begin; i < range.end; ++i) {
            const ShapeFacts& shape = shapes[copies->shapeOf[i]];
            sums[chunk][0] += mappedArea(shape, copies->place[i]);
            sums[chunk][1] += shape.facts.volume * std::abs(copies->place[i].determinant());
        }
    });
    for (const auto& [area, volume] : sums) out.area += area, out.volume += volume;
    std::vector<Index> doubled, doubleOf;
    doubledCopies(geometry, doubled, doubleOf);
    for (Index i : doubled) out.doubledPoints += std::size_t(bakedCounts(*copies->shapes[copies->shapeOf[i]]).points);
    if (faces == 0) out.closed = out.manifold = out.consistentWinding = false;
    return out;
}

namespace {

void addRows(std::vector<Finding>& to, std::string code, std::size_t count, std::vector<Index> rows) {
    if (count == 0) return;
    if (rows.size() > kMostFindingRows) rows.resize(kMostFindingRows);
    to.push_back({std::move(code), count, Element::copy, std::move(rows), {}});
}

}  // namespace

std::vector<Finding> findingsWithCopies(const Geometry& geometry, bool intersections, const RunContext& run) {
    std::vector<Finding> out = findingsOf(ownPart(geometry), intersections);
    const Copies* copies = geometry.copies();
    if (!copies) return out;
    std::vector<std::vector<Index>> shown(copies->shapes.size());
    for (Index i = 0; i < copies->place.size(); ++i) shown[copies->shapeOf[i]].push_back(i);
    for (std::size_t s = 0; s < shown.size(); ++s) {
        if (shown[s].empty()) continue;
        for (const Finding& finding : findingsOf(bakeCopies(*copies->shapes[s]), intersections))
            addRows(out, finding.code, finding.count * shown[s].size(), shown[s]);
    }
    const CopyOverlaps found = overlapsOf(geometry, copies->place.size() <= kMostByFaces ? OverlapBy::meshes : OverlapBy::bounds, run);
    std::vector<Index> seconds;
    for (const CopyPair& pair : found.pairs) seconds.push_back(pair.second);
    std::sort(seconds.begin(), seconds.end());
    seconds.erase(std::unique(seconds.begin(), seconds.end()), seconds.end());
    // Millions that are near each other are not told apart, but they are told.
    addRows(out, "overlapping_copies", found.cut ? found.near : found.pairs.size(), std::move(seconds));
    addRows(out, "doubled_copies", found.doubled.size(), found.doubled);
    return out;
}

std::uint64_t bakedPieces(const Geometry& geometry) {
    std::uint64_t out = geometry.topology().connection().pieces;
    if (const Copies* copies = geometry.copies()) {
        const std::vector<std::uint64_t> used = uses(*copies);
        for (std::size_t s = 0; s < used.size(); ++s)
            if (used[s] > 0) out += used[s] * bakedPieces(*copies->shapes[s]);
    }
    return out;
}

std::uint64_t intersectionsUnbaked(const Geometry& geometry) {
    std::uint64_t out = crossingsOf(ownPart(geometry)).pairs;
    if (const Copies* copies = geometry.copies()) {
        const std::vector<std::uint64_t> used = uses(*copies);
        for (std::size_t s = 0; s < used.size(); ++s)
            if (used[s] > 0) out += used[s] * crossingsOf(bakeCopies(*copies->shapes[s])).pairs;
    }
    return out;
}

}  // namespace seedloom

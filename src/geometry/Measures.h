#pragma once
// Sizes and directions of a geometry's parts. Sums run in index order in double precision, so they are reproducible.
#include "geometry/Geometry.h"

namespace seedloom {

struct Bounds {
    Vec3 min{}, max{};
    bool empty = true;
    Vec3 size() const { return empty ? Vec3{} : max - min; }
    Vec3 centre() const { return empty ? Vec3{} : (min + max) * 0.5f; }
    double diagonal() const { return double(length(size())); }
    /// Corner i has the greater x, y, z where bit 0, 1, 2 of i is set.
    Vec3 corner(int i) const { return {i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z}; }
    void add(Vec3 p);
};

/// Bounds of all points with finite coordinates, in metres.
Bounds boundsOf(std::span<const Vec3> positions);
/// The same with copies in their places.
Bounds boundsOf(const Geometry& geometry);

/// Area vector of a polygon: its direction is the normal, its length the area in m².
/// Source: Newell's method (Sutherland et al., 1974); exact for flat polygons, also concave ones.
Vec3 areaVector(std::span<const Index> face, std::span<const Vec3> positions);
Vec3 centreOf(std::span<const Index> face, std::span<const Vec3> positions);

std::vector<Vec3> faceNormals(const Geometry& geometry);
std::vector<Vec3> faceCentres(const Geometry& geometry);
/// Unit direction of a curve at its i-th point: the mean of the directions in and out; (1, 0, 0) where it has no length.
Vec3 curveTangent(std::span<const Index> curve, bool closed, std::size_t i, std::span<const Vec3> positions);
/// Unit normals at points, weighted by the angle of each corner (Thürmer & Wüthrich, 1998). On curves without faces: at a
/// right angle to the curve, in its plane, to the right of its run seen from the plane's positive side. Else (0, 1, 0).
std::vector<Vec3> pointNormals(const Geometry& geometry);
/// Unit normals at corners; faces that meet at less than `maxDegrees` share a smooth normal.
std::vector<Vec3> cornerNormals(const Geometry& geometry, double maxDegrees);

/// The same one by one, for callers that share the work among threads: first `prepare` for ranges that cover all faces, then `of` for any corner.
class CornerNormals {
public:
    CornerNormals(const Geometry& geometry, double maxDegrees);
    void prepare(std::size_t beginFace, std::size_t endFace);
    Vec3 of(Index corner) const;

private:
    const Geometry& geometry_;
    const std::vector<Index>& faceOf_;
    const Rows& around_;
    float limit_;
    std::vector<Vec3> normal_;  ///< per face
    std::vector<float> angle_;  ///< per corner
};

double surfaceArea(const Geometry& geometry);
/// Signed volume in m³: positive for a closed surface with outward normals. Meaningless for open ones.
double signedVolume(const Geometry& geometry);
/// Length of curve `c` in metres.
double curveLength(const Geometry& geometry, std::size_t c);

}  // namespace seedloom

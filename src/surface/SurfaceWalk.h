#pragma once
// Going straight ahead on a surface, from triangle to triangle.
#include "geometry/NearestPlace.h"
#include "geometry/Triangulate.h"
#include "surface/FinePlace.h"

namespace seedloom {

/// Where somebody stands on a surface, and which way he looks.
struct Walker {
    Index triangle = 0;
    std::array<double, 3> weight{1, 0, 0};  ///< of the triangle's points; they add up to 1
    FinePlace heading{1, 0, 0};             ///< unit length, in the triangle's plane
};

/// The triangles of a surface with those beside them. Safe to walk on from several threads.
class SurfaceWalk {
public:
    /// Triangles are those of triangulate(). Edges of more than two of them are borders. All places must be finite.
    explicit SurfaceWalk(const Geometry& surface);

    std::size_t triangles() const { return triangles_.faceOf.size(); }
    const std::array<Index, 3>& points(Index triangle) const { return points_[triangle]; }
    FinePlace normal(Index triangle) const { return planes_[triangle].normal; }
    /// False where the triangle has no area: nobody can stand there.
    bool solid(Index triangle) const { return planes_[triangle].solid; }
    double area(Index triangle) const;

    FinePlace position(const Walker& walker) const;
    Place place(const Walker& walker) const;
    /// The walker's heading is `direction` without what points out of the surface; false where nothing is left.
    bool turn(Walker& walker, const FinePlace& direction) const;

    /// Goes straight for `way` metres; over an edge the heading is turned with the surface. Gives how far it came: less at a border.
    /// Method: unfolding along the way, "straightest geodesics" inside of faces (Polthier and Schmies, 1998).
    double go(Walker& walker, double way) const;

private:
    struct Plane {
        FinePlace normal{0, 1, 0};
        std::array<FinePlace, 3> gradient{};  ///< how each point's weight changes along a direction, 1/m
        bool solid = false;
    };
    void joinSides();
    bool cross(Walker& walker, int edge) const;

    const Geometry& surface_;
    Triangles triangles_;
    std::vector<std::array<Index, 3>> points_, beside_;  ///< beside: the triangle across the edge that starts at each point, or kNone
    std::vector<Plane> planes_;
};

}  // namespace seedloom

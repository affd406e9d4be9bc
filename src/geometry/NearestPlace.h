#pragma once
// Finds the nearest place on a geometry's points, curves or faces.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

/// A place as a mix of up to three points.
struct Place {
    Vec3 position;
    float squaredDistance = 0;
    Index element = 0;  ///< the point, curve or face that it lies on
    std::array<Index, 3> points{};
    std::array<Index, 3> corners{};  ///< of a face, the corners at those points
    std::array<float, 3> weights{};  ///< add up to 1
    Index part = 0;                  ///< the point, stretch or triangle; a start for the next search nearby
};

/// A tree of boxes over points, stretches of curves or triangles of faces. Safe to search from several threads.
/// Closest point of a triangle: Ericson, "Real-Time Collision Detection", 2005, 5.1.5.
class NearestPlace {
public:
    enum class On : std::uint8_t { points, curves, faces };
    /// Parts with coordinates that are not finite are left out. Cost: O(n log n).
    NearestPlace(const Geometry& geometry, On on);

    bool empty() const { return parts_.empty(); }
    /// The nearest place; of several at the same distance the one that comes first in the geometry. Start from the `part` found for
    /// a neighbour: the search is then several times as fast, with the same answer. Precondition: not empty(), p is finite.
    Place find(Vec3 p, Index start = 0) const;

private:
    struct Part {
        std::array<Index, 3> points;
        std::array<Index, 3> corners;
        Index element;
    };
    struct Box {
        Vec3 low, high;
        Index first = 0, count = 0;  ///< of order_; count 0: first is the second child, the first child follows
    };
    void addPart(const Geometry& geometry, const Part& part);
    struct Middle {
        Vec3 place;
        Index part;
    };
    void build(std::size_t box, std::vector<Middle>& middles, std::size_t begin, std::size_t end);
    void consider(Index part, Vec3 p, Place& best, bool& any) const;

    std::vector<Vec3> at_;  ///< the geometry's points
    std::vector<Part> parts_;
    std::vector<Index> order_;
    std::vector<Box> boxes_;
};

/// The values of a column at places, mixed by their weights (texts, whole numbers and true/false: of the heaviest).
/// Columns of points, corners, faces, curves and the model can be read.
Column valuesAt(const Column& column, Element element, const std::vector<Place>& places);

}  // namespace seedloom

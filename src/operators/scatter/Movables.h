#pragma once
// What can be moved as a whole: copies, else pieces of faces and curves, else points.
#include "geometry/Geometry.h"

namespace seedloom {

class Movables {
public:
    enum class Kind : std::uint8_t { copies, pieces, points };
    explicit Movables(const Geometry& geometry);

    Kind kind() const { return kind_; }
    Element element() const { return kind_ == Kind::copies ? Element::copy : Element::point; }
    std::size_t count() const { return count_; }
    /// An element that stands for the item where settings differ: the copy, or the first point.
    Index row(std::size_t item) const { return kind_ == Kind::pieces ? points_[item].front() : Index(item); }
    /// What turns and scales leave in place: a copy's origin, a piece's middle, the point.
    Vec3 pivot(std::size_t item) const;
    /// The direction that is up for it: a copy's +Y, else the world's.
    Vec3 up(std::size_t item) const;
    /// A number that stays with it: `id`, else its place in the order.
    double id(std::size_t item) const;
    /// Positions of all of its points, as they stand; of a copy those of its shape. Calls take(Vec3).
    template <class Take> void eachPoint(std::size_t item, Take&& take) const {
        if (kind_ == Kind::copies) {
            const Copies& copies = *geometry_.copies();
            for (Vec3 p : shapePoints(copies.shapeOf[item])) take(copies.place[item].point(p));
        } else if (kind_ == Kind::pieces) {
            for (Index p : points_[item]) take(geometry_.positions()[p]);
        } else {
            take(geometry_.positions()[item]);
        }
    }
    std::size_t pointCount(std::size_t item) const;

    /// The geometry with each item mapped; directions turn along.
    Geometry moved(const std::vector<Affine>& maps) const;
    /// Only the items with a 1.
    Geometry kept(const std::vector<std::uint8_t>& keep) const;

private:
    const std::vector<Vec3>& shapePoints(Index shape) const { return shapePoints_[shape]; }
    const Geometry& geometry_;
    Kind kind_ = Kind::points;
    std::size_t count_ = 0;
    std::vector<std::vector<Index>> points_;  ///< of each piece
    std::vector<Vec3> middles_;
    std::vector<std::vector<Vec3>> shapePoints_;  ///< of each shape that has copies, nested ones included
};

}  // namespace seedloom

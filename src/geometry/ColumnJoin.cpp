#include "geometry/ColumnJoin.h"

#include "geometry/Measures.h"

namespace seedloom {

std::vector<Vec3> ownNormals(const Geometry& part, Element element) {
    constexpr double kSmoothBelow = 32;  // degrees
    switch (element) {
        case Element::point: return pointNormals(part);
        case Element::corner: return cornerNormals(part, kSmoothBelow);
        case Element::face: return faceNormals(part);
        default: return std::vector<Vec3>(part.count(element));
    }
}

}  // namespace seedloom

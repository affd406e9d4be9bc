#pragma once
#include "fields/Evaluate.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <optional>

namespace seedloom {

struct ExtrudeOptions {
    bool alone = false;                ///< every face by itself instead of whole regions
    std::vector<std::uint8_t> chosen;  ///< by face
    Field<float> distance, inset;      ///< by face, metres
    std::optional<Vec3> direction;     ///< unit vector; nothing: along the normals
    int divisions = 1;                 ///< rows of side faces, at least 1
    bool sides = true, keepBack = false;
};

/// Lifts faces off, with side faces along the border of what is lifted. Points inside a region move; points on its border are doubled. The
/// distance holds for each face, also where faces meet at an angle; the inset is what each border edge moves inwards. Where an inset would turn a
/// face over it is made smaller, and counted in `held` (points). Tags `front`, `side`, `back` tell the new faces apart; faces that are not
/// chosen, and curves, stay bit for bit. Cost: O(corners).
Geometry extrudeFaces(const Geometry& in, const ExtrudeOptions& options, const RunContext& run, std::size_t* held);

/// A row of faces outwards from the open edges whose two points are chosen; `by` is the displacement of each point.
Geometry extrudeEdges(const Geometry& in, const std::vector<std::uint8_t>& points, const std::vector<Vec3>& by, int divisions);

/// A wall from every curve to the curve moved by `by`; `caps` closes both ends of closed curves with a face. Faces look to the right of the curve
/// where `by` is up. The curves themselves are replaced.
Geometry extrudeCurves(const Geometry& in, const std::vector<Vec3>& by, int divisions, bool caps);

}  // namespace seedloom

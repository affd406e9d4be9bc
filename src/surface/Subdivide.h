#pragma once
// Uniform subdivision surfaces, over OpenSubdiv.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

enum class SubdivisionForm : unsigned char { catmullClark, loop, flat };

struct SubdivideOptions {
    SubdivisionForm form = SubdivisionForm::catmullClark;
    int levels = 1;
    /// Sharpness (0 smooth, 10 sharp) of edges, by edge number; empty means all smooth.
    std::vector<float> edgeSharpness;
    bool withCorners = false;  ///< set by subdivide(): there are corner attributes to carry
};

/// Refines the control net `levels` times. Point attributes follow the subdivision rule, corner attributes are interpolated
/// linearly within faces, face attributes are inherited; curves stay on their points. Boundaries stay (edges and corners sharp).
/// Precondition: every face has 3 or more corners (loop: exactly 3), no edge has more than two faces.
/// Throws std::runtime_error where the library refuses the mesh.
Geometry subdivide(const Geometry& in, const SubdivideOptions& options, const RunContext& run);

}  // namespace seedloom

#include "operators/Flow.h"

namespace seedloom {

Flow flowOf(const Geometry& geometry) {
    if (geometry.faceCount() > 0) return Flow::faces;
    if (geometry.curveCount() > 0) return Flow::curves;
    if (geometry.copyCount() > 0) return Flow::copies;
    return geometry.pointCount() > 0 ? Flow::points : Flow::nothing;
}

bool takes(const OperatorSpec& spec, Flow flow) {
    if (spec.inputs.empty()) return false;
    switch (spec.takes) {
        case Takes::anything: return true;
        case Takes::curves: return flow == Flow::curves;
        case Takes::faces: return flow == Flow::faces;
        case Takes::curvesOrFaces: return flow == Flow::faces || flow == Flow::curves;
        case Takes::points: return flow == Flow::points || flow == Flow::curves;
        case Takes::copies: return flow == Flow::copies;
    }
    return true;
}

}  // namespace seedloom

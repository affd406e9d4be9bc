// Method: ear cutting (Meisters, 1975).
#include "geometry/Triangulate.h"

#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeTriangulate(OperatorCall& call) {
    const Geometry& in = call.in();
    const Field<float> where = call.each("where", in);
    const Triangles triangles = triangulate(in);
    RowPlan plan = planOfPointsAndCurves(in);
    const auto& cornerPoint = in.topology().cornerPoint();
    std::size_t at = 0;
    for (Index f = 0; f < in.faceCount(); ++f) {
        const bool cut = where[f] > 0.5f;
        if (!cut) addFaceAsItIs(plan, in, f);
        for (; at < triangles.count() && triangles.faceOf[at] == f; ++at) {
            if (!cut) continue;
            for (std::size_t k = 0; k < 3; ++k) plan.addCorner(cornerPoint[triangles.corners[3 * at + k]], triangles.corners[3 * at + k]);
            plan.endFace(f);
        }
    }
    return takeRows(in, std::move(plan));
}

}  // namespace

OperatorSpec triangulateOperator() {
    OperatorSpec spec;
    spec.id = "triangulate";
    spec.order = 410;
    spec.label = "Triangulate";
    spec.family = Family::surface;
    spec.sentence = "Cuts faces into triangles.";
    spec.help = "Concave faces are cut by ears, so that no triangle leaves them. Points and corners keep all attributes. Faces of fewer than three corners go.";
    spec.takes = Takes::faces;
    spec.synonyms = {"triangles", "tessellate", "split faces", "cut quads"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {whereSetting(Element::face).helped("Which faces are cut (above 0.5); all by default.")};
    spec.compute = computeTriangulate;
    return spec;
}

}  // namespace seedloom

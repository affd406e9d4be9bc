// Method: face normals weighted by their angle (Thürmer & Wüthrich, 1998), apart across crisp edges.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeNormals(OperatorCall& call) {
    Geometry out = call.in();
    if (call.choice("on") == "points") {
        out.setColumn(Element::point, "normal", Column(pointNormals(out)));
        out.removeColumn(Element::corner, "normal");
    } else {
        out.setColumn(Element::corner, "normal", Column(cornerNormals(out, call.number("angle"))));
        out.removeColumn(Element::point, "normal");
    }
    return out;
}

}  // namespace

OperatorSpec normalsOperator() {
    OperatorSpec spec;
    spec.id = "normals";
    spec.order = 480;
    spec.label = "Normals";
    spec.family = Family::surface;
    spec.sentence = "Stores the directions in which a surface faces, smooth or with crisp edges.";
    spec.help = "On points every edge looks smooth; on corners, edges that turn by more than the angle look crisp.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"shading", "smooth shading", "hard edges", "crisp edges"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("on", "On", {"points", "corners"}, "corners").helped("One normal a point, or one a corner, which allows crisp edges."),
        numberSetting("angle", "Angle", Unit::degree, 30).within(0, 180).slider(0, 180).helped("Edges that turn by more look crisp.").when("on", {"corners"}),
    };
    spec.compute = computeNormals;
    return spec;
}

}  // namespace seedloom

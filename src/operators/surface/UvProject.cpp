// Method: plane, box, cylinder and ball projections.
#include "operators/AttributeWork.h"
#include "operators/surface/Projection.h"

namespace seedloom {

namespace {

Geometry computeUvProject(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Project UV needs a surface, and there are no faces here.");
    return withAttribute(call, in, Element::corner, "uv", Column(projectionOf(call, in, call.choice("form")).atCorners(in)));
}

}  // namespace

OperatorSpec uvProjectOperator() {
    OperatorSpec spec;
    spec.id = "uv_project";
    spec.order = 490;
    spec.label = "Project UV";
    spec.family = Family::surface;
    spec.sentence = "Writes uv by looking at the surface from one side, from all six, or around an axis.";
    spec.help =
        "uv runs from 0 to 1 over the size. A box takes for each face the side it looks to most. Around a cylinder or a ball, faces over the seam go on beyond "
        "1, so that none is drawn backwards.";
    spec.takes = Takes::faces;
    spec.synonyms = {"texture coordinates", "planar mapping", "box mapping", "unwrap", "map"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("form", "Form", {"plane", "box", "cylinder", "sphere"}, "box").helped("How the texture is laid on."),
    };
    for (SettingSpec& setting : projectionSettings()) spec.settings.push_back(std::move(setting));
    spec.settings.push_back(whereSetting(Element::corner));
    spec.settings.push_back(blendSetting(Element::corner));
    spec.compute = computeUvProject;
    return spec;
}

}  // namespace seedloom

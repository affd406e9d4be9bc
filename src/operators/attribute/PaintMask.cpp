// Method: own: strokes kept as places in space, each with a radius and a soft edge.
#include "operators/AttributeWork.h"
#include "operators/attribute/Strokes.h"

namespace seedloom {

namespace {

Geometry computePaintMask(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name");
    const auto start = static_cast<float>(call.number("start"));
    std::vector<float> mask(in.pointCount(), start);
    if (const auto* old = in.values<float>(Element::point, name); old && call.flag("over_old")) mask = *old;
    return withAttribute(call, in, Element::point, name, Column(paintedOver(call, in, std::move(mask))));
}

}  // namespace

OperatorSpec paintMaskOperator() {
    OperatorSpec spec;
    spec.id = "paint_mask";
    spec.order = 650;
    spec.label = "Paint mask";
    spec.family = Family::attribute;
    spec.sentence = "Holds a mask that is painted by hand on the stage.";
    spec.help =
        "Press Paint, then draw on the model. Strokes are kept as places in space, so they stay where they are when the model before them is rebuilt finer, "
        "coarser or in another "
        "shape; each can be taken back by itself. Add and remove change the mask by the strength, smooth evens it out; mirror paints the other side, too.";
    spec.synonyms = {"brush", "draw", "hand", "stroke", "sculpt mask", "weight"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        strokesSetting("strokes", "Strokes", kPaintModes).helped("What was painted, stroke by stroke."),
        textSetting("name", "Name", "mask").helped("The attribute to paint."),
        numberSetting("start", "Start", Unit::part, 0).within(0, 1).slider(0, 1).helped("The value where nothing was painted."),
        flagSetting("over_old", "On the old mask", true).helped("Paints on a mask of this name that comes in, instead of starting anew."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.compute = computePaintMask;
    return spec;
}

}  // namespace seedloom

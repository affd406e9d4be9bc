// Method: own: a mask joined with a box, a ball and a direction.
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// What the chosen way says of each element.
std::vector<std::uint8_t> chosenBy(OperatorCall& call, const Geometry& in, Element element) {
    const std::string by = call.choice("by");
    std::vector<std::uint8_t> out(in.count(element), 1);
    if (by == "where") return out;
    const Column places = *columnFor(in, by == "side" ? "normal" : "position", element);
    const auto& at = *places.as<Vec3>();
    const Vec3 centre = call.vec3("centre"), half = call.vec3("size") * 0.5f, way = normalized(call.vec3("direction"));
    const double radius = call.number("radius"), least = std::cos(radians(call.number("angle")));
    forEach(out.size(), call.run(), [&](std::size_t i) {
        const Vec3 d = at[i] - centre;
        if (by == "box") out[i] = std::abs(d.x) <= half.x && std::abs(d.y) <= half.y && std::abs(d.z) <= half.z;
        else if (by == "sphere") out[i] = double(length(d)) <= radius;
        else out[i] = double(dot(normalized(at[i], Vec3{}), way)) >= least;
    });
    return out;
}

Geometry computeTag(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name"), join = call.choice("with_old");
    const Element element = elementOf(call, "element");
    const Field<float> where = call.each("where", in, element);
    const auto* before = in.values<std::uint8_t>(element, name);
    std::vector<std::uint8_t> out = chosenBy(call, in, element);
    std::size_t chosen = 0;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const bool now = out[i] && where[i] > 0.5f, old = before && (*before)[i];
        out[i] = join == "add" ? now || old : join == "take away" ? old && !now : now;
        chosen += now;
    }
    if (chosen == 0 && in.count(element) > 0)
        call.tell(NoticeLevel::info, "tag.nothing", fmt::format("The tag '{}' chooses no {} here.", name, elementName(element)), "where");
    if (in.count(element) == 0 && !in.empty())
        call.tell(NoticeLevel::info, "tag.nothing", fmt::format("There is no {} here to tag.", elementName(element)), "element");
    Geometry result = in;
    result.setColumn(element, name, Column(std::move(out)));
    return result;
}

}  // namespace

OperatorSpec tagOperator() {
    OperatorSpec spec;
    spec.id = "tag";
    spec.order = 710;
    spec.label = "Tag";
    spec.family = Family::attribute;
    spec.sentence = "Marks a part by a name, so that later steps can act on it alone.";
    spec.help =
        "The part is what Where chooses, and beside that may lie in a box or ball, or face a direction. A tag is a true/false attribute: later steps take it "
        "as their Where.";
    spec.synonyms = {"group", "select", "mark", "part", "selection", "label"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Name", "part").helped("What later steps call the part."),
        choiceSetting("element", "Element", {"point", "corner", "face", "curve", "copy"}, "face").helped("What is marked."),
        choiceSetting("by", "By", {"where", "box", "sphere", "side"}, "where").helped("Where alone, or also a place or a direction."),
        vec3Setting("centre", "Centre", Unit::metre, {0, 0, 0}).when("by", {"box", "sphere"}).helped("The middle of the box or ball."),
        vec3Setting("size", "Size", Unit::metre, {1, 1, 1}).when("by", {"box"}).helped("The full size of the box."),
        numberSetting("radius", "Radius", Unit::metre, 0.5).atLeast(0).slider(0, 2).when("by", {"sphere"}).helped("The radius of the ball."),
        vec3Setting("direction", "Direction", Unit::none, {0, 1, 0}).when("by", {"side"}).helped("Where the chosen sides look."),
        numberSetting("angle", "Within", Unit::degree, 45)
            .within(0, 180)
            .slider(0, 180)
            .when("by", {"side"})
            .helped("How far their normals may turn away from it."),
        choiceSetting("with_old", "With the old tag", {"replace", "add", "take away"}, "replace")
            .helped("What happens with a tag of this name that is there already."),
        whereSetting(Element::face),
    };
    spec.sample =
        sample::step("colour", {{"attribute", "part"}}, {sample::step(spec.id, {{"where", {{"formula", "position.y > 0.1"}}}}, {sample::ball(0.6, 8)})});
    spec.compute = computeTag;
    return spec;
}

}  // namespace seedloom

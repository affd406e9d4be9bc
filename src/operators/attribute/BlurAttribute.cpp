// Method: repeated mean of neighbours over the edge graph; see geometry/Blur.
#include "geometry/Blur.h"
#include "geometry/Measures.h"
#include "geometry/Neighbours.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

struct Beside {
    Rows rows;
    std::vector<std::uint8_t> held;  ///< stay as they are
};

Beside besideOf(OperatorCall& call, const Geometry& in, Element element) {
    const Topology& t = in.topology();
    const bool hold = call.flag("hold_open_edges");
    if (element == Element::face) return {faceNeighbours(t), std::vector<std::uint8_t>(in.faceCount(), 0)};
    return {pointNeighbours(t), hold ? borderPoints(t) : std::vector<std::uint8_t>(in.pointCount(), 0)};
}

template <class T> std::vector<T> blurred(OperatorCall& call, std::vector<T> values, const Beside& beside, int rounds) {
    blur(
        values, beside.rows, rounds, call.run(), [](const T& other, const T&) { return other; },
        [&](std::size_t i, const T& own, const T& mixed) { return beside.held[i] ? own : mixed; });
    return values;
}

/// Directions whose sign means nothing, in the planes of `normals`: those beside each are turned to its side first.
std::vector<Vec3> blurredLines(OperatorCall& call, std::vector<Vec3> values, const Beside& beside, const std::vector<Vec3>& normals, int rounds) {
    blur(
        values, beside.rows, rounds, call.run(), [](Vec3 other, Vec3 own) { return dot(other, own) < 0 ? -other : other; },
        [&](std::size_t i, Vec3 own, Vec3 mixed) { return beside.held[i] ? own : mixed - normals[i] * dot(mixed, normals[i]); });
    return values;
}

/// Stretched so that the least and largest value are what they were before.
void normalise(std::vector<float>& values, const std::vector<float>& before) {
    const auto from = rangeOf(values), to = rangeOf(before);
    if (!(from[1] > from[0])) return;
    for (float& v : values) v = float(to[0] + (double(v) - from[0]) / (from[1] - from[0]) * (to[1] - to[0]));
}

Geometry computeBlurAttribute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name");
    FoundColumn found = namedAttribute(call, in, "name");
    if (found.column.type() == ColumnType::text)
        call.fail("setting.type", fmt::format("'{}' holds texts, which can't be blurred. Choose numbers.", name), "name");
    // Corners, curves and the like have nothing beside them that the eye would expect: they are blurred over their points.
    const Element element = found.element == Element::face ? Element::face : Element::point;
    if (found.element != element) {
        found = {changeElement(in, found.column, found.element, element), element};
        call.tell(NoticeLevel::info, "attribute.converted", fmt::format("'{}' was not on points or faces; the blurred values are on points.", name), "name");
    }
    if (componentCount(found.column.type()) == 1) found = namedNumbers(call, in, "name", element);
    if (found.element != element) found = {changeElement(in, found.column, found.element, element), element};
    const Beside beside = besideOf(call, in, element);
    const int rounds = call.integer("iterations");
    call.run().require(double(rounds) * double(in.count(element)) / 200, "steps of blurring");
    Column fresh = std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            if constexpr (std::is_integral_v<T> || std::is_same_v<T, std::string>) {
                return Column(*shared);
            } else {
                if constexpr (std::is_same_v<T, Vec3>)
                    if (call.flag("as_lines"))
                        return Column(blurredLines(call, *shared, beside, element == Element::face ? faceNormals(in) : pointNormals(in), rounds));
                auto values = blurred(call, *shared, beside, rounds);
                if constexpr (std::is_same_v<T, float>)
                    if (call.flag("normalise")) normalise(values, *shared);
                return Column(std::move(values));
            }
        },
        found.column.data());
    Geometry source = in;
    source.setColumn(element, name, found.column);
    return withAttribute(call, source, element, name, std::move(fresh));
}

}  // namespace

OperatorSpec blurAttributeOperator() {
    OperatorSpec spec;
    spec.id = "blur_attribute";
    spec.order = 680;
    spec.label = "Blur attribute";
    spec.family = Family::attribute;
    spec.sentence = "Softens an attribute: each value moves towards those beside it.";
    spec.help =
        "Works over the edges between points, along curves, and from face to face. Each round mixes half of the own value with half of the mean of the "
        "neighbours, so "
        "more rounds reach farther. Normalise stretches the result back to the old least and largest value.";
    spec.synonyms = {"smooth", "soften", "average", "feather", "spread", "diffuse"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Attribute", "mask").helped("The attribute to soften."),
        integerSetting("iterations", "Rounds", 5).within(0, 10000).slider(0, 50).helped("How often it is softened."),
        flagSetting("hold_open_edges", "Hold open edges", false).helped("Points on open edges and ends of curves keep their values."),
        flagSetting("as_lines", "As lines", false)
            .helped(
                "For directions whose sign means nothing, such as where a surface bends most: they are turned to each other first, and stay in the surface."),
        flagSetting("normalise", "Normalise", false).helped("Stretches the result to the old least and largest value."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step("colour", {{"attribute", "mask"}},
                               {sample::step(spec.id, {{"iterations", 8}},
                                             {sample::step("set_attribute", {{"name", "mask"}, {"value", {{"formula", "position.y > 0.15 ? 1 : 0"}}}},
                                                           {sample::ball(0.6, 8)})})});
    spec.compute = computeBlurAttribute;
    return spec;
}

}  // namespace seedloom

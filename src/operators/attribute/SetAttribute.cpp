// Method: own: any source, mixed with what was there by the mask.
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

template <class T> T fromNumbers(const double* v, int have) {
    if constexpr (std::is_same_v<T, float>) {
        return static_cast<float>(v[0]);
    } else if constexpr (std::is_same_v<T, std::int32_t>) {
        return static_cast<std::int32_t>(std::clamp(std::isfinite(v[0]) ? std::floor(v[0] + 0.5) : 0.0, -2147483648.0, 2147483647.0));
    } else if constexpr (std::is_same_v<T, std::uint8_t>) {
        return v[0] > 0.5;
    } else {
        T out{};
        for (int c = 0; c < static_cast<int>(sizeof(T) / sizeof(float)); ++c) (&out.x)[c] = static_cast<float>(have == 1 ? v[0] : c < have ? v[c] : 0);
        return out;
    }
}

template <class T> Column written(OperatorCall& call, const Geometry& in, Element element) {
    const Numbers value = call.eachNumbers("value", in, element);
    std::vector<T> out(in.count(element));
    forEach(out.size(), call.run(), [&](std::size_t i) {
        double v[4] = {};
        for (int c = 0; c < value.components; ++c) v[c] = value.uniform ? value.value[c] : double(value.columns[c][i]);
        out[i] = fromNumbers<T>(v, value.components);
    });
    return Column(std::move(out));
}

Geometry computeSetAttribute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = call.text("name");
    if (name.empty()) call.fail("attribute.name", "The attribute needs a name. Type one, such as mask.", "name");
    const Element element = elementOf(call, "element");
    bool known = true;
    const ColumnType type = typeFromName(call.choice("type"), known);
    if (name == "position" && (element != Element::point || type != ColumnType::vec3))
        call.fail("attribute.position", "position belongs to points and is a vec3. Choose these, or another name.", "type");
    const auto column = [&]() -> Column {
        switch (type) {
            case ColumnType::number: return written<float>(call, in, element);
            case ColumnType::integer: return written<std::int32_t>(call, in, element);
            case ColumnType::boolean: return written<std::uint8_t>(call, in, element);
            case ColumnType::vec2: return written<Vec2>(call, in, element);
            case ColumnType::vec3: return written<Vec3>(call, in, element);
            case ColumnType::vec4: return written<Vec4>(call, in, element);
            case ColumnType::text: break;
        }
        return Column(std::vector<std::string>(in.count(element), call.text("text")));
    };
    return withAttribute(call, in, element, name, column());
}

}  // namespace

OperatorSpec setAttributeOperator() {
    OperatorSpec spec;
    spec.id = "set_attribute";
    spec.order = 640;
    spec.label = "Set attribute";
    spec.family = Family::attribute;
    spec.sentence = "Writes a named value onto every element: a mask, a tag, a colour, a width.";
    spec.help =
        "The value takes any source: a ramp along a curve gives a mask, a formula gives whatever it says. Where the mask is below 1 "
        "the old value shows through (0 for a new attribute).";
    spec.synonyms = {"mask", "create attribute", "write", "store", "tag", "value", "colour"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Name", "mask").helped("What later steps call it."),
        choiceSetting("element", "Element", kElementWords, "point").helped("What carries the value."),
        choiceSetting("type", "Type", {"float", "int", "bool", "vec2", "vec3", "vec4", "text"}, "float").helped("What kind of value it is."),
        numberSetting("value", "Value", Unit::none, 1)
            .slider(0, 1)
            .each()
            .helped("The value; any source, computed for each element.")
            .when("type", {"float", "int", "bool", "vec2", "vec3", "vec4"}),
        textSetting("text", "Text", "").helped("The text to write.").when("type", {"text"}),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step("colour", {{"attribute", "mask"}},
                               {sample::step(spec.id, {{"value", {{"formula", "abs(sin(position.y * 12))"}}}}, {sample::ball(0.6, 20)})});
    spec.compute = computeSetAttribute;
    return spec;
}

}  // namespace seedloom

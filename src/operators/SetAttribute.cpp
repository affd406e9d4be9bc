#include "geometry/ElementTransfer.h"
#include "operators/AllOperators.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

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

template <class T> Column write(OperatorCall& call, const Geometry& in, Element element, const std::string& name) {
    const std::size_t count = in.count(element);
    const Numbers value = call.eachNumbers("value", in, element);
    const Field<float> weights = call.weights(in, element);
    const Column* old = in.column(element, name);
    const std::vector<T>* before = old ? old->as<T>() : nullptr;
    std::vector<T> out(count);
    forEach(count, call.run(), [&](std::size_t i) {
        double v[4];
        for (int c = 0; c < 4; ++c) v[c] = c < value.components ? (value.uniform ? value.value[c] : double(value.columns[c][i])) : 0;
        const T fresh = fromNumbers<T>(v, value.components), kept = before ? (*before)[i] : T{};
        const float w = weights[i];
        if constexpr (std::is_integral_v<T>)
            out[i] = w > 0.5f ? fresh : kept;
        else
            out[i] = w == 1 ? fresh : w == 0 ? kept : kept * (1 - w) + fresh * w;
    });
    return Column(std::move(out));
}

Column writeText(OperatorCall& call, const Geometry& in, Element element, const std::string& name) {
    const std::string value = call.text("text");
    const Field<float> weights = call.weights(in, element);
    const auto* before = in.values<std::string>(element, name);
    std::vector<std::string> out(in.count(element));
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = weights[i] > 0.5f ? value : before ? (*before)[i] : std::string();
    return Column(std::move(out));
}

Geometry compute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = call.text("name");
    if (name.empty()) call.fail("attribute.name", "The attribute needs a name. Type one, such as mask.", "name");
    bool known = true;
    const Element element = elementFromName(call.choice("element"), known);
    const ColumnType type = typeFromName(call.choice("type"), known);
    if (name == "position" && (element != Element::point || type != ColumnType::vec3))
        call.fail("attribute.position", "position belongs to points and is a vec3. Choose these, or another name.", "type");
    Geometry out = in;
    const auto column = [&]() -> Column {
        switch (type) {
            case ColumnType::number: return write<float>(call, in, element, name);
            case ColumnType::integer: return write<std::int32_t>(call, in, element, name);
            case ColumnType::boolean: return write<std::uint8_t>(call, in, element, name);
            case ColumnType::vec2: return write<Vec2>(call, in, element, name);
            case ColumnType::vec3: return write<Vec3>(call, in, element, name);
            case ColumnType::vec4: return write<Vec4>(call, in, element, name);
            case ColumnType::text: break;
        }
        return writeText(call, in, element, name);
    };
    out.setColumn(element, name, column());
    return out;
}

}  // namespace

OperatorSpec setAttributeOperator() {
    OperatorSpec spec;
    spec.id = "set_attribute";
    spec.label = "Set attribute";
    spec.family = Family::attribute;
    spec.sentence = "Writes a named value onto every element: a mask, a tag, a colour, a width.";
    spec.help = "The value takes any source: a ramp along a curve gives a mask, a formula gives whatever it says. Where the mask is below 1 "
                "the old value shows through (0 for a new attribute).";
    spec.synonyms = {"mask", "create attribute", "write", "store", "tag", "value", "colour"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Name", "mask").helped("What later steps call it."),
        choiceSetting("element", "Element", {"point", "corner", "face", "curve", "copy", "model"}, "point").helped("What carries the value."),
        choiceSetting("type", "Type", {"float", "int", "bool", "vec2", "vec3", "vec4", "text"}, "float").helped("What kind of value it is."),
        numberSetting("value", "Value", Unit::none, 1).slider(0, 1).each().helped("The value; any source, computed for each element.").when("type", {"float", "int", "bool", "vec2", "vec3", "vec4"}),
        textSetting("text", "Text", "").helped("The text to write.").when("type", {"text"}),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom

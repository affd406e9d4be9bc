#include "operators/AttributeWork.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <limits>

namespace seedloom {

Element elementOf(const OperatorCall& call, std::string_view setting) {
    bool known = true;
    return elementFromName(call.choice(setting), known);
}

std::string newName(const OperatorCall& call, std::string_view setting) {
    const std::string name = call.text(setting);
    if (name.empty()) call.fail("attribute.name", "The attribute needs a name. Type one, such as mask.", std::string(setting));
    if (name == "position") call.fail("attribute.position", "position can't be overwritten here. Choose another name.", std::string(setting));
    return name;
}

FoundColumn namedAttribute(const OperatorCall& call, const Geometry& in, std::string_view setting, Element preferred) {
    const std::string name = call.text(setting);
    if (auto found = findColumn(in, name, preferred)) return *found;
    if (auto computed = columnFor(in, name, preferred)) return {*computed, preferred};
    const auto near = similarNames(name, attributeNames(in));
    call.fail("setting.unknown_attribute",
              near.empty() ? fmt::format("There is no attribute '{}' here.", name)
                           : fmt::format("There is no attribute '{}' here. The nearest are: {}.", name, fmt::join(near, ", ")),
              std::string(setting));
}

FoundColumn namedNumbers(const OperatorCall& call, const Geometry& in, std::string_view setting, Element preferred) {
    FoundColumn found = namedAttribute(call, in, setting, preferred);
    if (componentCount(found.column.type()) != 1)
        call.fail("setting.type", fmt::format("'{}' is no single number. Choose an attribute with one component.", call.text(setting)), std::string(setting));
    if (found.column.as<float>()) return found;
    std::vector<float> numbers(found.column.size());
    for (std::size_t i = 0; i < numbers.size(); ++i) numbers[i] = static_cast<float>(found.column.component(i, 0));
    return {Column(std::move(numbers)), found.element};
}

Column blended(const Geometry& in, Element element, std::string_view name, Column fresh, const Field<float>& weights) {
    if (weights.uniform && weights.value == 1) return fresh;
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            const auto* before = in.values<T>(element, name);
            std::vector<T> out = *shared;
            for (std::size_t i = 0; i < out.size(); ++i) {
                const T kept = before ? (*before)[i] : T{};
                const float w = weights[i];
                if constexpr (std::is_integral_v<T> || std::is_same_v<T, std::string>) out[i] = w > 0.5f ? out[i] : kept;
                else out[i] = w == 1 ? out[i] : w == 0 ? kept : kept * (1 - w) + out[i] * w;
            }
            return Column(std::move(out));
        },
        fresh.data());
}

Geometry withAttribute(OperatorCall& call, const Geometry& in, Element element, const std::string& name, Column fresh) {
    Geometry out = in;
    out.setColumn(element, name, blended(in, element, name, std::move(fresh), call.weights(in, element)));
    return out;
}

std::array<double, 2> rangeOf(const std::vector<float>& values) { return ValueRange{}.over(values); }

}  // namespace seedloom

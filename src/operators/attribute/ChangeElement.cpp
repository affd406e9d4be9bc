// Method: own: values of what touches the new element, combined in the order of their numbers.
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeChangeElement(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name");
    const FoundColumn found = namedAttribute(call, in, "name");
    const Element to = elementOf(call, "to");
    static const std::vector<std::string> words{"average", "minimum", "maximum", "sum", "first"};
    const auto by = static_cast<Combine>(std::find(words.begin(), words.end(), call.choice("by")) - words.begin());
    Geometry out = in;
    if (!call.flag("keep") && found.element != to) out.removeColumn(found.element, name);
    out.setColumn(to, name, changeElement(in, found.column, found.element, to, by));
    return out;
}

}  // namespace

OperatorSpec changeElementOperator() {
    OperatorSpec spec;
    spec.id = "change_element";
    spec.order = 750;
    spec.label = "Change element";
    spec.family = Family::attribute;
    spec.sentence = "Moves an attribute to another kind of element, such as from points to faces.";
    spec.help =
        "Where several elements touch the new one, their values are averaged, or the least, the largest, the sum or the first of them is taken. Texts take the "
        "first.";
    spec.synonyms = {"convert", "point to face", "face to point", "move attribute"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Attribute", "mask").helped("The attribute to move."),
        choiceSetting("to", "To", kElementWords, "face").helped("The kind of element that carries it from now on."),
        choiceSetting("by", "By", {"average", "minimum", "maximum", "sum", "first"}, "average").helped("How several values become one."),
        flagSetting("keep", "Keep the old one", false).helped("Leaves the values on the old elements, too."),
    };
    spec.sample = sample::step("colour", {{"attribute", "mask"}},
                               {sample::step(spec.id, Json::object(),
                                             {sample::step("set_attribute", {{"name", "mask"}, {"value", {{"formula", "position.y > 0.15 ? 1 : 0"}}}},
                                                           {sample::ball(0.6, 4)})})});
    spec.compute = computeChangeElement;
    return spec;
}

}  // namespace seedloom

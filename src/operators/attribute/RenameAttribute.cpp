// Method: own.
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeRenameAttribute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string from = call.text("from"), to = newName(call, "to");
    if (from == "position") call.fail("attribute.position", "position can't be renamed; nothing would stand anywhere. Copy it with a formula instead.", "from");
    Geometry out = in;
    std::size_t renamed = 0;
    for (Element element : kAllElements) {
        const Column* column = in.column(element, from);
        if (!column) continue;
        ++renamed;
        if (in.column(element, to) && from != to)
            call.tell(NoticeLevel::info, "attribute.replaced", fmt::format("There was a '{}' on each {} already; it is replaced.", to, elementName(element)),
                      "to");
        out.removeColumn(element, from);
        out.setColumn(element, to, *column);
    }
    if (renamed == 0) namedAttribute(call, in, "from");  // says which names there are
    if (renamed == 0) call.fail("setting.unknown_attribute", fmt::format("'{}' is computed, not stored, and can't be renamed.", from), "from");
    return out;
}

}  // namespace

OperatorSpec renameAttributeOperator() {
    OperatorSpec spec;
    spec.id = "rename_attribute";
    spec.order = 760;
    spec.label = "Rename attribute";
    spec.family = Family::attribute;
    spec.sentence = "Gives an attribute another name, on every kind of element that has it.";
    spec.help = "An attribute of the new name that is there already is replaced, and that is told. position can't be renamed.";
    spec.synonyms = {"name", "change name", "move attribute"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {textSetting("from", "From", "mask").helped("The old name."), textSetting("to", "To", "density").helped("The new name.")};
    spec.sample = sample::step("colour", {{"attribute", "density"}},
                               {sample::step(spec.id, Json::object(),
                                             {sample::step("set_attribute", {{"name", "mask"}, {"value", {{"formula", "position.y > 0.15 ? 1 : 0"}}}},
                                                           {sample::ball(0.6, 8)})})});
    spec.compute = computeRenameAttribute;
    return spec;
}

}  // namespace seedloom

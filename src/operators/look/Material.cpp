// Method: own: numbers into a list that the model carries.
#include "fields/Random.h"
#include "geometry/Materials.h"
#include "operators/AttributeWork.h"
#include "operators/Shares.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Element targetOf(OperatorCall& call, const Geometry& in) {
    if (call.choice("element") != "auto") return elementOf(call, "element");
    return in.copyCount() > 0 ? Element::copy : in.faceCount() > 0 ? Element::face : in.curveCount() > 0 ? Element::curve : Element::point;
}

/// The material of each element, counted from 0 in the setting's list.
std::vector<std::int32_t> chosen(OperatorCall& call, const Geometry& in, Element element, const std::vector<std::pair<Material, double>>& slots) {
    const std::string choose = call.choice("choose");
    const auto count = std::int32_t(slots.size());
    std::vector<std::int32_t> out(in.count(element), 0);
    if (choose == "in turn") {
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = std::int32_t(i % std::size_t(count));
    } else if (choose == "random") {
        std::vector<double> shares;
        for (const auto& [material, share] : slots) shares.push_back(share);
        const Shares all(std::move(shares));
        if (!all.possible()) call.fail("material.shares", "All shares are 0, so no material could be chosen. Give one of them a share above 0.", "slots");
        const FoundColumn by = call.text("by").empty() ? FoundColumn{*columnFor(in, in.column(element, "id") ? "id" : "index", element), element}
                                                       : namedAttribute(call, in, "by", element);
        const Column id = changeElement(in, by.column, by.element, element, Combine::first);
        const double seed = seedOf(call.number("seed"), Chances::materials);
        forEach(out.size(), call.run(), [&](std::size_t i) { out[i] = std::int32_t(all.at(randomOf(id.component(i, 0), seed))); });
    } else {
        const FoundColumn found = namedNumbers(call, in, "attribute", element);
        const Column each = changeElement(in, found.column, found.element, element);
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = std::int32_t(goingRound(each.component(i, 0), Index(count)));
    }
    return out;
}

Geometry computeMaterial(OperatorCall& call) {
    const Geometry& in = call.in();
    const auto slots = call.materials("slots");
    if (slots.empty()) call.fail("material.none", "There is no material in the list. Add one.", "slots");
    const Element element = targetOf(call, in);
    std::vector<std::int32_t> number = chosen(call, in, element, slots);
    // Materials from before keep their numbers; these come after them.
    std::vector<Material> all = materialsOf(in), own;
    for (const auto& [material, share] : slots) own.push_back(material);
    const auto* before = in.values<std::int32_t>(element, "material");
    const std::vector<std::int32_t> renamed = addMaterials(all, own);
    const Field<float> where = call.weights(in, element);
    // What is left out keeps what it had; without that it has none.
    for (std::size_t i = 0; i < number.size(); ++i) number[i] = where[i] > 0.5f ? renamed[std::size_t(number[i])] : before ? (*before)[i] : -1;
    Geometry out = in;
    out.setColumn(element, "material", Column(std::move(number)));
    setMaterials(out, all);
    return out;
}

}  // namespace

OperatorSpec materialOperator() {
    OperatorSpec spec;
    spec.id = "material";
    spec.order = 960;
    spec.label = "Material";
    spec.family = Family::look;
    spec.sentence = "Gives copies or faces materials with a name and a colour.";
    spec.help =
        "With several materials each copy or face takes one: in turn, by chance as often as its share says, or by a number of its own, counted from 0. The "
        "number stands in the attribute material, the list in the model's "
        "attribute materials; files in glTF carry both. Chance depends on the id (or the order) and the seed only.";
    spec.synonyms = {"colour", "shader", "paint", "finish", "slot", "surface look", "varnish"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        materialsSetting("slots", "Materials", Json::array({{{"name", "clay"}, {"color", {0.80, 0.77, 0.70}}, {"roughness", 0.7}, {"metalness", 0.0}}}))
            .helped("Each with a name, a colour, and how often it comes beside the others."),
        choiceSetting("choose", "Choose", {"random", "in turn", "by attribute"}, "random").helped("Which of several materials an element takes."),
        textSetting("attribute", "Attribute", "piece")
            .when("choose", {"by attribute"})
            .helped("The number of the material, counted from 0; after the last the first comes again."),
        numberSetting("seed", "Seed", Unit::none, 0)
            .slider(0, 100)
            .when("choose", {"random"})
            .helped("Another seed gives other materials; nothing else changes."),
        textSetting("by", "By", "")
            .when("choose", {"random"})
            .helped("Elements that agree in this attribute share a material, as all faces of a piece; empty: each has its own."),
        choiceSetting("element", "Element", {"auto", "copy", "face", "curve", "point"}, "auto")
            .helped("What carries the materials; auto: copies where there are some, else faces."),
        whereSetting(Element::face),
    };
    spec.sample = sample::merged(sample::step(spec.id,
                                              {{"slots",
                                                {{{"name", "cork"}, {"color", {0.78, 0.6, 0.38}}},
                                                 {{"name", "lead"}, {"color", {0.42, 0.47, 0.5}}},
                                                 {{"name", "red"}, {"color", {0.72, 0.3, 0.22}}}}}},
                                              {sample::boxesOnHill({{"mode", "spacing"}, {"spacing", 0.22}})}),
                                 sample::hill());
    spec.compute = computeMaterial;
    return spec;
}

}  // namespace seedloom

#include "graph/NodeSpec.h"

#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

Unit unitOf(const std::string& unit) { return unit == "m" ? Unit::metre : unit == "deg" || unit == "°" ? Unit::degree : Unit::none; }

SettingType typeOf(const std::string& type) {
    for (int i = 0; i <= int(SettingType::file); ++i)
        if (settingTypeName(SettingType(i)) == type) return SettingType(i);
    return SettingType::number;
}

SettingSpec settingOf(const Control& control) {
    SettingSpec out;
    out.id = control.id;
    out.label = control.label.empty() ? control.id : control.label;
    out.type = typeOf(control.type);
    out.unit = unitOf(control.unit);
    out.fallback = control.fallback;
    out.min = control.min, out.max = control.max;
    if (control.min && control.max) out.slider(*control.min, *control.max);
    out.choices = control.choices;
    out.help = control.help.empty() ? "A setting of this container, read inside as ctl." + control.id + "." : control.help;
    out.section = control.section;
    return out;
}

}  // namespace

bool isContainer(std::string_view op) { return op == kEachPiece || op == kRepeat || op == kNest; }

std::string innerPortOf(const Node& innerInput) {
    const auto it = innerInput.settings.find("name");
    return it != innerInput.settings.end() && it->is_string() && !it->get_ref<const std::string&>().empty() ? it->get<std::string>() : "in";
}

std::shared_ptr<const OperatorSpec> specOf(const Node& node) {
    auto declared = operatorFor(node.op, node.settings);
    if (!declared || !node.graph || !isContainer(node.op)) return declared;
    auto out = std::make_shared<OperatorSpec>(*declared);
    for (const Node& inner : node.graph->nodes) {
        if (inner.op != kInnerInput) continue;
        const std::string port = innerPortOf(inner);
        if (!out->input(port)) out->inputs.push_back({port, inner.label.empty() ? port : inner.label, false, true});
    }
    std::size_t at = 0;
    for (const Control& control : node.graph->controls)
        if (!out->setting(control.id)) out->settings.insert(out->settings.begin() + std::ptrdiff_t(at++), settingOf(control));
    return out;
}

InnerGraph newInnerGraph() {
    Loom inner;
    Node input, output;
    input.id = "part", input.op = kInnerInput;
    output.id = "result", output.op = "output", output.cell = {1, 0};
    inner.nodes = {input, output};
    inner.links.push_back({"part", "", "result", "", Json::object()});
    inner.output = "result";
    return InnerGraph(std::move(inner));
}

}  // namespace seedloom

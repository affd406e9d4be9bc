#include "graph/NodeSpec.h"

#include "graph/Controls.h"
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

bool isContainer(std::string_view op) { return op == kEachPiece || op == kRepeat || op == kNest || op == kAsset; }

bool canBeEntered(const Node& node) { return node.graph && isContainer(node.op) && node.op != kAsset; }

std::string innerPortOf(const Node& innerInput) {
    const auto it = innerInput.settings.find("name");
    return it != innerInput.settings.end() && it->is_string() && !it->get_ref<const std::string&>().empty() ? it->get<std::string>() : "in";
}

std::string assetFileOf(const Json& settings) {
    const auto it = settings.find(kAsset);
    return it != settings.end() && it->is_string() ? it->get<std::string>() : std::string();
}

std::string pluggedNameOf(const Node& inputGeometry) {
    const auto it = inputGeometry.settings.find("name");
    return it != inputGeometry.settings.end() && it->is_string() ? it->get<std::string>()
                                                                 : findOperator(kInputGeometry)->setting("name")->fallback.get<std::string>();
}

std::shared_ptr<const OperatorSpec> specOf(const Node& node) {
    auto declared = operatorFor(node.op, node.settings);
    if (!declared || !node.graph || !isContainer(node.op)) return declared;
    auto out = std::make_shared<OperatorSpec>(*declared);
    const bool asset = node.op == kAsset;
    for (const Node& inner : node.graph->nodes) {
        if (inner.op != (asset ? kInputGeometry : kInnerInput)) continue;
        const std::string port = asset ? pluggedNameOf(inner) : innerPortOf(inner);
        if (!out->input(port)) out->inputs.push_back({port, inner.label.empty() ? port : inner.label, false, true});
    }
    // A default that the asset computes is shown as what it comes to; out here its formula would read other controls.
    const auto values = asset ? controlValues(*node.graph) : Result<ControlValues>(ControlValues{});
    std::size_t at = asset ? 1 : 0;  // an asset's file stays on top
    for (const Control& control : node.graph->controls) {
        if (out->setting(control.id)) continue;
        SettingSpec setting = settingOf(control);
        if (values && values->count(control.id)) setting.fallback = values->at(control.id);
        out->settings.insert(out->settings.begin() + std::ptrdiff_t(at++), std::move(setting));
    }
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

#include "graph/NodeSpec.h"

#include "graph/Controls.h"
#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

Unit unitOf(const std::string& unit) { return unit == "m" ? Unit::metre : unit == "deg" || unit == "°" ? Unit::degree : Unit::none; }

SettingType typeOf(const std::string& type) {
    if (type == "color") return SettingType::vec3;
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
    if (const auto range = sliderRange(control)) out.slider(range->first, range->second);
    out.choices = control.choices;
    out.help = control.help.empty() ? "A setting of this container, read inside as ctl." + control.id + "." : control.help;
    out.section = control.section;
    return out;
}

}  // namespace

bool isContainer(std::string_view op) { return op == kEachPiece || op == kRepeat || op == kTimeStep || op == kNest || op == kAsset; }

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

namespace {

/// What an asset asks for may stand in its nests: folding steps must not take an input away from those who use it.
void addPorts(OperatorSpec& spec, const Loom& inner, const char* op) {
    const bool plugged = std::string_view(op) == kInputGeometry;
    for (const Node& node : inner.nodes) {
        if (plugged && node.op != kAsset && node.graph) addPorts(spec, *node.graph, op);
        if (node.op != op) continue;
        const std::string port = plugged ? pluggedNameOf(node) : innerPortOf(node);
        if (!spec.input(port)) spec.inputs.push_back({port, node.label.empty() ? port : node.label, false, true});
    }
}

}  // namespace

std::vector<std::string> pluggedNamesIn(const Loom& loom) {
    OperatorSpec ports;
    addPorts(ports, loom, kInputGeometry);
    std::vector<std::string> out;
    for (const PortSpec& port : ports.inputs) out.push_back(port.id);
    return out;
}

std::shared_ptr<const OperatorSpec> specOf(const Node& node, const Assets& assets) {
    auto declared = operatorFor(node.op, node.settings);
    if (!declared || !isContainer(node.op)) return declared;
    const Inside inside = insideOf(node, assets);
    if (!inside) return declared;
    auto out = std::make_shared<OperatorSpec>(*declared);
    const bool asset = node.op == kAsset;
    addPorts(*out, *inside.loom, asset ? kInputGeometry : kInnerInput);
    // A default that the asset computes is shown as what it comes to; out here its formula would read other controls.
    const auto values = asset ? controlValues(*inside.loom) : Result<ControlValues>(ControlValues{});
    std::size_t at = asset ? 1 : 0;  // an asset's file stays on top
    for (const Control& control : inside->controls) {
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

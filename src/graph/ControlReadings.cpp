#include "graph/ControlReadings.h"

#include "fields/ControlNames.h"
#include "graph/NodeSpec.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

bool readsControl(const Json& value) { return value.is_object() && value.contains("control") && value["control"].is_string(); }

/// The formulas in a setting that is a source: a formula itself, or what a ramp runs over.
template <class J, class F> void eachFormula(J& value, F&& found) {
    if (!value.is_object()) return;
    for (auto it = value.begin(); it != value.end(); ++it)
        if ((it.key() == "formula" || it.key() == "over") && it.value().is_string()) found(it.value());
        else if (it.key() == "ramp") eachFormula(it.value(), found);
}

/// Settings that are a text of statements as a whole.
bool isStatements(const Node& node, const std::string& setting, const Json& value) {
    if (!value.is_string()) return false;
    const auto spec = specOf(node, {});  // an asset has no formulas of its own out here
    const SettingSpec* declared = spec ? spec->setting(setting) : nullptr;
    return declared && declared->type == SettingType::formula;
}

class Reader {
public:
    std::map<std::string, std::vector<ControlReading>> found;

    void read(const Loom& loom, const std::vector<std::string>& path, const std::set<std::string>& hidden) {
        for (const Node& node : loom.nodes) {
            for (const auto& [key, value] : node.settings.items()) {
                const auto note = [&](const std::string& control, bool formula) {
                    if (!hidden.contains(control)) found[control].push_back({path, node.id, key, formula});
                };
                const auto noteFormula = [&](const Json& text) {
                    for (const std::string& control : controlsNamed(text.get_ref<const std::string&>())) note(control, true);
                };
                if (readsControl(value)) note(value["control"], false);
                else if (isStatements(node, key, value)) noteFormula(value);
                else eachFormula(value, noteFormula);
            }
            if (!node.graph) continue;
            std::vector<std::string> inside = path;
            inside.push_back(node.id);
            std::set<std::string> hiddenInside = hidden;
            for (const Control& own : node.graph->controls) hiddenInside.insert(own.id);
            read(*node.graph, inside, hiddenInside);
        }
    }
};

}  // namespace

std::map<std::string, std::vector<ControlReading>> controlReadings(const Loom& loom) {
    Reader reader;
    reader.read(loom, {}, {});
    return std::move(reader.found);
}

std::vector<std::string> controlsReading(const Loom& loom, const std::string& id) {
    std::vector<std::string> out;
    for (const Control& control : loom.controls) {
        bool reads = controlsNamed(control.shownWhen).contains(id) || controlsNamed(control.allowedWhen).contains(id);
        eachFormula(control.fallback, [&](const Json& text) { reads |= controlsNamed(text.get_ref<const std::string&>()).contains(id); });
        if (reads && control.id != id) out.push_back(control.id);
    }
    return out;
}

std::string formulaOf(const Json& written) {
    if (readsControl(written)) return "ctl." + written["control"].get<std::string>();
    if (written.is_object() && written.contains("formula")) return "(" + written["formula"].get<std::string>() + ")";
    if (written.is_number() && written.get<double>() < 0) return "(" + written.dump() + ")";
    if (!written.is_array()) return written.dump();
    std::string out = fmt::format("vec{}(", written.size());
    for (std::size_t i = 0; i < written.size(); ++i) out += (i ? ", " : "") + written[i].dump();
    return out + ")";
}

std::string withControlsWritten(const std::string& formula, const std::map<std::string, Json>& values) {
    return withControlsWritten(formula, [&](const std::string& id) -> std::optional<std::string> {
        const auto it = values.find(id);
        return it == values.end() ? std::nullopt : std::optional(formulaOf(it->second));
    });
}

Control withControlsWritten(Control control, const std::map<std::string, Json>& values) {
    eachFormula(control.fallback, [&](Json& text) { text = withControlsWritten(text.get<std::string>(), values); });
    control.shownWhen = withControlsWritten(control.shownWhen, values);
    control.allowedWhen = withControlsWritten(control.allowedWhen, values);
    return control;
}

Node withControlsWritten(Node node, std::map<std::string, Json> values) {
    Json settings = node.settings.get();
    for (auto& [key, value] : settings.items()) {
        if (readsControl(value)) {
            if (const auto it = values.find(value["control"].get<std::string>()); it != values.end()) value = Json(it->second);
        } else if (isStatements(node, key, value)) {
            value = withControlsWritten(value.get<std::string>(), values);
        } else {
            eachFormula(value, [&](Json& text) { text = withControlsWritten(text.get<std::string>(), values); });
        }
    }
    // What is shared stays so where nothing was read.
    if (settings != node.settings.get()) node.settings = SharedJson(std::move(settings));
    if (!node.graph) return node;
    for (const Control& own : node.graph->controls) values.erase(own.id);
    if (values.empty()) return node;
    Loom inner = *node.graph;
    for (Node& further : inner.nodes) further = withControlsWritten(std::move(further), values);
    if (!(inner == *node.graph)) node.graph = InnerGraph(std::move(inner));
    return node;
}

}  // namespace seedloom

// What would keep a document from building, found without building it.
#include "fields/Formula.h"
#include "formats/LoomFile.h"
#include "geometry/ElementTransfer.h"
#include "graph/Controls.h"
#include "graph/NodeSpec.h"
#include "graph/Rebuild.h"
#include "operators/PlainValues.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <set>

namespace seedloom {

namespace {

class Validator {
public:
    explicit Validator(const Loom& loom, const Assets& assets, std::string path = {}, std::set<std::string> outerControls = {})
        : loom_(loom), assets_(assets), path_(std::move(path)), controls_(std::move(outerControls)) {
        for (const Control& control : loom.controls) controls_.insert(control.id);
    }

    std::vector<LoomProblem> run() {
        for (const Node& node : loom_.nodes) checkNode(node);
        for (const Link& link : loom_.links) checkLink(link);
        for (const auto& ring : linkCycles(loom_))
            add(ring.front(), "graph.cycle", fmt::format("the links run in a ring: {}. Take one of them out.", fmt::join(ring, " → ")));
        if (!loom_.output.empty() && !loom_.node(loom_.output)) add("", "loom.output", fmt::format("the output '{}' does not exist.", loom_.output));
        for (const Preset& preset : loom_.presets)
            for (const auto& [id, value] : preset.values) checkValue(fmt::format("preset '{}'", preset.name), id, value);
        for (const auto& [id, value] : loom_.values) checkValue("values", id, value);
        if (path_.empty()) checkControls();
        return std::move(problems_);
    }

private:
    void add(const std::string& node, std::string code, std::string text) { problems_.push_back({path_ + node, std::move(code), std::move(text)}); }

    void checkValue(const std::string& where, const std::string& id, const Json& value) {
        const Control* control = loom_.control(id);
        if (!control) return add("", "control.unknown", fmt::format("{} names the control '{}', which does not exist.", where, id));
        if (const auto checked = checkedControlValue(*control, value); !checked)
            add("", checked.error().code, fmt::format("{}: {}", where, checked.error().text));
    }

    void checkControls() {
        const auto values = controlValues(loom_);
        if (!values) return add("", values.error().code, values.error().text);
        for (const Control& control : loom_.controls) {
            const auto shown = control.shownWhen.empty() ? Result<bool>(true) : conditionHolds(control.shownWhen, *values);
            if (!shown) add("", shown.error().code, fmt::format("'Shown when' of the control '{}': {}", control.id, shown.error().text));
        }
    }

    void checkNode(const Node& node) {
        const auto spec = specOf(node, assets_);
        if (!spec) {
            std::vector<std::string> known;
            for (const OperatorSpec& s : catalogue()) known.push_back(s.id);
            return add(node.id, "operator.unknown",
                       fmt::format("there is no operator '{}'. The nearest are: {}.", node.op, fmt::join(similarNames(node.op, known), ", ")));
        }
        for (const auto& [id, value] : node.settings.items()) {
            const SettingSpec* setting = spec->setting(id);
            if (!setting) {
                std::vector<std::string> known;
                for (const SettingSpec& s : spec->settings) known.push_back(s.id);
                add(node.id, "setting.unknown",
                    fmt::format("{} has no setting '{}'. The nearest are: {}.", spec->label, id, fmt::join(similarNames(id, known), ", ")));
                continue;
            }
            checkSetting(node, *setting, value);
        }
        const Inside inside = insideOf(node, assets_);
        if (!inside) {
            if (!inside.problem.empty()) add(node.id, "asset.unreadable", inside.problem);
            else if (node.op == kAsset) add(node.id, "input.missing", "no loom is chosen for the asset. Write its path under 'asset', as 'file'.");
            else if (isContainer(node.op)) add(node.id, "container.empty", fmt::format("{} has no graph inside. Write its steps under 'graph'.", spec->label));
            return;
        }
        // An asset's steps are validated with its own file.
        if (!isContainer(node.op) || node.op == kAsset) return;
        if (!node.graph->node(node.graph->output)) add(node.id, "container.output", fmt::format("{} has no output inside.", spec->label));
        for (LoomProblem& problem : Validator(*node.graph, assets_, path_ + node.id + "/", controls_).run()) problems_.push_back(std::move(problem));
    }

    void checkSetting(const Node& node, const SettingSpec& setting, const Json& value) {
        const auto source = sourceFromJson(value);
        if (!source) return add(node.id, source.error().code, fmt::format("{}: {}", setting.label, source.error().text));
        if (const auto* control = std::get_if<ControlSource>(&*source); control && !controls_.count(control->control))
            add(node.id, "setting.unknown_control", fmt::format("{} reads the control '{}', which does not exist.", setting.label, control->control));
        std::string text;
        if (const auto* formula = std::get_if<FormulaSource>(&*source)) text = formula->text;
        if (const auto* ramp = std::get_if<RampSource>(&*source)) text = ramp->over;
        if (!text.empty()) checkFormula(node, setting, text);
        if (const auto* plain = std::get_if<FixedSource>(&*source))
            if (const auto problem = plainValueProblem(setting, plain->value)) add(node.id, problem->code, problem->text);
    }

    void checkFormula(const Node& node, const SettingSpec& setting, const std::string& text) {
        const auto formula = parseFormula(text);
        if (!formula) return add(node.id, formula.error().code, fmt::format("{}: {}", setting.label, formula.error().text));
        for (const std::string& id : namesIn(**formula).controls)
            if (!controls_.count(id))
                add(node.id, "setting.unknown_control", fmt::format("{} reads the control '{}', which does not exist.", setting.label, id));
    }

    void checkLink(const Link& link) {
        for (const std::string& end : {link.from, link.to})
            if (!loom_.node(end))
                add(end == link.from ? link.to : link.from, "link.nowhere",
                    fmt::format("a link from '{}' to '{}' names '{}', which does not exist.", link.from, link.to, end));
        const Node* to = loom_.node(link.to);
        const auto spec = to ? specOf(*to, assets_) : nullptr;
        const bool unread = to && to->op == kAsset && !insideOf(*to, assets_);
        if (spec && !unread && (link.in.empty() ? spec->inputs.empty() : !spec->input(link.in)))
            add(link.to, "link.port", fmt::format("{} has no input '{}'.", spec->label, link.in.empty() ? "in" : link.in));
        const Node* from = loom_.node(link.from);
        const auto giver = from ? specOf(*from, assets_) : nullptr;
        if (giver && !link.out.empty() && std::none_of(giver->outputs.begin(), giver->outputs.end(), [&](const PortSpec& p) { return p.id == link.out; }))
            add(link.from, "link.port", fmt::format("{} has no output '{}'.", giver->label, link.out));
    }

    const Loom& loom_;
    const Assets& assets_;
    std::string path_;  ///< of the container around, with a slash at its end
    std::set<std::string> controls_;
    std::vector<LoomProblem> problems_;
};

}  // namespace

std::vector<LoomProblem> loomProblems(const Loom& loom, const Assets& assets) { return Validator(loom, assets).run(); }

}  // namespace seedloom

#include "graph/NodePlan.h"

#include "fields/FormulaText.h"
#include "geometry/ElementTransfer.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <filesystem>

namespace seedloom {

namespace {

Notice problem(NoticeLevel level, std::string code, std::string text, std::string setting = {}) {
    return {level, std::move(code), std::move(text), std::move(setting), {}};
}

template <class Formula> void noteNames(NodePlan& plan, const Result<std::shared_ptr<const Formula>>& formula) {
    if (!formula) return;
    const FormulaNames names = namesIn(**formula);
    plan.usesTime |= names.time;
    plan.usedControls.insert(names.controls.begin(), names.controls.end());
    plan.usedNames.insert(names.attributes.begin(), names.attributes.end());
}

void readSettings(NodePlan& plan, const OperatorSpec& spec) {
    for (const SettingSpec& setting : spec.settings) {
        const auto it = plan.written.find(setting.id);
        const Json& written = it == plan.written.end() ? setting.fallback : *it;
        auto source = sourceFromJson(written);
        if (!source) {
            plan.problems.push_back(problem(NoticeLevel::error, source.error().code, fmt::format("{}: {}", setting.label, source.error().text), setting.id));
            source = Source(FixedSource{setting.fallback});
        } else if (const UnknownKeys unknown = unknownKeys(written); !unknown.keys.empty() && setting.numeric()) {
            plan.problems.push_back(problem(NoticeLevel::warning, "setting.source_key",
                                            fmt::format("{}: a {} source knows no '{}'; it is kept, but does nothing. It knows {}.", setting.label,
                                                        unknown.kind, fmt::join(unknown.keys, "', '"), fmt::join(unknown.known, ", ")),
                                            setting.id));
        }
        if (const auto* control = std::get_if<ControlSource>(&*source)) plan.usedControls.insert(control->control);
        if (const auto* attribute = std::get_if<AttributeSource>(&*source)) plan.usedNames.insert(attribute->name);
        if (const auto* formula = std::get_if<FormulaSource>(&*source)) noteNames(plan, parseFormula(formula->text));
        if (const auto* ramp = std::get_if<RampSource>(&*source)) noteNames(plan, parseFormula(ramp->over));
        if (const auto* plain = std::get_if<FixedSource>(&*source); plain && setting.type == SettingType::file && plain->value.is_string())
            plan.usedFiles.insert(plain->value.get<std::string>());
        if (setting.type == SettingType::formula && written.is_string()) noteNames(plan, parseFormulaText(written.get<std::string>()));
        plan.settings.emplace(setting.id, std::move(*source));
    }
    for (const auto& [id, value] : plan.written.items()) {
        if (spec.setting(id)) continue;
        std::vector<std::string> known;
        for (const SettingSpec& s : spec.settings) known.push_back(s.id);
        plan.problems.push_back(problem(NoticeLevel::warning, "setting.unknown",
                                        fmt::format("{} has no setting '{}'; it is kept, but does nothing. The nearest are: {}.", spec.label, id,
                                                    fmt::join(similarNames(id, known), ", ")),
                                        id));
    }
}

/// What the nodes inside read is read by the container, but for its own settings; and its digest holds all of them. An asset reads nothing of what is
/// around it, and its files lie beside its own.
void addInside(NodePlan& plan, const Loom& inner, PlanCache& plans, const std::string& path, Digester& digester) {
    std::set<std::string> own;
    const bool asset = plan.op == kAsset;
    const std::filesystem::path folder = asset ? std::filesystem::path(assetFileOf(plan.written)).parent_path() : std::filesystem::path();
    for (const Control& control : inner.controls) own.insert(control.id), digester.add(std::string_view(control.id));
    for (const Node& node : inner.nodes) {
        const auto inside = plans.of(node, path);
        plan.usesTime |= inside->usesTime;
        if (!asset) plan.usedNames.insert(inside->usedNames.begin(), inside->usedNames.end());
        for (const std::string& id : inside->usedControls)
            if (!asset && !own.count(id)) plan.usedControls.insert(id);
        for (const std::string& file : inside->usedFiles) plan.usedFiles.insert((folder / file).string());
        digester.add(std::string_view(node.id));
        digester.add(std::uint64_t(node.skipped));
        digester.add(inside->digest);
    }
    for (const Link& link : inner.links)
        for (const std::string* text : {&link.from, &link.out, &link.to, &link.in}) digester.add(std::string_view(*text));
    digester.add(std::string_view(inner.output));
    if (!asset) return;
    for (const Control& control : inner.controls) addJson(digester, control.fallback);
}

Digest digestOf(const NodePlan& plan, const OperatorSpec* spec) {
    Digester digester;
    digester.add(std::string_view(plan.op));
    digester.add(std::uint64_t(spec ? spec->version : 0));
    for (const auto& [id, source] : plan.settings) {
        digester.add(std::string_view(id));
        digester.add(std::string_view(sourceToJson(source).dump(-1, ' ', false, Json::error_handler_t::replace)));
    }
    return digester.finish();
}

}  // namespace

void addJson(Digester& digester, const Json& value) { digester.add(std::string_view(value.dump(-1, ' ', false, Json::error_handler_t::replace))); }

static NodePlan planOf(const Node& node, PlanCache& plans, const std::string& path) {
    NodePlan plan;
    plan.graph = node.graph;
    plan.op = node.op;
    plan.written = node.settings;
    plan.spec = specOf(node);
    const OperatorSpec* spec = plan.spec.get();
    if (spec) {
        readSettings(plan, *spec);
    } else {
        plan.problems.push_back(problem(NoticeLevel::error, "operator.unknown",
                                        fmt::format("This version has no operator '{}'. The node is kept as it is; its first input passes through.", node.op)));
    }
    plan.digest = digestOf(plan, spec);
    if (node.graph && isContainer(node.op)) {
        Digester digester;
        digester.add(plan.digest);
        addInside(plan, *node.graph, plans, path + node.id + "/", digester);
        plan.digest = digester.finish();
    } else if (!node.graph.problem().empty()) {
        Digester digester;
        digester.add(plan.digest);
        digester.add(std::string_view(node.graph.problem()));
        plan.digest = digester.finish();
    }
    return plan;
}

std::shared_ptr<const NodePlan> PlanCache::of(const Node& node, const std::string& path) {
    const std::string id = path + node.id;
    {
        const std::lock_guard lock(mutex_);
        const auto it = plans_.find(id);
        if (it != plans_.end() && it->second->op == node.op && it->second->written == node.settings && it->second->graph.get() == node.graph.get() &&
            it->second->graph.problem() == node.graph.problem())
            return it->second;
    }
    auto plan = std::make_shared<const NodePlan>(planOf(node, *this, path));
    const std::lock_guard lock(mutex_);
    if (plans_.size() > kMost) plans_.clear();
    plans_[id] = plan;
    return plan;
}

}  // namespace seedloom

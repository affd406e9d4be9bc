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

template <class Formula> void noteNames(StepUses& uses, const Result<std::shared_ptr<const Formula>>& formula) {
    if (!formula) return;
    const FormulaNames names = namesIn(**formula);
    uses.time |= names.time;
    uses.controls.insert(names.controls.begin(), names.controls.end());
    uses.names.insert(names.attributes.begin(), names.attributes.end());
}

/// What one setting reads, by where its value comes from.
void noteSource(StepUses& uses, const SettingSpec& setting, const Source& source) {
    if (const auto* control = std::get_if<ControlSource>(&source)) {
        uses.controls.insert(control->control);
        if (setting.type == SettingType::file) uses.files.insert({{}, control->control, true});
        if (setting.type == SettingType::formula) uses.formulas.insert(control->control);
    }
    if (const auto* attribute = std::get_if<AttributeSource>(&source)) uses.names.insert(attribute->name);
    if (const auto* formula = std::get_if<FormulaSource>(&source)) noteNames(uses, parseFormula(formula->text));
    if (const auto* ramp = std::get_if<RampSource>(&source)) noteNames(uses, parseFormula(ramp->over));
    const auto* plain = std::get_if<FixedSource>(&source);
    if (!plain || !plain->value.is_string()) return;
    // What an asset's file holds is part of the digest itself.
    if (setting.type == SettingType::file && setting.id != kAsset) uses.files.insert({{}, plain->value.get<std::string>(), false});
    if (setting.type == SettingType::formula) noteFormula(uses, plain->value.get<std::string>());
}

void readSettings(NodePlan& plan, const OperatorSpec& spec) {
    const auto settings = std::make_shared<SettingSources>();
    plan.settings = settings;
    for (const SettingSpec& setting : spec.settings) {
        const auto it = plan.written.find(setting.id);
        const Json& written = it == plan.written.end() ? setting.fallback : *it;
        auto source = sourceFromJson(written);
        if (!source) {
            plan.problems.push_back(problem(NoticeLevel::error, source.error().code, fmt::format("{}: {}", setting.label, source.error().text), setting.id));
            plan.problems.back().fixes = {setFix(fmt::format("Set {} back", setting.label), setting.id, Json())};
            source = Source(FixedSource{setting.fallback});
        } else if (const UnknownKeys unknown = unknownKeys(written); !unknown.keys.empty() && setting.numeric()) {
            plan.problems.push_back(problem(NoticeLevel::warning, "setting.source_key",
                                            fmt::format("{}: a {} source knows no '{}'; it is kept, but does nothing. It knows {}.", setting.label,
                                                        unknown.kind, fmt::join(unknown.keys, "', '"), fmt::join(unknown.known, ", ")),
                                            setting.id));
        }
        noteSource(plan.uses, setting, *source);
        settings->emplace(setting.id, std::move(*source));
    }
    for (const auto& [id, value] : plan.written.items()) {
        if (spec.setting(id)) continue;
        std::vector<std::string> known;
        for (const SettingSpec& s : spec.settings) known.push_back(s.id);
        plan.problems.push_back(problem(NoticeLevel::warning, "setting.unknown",
                                        fmt::format("{} has no setting '{}'; it is kept, but does nothing. The nearest are: {}.", spec.label, id,
                                                    fmt::join(similarNames(id, known), ", ")),
                                        id));
        plan.problems.back().fixes = {setFix(fmt::format("Take {} out", id), id, Json())};
    }
}

/// What a control of the graph inside is given by the node around it, or is by itself.
Source givenTo(const Control& control, const NodePlan& plan) {
    const auto written = plan.written.find(control.id);
    const auto inUse = plan.inside->values.find(control.id);
    const bool asset = plan.op == kAsset;
    const Json& value = written != plan.written.end() ? *written : asset && inUse != plan.inside->values.end() ? inUse->second : control.fallback;
    auto source = sourceFromJson(value);
    return source ? std::move(*source) : Source(FixedSource{value});
}

/// Files and formulas that controls name, one level further out: settings of the container itself say which they are.
StepUses settled(StepUses inside, const NodePlan& plan) {
    StepUses out = inside;
    out.files.clear();
    out.formulas.clear();
    const bool asset = plan.op == kAsset;  // sees no controls but its own
    for (const std::string& id : inside.formulas) {
        const Control* own = plan.inside->control(id);
        if (asset && !own) continue;
        const Source source = own ? givenTo(*own, plan) : Source(ControlSource{id});
        if (const auto* control = std::get_if<ControlSource>(&source)) out.formulas.insert(control->control);
        else if (const auto* plain = std::get_if<FixedSource>(&source); plain && plain->value.is_string()) noteFormula(out, plain->value.get<std::string>());
    }
    for (const FileUse& file : inside.files) {
        const Control* own = file.byControl ? plan.inside->control(file.path) : nullptr;
        if (file.byControl && asset && !own) continue;
        const Source source = own ? givenTo(*own, plan) : Source(ControlSource{file.path});
        if (!own) out.files.insert(file);
        else if (const auto* control = std::get_if<ControlSource>(&source)) out.files.insert({file.folder, control->control, true});
        else if (const auto* plain = std::get_if<FixedSource>(&source); plain && plain->value.is_string())
            out.files.insert({file.folder, plain->value.get<std::string>(), false});
    }
    return out;
}

/// What the nodes inside read is read by the container, but for its own settings. An asset reads nothing of what is around it, and its files lie
/// beside its own.
void addUses(NodePlan& plan, const StepUses& inside) {
    plan.uses.time |= inside.time;
    plan.uses.frameLength |= inside.frameLength;
    const bool asset = plan.op == kAsset;
    const std::filesystem::path folder = asset ? std::filesystem::path(assetFileOf(plan.written)).parent_path() : std::filesystem::path();
    // What lies in a pack is part of the digest as a whole.
    for (FileUse file : plan.inside.files ? std::set<FileUse>() : inside.files) {
        file.folder = (folder / file.folder).string();
        plan.uses.files.insert(std::move(file));
    }
    plan.uses.formulas.insert(inside.formulas.begin(), inside.formulas.end());
    if (asset) return;
    plan.uses.names.insert(inside.names.begin(), inside.names.end());
    plan.uses.plugged.insert(inside.plugged.begin(), inside.plugged.end());
    for (const std::string& id : inside.controls)
        if (!plan.inside->control(id)) plan.uses.controls.insert(id);
}

/// The digest holds all that is inside, and the uses are told as the container's own.
void addInside(NodePlan& plan, PlanCache& plans, const std::string& path, Digester& digester) {
    const Loom& inner = *plan.inside.loom;
    StepUses inside;
    for (const Control& control : inner.controls) digester.add(std::string_view(control.id));
    for (const Node& node : inner.nodes) {
        const auto step = plans.of(node, path, plan.inside.assets);
        inside.time |= step->uses.time;
        inside.frameLength |= step->uses.frameLength;
        inside.controls.insert(step->uses.controls.begin(), step->uses.controls.end());
        inside.names.insert(step->uses.names.begin(), step->uses.names.end());
        inside.plugged.insert(step->uses.plugged.begin(), step->uses.plugged.end());
        inside.formulas.insert(step->uses.formulas.begin(), step->uses.formulas.end());
        inside.files.insert(step->uses.files.begin(), step->uses.files.end());
        digester.add(std::string_view(node.id));
        digester.add(std::uint64_t(node.skipped));
        digester.add(step->digest);
    }
    addUses(plan, settled(std::move(inside), plan));
    for (const Link& link : inner.links)
        for (const std::string* text : {&link.from, &link.out, &link.to, &link.in}) digester.add(std::string_view(*text));
    digester.add(std::string_view(inner.output));
    if (plan.op != kAsset) return;
    digester.add(plan.inside.filesDigest);
    for (const Control& control : inner.controls) addJson(digester, control.fallback);
    addJson(digester, inner.values);
    // Told where it is another version than the loom was saved with.
    digester.add(std::string_view(inner.name));
    addJson(digester, inner.extra.value("version", Json()));
    addJson(digester, plan.noted);
}

Digest digestOf(const NodePlan& plan, const OperatorSpec* spec) {
    Digester digester;
    digester.add(std::string_view(plan.op));
    digester.add(std::uint64_t(spec ? spec->version : 0));
    for (const auto& [id, source] : *plan.settings) {
        digester.add(std::string_view(id));
        digester.add(std::string_view(sourceToJson(source).dump(-1, ' ', false, Json::error_handler_t::replace)));
    }
    return digester.finish();
}

}  // namespace

void addJson(Digester& digester, const Json& value) { digester.add(std::string_view(value.dump(-1, ' ', false, Json::error_handler_t::replace))); }

void noteFormula(StepUses& uses, const std::string& text) { noteNames(uses, parseFormulaText(text)); }

static Json notedOf(const Node& node) { return node.op == kAsset ? node.extra.value(kAsset, Json()) : Json(); }

/// Whether what a step with state gives depends on the frame all around: not where one frame is kept.
static bool followsFrames(const NodePlan& plan) {
    if (plan.spec->frameSetting.empty()) return true;
    const auto it = plan.settings->find(plan.spec->frameSetting);
    const auto* fixed = it == plan.settings->end() ? nullptr : std::get_if<FixedSource>(&it->second);
    return !fixed || !fixed->value.is_number() || fixed->value.get<double>() < 0;
}

static NodePlan planOf(const Node& node, PlanCache& plans, const std::string& path, const Assets& assets) {
    NodePlan plan;
    plan.settings = std::make_shared<const SettingSources>();
    plan.inside = insideOf(node, assets);
    plan.op = node.op;
    plan.written = node.settings;
    plan.noted = notedOf(node);
    plan.spec = specOf(node, assets);
    const OperatorSpec* spec = plan.spec.get();
    if (spec) {
        readSettings(plan, *spec);
    } else {
        plan.problems.push_back(problem(NoticeLevel::error, "operator.unknown",
                                        fmt::format("This version has no operator '{}'. The node is kept as it is; its first input passes through.", node.op)));
    }
    plan.timedSettings = plan.uses.time;
    plan.uses.time |= spec && spec->hasState() && followsFrames(plan);
    plan.uses.frameLength = spec && spec->hasState();
    if (node.op == kInputGeometry) plan.uses.plugged.insert(pluggedNameOf(node));
    Digester digester;
    digester.add(digestOf(plan, spec));
    if (plan.inside && isContainer(node.op)) addInside(plan, plans, path + node.id + "/", digester);
    digester.add(std::string_view(plan.inside.problem));
    plan.digest = digester.finish();
    if (spec && !spec->frameSetting.empty() && node.settings.contains(spec->frameSetting)) {
        Node bare = node;
        Json written = node.settings;
        written.erase(spec->frameSetting);
        bare.settings = std::move(written);
        plan.frames = std::make_shared<const NodePlan>(planOf(bare, plans, path, assets));
    }
    return plan;
}

namespace {

bool sameInside(const Inside& a, const Inside& b) { return a.loom == b.loom && a.assets == b.assets && a.problem == b.problem; }

}  // namespace

std::shared_ptr<const NodePlan> PlanCache::of(const Node& node, const std::string& path, const Assets& assets) {
    const std::string id = path + node.id;
    const bool container = isContainer(node.op);
    {
        const std::lock_guard lock(mutex_);
        const auto it = plans_.find(id);
        if (it != plans_.end() && it->second->op == node.op && it->second->written == node.settings && it->second->noted == notedOf(node) &&
            (!container || sameInside(it->second->inside, insideOf(node, assets))))
            return it->second;
    }
    auto plan = std::make_shared<const NodePlan>(planOf(node, *this, path, assets));
    const std::lock_guard lock(mutex_);
    if (plans_.size() > kMost) plans_.clear();
    plans_[id] = plan;
    return plan;
}

}  // namespace seedloom

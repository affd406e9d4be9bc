#include "graph/StepKey.h"

#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <filesystem>

namespace seedloom {

namespace {

/// What the uses come to here: formulas that controls hold are read as well.
StepUses resolved(const StepUses& uses, const ControlValues& controls) {
    StepUses out = uses;
    for (const std::string& id : uses.formulas)
        if (const auto text = controls.find(id); text != controls.end() && text->second.is_string()) noteFormula(out, text->second.get<std::string>());
    return out;
}

template <class Map> Map chosen(const Map& all, const std::set<std::string>& names) {
    Map out;
    if (all.empty()) return out;
    for (const std::string& name : names)
        if (const auto it = all.find(name); it != all.end()) out.insert(*it);
    return out;
}

std::vector<std::pair<std::string, std::optional<FileStamp>>> filesOf(const StepUses& uses, const Surroundings& run) {
    std::vector<std::pair<std::string, std::optional<FileStamp>>> out;
    for (const FileUse& file : uses.files) {
        std::filesystem::path path = file.path;
        if (file.byControl) {
            const auto named = run.controls->find(file.path);
            if (named == run.controls->end() || !named->second.is_string()) continue;
            path = named->second.get<std::string>();
        }
        if (path.empty()) continue;
        const std::filesystem::path full = (std::filesystem::path(run.folder) / file.folder / path).lexically_normal();
        out.emplace_back(full.string(), run.files->stamp(full));
    }
    return out;
}

/// A file that was changed is another input.
void addFile(Digester& digester, const std::string& path, const std::optional<FileStamp>& stamp) {
    digester.add(std::string_view(path));
    digester.add(stamp ? stamp->time : 0);
    digester.add(stamp ? stamp->size : 0);
}

void addWord(Digester& digester, const std::string& name, const Numbers& numbers) {
    digester.add(std::string_view(name));
    digester.add(std::uint64_t(numbers.components));
    digester.add(numbers.value.data(), sizeof(double) * std::size_t(numbers.components));
}

}  // namespace

StepReads readsOf(const Step& step, const Surroundings& run) {
    const StepUses* uses = &step.plan->uses;
    std::optional<StepUses> more;
    if (!uses->formulas.empty()) uses = &more.emplace(resolved(*uses, *run.controls));
    StepReads out;
    const bool allKnown = std::all_of(uses->controls.begin(), uses->controls.end(), [&](const std::string& id) { return run.controls->count(id) > 0; });
    out.controls = allKnown ? chosen(*run.controls, uses->controls) : *run.controls;
    out.words = chosen(run.words, uses->names);
    if (uses->time) out.time = run.time, out.frame = run.frame;
    if (uses->frameLength) out.secondsPerFrame = run.secondsPerFrame, out.frames = run.others != nullptr;
    out.plugged = chosen(run.plugged, uses->plugged);
    if (step.node->op == kInnerInput) out.fed = chosen(run.fed, {innerPortOf(*step.node)});
    const std::string full = run.unfinished.node.empty() ? std::string() : run.path + step.node->id;
    if (!full.empty() && (run.unfinished.node == full || run.unfinished.node.starts_with(full + "/"))) out.unfinished = run.unfinished;
    if (!uses->files.empty()) out.files = filesOf(*uses, run);
    return out;
}

StepKey keyOf(const Step& step, const StepReads& reads, const Limits& limits, const std::vector<NodeReport>& reports) {
    Digester digester;
    digester.add(step.plan->digest);
    digester.add(std::uint64_t(step.node->skipped));
    digester.add(limits.elements);
    for (const auto& [id, value] : reads.controls) digester.add(std::string_view(id)), addJson(digester, value);
    for (const auto& [name, value] : reads.words) addWord(digester, name, value);
    digester.add(&reads.time, sizeof reads.time);
    digester.add(&reads.frame, sizeof reads.frame);
    digester.add(&reads.secondsPerFrame, sizeof reads.secondsPerFrame);
    digester.add(std::uint64_t(reads.frames));
    for (const Notice& notice : step.problems) digester.add(std::string_view(notice.text));
    for (const auto& port : step.ports) {
        digester.add(std::uint64_t(port.size()));
        for (const Step::Feed& feed : port) {
            digester.add(reports[feed.step].key.digest);
            digester.add(std::uint64_t(feed.output));
        }
    }
    for (const auto& [path, stamp] : reads.files) addFile(digester, path, stamp);
    if (!reads.unfinished.node.empty()) digester.add(std::string_view(reads.unfinished.setting)), addJson(digester, reads.unfinished.item);
    for (const auto* geometries : {&reads.plugged, &reads.fed})
        for (const auto& [name, geometry] : *geometries) digester.add(std::string_view(name)), digester.add(geometry.second);
    return {digester.finish()};
}

}  // namespace seedloom

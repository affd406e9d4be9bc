#include "vary/VariedInputs.h"

#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <set>

namespace seedloom {

namespace {

constexpr const char *kSample = "sample", *kSection = "Inputs";

using SampleOf = std::function<std::optional<Json>(const std::string& input)>;

/// Whether what stands in for this input is written at the node itself.
bool asksPlainly(const Node& node) {
    if (node.op != kInputGeometry) return false;
    const auto it = node.settings.find(kSample);
    return it == node.settings.end() || it->is_string();
}

/// The node with other samples for the inputs that it, or what is inside of it, asks for.
Node withSamples(Node node, const SampleOf& sampleOf) {
    if (asksPlainly(node)) {
        if (auto sample = sampleOf(pluggedNameOf(node))) node.settings[kSample] = std::move(*sample);
    } else if (node.graph) {
        Loom inside = *node.graph;
        for (Node& inner : inside.nodes) inner = withSamples(std::move(inner), sampleOf);
        if (!(inside == *node.graph)) node.graph = InnerGraph(std::move(inside));
    }
    return node;
}

struct AskedInput {
    std::string input, label, sample, control;
};

void collect(const Loom& loom, std::vector<AskedInput>& asked, std::set<std::string>& taken) {
    for (const Control& control : loom.controls) taken.insert(control.id);
    for (const Node& node : loom.nodes) {
        if (node.graph) collect(*node.graph, asked, taken);
        if (!asksPlainly(node)) continue;
        const std::string name = pluggedNameOf(node);
        if (std::any_of(asked.begin(), asked.end(), [&](const AskedInput& one) { return one.input == name; })) continue;
        const auto sample = node.settings.find(kSample);
        asked.push_back({name, node.label.empty() ? name : node.label, sample == node.settings.end() ? std::string() : sample->get<std::string>(), {}});
    }
}

/// A word that formulas and tables can name.
std::string wordOf(const std::string& name) {
    std::string out;
    for (const char c : name) out += std::isalnum(static_cast<unsigned char>(c)) ? char(std::tolower(static_cast<unsigned char>(c))) : '_';
    return out.empty() || std::isdigit(static_cast<unsigned char>(out.front())) ? "input_" + out : out;
}

/// What is asked for in this loom, with the ids of the controls that stand for it.
std::vector<AskedInput> askedIn(const Loom& loom) {
    std::vector<AskedInput> out;
    // Names of columns that mean something else.
    std::set<std::string> taken{"preset", "n", "file"};
    collect(loom, out, taken);
    for (AskedInput& one : out) {
        one.control = wordOf(one.input);
        while (!taken.insert(one.control).second) one.control += "_input";
    }
    return out;
}

Control controlFor(const AskedInput& asked) {
    Control out;
    out.id = asked.control;
    out.label = fmt::format("{} (input)", asked.label);
    out.section = kSection;
    out.type = "file";
    out.fallback = asked.sample;
    out.help = fmt::format("Files that are plugged in as '{}'. Empty: the simple shape that stands in.", asked.input);
    return out;
}

/// Reads what is in a pack, and some files beside it.
class FilesBeside : public FileSource {
public:
    FilesBeside(Files pack, std::set<std::filesystem::path> beside) : pack_(std::move(pack)), beside_(std::move(beside)) {}
    Result<std::string> read(const std::filesystem::path& path, std::size_t most) const override { return of(path).read(path, most); }
    std::optional<FileStamp> stamp(const std::filesystem::path& path) const override { return of(path).stamp(path); }

private:
    const FileSource& of(const std::filesystem::path& path) const { return beside_.count(path) ? *diskFiles() : *pack_; }
    Files pack_;
    std::set<std::filesystem::path> beside_;
};

}  // namespace

Loom withInputsAsControls(const Loom& loom) {
    const std::vector<AskedInput> asked = askedIn(loom);
    if (asked.empty()) return loom;
    Loom out = loom;
    for (const AskedInput& one : asked) out.controls.push_back(controlFor(one));
    const SampleOf fromControl = [&](const std::string& input) -> std::optional<Json> {
        const auto it = std::find_if(asked.begin(), asked.end(), [&](const AskedInput& one) { return one.input == input; });
        return Json{{"control", it->control}};
    };
    for (Node& node : out.nodes) node = withSamples(std::move(node), fromControl);
    return out;
}

FitSubject withInputsAsControls(FitSubject subject) {
    subject.loom = std::make_shared<const Loom>(withInputsAsControls(*subject.loom));
    return subject;
}

Edit useVaried(const Loom& loom, const ControlValues& values) {
    Preset plain{"variation", {}, Json::object()};
    for (const auto& [id, value] : values)
        if (loom.control(id)) plain.values[id] = value;
    Edit out = applyPreset(loom, plain);
    std::map<std::string, Json> samples;
    for (const AskedInput& one : askedIn(loom))
        if (const auto it = values.find(one.control); it != values.end()) samples[one.input] = it->second;
    const SampleOf given = [&](const std::string& input) -> std::optional<Json> {
        const auto it = samples.find(input);
        return it == samples.end() ? std::nullopt : std::optional(it->second);
    };
    for (std::size_t i = 0; i < loom.nodes.size() && !samples.empty(); ++i)
        if (Node after = withSamples(loom.nodes[i], given); !(after == loom.nodes[i]))
            out.changes.push_back(ItemChange<Node>{i, loom.nodes[i], std::move(after)});
    return out;
}

void letReadFiles(FitSubject& pack, std::vector<Variation>& variations, const std::filesystem::path& folder) {
    std::set<std::filesystem::path> beside;
    for (Variation& variation : variations)
        for (auto& [id, value] : variation.given) {
            const Control* control = pack.loom->control(id);
            if (!control || control->type != "file" || !value.is_string()) continue;
            const std::string written = value.get<std::string>();
            if (written.empty() || pack.files->stamp(written)) continue;  // it is in the pack
            const std::filesystem::path path = (std::filesystem::absolute(folder) / written).lexically_normal();
            value = path.string();
            beside.insert(path);
        }
    if (!beside.empty()) pack.files = std::make_shared<FilesBeside>(pack.files, std::move(beside));
}

}  // namespace seedloom

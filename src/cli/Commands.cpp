#include "cli/Commands.h"

#include "cli/Ending.h"
#include "cli/PublishCall.h"
#include "cli/Reference.h"
#include "cli/SheetCall.h"
#include "cli/Summary.h"
#include "cli/VaryCall.h"
#include "engine/Engine.h"
#include "files/Version.h"
#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "geometry/ElementTransfer.h"
#include "graph/Controls.h"
#include "graph/LoomNotices.h"
#include "graph/OperatorSample.h"
#include "meshes/FrameFiles.h"
#include "meshes/MeshFile.h"
#include "operators/Catalogue.h"
#include "publish/FitCheck.h"
#include "render/RenderedPicture.h"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <CLI/CLI.hpp>

#include <chrono>
#include <cstdio>
#include <set>

namespace seedloom {

namespace {

constexpr double kFramesPerSecond = 24;

struct BuildOptions {
    std::string out, preset, at, frames, animate;
    std::vector<std::string> set;
    double frame = 0, timeLimit = 0;
    int threads = 0;
    std::uint64_t maxElements = Limits{}.elements;
};

bool isLoom(const std::string& file) { return std::filesystem::path(file).extension() == ".loom" || isPack(file); }

struct PictureOptions {
    std::string size = "960x720", quality = "final", ofOperator;
    double yaw = 32, pitch = 20;
    bool noGround = false;
};

/// One call of the command line.
class Call {
public:
    Call(std::ostream& out, std::ostream& err, std::atomic<bool>& stop) : out_(out), err_(err), stop_(stop) {}

    bool json = false;
    std::string file;

    int build(const BuildOptions& options) {
        if (!options.frames.empty() || !options.animate.empty()) return buildFrames(options);
        if (!options.out.empty() && !isWritable(options.out))
            throw Ending{kWrongCall, fmt::format("'{}': files with this ending can't be written. Those that can are: {}.", options.out,
                                                 fmt::join(writableEndings(), ", "))};
        if (options.threads < 0) throw Ending{kWrongCall, "--threads must be 0 (automatic) or more."};
        const TimeLimit limit(options.timeLimit, stop_);
        const auto start = std::chrono::steady_clock::now();
        Built built = buildLoom(options);
        Json summary = whole(start, built, false);
        const bool ok = summary["ok"].get<bool>();
        if (ok && !options.out.empty()) {
            warnOfSize(options.out, summary);
            if (const auto error = writeMesh(built_, options.out)) throw Ending{kUnreadable, error->text};
            summary["output"] = options.out;
        }
        print(summary);
        return ok ? kDone : kNodeFailed;
    }

    /// Said before the file is written, since that may take long.
    void warnOfSize(const std::string& path, Json& summary) {
        const FileEstimate estimate = estimateFile(built_, path);
        if (!estimate.baked || estimate.bytes < kLargeFileBytes) return;
        const std::string text = fmt::format("'{}' knows no copies, so they are baked: {} triangles, about {} MB. A .glb keeps them as copies.", path,
                                             estimate.triangles, estimate.bytes / 1'000'000);
        err_ << "seedloom-cli: " << text << "\n";
        summary["notices"].push_back({{"level", "warning"}, {"node", ""}, {"code", "file.large"}, {"text", text}});
    }

    /// A loom's or mesh's picture; `id` draws what an operator makes of something simple instead.
    int picture(const BuildOptions& options, const PictureOptions& wanted) {
        if (std::filesystem::path(options.out).extension() != ".png") throw Ending{kWrongCall, fmt::format("'{}': pictures are written as .png.", options.out)};
        RenderOptions render;
        const auto parsed = std::sscanf(wanted.size.c_str(), "%dx%d", &render.width, &render.height);
        if (parsed != 2 || render.width < 1 || render.height < 1 || render.width > 8192 || render.height > 8192)
            throw Ending{kWrongCall, "--size: write it as 960x720, each from 1 to 8192."};
        if (wanted.quality != "draft" && wanted.quality != "final") throw Ending{kWrongCall, "--quality must be draft or final."};
        render.samples = wanted.quality == "draft" ? 9 : 100;
        render.yaw = wanted.yaw, render.pitch = wanted.pitch;
        render.ground = !wanted.noGround;
        bool ok = true;
        if (!wanted.ofOperator.empty()) {
            if (!findOperator(wanted.ofOperator))
                throw Ending{kWrongCall, fmt::format("there is no operator '{}'. 'operators --ids' lists them.", wanted.ofOperator)};
            built_ = operatorSample(wanted.ofOperator);
        } else if (isLoom(file)) {
            ok = buildLoom(options).ok;
        } else {
            readModel();
        }
        if (built_.empty()) throw Ending{kNodeFailed, "there is nothing to draw: the result is empty."};
        try {
            if (const auto error = writePng(renderedPicture(built_, render, RunContext(&stop_)), options.out)) throw Ending{kUnreadable, error->text};
        } catch (const Cancelled&) {
            throw Ending{kStopped, "stopped before the picture was ready."};
        }
        if (json) out_ << Json{{"ok", ok}, {"file", file}, {"output", options.out}, {"notices", Json::array()}}.dump(2) << '\n';
        return ok ? kDone : kNodeFailed;
    }

    int info() {
        if (isLoom(file)) return build({});
        print(meshSummary(false));
        return kDone;
    }

    int check() {
        const auto start = std::chrono::steady_clock::now();
        Json summary = isLoom(file) ? whole(start, buildLoom({}), true) : meshSummary(true);
        const auto findings = soundnessFindings(summary["checkup"]);
        const bool sound = findings.empty() && summary["ok"].get<bool>();
        summary["ok"] = sound;
        summary["findings"] = findings;
        print(summary);
        if (!sound && !findings.empty()) err_ << fmt::format("seedloom-cli: {}: this is not a closed, sound solid: {}.\n", file, fmt::join(findings, "; "));
        return sound ? kDone : kNodeFailed;
    }

    int convert(const std::string& target) {
        if (!isWritable(target))
            throw Ending{kWrongCall,
                         fmt::format("'{}': files with this ending can't be written. Those that can are: {}.", target, fmt::join(writableEndings(), ", "))};
        Json summary = meshSummary(false);
        if (const auto error = writeMesh(built_, target)) throw Ending{kUnreadable, error->text};
        summary["output"] = target;
        print(summary);
        return kDone;
    }

    int operators(const std::string& id) {
        if (!id.empty() && !findOperator(id)) {
            std::vector<std::string> known;
            for (const OperatorSpec& s : catalogue()) known.push_back(s.id);
            throw Ending{kWrongCall, fmt::format("there is no operator '{}'. The nearest are: {}.", id, fmt::join(similarNames(id, known), ", "))};
        }
        if (json) out_ << operatorsJson(id).dump(2) << '\n';
        else out_ << operatorsText(id);
        return kDone;
    }

    int validate() {
        const FitSubject read = load();
        const auto problems = loomProblems(*read.loom, read.assets);
        Json list = Json::array();
        for (const LoomProblem& p : problems) {
            err_ << fmt::format("seedloom-cli: {}: {}{}{}\n", file, p.node, p.node.empty() ? "" : ": ", p.text);
            list.push_back({{"level", "error"}, {"node", p.node}, {"code", p.code}, {"text", p.text}});
        }
        for (const LoomNotice& n : loomNotices(*read.loom, read.assets)) {
            if (n.level == NoticeLevel::error) continue;  // a problem, and told as one
            list.push_back({{"level", n.level == NoticeLevel::warning ? "warning" : "info"}, {"node", n.node}, {"code", n.code}, {"text", n.text}});
            if (!json) out_ << fmt::format("{}: {}\n", file, n.text);
        }
        if (json) out_ << Json{{"ok", problems.empty()}, {"file", file}, {"notices", std::move(list)}}.dump(2) << '\n';
        else if (problems.empty()) out_ << fmt::format("{}: valid\n", file);
        return problems.empty() ? kDone : kUnreadable;
    }

    int format() {
        if (isPack(file)) throw Ending{kWrongCall, "a pack is written by publish. Format the loom that it is made from."};
        const FitSubject read = load();
        if (const auto error = writeLoom(withAssetsNoted(*read.loom, read.assets), file)) throw Ending{kUnreadable, error->text};
        if (json) out_ << Json{{"ok", true}, {"file", file}, {"notices", Json::array()}}.dump(2) << '\n';
        return kDone;
    }

    int fail(const Ending& ending) {
        err_ << fmt::format("seedloom-cli: {}{}{}\n", file, file.empty() ? "" : ": ", ending.text);
        if (json)
            out_ << Json{{"ok", false}, {"file", file}, {"notices", Json::array({{{"level", "error"}, {"node", ""}, {"text", ending.text}}})}}.dump(2) << '\n';
        return ending.status;
    }

private:
    /// The loom in the file, or in the pack, with what it uses.
    FitSubject load() {
        auto read = fitSubjectFrom(file);
        if (!read) throw Ending{kUnreadable, read.error().text};
        return std::move(*read);
    }

    void readModel() {
        if (!isReadable(file))
            throw Ending{std::filesystem::exists(file) ? kWrongCall : kUnreadable,
                         std::filesystem::exists(file) ? fmt::format("the ending is unknown. Known are: .loom, {}.", fmt::join(readableEndings(), ", "))
                                                       : "Can't open the file: it does not exist."};
        auto mesh = readMesh(file);
        if (!mesh) throw Ending{kUnreadable, mesh.error().text};
        built_ = std::move(*mesh);
    }
    Json meshSummary(bool everything) {
        const auto start = std::chrono::steady_clock::now();
        readModel();
        return whole(start, {}, everything);
    }

    ControlValues valuesFor(const Loom& loom, const BuildOptions& options) {
        ControlChoice choice{options.preset, {}};
        for (const std::string& pair : options.set) {
            const std::size_t equals = pair.find('=');
            if (equals == std::string::npos) throw Ending{kWrongCall, fmt::format("--set {}: write it as control=value.", pair)};
            const std::string id = pair.substr(0, equals);
            const Control* control = loom.control(id);
            if (!control) {
                if (loom.controls.empty()) throw Ending{kWrongCall, fmt::format("--set {}: this loom has no controls. Leave it out.", pair)};
                std::vector<std::string> known;
                for (const Control& c : loom.controls) known.push_back(c.id);
                throw Ending{kWrongCall,
                             fmt::format("--set {}: there is no control '{}'. There are: {}.", pair, id, fmt::join(similarNames(id, known, 20), ", "))};
            }
            auto value = controlValueFromText(*control, pair.substr(equals + 1));
            if (!value) throw Ending{kWrongCall, fmt::format("--set {}: {}", pair, value.error().text)};
            choice.given[id] = *value;
        }
        auto values = controlValues(loom, choice);
        if (values) return *values;
        const bool callers = values.error().code == "control.preset";
        throw Ending{callers ? kWrongCall : kUnreadable, values.error().text};
    }

    static void needWholeGraph(const Loom& loom, const Assets& assets) {
        for (const LoomProblem& p : loomProblems(loom, assets))
            if (p.code == "link.nowhere" || p.code == "graph.cycle" || p.code == "loom.output")
                throw Ending{kUnreadable, fmt::format("{}{}{}", p.node, p.node.empty() ? "" : ": ", p.text)};
    }

    struct Built {
        bool ok = true;
        Json nodes = Json::array();
        std::vector<Notice> notices;
    };

    Built buildLoom(const BuildOptions& options) {
        const RebuildRequest request = requestFor(options);
        Engine engine({.memoBytes = std::size_t(2) << 30, .workers = 1});
        return built(engine, request);
    }

    RebuildRequest requestFor(const BuildOptions& options) {
        const FitSubject read = load();
        const auto& loom = read.loom;
        const std::string target = options.at.empty() ? loom->output : options.at;
        if (!options.at.empty() && !loom->node(options.at)) {
            std::vector<std::string> known;
            for (const Node& n : loom->nodes) known.push_back(n.id);
            throw Ending{kWrongCall,
                         fmt::format("--at {}: there is no such node. The nearest are: {}.", options.at, fmt::join(similarNames(options.at, known), ", "))};
        }
        needWholeGraph(*loom, read.assets);
        if (target.empty()) throw Ending{kUnreadable, "the loom has no output. Add an output node, or name a node with --at."};
        RebuildRequest request;
        request.loom = loom;
        request.controls = valuesFor(*loom, options);
        request.folder = read.folder;
        request.files = read.files;
        request.assets = read.assets;
        request.secondsPerFrame = 1 / kFramesPerSecond;
        setFrame(request, options.frame);
        request.targets = {target};
        request.limits.elements = options.maxElements;
        request.threads = options.threads;
        request.cancel = &stop_;
        return request;
    }
    static void setFrame(RebuildRequest& request, double frame) {
        request.frame = frame;
        request.time = frame / kFramesPerSecond;
    }

    Built built(Engine& engine, const RebuildRequest& request) {
        const Loom& loom = *request.loom;
        const RebuildResult result = engine.build(request);
        if (result.cancelled) throw Ending{kStopped, "stopped before the model was ready."};
        if (const Geometry* geometry = result.geometry(request.targets.front())) built_ = *geometry;
        const auto notices = result.notices(loom);
        for (const Notice& n : notices)
            if (n.level == NoticeLevel::error || (n.level == NoticeLevel::warning && !json)) tellOnce(n);
        Json nodes = Json::array();
        for (const Node& node : loom.nodes)
            if (const auto it = result.nodes.find(node.id); it != result.nodes.end())
                nodes.push_back({{"id", node.id}, {"ms", it->second.ms}, {"state", stateName(it->second.state)}});
        return {!result.failed(), std::move(nodes), notices};
    }

    /// Frame after frame, as a file each or as one that moves.
    int buildFrames(const BuildOptions& options) {
        if (!options.frames.empty() && !options.animate.empty())
            throw Ending{kWrongCall, "--frames and --animate are two ways to write frames. Give one of them."};
        const bool together = !options.animate.empty();
        const FrameRange range = together ? frameRange("--animate", options.animate) : frameRange("--frames", options.frames);
        if (options.out.empty()) throw Ending{kWrongCall, "Where to? Name the file with --out."};
        if (const auto problem = problemOfName(options.out, together)) throw Ending{kWrongCall, problem->text};
        const TimeLimit limit(options.timeLimit, stop_);
        const auto start = std::chrono::steady_clock::now();
        RebuildRequest request = requestFor(options);
        Engine engine({.memoBytes = std::size_t(2) << 30, .workers = 1});
        FrameFiles files(options.out, together, 1 / kFramesPerSecond);
        Built last;
        for (int frame = range.from; frame <= range.to; ++frame) {
            setFrame(request, frame);
            last = built(engine, request);
            if (!last.ok) break;
            addFrame(files, frame);
        }
        Json summary = whole(start, last, false);
        if (last.ok) {
            if (const auto error = files.finish()) throw Ending{kUnreadable, error->text};
            if (!files.moved() && range.to > range.from) tellStill(range, summary);
        }
        summary["frames"] = {{"from", range.from}, {"to", range.to}, {"outputs", files.written()}};
        print(summary);
        if (!json)
            for (const std::string& path : files.written()) out_ << path << '\n';
        return last.ok ? kDone : kNodeFailed;
    }

    static FrameRange frameRange(const char* option, const std::string& text) {
        FrameRange out;
        int read = 0;
        const bool whole = std::sscanf(text.c_str(), "%9d..%9d%n", &out.from, &out.to, &read) == 2 && std::size_t(read) == text.size();
        if (!whole) throw Ending{kWrongCall, fmt::format("{} {}: write it as first..last, as 0..48.", option, text)};
        if (const auto problem = problemOf(out)) throw Ending{kWrongCall, fmt::format("{} {}: {}", option, text, problem->text)};
        return out;
    }

    void addFrame(FrameFiles& files, int frame) {
        try {
            if (const auto error = files.add(built_, frame, RunContext(&stop_)))
                throw Ending{error->code.starts_with("animate") ? kNodeFailed : kUnreadable, error->text};
        } catch (const Cancelled&) {
            throw Ending{kStopped, "stopped before all frames were ready."};
        }
    }

    void tellStill(FrameRange range, Json& summary) {
        const std::string text =
            fmt::format("nothing moves from frame {} to {}. Where a node keeps one of its frames, let it follow them: At frame at -1.", range.from, range.to);
        err_ << "seedloom-cli: " << file << ": " << text << "\n";
        summary["notices"].push_back({{"level", "warning"}, {"node", ""}, {"code", "animate.still"}, {"text", text}});
    }

    /// The same is not told for each frame.
    void tellOnce(const Notice& n) {
        if (told_.insert(n.node + '\n' + n.text).second) tellNotice(n);
    }

    /// With what would help, as it would be written.
    void tellNotice(const Notice& n) {
        err_ << fmt::format("seedloom-cli: {}: {}: {}\n", file, n.node, n.text);
        for (const NoticeFix& fix : n.fixes)
            if (fix.kind != NoticeFix::Kind::show) err_ << fmt::format("    what helps: {}\n", fix.label);
    }

    Json whole(std::chrono::steady_clock::time_point start, Built built, bool everything) {
        Json summary;
        try {
            summary = summaryOf(built_, everything, RunContext(&stop_));
        } catch (const Cancelled&) {
            throw Ending{kStopped, "stopped before the summary was ready."};
        }
        Json out{{"ok", built.ok}, {"file", file}, {"seconds", std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count()}};
        for (const char* key : {"counts", "bounds", "attributes", "checkup"}) out[key] = summary[key];
        out["nodes"] = std::move(built.nodes);
        out["notices"] = noticesJson(built.notices);
        out["digest"] = summary["digest"];
        return out;
    }

    void print(const Json& summary) {
        if (json) out_ << summary.dump(2, ' ', false, Json::error_handler_t::replace) << '\n';
        else out_ << file << '\n' << summaryText(summary);
    }

    std::ostream &out_, &err_;
    std::atomic<bool>& stop_;
    Geometry built_;
    std::set<std::string> told_;
};

}  // namespace

int runCommandLine(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err, std::atomic<bool>& stop) {
    CLI::App app{"Builds Seed Loom models without a window."};
    app.name("seedloom-cli");
    app.set_version_flag("--version", fmt::format("seedloom-cli {}", kVersion));
    app.require_subcommand(1);
    Call call(out, err, stop);
    BuildOptions options;
    std::string target, id;
    const auto command = [&](const char* name, const char* help) {
        CLI::App* sub = app.add_subcommand(name, help);
        sub->add_flag("--json", call.json, "Print one JSON object on standard output, and nothing else there");
        return sub;
    };
    CLI::App* build = command("build", "Rebuild a loom and write the model");
    build->add_option("file", call.file, "A .loom file")->required();
    build->add_option("-o,--out", options.out, "Where to write: .glb .gltf .obj .ply .stl");
    build->add_option("--set", options.set, "A control's value, as height=0.6; vectors as x,y,z")->take_all();
    build->add_option("--preset", options.preset, "Use the values of this preset");
    build->add_option("--frame", options.frame, "The frame to build; time is frame / 24 s");
    build->add_option("--frames", options.frames, "A file for each of these frames, as 0..48; the name in --out has #### for their numbers");
    build->add_option("--animate", options.animate, "One .glb of these frames, as 0..48, in which pieces and copies move");
    build->add_option("--at", options.at, "Give the result of this node instead of the output");
    build->add_option("--threads", options.threads, "How many threads to use; 0 means all");
    build->add_option("--time-limit", options.timeLimit, "Stop after so many seconds (exit status 4)");
    build->add_option("--max-elements", options.maxElements, "The most points or corners that one node may make");
    PictureOptions wanted;
    CLI::App* picture = command("picture", "Draw a loom or mesh with light and shadow, without a display");
    picture->add_option("file", call.file, "A .loom or mesh file");
    picture->add_option("-o,--out", options.out, "Where to write: .png")->required();
    picture->add_option("--size", wanted.size, "Width and height in pixels, as 960x720");
    picture->add_option("--quality", wanted.quality, "draft or final");
    picture->add_option("--at", options.at, "Draw the result of this node instead of the output");
    picture->add_option("--set", options.set, "A control's value, as height=0.6; vectors as x,y,z")->take_all();
    picture->add_option("--preset", options.preset, "Use the values of this preset");
    picture->add_option("--frame", options.frame, "The frame to build");
    picture->add_option("--yaw", wanted.yaw, "Direction to look from, in degrees around the upright axis");
    picture->add_option("--pitch", wanted.pitch, "Degrees above the ground");
    picture->add_flag("--no-ground", wanted.noGround, "No floor that catches the shadow");
    picture->add_option("--operator", wanted.ofOperator, "")->group("");  // for scripts/update-reference
    CLI::App* info = command("info", "Tell counts, size, attributes and soundness of a mesh or loom");
    info->add_option("file", call.file, "A mesh or .loom file")->required();
    CLI::App* check = command("check", "Tell whether a mesh is a closed, sound solid (exit status 3 where not)");
    check->add_option("file", call.file, "A mesh or .loom file")->required();
    CLI::App* convert = command("convert", "Write a mesh in another format");
    convert->add_option("in", call.file, "The mesh to read")->required();
    convert->add_option("out", target, "The mesh to write")->required();
    CLI::App* operators = command("operators", "List the operators and their settings");
    operators->add_option("id", id, "Only this operator");
    bool ids = false;
    operators->add_flag("--ids", ids, "Only the ids, one a line");
    CLI::App* reference = app.add_subcommand("reference", "")->group("");  // for scripts/update-reference
    bool schema = false;
    reference->add_flag("--schema", schema);
    CLI::App* validate = command("validate", "Check a loom's structure and names without building it");
    validate->add_option("file", call.file, "A .loom file")->required();
    PublishOptions publishing;
    double publishLimit = 0;
    CLI::App* publish = command("publish", "Check a loom at many settings of its controls and write it as a pack (exit status 3 where it is not fit)");
    publish->add_option("file", publishing.file, "A .loom file")->required();
    publish->add_option("-o,--out", publishing.out, "Where to write: .loompack");
    publish->add_flag("--check-only", publishing.checkOnly, "Write nothing");
    publish->add_flag("--open", publishing.open, "Open surfaces are meant, and no fault");
    publish->add_flag("--shrink", publishing.shrink, "Look for the smallest change from the defaults that fails as the first fault does");
    publish->add_option("--random", publishing.random, "How many settings of all controls at once to try, beside defaults, presets, ends and pairs of ends");
    publish->add_option("--seed", publishing.seed, "Another number gives other random settings");
    publish->add_option("--max-triangles", publishing.mostTriangles, "More triangles than these are a fault");
    publish->add_option("--threads", publishing.threads, "How many settings to try at the same time; 0 means as many as the machine has");
    publish->add_option("--time-limit", publishLimit, "Stop after so many seconds (exit status 4)");
    publish->add_option("--sheet", publishing.sheet, "Also write its sheet (sheet.html, sheet.png) into this folder, and into the pack");
    SheetCallOptions sheeting;
    double sheetLimit = 0;
    CLI::App* sheet = command("sheet", "Write one page that shows an asset: each control, presets, figures");
    sheet->add_option("file", sheeting.file, "A .loom or .loompack file")->required();
    sheet->add_option("-o,--out", sheeting.out, "Where to write: .html or .png")->required();
    sheet->add_option("--threads", sheeting.threads, "How many settings to build at the same time; 0 means as many as the machine has");
    sheet->add_option("--time-limit", sheetLimit, "Stop after so many seconds (exit status 4)");
    VaryCallOptions varying;
    double varyLimit = 0;
    CLI::App* vary = command("vary", "Make many variations of a loom into a folder, with an index and a contact sheet (exit status 3 where one fails)");
    vary->add_option("file", varying.file, "A .loom or .loompack file")->required();
    vary->add_option("--out-dir", varying.outDir, "The folder for models, pictures, index.csv, contact.png and contact.html");
    vary->add_option("--count", varying.count, "So many settings of all controls that cover their ranges evenly");
    vary->add_option("--seed", varying.seed, "Another number gives other settings");
    vary->add_option("--table", varying.table, "A table (.csv): its first line names controls, each further one is a variation");
    vary->add_option("--grid", varying.grid, "A control's values, as height=0.6:1.6:4 or kind=round,square; several make all combinations");
    vary->add_option("--format", varying.format, "glb, gltf, obj, ply, stl, or none for the index and pictures only");
    vary->add_option("--pattern", varying.pattern, "Names of files: {name}, {n}, {preset} and ids of controls");
    vary->add_option("--jobs", varying.jobs, "How many to make at the same time; 0 means as many as the machine has threads");
    vary->add_flag("--resume", varying.resume, "Go on in a folder that holds variations already");
    vary->add_flag("--list", varying.list, "Print a command for each variation, one a line, instead of making them");
    vary->add_flag("--gather", varying.gather, "Only write index and contact sheets of what is done in the folder");
    vary->add_flag("--no-pictures", varying.noPictures, "No small pictures");
    vary->add_option("--row", varying.row, "Make this variation alone, with the values of --set; for lines of --list");
    vary->add_option("--set", varying.set, "With --row: a control's value, as height=0.6; vectors as x,y,z")->take_all();
    vary->add_option("--preset", varying.preset, "With --row: the values of this preset");
    vary->add_option("--time-limit", varyLimit, "Stop after so many seconds (exit status 4)");
    CLI::App* format = command("format", "Write a loom anew as the application saves it: stable order, one setting a line");
    format->add_option("file", call.file, "A .loom file")->required();
    try {
        app.parse(std::vector<std::string>(arguments.rbegin(), arguments.rend()));
    } catch (const CLI::ParseError& error) {
        const int status = app.exit(error, out, err);
        return status == 0 ? kDone : kWrongCall;
    }
    try {
        if (*build) return call.build(options);
        if (*picture) {
            if (call.file.empty() && wanted.ofOperator.empty()) throw Ending{kWrongCall, "picture: name a .loom or mesh file."};
            return call.picture(options, wanted);
        }
        if (*info) return call.info();
        if (*check) return call.check();
        if (*convert) return call.convert(target);
        if (*operators && ids) {
            for (const OperatorSpec& spec : catalogue()) out << spec.id << '\n';
            return kDone;
        }
        if (*operators) return call.operators(id);
        if (*reference) {
            out << (schema ? loomSchema() : operatorReference());
            return kDone;
        }
        if (*format) return call.format();
        // Those that stand in files of their own.
        const auto own = [&](auto& asked, double seconds, auto&& run) {
            call.file = asked.file;
            asked.json = call.json;
            const TimeLimit limit(seconds, stop);
            return run();
        };
        if (*publish) return own(publishing, publishLimit, [&] { return publishCall(publishing, out, err, stop); });
        if (*sheet) return own(sheeting, sheetLimit, [&] { return sheetCall(sheeting, out, stop); });
        if (*vary) return own(varying, varyLimit, [&] { return varyCall(varying, out, err, stop); });
        return call.validate();
    } catch (const Ending& ending) {
        return call.fail(ending);
    } catch (const std::bad_alloc&) {
        return call.fail({kStopped, "there is not enough memory for this."});
    }
}

}  // namespace seedloom

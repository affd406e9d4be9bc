#include "publish/Publish.h"

#include "files/PackWriter.h"
#include "files/Version.h"
#include "formats/AssetShelf.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"
#include "render/RenderedPicture.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr const char* kFilesFolder = "files/";

/// Collects what a loom reads, and gives it the names that it has in the pack.
class Packing {
public:
    explicit Packing(const FitSubject& subject) : subject_(subject) {}

    std::optional<Error> run() {
        files[kPackedLoom] = loomToText(packedLoom(*subject_.loom, subject_.folder, kFilesFolder));
        return problem_;
    }

    std::map<std::string, std::string> files;

private:
    /// The loom with paths as they are in the pack; those of an asset start at the folder of all files, where it lies itself.
    Loom packedLoom(const Loom& loom, const std::filesystem::path& folder, const std::string& prefix) {
        return PathMove(loom, [&](const std::string& written) { return packed(folder / written, prefix); })(loom);
    }

    /// Where the file is in the pack, as written in a loom whose paths need `prefix` before them.
    std::string packed(const std::filesystem::path& file, const std::string& prefix) {
        const std::string full = file.lexically_normal().string();
        auto it = names_.find(full);
        if (it == names_.end()) {
            it = names_.emplace(full, freeName(file.filename().string())).first;
            add(full, it->second);
        }
        return prefix + it->second;
    }

    void add(const std::string& full, const std::string& name) {
        auto bytes = subject_.files->read(full);
        if (!bytes) {
            if (!problem_) problem_ = Error{"pack.file", fmt::format("A file that the loom reads can't be packed. {}", bytes.error().text)};
            return;
        }
        if (std::filesystem::path(full).extension() == ".loom")
            if (const auto inner = loomFromText(*bytes)) bytes = loomToText(packedLoom(*inner, std::filesystem::path(full).parent_path(), {}));
        files[kFilesFolder + name] = std::move(*bytes);
    }

    std::string freeName(const std::string& wanted) {
        const std::filesystem::path path = wanted;
        std::string name = wanted;
        for (int i = 2; !taken_.insert(name).second; ++i) name = fmt::format("{}-{}{}", path.stem().string(), i, path.extension().string());
        return name;
    }

    const FitSubject& subject_;
    std::map<std::string, std::string> names_;  ///< in the pack, by full path
    std::set<std::string> taken_;
    std::optional<Error> problem_;
};

Result<Geometry> defaultsOf(const FitSubject& subject, const std::atomic<bool>* cancel) {
    auto values = controlValues(*subject.loom);
    if (!values) return values.error();
    RebuildRequest request = subject.request(std::move(*values));
    request.cancel = cancel;
    Memo memo;
    const RebuildResult result = rebuild(request, memo);
    if (result.cancelled) return Error{"pack.cancelled", "Publishing was cancelled."};
    const Geometry* built = result.geometry(subject.loom->output);
    return built ? Result<Geometry>(*built) : Error{"pack.build", "At its defaults the loom builds nothing. Mend the nodes that fail, then publish."};
}

std::string manifestOf(const Loom& loom, const Digest& defaults) {
    const AssetAbout about = aboutOf(loom);
    std::vector<std::string> controls;
    for (const Control& control : loom.controls) controls.push_back(control.id);
    return Json{{"loompack", kPackFormat},
                {"name", about.name},
                {"version", about.version},
                {"summary", about.summary},
                {"author", about.author},
                {"licence", about.licence},
                {"tags", about.tags},
                {"inputs", pluggedNamesIn(loom)},
                {"controls", controls},
                {"seedloom", kVersion},
                {"digests", {{"defaults", defaults.hex()}}}}
               .dump(2) +
           "\n";
}

std::optional<Error> addPicture(const Geometry& model, std::map<std::string, std::string>& files, const std::atomic<bool>* cancel) {
    if (model.empty()) return {};
    RenderOptions options;
    options.width = 480, options.height = 320;
    try {
        auto bytes = pngBytes(renderedPicture(model, options, RunContext(cancel)));
        if (!bytes) return bytes.error();
        files[kPackedPicture] = std::move(*bytes);
        return {};
    } catch (const Cancelled&) {
        return Error{"pack.cancelled", "Publishing was cancelled."};
    }
}

}  // namespace

std::optional<Error> publishProblem(const Loom& loom) {
    const AssetAbout about = aboutOf(loom);
    if (about.name.empty()) return Error{"publish.name", "An asset needs a name. Give the loom one."};
    if (!isVersion(about.version)) return Error{"publish.version", "An asset needs a version of three whole numbers, as 1.0.0."};
    if (!loom.node(loom.output)) return Error{"publish.output", "The loom has no output, so an asset of it would give nothing. Add an Output node."};
    return {};
}

std::vector<std::string> publishAdvice(const Loom& loom) {
    const AssetAbout about = aboutOf(loom);
    std::vector<std::string> out;
    if (about.summary.empty()) out.push_back("It has no summary: one sentence that says what it is for.");
    if (about.author.empty()) out.push_back("It has no author.");
    if (about.licence.empty()) out.push_back("It has no licence, so nobody knows what they may do with it.");
    if (about.tags.empty()) out.push_back("It has no tags, so it is found by its name only.");
    if (loom.controls.empty()) out.push_back("It has no controls, so nothing about it can be changed.");
    if (loom.presets.empty() && !loom.controls.empty()) out.push_back("It has no presets to start from.");
    for (const Control& control : loom.controls)
        if (control.help.empty()) out.push_back(fmt::format("The control {} has no help.", control.label));
    return out;
}

Result<std::string> publishedPack(const FitSubject& subject, const std::atomic<bool>* cancel, const std::map<std::string, std::string>& beside) {
    if (auto problem = publishProblem(*subject.loom)) return *problem;
    // Its values in use are those of whoever made it; an asset starts at its defaults.
    FitSubject plain = subject;
    plain.loom = asPublished(subject.loom);
    const auto model = defaultsOf(plain, cancel);
    if (!model) return model.error();
    Packing packing(plain);
    if (auto problem = packing.run()) return *problem;
    const Digest digest = digestOf(*model);
    packing.files[kPackedManifest] = manifestOf(*plain.loom, digest);
    if (auto problem = addPicture(*model, packing.files, cancel)) return *problem;
    packing.files.insert(beside.begin(), beside.end());
    auto bytes = packedBytes(packing.files);
    if (!bytes) return bytes.error();
    // What others get is tried, not what it was made from.
    const auto again = fitSubjectFromPack(*bytes, "the new pack");
    if (!again) return again.error();
    const auto copy = defaultsOf(*again, cancel);
    if (!copy) return copy.error();
    if (digestOf(*copy) != digest)
        return Error{"pack.differs", "Built from the pack, the model is another one than before, so the pack was not written. Please report this."};
    return bytes;
}

}  // namespace seedloom

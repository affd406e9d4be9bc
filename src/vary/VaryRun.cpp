#include "vary/VaryRun.h"

#include "files/Version.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "meshes/MeshFile.h"
#include "publish/TrialBuilds.h"
#include "render/Thumbnail.h"

#include <fmt/format.h>

#include <mutex>

namespace seedloom {

namespace {

constexpr int kPictureWide = 192, kPictureHigh = 144;

/// Of all that every row is made from: the loom without the values that somebody has in use, the files that it names, its assets, the kind of results.
Digest commonKey(const FitSubject& subject, const VaryOptions& options) {
    Digester digester;
    Loom plain = *subject.loom;
    plain.values.clear();
    digester.add(loomToText(plain));
    PathMove(plain, [&](const std::string& written) {
        const auto stamp = subject.files->stamp(std::filesystem::path(subject.folder) / written);
        digester.add(fmt::format("{}|{}|{}", written, stamp ? stamp->time : 0, stamp ? stamp->size : 0));
        return written;
    })(plain);
    if (subject.assets)
        for (const auto& [file, inside] : subject.assets->byFile) {
            digester.add(file);
            if (inside) digester.add(loomToText(*inside.loom));
            digester.add(inside.filesDigest.hex());
        }
    digester.add(std::string_view(kVersion));
    digester.add(options.ending + "|" + options.pattern + "|" + (options.pictures ? "pictures" : ""));
    return digester.finish();
}

class VaryMaker {
public:
    VaryMaker(const FitSubject& subject, const VaryFolder& folder, const VaryOptions& options)
        : folder_(folder), options_(options), fit_(fitOf(options)), builds_(subject, fit_), common_(commonKey(subject, options)) {}

    VaryOutcome run(const std::vector<Variation>& variations, std::size_t first) {
        sideBySide(variations.size(), options_.jobs, [&](std::size_t i) {
            if (!ended()) make(variations[i], first + i);
        });
        std::sort(out_.rows.begin(), out_.rows.end(), [](const VaryRow& a, const VaryRow& b) { return a.number < b.number; });
        return std::move(out_);
    }

private:
    static FitOptions fitOf(const VaryOptions& options) {
        FitOptions out;
        out.memoBytes = options.memoBytes;
        out.cancel = options.cancel;
        return out;
    }

    bool ended() {
        if (options_.cancel && *options_.cancel) return true;
        const std::lock_guard lock(mutex_);
        return out_.problem.has_value();
    }

    std::string keyOf(const Variation& variation) const {
        Digester digester;
        digester.add(common_.hex());
        digester.add(variation.preset + "|" + Json(variation.given).dump());
        return digester.finish().hex();
    }

    bool stands(const VaryRow& row, const std::string& key) const {
        const auto there = [&](const std::string& name) { return name.empty() || std::filesystem::exists(folder_ / name); };
        return row.key == key && there(row.file) && there(row.picture);
    }

    void make(const Variation& variation, std::size_t number) {
        const std::string key = keyOf(variation);
        if (auto before = folder_.done(number); before && stands(*before, key)) return tell(std::move(*before), false);
        const auto claim = folder_.claim(number);
        if (!claim) {
            const std::lock_guard lock(mutex_);
            ++out_.elsewhere;
            return;
        }
        // Another program may have made it between the look and the claim.
        if (auto before = folder_.done(number); before && stands(*before, key)) return tell(std::move(*before), false);
        VaryRow row;
        row.number = number, row.variation = variation, row.key = key;
        if (!build(row)) return;
        if (auto error = folder_.finish(row)) return end(std::move(*error));
        tell(std::move(row), true);
    }

    /// False where it was cancelled, or nothing can be written any more.
    bool build(VaryRow& row) {
        RebuildResult result;
        const Trial trial{Trial::Kind::random, row.variation.preset, row.variation.given};
        const Verdict verdict = builds_.build(trial, 1, result);
        if (verdict.state == Verdict::State::waiting) return false;
        row.values = valuesOf(row.variation);
        row.ok = verdict.state != Verdict::State::failed;
        row.ms = verdict.ms;
        if (!verdict.faults.empty()) row.problem = verdict.faults.front();
        const Geometry* model = result.geometry(builds_.loom().output);
        if (!model || verdict.state == Verdict::State::failed) return true;
        try {
            return describe(row, *model) && write(row, *model);
        } catch (const Cancelled&) {
            return false;
        } catch (const std::bad_alloc&) {
            row.ok = false;
            row.problem = "There is not enough memory to write it.";
            return true;
        }
    }

    /// Of all controls; those that can't be had together are told all the same.
    ControlValues valuesOf(const Variation& variation) const {
        if (auto values = controlValues(builds_.loom(), {variation.preset, variation.given})) return std::move(*values);
        ControlValues out;
        if (auto defaults = controlValues(builds_.loom())) out = std::move(*defaults);
        if (const Preset* preset = builds_.loom().preset(variation.preset))
            for (const auto& [id, value] : preset->values) out[id] = value;
        for (const auto& [id, value] : variation.given) out[id] = value;
        return out;
    }

    bool describe(VaryRow& row, const Geometry& model) const {
        const ElementCounts counts = bakedCounts(model);
        row.points = counts.points, row.faces = counts.faces, row.triangles = counts.triangles;
        row.digest = digestOf(model).hex();
        const Vec3 size = boundsOf(model).size();
        row.size = {size.x, size.y, size.z};
        if (counts.faces == 0 || !bakesEasily(model)) return true;
        const Geometry whole = bakeCopies(model);
        row.closed = isClosed(whole);
        if (row.closed) row.volume = signedVolume(whole);
        return true;
    }
    static bool isClosed(const Geometry& whole) {
        const auto& edges = whole.topology().edges();
        return std::none_of(edges.faceCount.begin(), edges.faceCount.end(), [](auto faces) { return faces == 1; });
    }

    bool write(VaryRow& row, const Geometry& model) {
        if (!options_.ending.empty()) {
            const auto name = variationName(options_.pattern, builds_.loom(), row.number, row.variation, row.values);
            if (!name) return end(name.error()), false;
            row.file = *name + options_.ending;
            if (auto error = writeMesh(model, folder_ / row.file)) return end(std::move(*error)), false;
        }
        if (!options_.pictures || model.empty()) return true;
        ThumbnailOptions look;
        look.width = kPictureWide, look.height = kPictureHigh;
        row.picture = folder_.pictureName(row.number);
        if (auto error = writePng(thumbnail(model, look, RunContext(options_.cancel)), folder_ / row.picture)) return end(std::move(*error)), false;
        return true;
    }

    void end(Error error) {
        const std::lock_guard lock(mutex_);
        if (!out_.problem) out_.problem = std::move(error);
    }

    void tell(VaryRow row, bool made) {
        const std::lock_guard lock(mutex_);
        ++(made ? out_.made : out_.kept);
        if (options_.onRow) options_.onRow(row);
        out_.rows.push_back(std::move(row));
    }

    const VaryFolder& folder_;
    const VaryOptions& options_;
    FitOptions fit_;
    TrialBuilds builds_;
    const Digest common_;
    std::mutex mutex_;
    VaryOutcome out_;
};

}  // namespace

VaryOutcome vary(const FitSubject& subject, const std::vector<Variation>& variations, std::size_t first, const VaryFolder& folder, const VaryOptions& options) {
    return VaryMaker(subject, folder, options).run(variations, first);
}

}  // namespace seedloom

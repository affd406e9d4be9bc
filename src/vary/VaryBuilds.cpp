#include "vary/VaryBuilds.h"

#include "files/Version.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "render/Thumbnail.h"

#include <fmt/format.h>
#include <tbb/task_arena.h>

namespace seedloom {

namespace {

void addFile(Digester& to, const std::string& written, const FileSource& files, const std::filesystem::path& folder) {
    const auto stamp = files.stamp(folder / written);
    to.add(fmt::format("{}|{}|{}", written, stamp ? stamp->time : 0, stamp ? stamp->size : 0));
}

/// Of all that every variation is made from: the loom without the values that somebody has in use, its presets, and where its cards lie; the files that it
/// names, its assets.
Digest commonKey(const FitSubject& subject) {
    Digester digester;
    Loom plain = *subject.loom;
    plain.values.clear();
    plain.presets.clear();
    plain.notes.clear();
    for (Node& node : plain.nodes) node.cell = {};
    digester.add(loomToText(plain));
    PathMove(plain, [&](const std::string& written) {
        addFile(digester, written, *subject.files, subject.folder);
        return written;
    })(plain);
    if (subject.assets)
        for (const auto& [file, inside] : subject.assets->byFile) {
            digester.add(file);
            if (inside) digester.add(loomToText(*inside.loom));
            digester.add(inside.filesDigest.hex());
        }
    digester.add(std::string_view(kVersion));
    return digester.finish();
}

FitOptions optionsOf(std::size_t memoBytes, const std::atomic<bool>* cancel) {
    FitOptions out;
    out.memoBytes = memoBytes;
    out.cancel = cancel;
    return out;
}

bool isClosed(const Geometry& whole) {
    const auto& edges = whole.topology().edges();
    return std::none_of(edges.faceCount.begin(), edges.faceCount.end(), [](auto faces) { return faces == 1; });
}

void describe(VaryRow& row, const Geometry& model) {
    const ElementCounts counts = bakedCounts(model);
    row.points = counts.points, row.faces = counts.faces, row.triangles = counts.triangles;
    row.digest = digestOf(model).hex();
    const Vec3 size = boundsOf(model).size();
    row.size = {size.x, size.y, size.z};
    if (counts.faces == 0 || !bakesEasily(model)) return;
    const Geometry whole = bakeCopies(model);
    row.closed = isClosed(whole);
    if (row.closed) row.volume = signedVolume(whole);
}

}  // namespace

VaryBuilds::VaryBuilds(const FitSubject& subject, std::size_t memoBytes, const std::atomic<bool>* cancel)
    : cancel_(cancel), fit_(optionsOf(memoBytes, cancel)), folder_(subject.folder), files_(subject.files), builds_(subject, fit_), common_(commonKey(subject)) {
}

void VaryBuilds::addFiles(Digester& to, const ControlValues& values) const {
    for (const auto& [id, value] : values) {
        const Control* control = loom().control(id);
        if (control && control->type == "file" && value.is_string()) addFile(to, value.get<std::string>(), *files_, folder_);
    }
}

Digest VaryBuilds::keyOf(const Variation& variation) const {
    Digester digester;
    digester.add(common_.hex());
    const auto textOf = [](const ControlValues& values) { return Json(values).dump(-1, ' ', false, Json::error_handler_t::replace); };
    const Preset* preset = loom().preset(variation.preset);
    digester.add(variation.preset + "|" + (preset ? textOf(preset->values) : std::string()) + "|" + textOf(variation.given));
    if (preset) addFiles(digester, preset->values);
    addFiles(digester, variation.given);
    return digester.finish();
}

bool VaryBuilds::build(VaryRow& row, const Use& use) {
    RebuildResult result;
    const Trial trial{Trial::Kind::random, row.variation.preset, row.variation.given};
    const Verdict verdict = builds_.build(trial, 1, result);
    if (verdict.state == Verdict::State::waiting) return false;
    row.values = valuesOf(row.variation);
    row.ok = verdict.state != Verdict::State::failed;
    row.ms = verdict.ms;
    row.problem = verdict.faults.empty() ? std::string() : verdict.faults.front();
    const Geometry* model = result.geometry(loom().output);
    if (!model || !row.ok) return true;
    try {
        // On this thread only, as the build itself: the others have variations of their own to make.
        tbb::task_arena alone(1);
        alone.execute([&] {
            describe(row, *model);
            use(*model);
        });
    } catch (const Cancelled&) {
        return false;
    } catch (const std::bad_alloc&) {
        row.ok = false;
        row.problem = "There is not enough memory to look at it, or to write it.";
    }
    return true;
}

/// Of all controls; those that can't be had together are told all the same.
ControlValues VaryBuilds::valuesOf(const Variation& variation) const {
    if (auto values = controlValues(loom(), {variation.preset, variation.given})) return std::move(*values);
    ControlValues out;
    if (auto defaults = controlValues(loom())) out = std::move(*defaults);
    if (const Preset* preset = loom().preset(variation.preset))
        for (const auto& [id, value] : preset->values) out[id] = value;
    for (const auto& [id, value] : variation.given) out[id] = value;
    return out;
}

Picture variationPicture(const Geometry& model, int wide, int high, double yaw, double pitch, const std::atomic<bool>* cancel) {
    ThumbnailOptions look;
    look.width = wide, look.height = high;
    look.yaw = yaw, look.pitch = pitch;
    return thumbnail(model, look, RunContext(cancel));
}

}  // namespace seedloom

#include "sweep/Trials.h"

#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/SelfIntersections.h"

#include <fmt/format.h>

#include <chrono>
#include <random>

namespace seedloom::test {

namespace {

/// What a control may be set to at its ends.
std::vector<Json> endsOf(const Control& control) {
    if (control.type == "boolean") return {false, true};
    if (control.type == "choice") return {control.choices.begin(), control.choices.end()};
    if (control.type == "text") return {"", "W", "Pier 7 & Sluice \"Öst\""};
    std::vector<Json> out;
    const bool whole = control.type == "integer";
    for (const auto& end : {control.min, control.max})
        if (end) out.push_back(whole ? Json(std::int64_t(*end)) : Json(*end));
    return out;
}

/// A part from 0 to 1 of what random bits there are: the same with any standard library.
double part(std::mt19937& random) { return double(random()) / double(std::mt19937::max()); }

Json anyOf(const Control& control, std::mt19937& random) {
    if ((control.type == "number" || control.type == "integer") && control.min && control.max) {
        const double value = *control.min + part(random) * (*control.max - *control.min);
        return control.type == "integer" ? Json(std::llround(value)) : Json(value);
    }
    const std::vector<Json> all = endsOf(control);
    return all.empty() ? Json() : all[std::min(std::size_t(part(random) * double(all.size())), all.size() - 1)];
}

void add(std::vector<std::string>& to, std::size_t count, const char* what) {
    if (count > 0) to.push_back(fmt::format("{} {}", count, what));
}

std::vector<std::string> faultsOf(const Geometry& built) {
    const Geometry baked = bakeCopies(built);
    const Checkup c = checkupOf(baked);
    std::vector<std::string> out;
    if (baked.faceCount() == 0) return {"no faces"};
    add(out, c.openEdges, "open edges");
    add(out, c.nonmanifoldEdges, "edges of more than two faces");
    add(out, c.nonmanifoldPoints, "points where parts only touch");
    add(out, c.degenerateFaces, "faces without area");
    add(out, c.nonFinitePoints, "points nowhere");
    if (!c.consistentWinding) out.push_back("uneven winding");
    if (c.closed && !(c.volume > 0)) out.push_back(fmt::format("volume {:g}", c.volume));
    add(out, crossingsOf(baked).pairs, "pairs of faces that cross");
    return out;
}

}  // namespace

std::string Trial::text() const { return given.empty() ? preset.empty() ? "defaults" : preset : Json(given).dump(); }

std::vector<Trial> trialsOf(const Loom& loom, int random, unsigned seed) {
    std::vector<Trial> out{{}};
    for (const Preset& preset : loom.presets) out.push_back({preset.name, {}});
    for (const Control& control : loom.controls)
        for (const Json& end : endsOf(control)) out.push_back({{}, {{control.id, end}}});
    std::mt19937 numbers(seed);
    for (int i = 0; i < random; ++i) {
        Trial trial;
        for (const Control& control : loom.controls)
            if (Json value = anyOf(control, numbers); !value.is_null()) trial.given[control.id] = std::move(value);
        out.push_back(std::move(trial));
    }
    return out;
}

TriedDemo::TriedDemo(const std::filesystem::path& file) : folder_(file.parent_path()) {
    auto read = readLoom(file);
    if (read) loom_ = std::make_shared<const Loom>(std::move(*read));
    else error_ = read.error().text;
}

Verdict TriedDemo::judge(const Trial& trial) const {
    Verdict out;
    RebuildRequest request;
    request.loom = loom_;
    request.folder = folder_;
    request.assets = assetsOf(*loom_, request.folder);
    request.targets = {loom_->output};
    auto values = controlValues(*loom_, {trial.preset, trial.given});
    if (!values) {
        out.faults.push_back(values.error().text);
        return out;
    }
    request.controls = std::move(*values);
    Memo memo;
    const auto begun = std::chrono::steady_clock::now();
    const RebuildResult result = rebuild(request, memo);
    out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    for (const Notice& notice : result.notices(*loom_))
        if (notice.level != NoticeLevel::info) out.faults.push_back(notice.node + ": " + notice.text);
    const Geometry* built = result.geometry(loom_->output);
    if (!built) out.faults.push_back("nothing was built");
    else
        for (std::string& fault : faultsOf(*built)) out.faults.push_back(std::move(fault));
    return out;
}

}  // namespace seedloom::test

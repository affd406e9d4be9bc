#include "publish/TrialBuilds.h"

#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/SelfIntersections.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

void add(std::vector<std::string>& to, std::size_t count, const char* what) {
    if (count > 0) to.push_back(fmt::format("{} {}", count, what));
}

std::vector<std::string> faultsOf(const Geometry& baked, bool closed) {
    if (baked.faceCount() == 0) return {"no faces"};
    const Checkup c = checkupOf(baked);
    std::vector<std::string> out;
    if (closed) add(out, c.openEdges, "open edges");
    add(out, c.nonmanifoldEdges, "edges of more than two faces");
    add(out, c.nonmanifoldPoints, "points where parts only touch");
    add(out, c.degenerateFaces, "faces without area");
    add(out, c.nonFinitePoints, "points nowhere");
    if (!c.consistentWinding) out.push_back("uneven winding");
    if (c.closed && !(c.volume > 0)) out.push_back(fmt::format("volume {:g}", c.volume));
    add(out, crossingsWithinPieces(baked), "pairs of faces that cross");
    return out;
}

std::size_t trianglesOf(const Geometry& geometry) {
    std::size_t out = 0;
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) out += std::max<std::size_t>(geometry.topology().face(Index(f)).size(), 2) - 2;
    return out;
}

}  // namespace

double TrialBuilds::costOf(const RebuildResult& result) {
    const std::lock_guard lock(mutex_);
    double out = 0;
    for (const auto& [id, report] : result.nodes) {
        double& cost = costs_[report.key.digest];
        if (!report.remembered) cost = std::max(cost, report.ms);
        out += cost;
    }
    return out;
}

Verdict TrialBuilds::judge(const Trial& trial, int threads, RebuildResult* kept) {
    Verdict out;
    const auto fail = [&](std::string text, std::string node) {
        if (out.faults.empty()) out.node = std::move(node);
        out.faults.push_back(std::move(text));
    };
    auto values = controlValues(*subject_.loom, {trial.preset, trial.given});
    if (!values) {
        fail(values.error().text, {});
        out.state = Verdict::State::failed;
        return out;
    }
    RebuildRequest request;
    request.loom = subject_.loom;
    request.controls = std::move(*values);
    request.folder = subject_.folder;
    request.files = subject_.files;
    request.assets = subject_.assets;
    request.targets = {subject_.loom->output};
    request.threads = threads;
    request.cancel = options_.cancel;
    RebuildResult result = rebuild(request, memo_);
    if (result.cancelled) return out;
    out.ms = costOf(result);
    out.state = Verdict::State::sound;
    if (!result.broken.empty()) fail(result.broken, {});
    for (const Notice& notice : result.notices(*subject_.loom)) {
        if (notice.level == NoticeLevel::info) continue;
        fail(notice.node + ": " + notice.text, notice.node);
        if (notice.level == NoticeLevel::error) out.state = Verdict::State::failed;
    }
    const Geometry* built = result.geometry(subject_.loom->output);
    if (!built) {
        fail("nothing was built", {});
        out.state = Verdict::State::failed;
        if (kept) *kept = std::move(result);
        return out;
    }
    const Geometry baked = bakeCopies(*built);
    out.triangles = trianglesOf(baked);
    for (std::string& fault : faultsOf(baked, options_.closed)) fail(std::move(fault), {});
    if (out.state == Verdict::State::sound && !out.faults.empty()) out.state = Verdict::State::unsound;
    if (kept) *kept = std::move(result);
    return out;
}

}  // namespace seedloom

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

void addFaults(const Geometry& model, bool closed, const RunContext& run, std::vector<std::string>& out) {
    const Checkup c = checkupOf(model);
    if (closed) add(out, c.openEdges, "open edges");
    add(out, c.nonmanifoldEdges, "edges of more than two faces");
    add(out, c.nonmanifoldPoints, "points where parts only touch");
    add(out, c.degenerateFaces, "faces without area");
    add(out, c.nonFinitePoints, "points nowhere");
    if (!c.consistentWinding) out.push_back("uneven winding");
    if (c.closed && !(c.volume > 0)) out.push_back(fmt::format("volume {:g}", c.volume));
    add(out, crossingsWithinPieces(model, run), "pairs of faces that cross");
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

TrialBuilds::TrialBuilds(FitSubject subject, const FitOptions& options) : subject_(std::move(subject)), options_(options), memo_(options.memoBytes) {
    subject_.loom = asPublished(subject_.loom);
}

void TrialBuilds::look(const Geometry& built, Verdict& verdict) const {
    const RunContext run(options_.cancel);
    const ElementCounts counts = bakedCounts(built);
    verdict.triangles = counts.triangles;
    if (counts.faces == 0) return verdict.faults.push_back("no faces");
    if (bakesEasily(built)) return addFaults(bakeCopies(built), options_.closed, run, verdict.faults);
    // Of more copies than can be baked, each shape is looked at once.
    if (built.faceCount() > 0) addFaults(built, options_.closed, run, verdict.faults);
    for (const auto& shape : built.copies()->shapes)
        if (shape->faceCount() > 0) addFaults(*shape, options_.closed, run, verdict.faults);
}

Verdict TrialBuilds::judge(const Trial& trial, int threads, RebuildResult* kept) {
    using State = Verdict::State;
    Verdict out;
    const auto fail = [&](State state, std::string text, std::string node = {}) {
        if (out.faults.empty()) out.node = std::move(node);
        out.faults.push_back(std::move(text));
        out.state = std::max(out.state, state);
    };
    auto values = controlValues(loom(), {trial.preset, trial.given});
    if (!values) {
        fail(State::failed, values.error().text);
        return out;
    }
    RebuildRequest request = subject_.request(std::move(*values));
    request.threads = threads;
    request.cancel = options_.cancel;
    RebuildResult result = rebuild(request, memo_);
    if (result.cancelled) return out;
    out.ms = costOf(result);
    out.state = State::sound;
    if (!result.broken.empty()) fail(State::failed, result.broken);
    for (const Notice& notice : result.notices(loom()))
        if (notice.level != NoticeLevel::info)
            fail(notice.level == NoticeLevel::error ? State::failed : State::unsound, notice.node + ": " + notice.text, notice.node);
    try {
        const std::size_t told = out.faults.size();
        if (const Geometry* built = result.geometry(loom().output)) look(*built, out);
        else fail(State::failed, "nothing was built");
        if (out.faults.size() > told) out.state = std::max(out.state, State::unsound);
    } catch (const Cancelled&) {
        return {};
    } catch (const std::exception&) {
        fail(State::failed, "there is not enough memory to look at the model");
    }
    if (kept) *kept = std::move(result);
    return out;
}

}  // namespace seedloom

#include "publish/TrialBuilds.h"

#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/SelfIntersections.h"

#include <fmt/format.h>

#include <thread>

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

const std::vector<std::string>& TrialBuilds::faultsOf(const Geometry& own) {
    const Digest digest = digestOf(own);
    {
        const std::lock_guard lock(mutex_);
        if (const auto it = looked_.find(digest); it != looked_.end()) return it->second;
    }
    std::vector<std::string> faults;
    addFaults(own, options_.closed, RunContext(options_.cancel), faults);
    const std::lock_guard lock(mutex_);
    return looked_.emplace(digest, std::move(faults)).first->second;
}

void TrialBuilds::lookAt(const Geometry& geometry, std::set<std::string>& faults) {
    Geometry own = geometry;
    own.setCopies(nullptr);
    if (own.faceCount() > 0) faults.insert(faultsOf(own).begin(), faultsOf(own).end());
    if (!geometry.copies()) return;
    for (const Affine& place : geometry.copies()->place)
        if (!(std::abs(place.determinant()) > 0)) faults.insert("copies without extent");
    // What is moved, turned and scaled as a whole is as sound as it was: each shape is looked at once, however many copies there are.
    const std::set<Index> used(geometry.copies()->shapeOf.begin(), geometry.copies()->shapeOf.end());
    for (const Index shape : used) lookAt(*geometry.copies()->shapes[shape], faults);
}

void TrialBuilds::look(const Geometry& built, Verdict& verdict) {
    const ElementCounts counts = bakedCounts(built);
    verdict.triangles = counts.triangles;
    if (counts.faces == 0) return verdict.faults.push_back("no faces");
    std::set<std::string> faults;
    lookAt(built, faults);
    verdict.faults.insert(verdict.faults.end(), faults.begin(), faults.end());
}

namespace {

void tellFault(Verdict& to, Verdict::State state, std::string text, std::string node = {}) {
    if (to.faults.empty()) to.node = std::move(node);
    to.faults.push_back(std::move(text));
    to.state = std::max(to.state, state);
}

}  // namespace

Verdict TrialBuilds::build(const Trial& trial, int threads, RebuildResult& result) {
    using State = Verdict::State;
    Verdict out;
    auto values = controlValues(loom(), {trial.preset, trial.given});
    if (!values) {
        tellFault(out, State::failed, values.error().text);
        return out;
    }
    RebuildRequest request = subject_.request(std::move(*values));
    request.threads = threads;
    request.cancel = options_.cancel;
    result = rebuild(request, memo_);
    if (result.cancelled) return out;
    out.ms = costOf(result);
    out.state = State::sound;
    if (!result.broken.empty()) tellFault(out, State::failed, result.broken);
    for (const Notice& notice : result.notices(loom()))
        if (notice.level != NoticeLevel::info)
            tellFault(out, notice.level == NoticeLevel::error ? State::failed : State::unsound, notice.node + ": " + notice.text, notice.node);
    if (!result.geometry(loom().output)) tellFault(out, State::failed, "nothing was built");
    return out;
}

Verdict TrialBuilds::judge(const Trial& trial, int threads, RebuildResult* kept) {
    using State = Verdict::State;
    RebuildResult result;
    Verdict out = build(trial, threads, result);
    const Geometry* built = result.geometry(loom().output);
    if (out.state == State::waiting || (!built && result.nodes.empty())) return out;
    try {
        const std::size_t told = out.faults.size();
        if (built) look(*built, out);
        if (out.faults.size() > told) out.state = std::max(out.state, State::unsound);
    } catch (const Cancelled&) {
        return {};
    } catch (const std::exception&) {
        tellFault(out, State::failed, "there is not enough memory to look at the model");
    }
    if (kept) *kept = std::move(result);
    return out;
}

void sideBySide(std::size_t count, int threads, const std::function<void(std::size_t)>& work) {
    std::atomic<std::size_t> next{0};
    const auto some = [&] {
        for (std::size_t i; (i = next++) < count;) work(i);
    };
    // Whole trials side by side wait less for each other than the loops inside of one.
    const std::size_t machine = std::max(1u, std::thread::hardware_concurrency());
    const std::size_t wanted = threads > 0 ? std::size_t(threads) : machine;
    std::vector<std::jthread> others;
    for (std::size_t t = 1; t < std::min(wanted, count); ++t) others.emplace_back(some);
    some();
}

}  // namespace seedloom

#include "publish/FitCheck.h"

#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/SelfIntersections.h"
#include "graph/PresetBlend.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>
#include <thread>
#include <unordered_map>

namespace seedloom {

namespace {

constexpr double kSlowTimes = 10;
constexpr int kHalvings = 6;

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
    add(out, crossingsOf(baked).pairs, "pairs of faces that cross");
    return out;
}

std::size_t trianglesOf(const Geometry& geometry) {
    std::size_t out = 0;
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) out += std::max<std::size_t>(geometry.topology().face(Index(f)).size(), 2) - 2;
    return out;
}

/// What steps took when they were computed, by what they are remembered by: a step that another trial has made costs what it cost there.
class Costs {
public:
    double of(const RebuildResult& result) {
        const std::lock_guard lock(mutex_);
        double out = 0;
        for (const auto& [id, report] : result.nodes) {
            double& cost = known_[report.key.digest];
            if (!report.remembered) cost = std::max(cost, report.ms);
            out += cost;
        }
        return out;
    }

private:
    std::mutex mutex_;
    std::unordered_map<Digest, double, DigestHash> known_;
};

class Checker {
public:
    Checker(const FitSubject& subject, const FitOptions& options) : subject_(subject), options_(options), memo_(options.memoBytes) {}

    /// `threads` of the build itself.
    Verdict judge(const Trial& trial, int threads) {
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
        const RebuildResult result = rebuild(request, memo_);
        if (result.cancelled) return out;
        out.ms = costs_.of(result);
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
            return out;
        }
        const Geometry baked = bakeCopies(*built);
        out.triangles = trianglesOf(baked);
        for (std::string& fault : faultsOf(baked, options_.closed)) fail(std::move(fault), {});
        if (out.state == Verdict::State::sound && !out.faults.empty()) out.state = Verdict::State::unsound;
        return out;
    }

    std::vector<Verdict> all(const std::vector<Trial>& trials) {
        std::vector<Verdict> out(trials.size());
        std::atomic<std::size_t> next{0};
        std::mutex telling;
        const auto work = [&] {
            for (std::size_t i; (i = next++) < trials.size();) {
                if (stopped()) return;
                Verdict verdict = judge(trials[i], 1);
                const std::lock_guard lock(telling);
                out[i] = std::move(verdict);
                if (options_.onTrial && out[i].state != Verdict::State::waiting) options_.onTrial(i, out[i]);
            }
        };
        // Whole trials side by side wait less for each other than the loops inside of one.
        const std::size_t machine = std::max(1u, std::thread::hardware_concurrency());
        const std::size_t wanted = options_.threads > 0 ? std::size_t(options_.threads) : machine;
        std::vector<std::jthread> threads;
        for (std::size_t t = 1; t < std::min(wanted, trials.size()); ++t) threads.emplace_back(work);
        work();
        threads.clear();
        weigh(out);
        return out;
    }

private:
    bool stopped() const { return options_.cancel && *options_.cancel; }

    void weigh(std::vector<Verdict>& verdicts) const {
        std::vector<double> times;
        for (const Verdict& v : verdicts)
            if (v.state != Verdict::State::waiting) times.push_back(v.ms);
        if (times.empty()) return;
        std::nth_element(times.begin(), times.begin() + std::ptrdiff_t(times.size() / 2), times.end());
        // What takes no time at all may vary as it likes.
        const double slow = std::max(times[times.size() / 2], 1.0) * kSlowTimes;
        for (Verdict& v : verdicts) {
            v.slow = v.ms > slow;
            v.heavy = options_.mostTriangles > 0 && v.triangles > options_.mostTriangles;
        }
    }

    const FitSubject& subject_;
    const FitOptions& options_;
    Memo memo_;
    Costs costs_;
};

}  // namespace

static FitSubject subjectOf(Packed pack) {
    FitSubject out;
    out.files = pack.files;
    out.assets = assetsOf(pack.loom, {}, out.files);
    out.loom = std::make_shared<const Loom>(std::move(pack.loom));
    return out;
}

Result<FitSubject> fitSubjectFromPack(std::string bytes, const std::string& name) {
    auto pack = packFromBytes(std::move(bytes), name);
    if (!pack) return pack.error();
    return subjectOf(std::move(*pack));
}

Result<FitSubject> fitSubjectFrom(const std::filesystem::path& file) {
    if (isPack(file)) {
        auto pack = readPack(file);
        if (!pack) return pack.error();
        return subjectOf(std::move(*pack));
    }
    auto loom = readLoom(file);
    if (!loom) return loom.error();
    FitSubject out;
    out.folder = std::filesystem::absolute(file).parent_path().string();
    out.assets = assetsOf(*loom, out.folder);
    out.loom = std::make_shared<const Loom>(std::move(*loom));
    return out;
}

std::vector<Verdict> checkFit(const FitSubject& subject, const std::vector<Trial>& trials, const FitOptions& options) {
    return Checker(subject, options).all(trials);
}

Verdict judge(const FitSubject& subject, const Trial& trial, const FitOptions& options) { return Checker(subject, options).judge(trial, options.threads); }

Trial shrunk(const FitSubject& subject, const Trial& trial, const FitOptions& options) {
    Checker checker(subject, options);
    const Loom& loom = *subject.loom;
    const auto start = checker.judge(trial, options.threads);
    if (start.state != Verdict::State::failed && start.state != Verdict::State::unsound) return trial;
    const auto plain = controlValues(loom);
    if (!plain) return trial;
    Trial out{Trial::Kind::random, {}, trial.given};
    if (const Preset* preset = loom.preset(trial.preset))
        for (const auto& [id, value] : preset->values) out.given.emplace(id, value);
    const auto failsAs = [&](const Trial& smaller) { return checker.judge(smaller, options.threads).state == start.state; };
    const auto stopped = [&] { return options.cancel && *options.cancel; };
    for (const Control& control : loom.controls) {
        Trial without = out;
        if (without.given.erase(control.id) > 0 && failsAs(without)) out = std::move(without);
        if (stopped()) return trial;
    }
    for (const Control& control : loom.controls) {
        const auto it = out.given.find(control.id);
        if (it == out.given.end()) continue;
        const Json home = plain->at(control.id), far = it->second;
        double good = 1, bad = 0;  // parts of the way out: the one fails, the other does not
        for (int i = 0; i < kHalvings && !stopped(); ++i) {
            Trial nearer = out;
            const double part = (good + bad) / 2;
            nearer.given[control.id] = blendedValue(control, home, far, part);
            if (nearer.given[control.id] == out.given[control.id]) break;
            if (failsAs(nearer)) out = std::move(nearer), good = part;
            else bad = part;
        }
    }
    return stopped() ? trial : out;
}

}  // namespace seedloom

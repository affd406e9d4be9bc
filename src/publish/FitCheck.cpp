#include "publish/FitCheck.h"

#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "graph/PresetBlend.h"
#include "publish/TrialBuilds.h"

#include <algorithm>
#include <mutex>
#include <thread>

namespace seedloom {

namespace {

constexpr double kSlowTimes = 10;
constexpr int kShrinkings = 6;

void weigh(std::vector<Verdict>& verdicts, std::size_t mostTriangles) {
    std::vector<double> times;
    for (const Verdict& v : verdicts)
        if (v.state != Verdict::State::waiting) times.push_back(v.ms);
    if (times.empty()) return;
    std::nth_element(times.begin(), times.begin() + std::ptrdiff_t(times.size() / 2), times.end());
    // What takes no time at all may vary as it likes.
    const double slow = std::max(times[times.size() / 2], 1.0) * kSlowTimes;
    for (Verdict& v : verdicts) {
        v.slow = v.ms > slow;
        v.heavy = mostTriangles > 0 && v.triangles > mostTriangles;
    }
}

}  // namespace

RebuildRequest FitSubject::request(ControlValues values) const {
    RebuildRequest out;
    out.loom = loom;
    out.controls = std::move(values);
    out.folder = folder;
    out.files = files;
    out.assets = assets;
    out.targets = {loom->output};
    return out;
}

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
    TrialBuilds builds(subject, options);
    std::vector<Verdict> out(trials.size());
    std::mutex telling;
    sideBySide(trials.size(), options.threads, [&](std::size_t i) {
        if (builds.stopped()) return;
        Verdict verdict = builds.judge(trials[i], 1);
        const std::lock_guard lock(telling);
        out[i] = std::move(verdict);
        if (options.onTrial && out[i].state != Verdict::State::waiting) options.onTrial(i, out[i]);
    });
    weigh(out, options.mostTriangles);
    return out;
}

Verdict judge(const FitSubject& subject, const Trial& trial, const FitOptions& options) { return TrialBuilds(subject, options).judge(trial, options.threads); }

Trial shrunk(const FitSubject& subject, const Trial& trial, const FitOptions& options) {
    TrialBuilds checker(subject, options);
    const Loom& loom = checker.loom();
    const auto start = checker.judge(trial, options.threads);
    if (start.state != Verdict::State::failed && start.state != Verdict::State::unsound) return trial;
    const auto plain = controlValues(loom);
    if (!plain) return trial;
    Trial out{Trial::Kind::random, {}, trial.given};
    if (const Preset* preset = loom.preset(trial.preset))
        for (const auto& [id, value] : preset->values) out.given.emplace(id, value);
    const auto failsAs = [&](const Trial& smaller) { return checker.judge(smaller, options.threads).state == start.state; };
    for (const Control& control : loom.controls) {
        Trial without = out;
        if (without.given.erase(control.id) > 0 && failsAs(without)) out = std::move(without);
        if (checker.stopped()) return trial;
    }
    for (const Control& control : loom.controls) {
        const auto it = out.given.find(control.id);
        if (it == out.given.end()) continue;
        const Json home = plain->at(control.id), far = it->second;
        double good = 1, bad = 0;  // parts of the way out: the one fails, the other does not
        for (int i = 0; i < kShrinkings && !checker.stopped(); ++i) {
            Trial nearer = out;
            const double part = (good + bad) / 2;
            nearer.given[control.id] = blendedValue(control, home, far, part);
            if (nearer.given[control.id] == out.given[control.id]) break;
            if (failsAs(nearer)) out = std::move(nearer), good = part;
            else bad = part;
        }
    }
    return checker.stopped() ? trial : out;
}

}  // namespace seedloom

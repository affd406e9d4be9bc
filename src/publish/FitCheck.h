#pragma once
// Whether a loom is fit for others: built at many settings of its controls, each looked at as a whole.
#include "files/FileSource.h"
#include "graph/Rebuild.h"
#include "publish/Trials.h"

namespace seedloom {

/// What is checked.
struct FitSubject {
    std::shared_ptr<const Loom> loom;
    Assets assets;
    std::string folder;  ///< that paths of files start from
    Files files = diskFiles();
    /// What builds its output with these values of controls.
    RebuildRequest request(ControlValues values) const;
};

/// A loom file or pack, with the assets that it uses. Errors: those of readLoom() and readPack().
Result<FitSubject> fitSubjectFrom(const std::filesystem::path& file);
/// The same of a pack's bytes; `name` stands in messages.
Result<FitSubject> fitSubjectFromPack(std::string bytes, const std::string& name);

/// How a loom did at one setting.
struct Verdict {
    enum class State : unsigned char { waiting, sound, unsound, failed };  ///< from good to bad
    State state = State::waiting;
    std::vector<std::string> faults;  ///< none where the model is closed, manifold, evenly wound, free of crossings, and nothing was told against it
    std::string node;                 ///< that told the first fault; empty where the whole has it
    double ms = 0;                    ///< what its steps take where nothing is kept, one after the other
    std::size_t triangles = 0;
    bool slow = false;   ///< over ten times the median of all
    bool heavy = false;  ///< more triangles than the budget
    /// Times depend on the machine and on what else it does, so what is slow is told, but does not make a loom unfit.
    bool fit() const { return state == State::sound && !heavy; }
    bool fine() const { return fit() && !slow; }
};

struct FitOptions {
    std::size_t mostTriangles = 0;  ///< 0: no budget
    bool closed = true;             ///< an open surface is a fault
    int threads = 0;                ///< trials at the same time; 0: as many as the machine has
    std::size_t memoBytes = std::size_t(1) << 30;
    const std::atomic<bool>* cancel = nullptr;
    /// Called from any thread, one at a time, as trials end; must be quick.
    std::function<void(std::size_t trial, const Verdict& verdict)> onTrial;
};

/// The verdicts in the order of the trials; those that a cancel left out are waiting. Steps that trials share are computed once. The same verdicts for any
/// number of threads, but for times.
std::vector<Verdict> checkFit(const FitSubject& subject, const std::vector<Trial>& trials, const FitOptions& options = {});

/// Builds one setting with nothing kept, on all threads.
Verdict judge(const FitSubject& subject, const Trial& trial, const FitOptions& options = {});

/// The smallest change from the defaults that still fails as `trial` does: controls that don't matter are left out, numbers go as near to their default
/// as halving finds in a few steps. `trial` itself where it does not fail, or a cancel came.
Trial shrunk(const FitSubject& subject, const Trial& trial, const FitOptions& options = {});

}  // namespace seedloom

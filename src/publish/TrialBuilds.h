#pragma once
// Builds a loom at one setting after the other, with one memo for all.
#include "publish/FitCheck.h"

#include <mutex>
#include <set>
#include <unordered_map>

namespace seedloom {

/// As others get the loom: values in use don't count. Thread-safe; the options must outlive it.
class TrialBuilds {
public:
    TrialBuilds(FitSubject subject, const FitOptions& options);
    const Loom& loom() const { return *subject_.loom; }

    /// Builds, and tells what failed on the way; what the model is like is not looked at. Waiting where it was cancelled. `threads` of the build itself.
    Verdict build(const Trial& trial, int threads, RebuildResult& result);
    /// `threads` of the build itself; waiting where it was cancelled. What was built is put into `kept`, where that is wanted and the controls allow it.
    Verdict judge(const Trial& trial, int threads, RebuildResult* kept = nullptr);
    bool stopped() const { return options_.cancel && *options_.cancel; }

private:
    /// What all steps cost when they were computed: one that another trial has made costs what it cost there.
    double costOf(const RebuildResult& result);

    /// Looks at what was built, and adds what is wrong with it.
    void look(const Geometry& built, Verdict& verdict);
    void lookAt(const Geometry& geometry, std::set<std::string>& faults);
    /// Of a geometry without copies; one that another trial gave as well is not looked at again.
    const std::vector<std::string>& faultsOf(const Geometry& own);

    FitSubject subject_;
    const FitOptions& options_;
    Memo memo_;
    std::mutex mutex_;
    std::unordered_map<Digest, std::vector<std::string>, DigestHash> looked_;
    std::unordered_map<Digest, double, DigestHash> costs_;  ///< ms, by key
};

/// Calls work(0) to work(count − 1), each on one of so many threads; 0: as many as the machine has. `work` must not throw.
void sideBySide(std::size_t count, int threads, const std::function<void(std::size_t)>& work);

}  // namespace seedloom

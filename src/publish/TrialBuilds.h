#pragma once
// Builds a loom at one setting after the other, with one memo for all.
#include "publish/FitCheck.h"

#include <mutex>
#include <unordered_map>

namespace seedloom {

/// Thread-safe; subject and options must outlive it.
class TrialBuilds {
public:
    TrialBuilds(const FitSubject& subject, const FitOptions& options) : subject_(subject), options_(options), memo_(options.memoBytes) {}

    /// `threads` of the build itself; waiting where it was cancelled. What was built is put into `kept`, where that is wanted and the controls allow it.
    Verdict judge(const Trial& trial, int threads, RebuildResult* kept = nullptr);
    bool stopped() const { return options_.cancel && *options_.cancel; }

private:
    /// What all steps cost when they were computed: one that another trial has made costs what it cost there.
    double costOf(const RebuildResult& result);

    const FitSubject& subject_;
    const FitOptions& options_;
    Memo memo_;
    std::mutex mutex_;
    std::unordered_map<Digest, double, DigestHash> costs_;  ///< ms, by key
};

}  // namespace seedloom

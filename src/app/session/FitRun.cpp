#include "app/session/FitRun.h"

namespace seedloom::app {

FitRun::FitRun(QObject* parent) : QObject(parent) { connect(&bell_, &Doorbell::rung, this, &FitRun::takeTold); }

FitRun::~FitRun() { *stop_ = true; }

void FitRun::cancel() {
    *stop_ = true;
    background_.clear();
    if (std::exchange(running_, false)) Q_EMIT ended();
}

void FitRun::run(std::function<Background::Then(const FitOptions& options)> work) {
    cancel();
    stop_ = std::make_shared<std::atomic<bool>>(false);
    running_ = true;
    {
        const std::lock_guard lock(mutex_);
        told_.clear();
    }
    FitOptions options = options_;
    options.cancel = stop_.get();
    options.onTrial = [this, stop = stop_](std::size_t trial, const Verdict& verdict) {
        {
            const std::lock_guard lock(mutex_);
            if (!*stop) told_.emplace_back(trial, verdict);
        }
        bell_.ring();
    };
    background_.start([this, work = std::move(work), options = std::move(options), stop = stop_]() -> Background::Then {
        Background::Then then = work(options);
        return [this, stop, then = std::move(then)] {
            if (*stop) return;
            running_ = false;
            then();
            Q_EMIT ended();
        };
    });
}

void FitRun::start(FitSubject subject, std::vector<Trial> trials, FitOptions options) {
    cancel();
    options_ = std::move(options);
    subject_ = std::move(subject);
    trials_ = std::move(trials);
    verdicts_.assign(trials_.size(), {});
    run([this, subject = subject_, trials = trials_](const FitOptions& with) -> Background::Then {
        // What is slow is known only at the end.
        return [this, all = checkFit(subject, trials, with)] { verdicts_ = all; };
    });
}

void FitRun::shrink(std::size_t trial) {
    run([this, subject = subject_, far = trials_[trial], trial](FitOptions with) -> Background::Then {
        with.onTrial = {};
        return [this, trial, smallest = seedloom::shrunk(subject, far, with)] { Q_EMIT shrunk(trial, smallest); };
    });
}

void FitRun::study(FitSubject subject, FitOptions options) {
    cancel();
    options_ = std::move(options);
    effects_.clear();
    run([this, subject = std::move(subject)](const FitOptions& with) -> Background::Then {
        return [this, all = controlEffects(subject, with)] { effects_ = all; };
    });
}

void FitRun::takeTold() {
    std::vector<std::pair<std::size_t, Verdict>> told;
    {
        const std::lock_guard lock(mutex_);
        told.swap(told_);
    }
    for (auto& [trial, verdict] : told) verdicts_[trial] = std::move(verdict);
    if (!told.empty()) Q_EMIT progressed();
}

}  // namespace seedloom::app

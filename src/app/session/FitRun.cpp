#include "app/session/FitRun.h"

namespace seedloom::app {

FitRun::FitRun(QObject* parent) : QObject(parent) { connect(&bell_, &Doorbell::rung, this, &FitRun::deliver); }

FitRun::~FitRun() { cancel(); }

void FitRun::cancel() {
    stop_ = true;
    if (thread_.joinable()) thread_.join();
    deliver();
}

void FitRun::run(std::function<void()> work) {
    cancel();
    stop_ = false;
    running_ = true;
    thread_ = std::jthread([work = std::move(work)] { work(); });
}

void FitRun::start(FitSubject subject, std::vector<Trial> trials, FitOptions options) {
    cancel();
    subject_ = std::move(subject);
    trials_ = std::move(trials);
    verdicts_.assign(trials_.size(), {});
    options_ = std::move(options);
    options_.cancel = &stop_;
    options_.onTrial = [this](std::size_t trial, const Verdict& verdict) {
        {
            const std::lock_guard lock(mutex_);
            told_.emplace_back(trial, verdict);
        }
        bell_.ring();
    };
    run([this] {
        auto all = checkFit(subject_, trials_, options_);
        {
            const std::lock_guard lock(mutex_);
            // What is slow is known only now.
            after_ = [this, all = std::move(all)]() mutable {
                verdicts_ = std::move(all);
                Q_EMIT ended();
            };
        }
        bell_.ring();
    });
}

void FitRun::shrink(std::size_t trial) {
    run([this, trial] {
        FitOptions quiet = options_;
        quiet.onTrial = {};
        Trial smallest = seedloom::shrunk(subject_, trials_[trial], quiet);
        {
            const std::lock_guard lock(mutex_);
            after_ = [this, trial, smallest = std::move(smallest)] {
                if (!stop_) Q_EMIT shrunk(trial, smallest);
                Q_EMIT ended();
            };
        }
        bell_.ring();
    });
}

void FitRun::study(FitSubject subject, FitOptions options) {
    cancel();
    subject_ = std::move(subject);
    effects_.clear();
    options_ = std::move(options);
    options_.cancel = &stop_;
    run([this] {
        auto all = controlEffects(subject_, options_);
        {
            const std::lock_guard lock(mutex_);
            after_ = [this, all = std::move(all)]() mutable {
                effects_ = std::move(all);
                Q_EMIT ended();
            };
        }
        bell_.ring();
    });
}

void FitRun::deliver() {
    std::vector<std::pair<std::size_t, Verdict>> told;
    std::function<void()> after;
    {
        const std::lock_guard lock(mutex_);
        told.swap(told_);
        after.swap(after_);
    }
    for (auto& [trial, verdict] : told) verdicts_[trial] = std::move(verdict);
    if (!told.empty()) Q_EMIT progressed();
    if (!after) return;
    running_ = false;
    after();
}

}  // namespace seedloom::app

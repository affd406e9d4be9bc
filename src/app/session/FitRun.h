#pragma once
// A check of a loom at many settings, behind the interface.
#include "app/session/Doorbell.h"
#include "publish/ControlEffects.h"

#include <mutex>
#include <thread>

namespace seedloom::app {

class FitRun : public QObject {
    Q_OBJECT

public:
    explicit FitRun(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~FitRun() override;

    /// Cancels what runs, and begins anew.
    void start(FitSubject subject, std::vector<Trial> trials, FitOptions options);
    /// Looks for the smallest change that fails as this trial does; shrunk() tells it.
    void shrink(std::size_t trial);
    /// Tries each control by itself; effects() has what came of it when ended() comes.
    void study(FitSubject subject, FitOptions options);
    void cancel();
    bool running() const { return running_; }
    const std::vector<Trial>& trials() const { return trials_; }
    /// By trial; those that are to come are waiting.
    const std::vector<Verdict>& verdicts() const { return verdicts_; }
    const std::vector<ControlEffect>& effects() const { return effects_; }

Q_SIGNALS:
    /// One or more verdicts are there.
    void progressed();
    /// All are there, or what was cancelled has stopped.
    void ended();
    void shrunk(std::size_t trial, const Trial& smallest);

private:
    void run(std::function<void()> work);
    void deliver();

    FitSubject subject_;
    std::vector<Trial> trials_;
    std::vector<Verdict> verdicts_;
    std::vector<ControlEffect> effects_;
    FitOptions options_;
    bool running_ = false;
    std::atomic<bool> stop_{false};
    std::mutex mutex_;
    std::vector<std::pair<std::size_t, Verdict>> told_;
    std::function<void()> after_;  ///< what is to be done in front when the work is done
    Doorbell bell_;
    std::jthread thread_;
};

}  // namespace seedloom::app

#pragma once
// A check of a loom at many settings, behind the interface.
#include "app/session/Background.h"
#include "publish/ControlEffects.h"

namespace seedloom::app {

class FitRun : public QObject {
    Q_OBJECT

public:
    explicit FitRun(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~FitRun() override;

    /// Cancels what runs, and begins anew when it has stopped.
    void start(FitSubject subject, std::vector<Trial> trials, FitOptions options);
    /// Looks for the smallest change that fails as this trial does; shrunk() tells it.
    void shrink(std::size_t trial);
    /// Tries each control by itself; effects() has what came of it when ended() comes.
    void study(FitSubject subject, FitOptions options);
    /// Returns at once; what still runs stops soon, and nothing of it is told any more.
    void cancel();
    bool running() const { return running_; }
    const std::vector<Trial>& trials() const { return trials_; }
    /// By trial; those that are to come are waiting.
    const std::vector<Verdict>& verdicts() const { return verdicts_; }
    const std::vector<ControlEffect>& effects() const { return effects_; }

Q_SIGNALS:
    /// One or more verdicts are there.
    void progressed();
    /// All are there, or it was cancelled.
    void ended();
    void shrunk(std::size_t trial, const Trial& smallest);

private:
    using Stop = std::shared_ptr<std::atomic<bool>>;
    /// `work` runs behind with its own stop; what it returns is done in front, unless it was cancelled.
    void run(std::function<Background::Then(const FitOptions& options)> work);
    void takeTold();

    FitSubject subject_;
    FitOptions options_;
    std::vector<Trial> trials_;
    std::vector<Verdict> verdicts_;
    std::vector<ControlEffect> effects_;
    bool running_ = false;
    Stop stop_ = std::make_shared<std::atomic<bool>>(false);  ///< of what runs
    std::mutex mutex_;
    std::vector<std::pair<std::size_t, Verdict>> told_;
    Doorbell bell_;
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

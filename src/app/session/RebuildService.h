#pragma once
// Has the newest state of the document rebuilt by the engine. Older rebuilds are cancelled, stale answers dropped.
#include "app/session/Doorbell.h"
#include "engine/Engine.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QObject>

#include <mutex>

namespace seedloom::app {

/// The engine that all windows share; it lives as long as one of them.
std::shared_ptr<Engine> commonEngine();

/// A node that only waits for something to be plugged in: no failure that anybody needs to be alarmed about.
bool waitsForInput(const NodeReport& report);
/// A notice as people are told of it: who has only just added a node has done nothing wrong.
Notice asTold(Notice notice, const NodeReport& report);

class RebuildService : public QObject {
    Q_OBJECT

public:
    /// While a hand is on a slider, nodes that took longer than kSlowMs the last time wait until it rests.
    enum class Mode : unsigned char { full, sliding };
    static constexpr double kSlowMs = 120;
    void setSlowMs(double ms) { slowMs_ = ms; }

    explicit RebuildService(QObject* parent = nullptr);
    ~RebuildService() override;

    /// Starts a rebuild of all nodes. It cancels one that runs, but while a hand slides that one is finished first, so that the model follows.
    /// Seconds are frame / framesPerSecond.
    void request(std::shared_ptr<const Loom> loom, Assets assets, ControlValues controls, double frame = 0, double framesPerSecond = 24,
                 Mode mode = Mode::full);
    /// Up to which frame reports tell what is kept; below 0: not at all.
    void setLastFrame(int frame) { lastFrame_ = frame; }
    int lastFrame() const { return lastFrame_; }
    void setUnfinished(Unfinished unfinished) { unfinished_ = std::move(unfinished); }
    /// The folder that paths of files in the document start from.
    void setFolder(std::string folder) { folder_ = std::move(folder); }
    /// What is looked into: its nodes are reported from the next rebuild on, and report(), outcome() and progressOf() speak of them.
    void setPlace(const Watch& place);
    /// The node's id with the path of the containers around it.
    std::string fullId(const std::string& node) const { return prefix_ + node; }
    /// The newest report and the newest finished result of a node of the whole document, by full id.
    NodeReport reportOf(const std::string& fullId) const;
    std::shared_ptr<const NodeOutcome> outcomeOf(const std::string& fullId) const;
    /// Stops the running rebuild; what is done stays.
    void cancel();

    /// What the newest rebuild was asked for: control values, and the time.
    const ControlValues& controls() const { return controls_; }
    double frame() const { return frame_; }
    double time() const { return time_; }

    /// How often a rebuild was begun.
    int requests() const { return requests_; }
    bool running() const { return running_; }
    int doneCount() const { return done_; }
    int totalCount() const { return total_; }
    double lastMs() const { return lastMs_; }
    bool wasCancelled() const { return cancelled_; }
    /// Slow nodes were left for when the hand rests.
    bool incomplete() const { return incomplete_; }
    bool anyFailed() const;
    /// For each frame whether all steps that build on earlier frames have it; empty where there is no such step. Of those that keep one frame as their
    /// result only `asked` counts.
    std::vector<std::uint8_t> keptFrames(const std::string& asked) const;

    /// How long the running rebuild will still take, from what its nodes took before; nothing where that is not known.
    std::optional<double> remainingMs() const;
    /// The nodes that are being computed now.
    std::vector<std::string> workingOn() const;
    /// 0–1 of a node that is being computed, from the time it took before; nothing where that is not known.
    std::optional<double> progressOf(const std::string& node) const;

    /// Another document is shown: its nodes have no results yet, whatever they are called.
    void forgetNodes();
    /// The newest report of a node; waiting where there is none.
    NodeReport report(const std::string& node) const;
    /// The newest finished geometry of a node, also while it is being rebuilt.
    std::shared_ptr<const NodeOutcome> outcome(const std::string& node) const;
    const std::vector<Notice>& notices() const { return notices_; }
    const Memo& memo() const { return engine_->memo(); }

Q_SIGNALS:
    /// Reports of nodes came in; at most once per turn of the event loop.
    void stateChanged();
    /// All nodes are done (or the rebuild was cancelled by the user).
    void finished();

private:
    struct Wish {
        std::shared_ptr<const Loom> loom;
        Assets assets;
        ControlValues controls;
        double frame, time, secondsPerFrame;
        Mode mode;
    };
    struct Arrived {
        int generation;
        std::shared_ptr<const RebuildResult> result;
    };
    void begin(Wish wish);
    void post(int generation, const std::string& node, const NodeReport& report);
    void takeArrived();
    void takeReports();
    void takeResult(const Arrived& arrived);

    std::mutex mutex_;
    std::vector<std::tuple<int, std::string, NodeReport>> arrived_;  ///< waits for takeReports
    std::optional<Arrived> result_;                                  ///< waits for takeResult
    Doorbell bell_;

    // Only touched on the interface thread.
    int generation_ = 0, requests_ = 0, done_ = 0, total_ = 0;
    Mode mode_ = Mode::full;    ///< of the rebuild that runs
    std::optional<Wish> next_;  ///< begins when that is finished
    bool running_ = false, cancelled_ = false, incomplete_ = false;
    int lastFrame_ = -1;
    Unfinished unfinished_;
    std::shared_ptr<const Loom> asked_;
    double lastMs_ = 0, slowMs_ = kSlowMs, frame_ = 0, time_ = 0;
    ControlValues controls_;
    Watch place_;
    std::string prefix_, folder_;
    std::map<std::string, NodeReport> reports_;  ///< by full id, as all below
    std::map<std::string, std::shared_ptr<const NodeOutcome>> outcomes_;
    std::map<std::string, double> spent_;           ///< what each node took when it was last computed
    std::map<std::string, QElapsedTimer> started_;  ///< nodes that are being computed
    std::set<std::string> open_;                    ///< nodes not done in this rebuild
    std::vector<Notice> notices_;
    std::shared_ptr<Engine> engine_ = commonEngine();
    std::unique_ptr<Engine::Client> client_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app

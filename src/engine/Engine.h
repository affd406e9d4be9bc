#pragma once
// One place where looms are built: windows, the command line, batches and host programs share its memo and its threads.
#include "graph/Rebuild.h"

#include <condition_variable>
#include <list>
#include <mutex>
#include <thread>

namespace seedloom {

/// Who waits: work of a higher kind begins first, and work in the background never takes the last thread.
enum class Priority : unsigned char { hand, background };

struct EngineOptions {
    std::size_t memoBytes = std::size_t(2) << 30;
    std::size_t frameBytes = std::size_t(1) << 30;  ///< of frames that follow from each other, beside the memo
    std::filesystem::path frameFolder = {};         ///< where those that can be written are kept as well; may be deleted at any time; empty: nowhere
    std::string madeBy = {};                        ///< which build of the program it is: frames of another one are not taken
    std::uintmax_t frameDiskBytes = std::uintmax_t(2) << 30;
    int workers = 2;  ///< rebuilds at the same time, each parallel inside; at least 1
};

/// Never throws out of a build, and never ends the program: what a step throws is a notice of its node, and what can't be told so stands in
/// RebuildResult::broken. Thread-safe.
class Engine {
public:
    explicit Engine(EngineOptions options = {});
    /// Precondition: no client is left.
    ~Engine();

    /// Builds on the calling thread. Frames are kept for all builds, where the request brings no place for them.
    RebuildResult build(RebuildRequest request) {
        if (!request.frames) request.frames = &frames_;
        return rebuild(request, memo_);
    }
    Memo& memo() { return memo_; }

    /// Called on threads of the engine; must be quick. `generation` is what request() returned.
    struct Callbacks {
        std::function<void(int generation, const std::string& node, const NodeReport& report)> onNode;
        std::function<void(int generation, std::shared_ptr<const RebuildResult> result)> onDone;  ///< not of what was cancelled
    };

    /// Whoever wants one document built again and again: the newest request counts, the one before is cancelled.
    class Client {
    public:
        Client(Engine& engine, Priority priority, Callbacks callbacks);
        /// Cancels, and waits until no callback runs any more.
        ~Client();
        Client(const Client&) = delete;
        Client& operator=(const Client&) = delete;

        /// Returns a number larger than all before. `request.cancel`, `onNode` and `plans` are the client's own affair.
        int request(RebuildRequest request);
        /// What is done stays remembered. Nothing of requests so far is told after this returns, but what is being told just now.
        void cancel();

    private:
        friend class Engine;
        struct Job {
            RebuildRequest request;
            int generation = 0;
            std::shared_ptr<std::atomic<bool>> stop;
        };
        Engine& engine_;
        const Priority priority_;
        const Callbacks callbacks_;
        PlanCache plans_;
        // Under the engine's mutex.
        std::optional<Job> waiting_;
        std::shared_ptr<std::atomic<bool>> stop_;
        int generation_ = 0, running_ = 0;
    };

private:
    void work();
    Client* next();
    void run(Client& client, Client::Job job);

    Memo memo_;
    FrameCache frames_;
    std::mutex mutex_;
    std::condition_variable wake_, ended_;
    std::list<Client*> clients_;
    int background_ = 0;  ///< jobs of that kind that run
    bool quit_ = false;
    std::vector<std::thread> threads_;
};

}  // namespace seedloom

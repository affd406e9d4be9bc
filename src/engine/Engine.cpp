#include "engine/Engine.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace seedloom {

namespace {

std::unique_ptr<FrameStore> storeFor(const EngineOptions& options) {
    return options.frameFolder.empty() ? nullptr : std::make_unique<FrameStore>(options.frameFolder, options.frameDiskBytes, options.madeBy);
}

}  // namespace

Engine::Engine(EngineOptions options) : memo_(options.memoBytes), frames_(options.frameBytes, storeFor(options)) {
    for (int i = 0; i < std::max(options.workers, 1); ++i) threads_.emplace_back([this] { work(); });
}

Engine::~Engine() {
    {
        const std::lock_guard lock(mutex_);
        quit_ = true;
    }
    wake_.notify_all();
    for (std::thread& thread : threads_) thread.join();
}

/// The client whose turn it is; nullptr where nobody waits. Under the mutex.
Engine::Client* Engine::next() {
    Client* best = nullptr;
    for (Client* client : clients_) {
        if (!client->waiting_) continue;
        const bool background = client->priority_ == Priority::background;
        if (background && threads_.size() > 1 && background_ + 1 >= int(threads_.size())) continue;
        if (!best || client->priority_ < best->priority_) best = client;
    }
    return best;
}

void Engine::work() {
    // Hands come first: these threads, and the workers that they make, give way to the interface where cores are few.
    setpriority(PRIO_PROCESS, id_t(gettid()), 5);
    std::unique_lock lock(mutex_);
    for (;;) {
        Client* client = nullptr;
        wake_.wait(lock, [&] { return quit_ || (client = next()) != nullptr; });
        if (quit_) return;
        Client::Job job = std::move(*client->waiting_);
        client->waiting_.reset();
        const bool background = client->priority_ == Priority::background;
        ++client->running_;
        background_ += background;
        // Whoever came after has its turn in the end.
        clients_.remove(client);
        clients_.push_back(client);
        lock.unlock();
        run(*client, std::move(job));
        lock.lock();
        --client->running_;
        background_ -= background;
        ended_.notify_all();
        wake_.notify_all();
    }
}

void Engine::run(Client& client, Client::Job job) {
    try {
        const int generation = job.generation;
        job.request.cancel = job.stop.get();
        job.request.plans = &client.plans_;
        job.request.onNode = [&client, &job, generation](const std::string& node, const NodeReport& report) {
            if (!job.stop->load()) client.callbacks_.onNode(generation, node, report);
        };
        auto result = std::make_shared<const RebuildResult>(build(job.request));
        if (!result->cancelled && !job.stop->load()) client.callbacks_.onDone(generation, std::move(result));
    } catch (const std::bad_alloc&) {
        // Not even the end can be told. The client asks again with its next change.
    }
}

Engine::Client::Client(Engine& engine, Priority priority, Callbacks callbacks)
    : engine_(engine), priority_(priority), callbacks_(std::move(callbacks)), stop_(std::make_shared<std::atomic<bool>>(false)) {
    const std::lock_guard lock(engine_.mutex_);
    engine_.clients_.push_back(this);
}

Engine::Client::~Client() {
    cancel();
    std::unique_lock lock(engine_.mutex_);
    engine_.ended_.wait(lock, [this] { return running_ == 0; });
    engine_.clients_.remove(this);
}

int Engine::Client::request(RebuildRequest request) {
    auto stop = std::make_shared<std::atomic<bool>>(false);
    int generation;
    {
        const std::lock_guard lock(engine_.mutex_);
        *stop_ = true;
        stop_ = stop;
        generation = ++generation_;
        waiting_ = Job{std::move(request), generation, std::move(stop)};
    }
    engine_.wake_.notify_all();
    return generation;
}

void Engine::Client::cancel() {
    const std::lock_guard lock(engine_.mutex_);
    *stop_ = true;
    waiting_.reset();
}

}  // namespace seedloom

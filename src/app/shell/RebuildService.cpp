#include "app/shell/RebuildService.h"

#include <sys/resource.h>
#include <unistd.h>

namespace seedloom::app {

bool waitsForInput(const NodeReport& report) {
    return report.state == NodeState::failed && report.outcome && report.outcome->notices.size() == 1 &&
           report.outcome->notices.front().code == "input.missing";
}

RebuildService::RebuildService(QObject* parent) : QObject(parent), stop_(std::make_shared<std::atomic<bool>>(false)) {
    connect(&bell_, &Doorbell::rung, this, &RebuildService::takeArrived);
    thread_ = std::thread([this] { work(); });
}

RebuildService::~RebuildService() {
    {
        const std::lock_guard lock(mutex_);
        quit_ = true;
        *stop_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

void RebuildService::request(std::shared_ptr<const Loom> loom, ControlValues controls, double frame, double framesPerSecond, Mode mode) {
    Wish wish{std::move(loom), std::move(controls), frame, frame / std::max(framesPerSecond, 1e-3), mode};
    // A hand moves faster than most models are rebuilt: were each move to cancel the one before, nothing would follow until it rests.
    if (running_ && mode == Mode::sliding && mode_ == Mode::sliding) {
        next_ = std::move(wish);
        return;
    }
    begin(std::move(wish));
}

void RebuildService::begin(Wish wish) {
    next_.reset();
    ++generation_;
    running_ = true;
    cancelled_ = incomplete_ = false;
    done_ = 0;
    total_ = static_cast<int>(wish.loom->nodes.size());
    std::set<std::string> known;
    for (const Node& node : wish.loom->nodes) known.insert(node.id);
    const auto gone = [&](const auto& entry) { return !known.count(entry.first.substr(0, entry.first.find('/'))); };
    std::erase_if(reports_, gone);
    std::erase_if(outcomes_, gone);
    std::erase_if(spent_, gone);
    started_.clear();
    mode_ = wish.mode;
    Job job;
    job.generation = generation_;
    if (mode_ == Mode::sliding)
        for (const auto& [node, ms] : spent_)
            if (ms > slowMs_) job.request.deferred.insert(node);
    open_ = std::move(known);
    job.request.loom = std::move(wish.loom);
    controls_ = std::move(wish.controls);
    frame_ = wish.frame;
    time_ = wish.time;
    job.request.controls = controls_;
    job.request.frame = frame_;
    job.request.time = time_;
    job.request.watch = place_;
    job.request.folder = folder_;
    {
        const std::lock_guard lock(mutex_);
        *stop_ = true;
        stop_ = std::make_shared<std::atomic<bool>>(false);
        job_ = std::move(job);
    }
    wake_.notify_all();
    Q_EMIT stateChanged();
}

void RebuildService::setPlace(const Watch& place) {
    place_ = place;
    prefix_.clear();
    for (const std::string& container : place.path) prefix_ += container + "/";
}

void RebuildService::cancel() {
    if (!running_) return;
    {
        const std::lock_guard lock(mutex_);
        *stop_ = true;
        job_.reset();
    }
    next_.reset();
    ++generation_;
    running_ = false;
    cancelled_ = true;
    started_.clear();
    for (auto& [id, report] : reports_)
        if (report.state == NodeState::rebuilding) report.state = NodeState::waiting;
    Q_EMIT stateChanged();
    Q_EMIT finished();
}

void RebuildService::work() {
    // Hands come first: this thread, and the workers that it makes, give way to the interface where cores are few.
    setpriority(PRIO_PROCESS, id_t(gettid()), 5);
    for (;;) {
        Job job;
        std::shared_ptr<std::atomic<bool>> stop;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [this] { return quit_ || job_; });
            if (quit_) return;
            job = std::move(*job_);
            job_.reset();
            stop = stop_;
        }
        const int generation = job.generation;
        job.request.cancel = stop.get();
        job.request.onNode = [this, generation](const std::string& node, const NodeReport& report) { post(generation, node, report); };
        auto result = std::make_shared<const RebuildResult>(rebuild(job.request, memo_));
        if (result->cancelled) continue;
        {
            const std::lock_guard lock(mutex_);
            result_ = Arrived{generation, std::move(result), job.request.loom};
        }
        bell_.ring();
    }
}

/// A thousand reports in a few milliseconds become one event.
void RebuildService::post(int generation, const std::string& node, const NodeReport& report) {
    bool first = false;
    {
        const std::lock_guard lock(mutex_);
        first = arrived_.empty();
        arrived_.push_back({generation, node, report});
    }
    if (first) bell_.ring();
}

void RebuildService::takeArrived() {
    takeReports();
    std::optional<Arrived> arrived;
    {
        const std::lock_guard lock(mutex_);
        arrived.swap(result_);
    }
    if (arrived) takeResult(*arrived);
}

void RebuildService::takeReports() {
    std::vector<std::tuple<int, std::string, NodeReport>> reports;
    {
        const std::lock_guard lock(mutex_);
        reports.swap(arrived_);
    }
    bool any = false;
    for (auto& [generation, node, report] : reports) {
        if (generation != generation_) continue;
        any = true;
        if (report.state == NodeState::rebuilding) started_[node].start();
        if (report.outcome) {
            outcomes_[node] = report.outcome;
            spent_[node] = report.outcome->ms;
            started_.erase(node);
            if (open_.erase(node)) ++done_;
        }
        reports_[node] = std::move(report);
    }
    if (any) Q_EMIT stateChanged();
}

void RebuildService::takeResult(const Arrived& arrived) {
    const auto& [generation, result, loom] = arrived;
    if (generation != generation_) return;
    for (const auto& [id, report] : result->nodes) {
        reports_[id] = report;
        if (report.outcome) outcomes_[id] = report.outcome;
    }
    notices_ = result->notices(*loom);
    running_ = next_.has_value();
    incomplete_ = result->incomplete;
    lastMs_ = result->ms;
    started_.clear();
    Q_EMIT stateChanged();
    if (generation != generation_) return;  // somebody wished for something else meanwhile
    if (!next_) return Q_EMIT finished();
    begin(std::move(*next_));
}

std::optional<double> RebuildService::remainingMs() const {
    if (!running_) return {};
    double left = 0;
    for (const std::string& node : open_) {
        const auto spent = spent_.find(node);
        if (spent == spent_.end()) return {};
        const auto started = started_.find(node);
        left += std::max(0.0, spent->second - (started == started_.end() ? 0.0 : double(started->second.elapsed())));
    }
    return left;
}

std::vector<std::string> RebuildService::workingOn() const {
    std::vector<std::string> out;
    for (const auto& [node, timer] : started_)
        if (node.find('/') == std::string::npos) out.push_back(node);
    return out;
}

std::optional<double> RebuildService::progressOf(const std::string& node) const {
    const auto spent = spent_.find(fullId(node));
    const auto started = started_.find(fullId(node));
    if (spent == spent_.end() || started == started_.end() || spent->second <= 0) return {};
    return std::min(0.99, double(started->second.elapsed()) / spent->second);
}

bool RebuildService::anyFailed() const {
    return std::any_of(reports_.begin(), reports_.end(), [](const auto& r) { return r.second.state == NodeState::failed && !waitsForInput(r.second); });
}

NodeReport RebuildService::report(const std::string& node) const { return reportOf(fullId(node)); }

NodeReport RebuildService::reportOf(const std::string& id) const {
    const auto it = reports_.find(id);
    return it == reports_.end() ? NodeReport{} : it->second;
}

std::shared_ptr<const NodeOutcome> RebuildService::outcome(const std::string& node) const { return outcomeOf(fullId(node)); }

std::shared_ptr<const NodeOutcome> RebuildService::outcomeOf(const std::string& id) const {
    const auto it = outcomes_.find(id);
    return it == outcomes_.end() ? nullptr : it->second;
}

}  // namespace seedloom::app

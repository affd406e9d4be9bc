#include "app/shell/RebuildService.h"

namespace seedloom::app {

bool waitsForInput(const NodeReport& report) {
    return report.state == NodeState::failed && report.outcome && report.outcome->notices.size() == 1 && report.outcome->notices.front().code == "input.missing";
}

RebuildService::RebuildService(QObject* parent) : QObject(parent), stop_(std::make_shared<std::atomic<bool>>(false)) {
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

void RebuildService::request(std::shared_ptr<const Loom> loom, ControlValues controls, double frame) {
    ++generation_;
    running_ = true;
    cancelled_ = false;
    done_ = 0;
    total_ = static_cast<int>(loom->nodes.size());
    std::erase_if(reports_, [&](const auto& entry) { return !loom->node(entry.first); });
    std::erase_if(outcomes_, [&](const auto& entry) { return !loom->node(entry.first); });
    Job job;
    job.generation = generation_;
    job.request.loom = std::move(loom);
    job.request.controls = std::move(controls);
    job.request.frame = frame;
    job.request.time = frame / 24;
    {
        const std::lock_guard lock(mutex_);
        *stop_ = true;
        stop_ = std::make_shared<std::atomic<bool>>(false);
        next_ = std::move(job);
    }
    wake_.notify_all();
    Q_EMIT stateChanged();
}

void RebuildService::cancel() {
    if (!running_) return;
    {
        const std::lock_guard lock(mutex_);
        *stop_ = true;
        next_.reset();
    }
    ++generation_;
    running_ = false;
    cancelled_ = true;
    for (auto& [id, report] : reports_)
        if (report.state == NodeState::rebuilding) report.state = NodeState::waiting;
    Q_EMIT stateChanged();
    Q_EMIT finished();
}

void RebuildService::work() {
    for (;;) {
        Job job;
        std::shared_ptr<std::atomic<bool>> stop;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [this] { return quit_ || next_; });
            if (quit_) return;
            job = std::move(*next_);
            next_.reset();
            stop = stop_;
        }
        const int generation = job.generation;
        job.request.cancel = stop.get();
        job.request.onNode = [this, generation](const std::string& node, const NodeReport& report) {
            QMetaObject::invokeMethod(this, [this, generation, node, report] { takeReport(generation, node, report); }, Qt::QueuedConnection);
        };
        auto result = std::make_shared<const RebuildResult>(rebuild(job.request, memo_));
        if (result->cancelled) continue;
        QMetaObject::invokeMethod(this, [this, generation, result, loom = job.request.loom] { takeResult(generation, result, loom); }, Qt::QueuedConnection);
    }
}

void RebuildService::takeReport(int generation, const std::string& node, const NodeReport& report) {
    if (generation != generation_) return;
    reports_[node] = report;
    if (report.outcome) {
        outcomes_[node] = report.outcome;
        ++done_;
    }
    Q_EMIT nodeChanged(QString::fromStdString(node));
    Q_EMIT stateChanged();
}

void RebuildService::takeResult(int generation, std::shared_ptr<const RebuildResult> result, std::shared_ptr<const Loom> loom) {
    if (generation != generation_) return;
    for (const auto& [id, report] : result->nodes) {
        reports_[id] = report;
        if (report.outcome) outcomes_[id] = report.outcome;
    }
    notices_ = result->notices(*loom);
    running_ = false;
    lastMs_ = result->ms;
    Q_EMIT stateChanged();
    Q_EMIT finished();
}

bool RebuildService::anyFailed() const {
    return std::any_of(reports_.begin(), reports_.end(), [](const auto& r) { return r.second.state == NodeState::failed && !waitsForInput(r.second); });
}

NodeReport RebuildService::report(const std::string& node) const {
    const auto it = reports_.find(node);
    return it == reports_.end() ? NodeReport{} : it->second;
}

std::shared_ptr<const NodeOutcome> RebuildService::outcome(const std::string& node) const {
    const auto it = outcomes_.find(node);
    return it == outcomes_.end() ? nullptr : it->second;
}

}  // namespace seedloom::app

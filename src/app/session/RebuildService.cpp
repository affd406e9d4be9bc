#include "app/session/RebuildService.h"

#include "app/session/Preferences.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QDateTime>
#include <QtCore/QFileInfo>
#include <QtCore/QStandardPaths>

namespace seedloom::app {

bool waitsForInput(const NodeReport& report) {
    return report.state == NodeState::failed && report.outcome && report.outcome->notices.size() == 1 &&
           report.outcome->notices.front().code == "input.missing";
}

Notice asTold(Notice notice, const NodeReport& report) {
    if (notice.code == "input.missing" && waitsForInput(report)) notice.level = NoticeLevel::info;
    return notice;
}

namespace {

EngineOptions optionsOfEngine() {
    EngineOptions out;
    out.memoBytes = std::size_t(preferences::memoryGigabytes()) << 30;
    const QString cache = QStandardPaths::writableLocation(QStandardPaths::CacheLocation);
    if (!cache.isEmpty()) out.frameFolder = (cache + QStringLiteral("/frames")).toStdString();
    const QFileInfo program(QCoreApplication::applicationFilePath());
    out.madeBy = QStringLiteral("%1 %2 %3").arg(program.fileName()).arg(program.size()).arg(program.lastModified().toMSecsSinceEpoch()).toStdString();
    return out;
}

}  // namespace

std::shared_ptr<Engine> commonEngine() {
    static std::weak_ptr<Engine> common;
    auto engine = common.lock();
    if (!engine) common = engine = std::make_shared<Engine>(optionsOfEngine());
    return engine;
}

RebuildService::RebuildService(QObject* parent) : QObject(parent) {
    connect(&bell_, &Doorbell::rung, this, &RebuildService::takeArrived);
    client_ = std::make_unique<Engine::Client>(*engine_, Priority::hand,
                                               Engine::Callbacks{[this](int generation, const std::string& node, const NodeReport& report) {
                                                                     post(generation, node, report);
                                                                 },
                                                                 [this](int generation, std::shared_ptr<const RebuildResult> result) {
                                                                     {
                                                                         const std::lock_guard lock(mutex_);
                                                                         result_ = Arrived{generation, std::move(result)};
                                                                     }
                                                                     bell_.ring();
                                                                 }});
}

RebuildService::~RebuildService() = default;

void RebuildService::request(std::shared_ptr<const Loom> loom, Assets assets, ControlValues controls, double frame, double framesPerSecond, Mode mode) {
    const double seconds = 1 / std::max(framesPerSecond, 1e-3);
    Wish wish{std::move(loom), std::move(assets), std::move(controls), frame, frame * seconds, seconds, mode};
    // A hand moves faster than most models are rebuilt: were each move to cancel the one before, nothing would follow until it rests.
    if (running_ && mode == Mode::sliding && mode_ == Mode::sliding) {
        next_ = std::move(wish);
        return;
    }
    begin(std::move(wish));
}

void RebuildService::begin(Wish wish) {
    next_.reset();
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
    RebuildRequest request;
    if (mode_ == Mode::sliding)
        for (const auto& [node, ms] : spent_)
            if (ms > slowMs_) request.deferred.insert(node);
    open_ = std::move(known);
    asked_ = wish.loom;
    request.loom = std::move(wish.loom);
    request.assets = std::move(wish.assets);
    controls_ = std::move(wish.controls);
    frame_ = wish.frame;
    time_ = wish.time;
    request.controls = controls_;
    request.frame = frame_;
    request.threads = preferences::threads();
    request.time = time_;
    request.secondsPerFrame = wish.secondsPerFrame;
    request.lastFrame = lastFrame_;
    request.watch = place_;
    request.unfinished = unfinished_;
    request.folder = folder_;
    ++requests_;
    generation_ = client_->request(std::move(request));
    Q_EMIT stateChanged();
}

void RebuildService::forgetNodes() {
    reports_.clear();
    outcomes_.clear();
    spent_.clear();
    Q_EMIT stateChanged();
}

void RebuildService::setPlace(const Watch& place) {
    place_ = place;
    prefix_.clear();
    for (const std::string& container : place.path) prefix_ += container + "/";
}

void RebuildService::cancel() {
    if (!running_) return;
    client_->cancel();
    next_.reset();
    generation_ = 0;  // whatever still arrives is of nobody's asking
    running_ = false;
    cancelled_ = true;
    started_.clear();
    for (auto& [id, report] : reports_)
        if (report.state == NodeState::rebuilding) report.state = NodeState::waiting;
    Q_EMIT stateChanged();
    Q_EMIT finished();
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
            if (!report.outcome->coarse) spent_[node] = report.outcome->ms;
            started_.erase(node);
            if (open_.erase(node)) ++done_;
        }
        reports_[node] = std::move(report);
    }
    if (any) Q_EMIT stateChanged();
}

void RebuildService::takeResult(const Arrived& arrived) {
    const auto& [generation, result] = arrived;
    if (generation != generation_) return;
    for (const auto& [id, report] : result->nodes) {
        reports_[id] = report;
        if (report.outcome) outcomes_[id] = report.outcome;
    }
    notices_ = result->notices(*asked_);
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
    const auto report = reports_.find(fullId(node));
    if (report != reports_.end() && report->second.progress)
        if (const float told = report->second.progress->load(std::memory_order_relaxed); told > 0) return double(told);
    const auto spent = spent_.find(fullId(node));
    const auto started = started_.find(fullId(node));
    if (spent == spent_.end() || started == started_.end() || spent->second <= 0) return {};
    return std::min(0.99, double(started->second.elapsed()) / spent->second);
}

std::vector<std::uint8_t> RebuildService::keptFrames(const std::string& asked) const {
    std::vector<std::uint8_t> out;
    for (const auto& [id, report] : reports_) {
        if (report.frames.empty() || (report.keeps >= 0 && id != asked)) continue;
        if (out.empty()) out = report.frames;
        for (std::size_t i = 0; i < std::min(out.size(), report.frames.size()); ++i) out[i] &= report.frames[i];
    }
    return out;
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

#include "app/session/FramesExport.h"

#include "engine/Engine.h"

#include <functional>

namespace seedloom::app {

namespace {

constexpr std::size_t kMemory = std::size_t(1) << 30;

struct FramesWritten {
    QString problem;
    QStringList files;
    bool moved = false;
};

QString problemAt(const RebuildResult& result, const Loom& loom, int frame) {
    for (const Notice& notice : result.notices(loom))
        if (notice.level == NoticeLevel::error) return FramesExport::tr("Frame %1: %2").arg(frame).arg(QString::fromStdString(notice.text));
    return FramesExport::tr("Frame %1 could not be built.").arg(frame);
}

FramesWritten framesWritten(RebuildRequest request, const FramesExport::Wanted& wanted, const std::atomic<bool>& stop, const std::function<void()>& onFrame) {
    FramesWritten out;
    FrameFiles files(wanted.file.toStdString(), wanted.together, request.secondsPerFrame);
    Engine engine({.memoBytes = kMemory, .workers = 1});
    std::optional<Error> error;
    for (int frame = wanted.range.from; frame <= wanted.range.to && !error; ++frame) {
        request.frame = frame, request.time = frame * request.secondsPerFrame;
        const RebuildResult result = engine.build(request);
        if (result.cancelled) return out;
        const Geometry* geometry = result.geometry(request.targets.front());
        if (result.failed() || !geometry) {
            out.problem = problemAt(result, *request.loom, frame);
            return out;
        }
        error = files.add(*geometry, frame, RunContext(&stop));
        onFrame();
    }
    if (!error) error = files.finish();
    if (error) out.problem = QString::fromStdString(error->text);
    for (const std::string& file : files.written()) out.files << QString::fromStdString(file);
    out.moved = files.moved();
    return out;
}

}  // namespace

FramesExport::FramesExport(QObject* parent) : QObject(parent) {
    connect(&bell_, &Doorbell::rung, this, [this] {
        if (running_) Q_EMIT progressed(done_, all_);
    });
}

FramesExport::~FramesExport() {
    *stop_ = true;
    background_.wait();
}

void FramesExport::cancel() {
    *stop_ = true;
    running_ = false;
}

void FramesExport::start(RebuildRequest request, const Wanted& wanted) {
    cancel();
    stop_ = std::make_shared<std::atomic<bool>>(false);
    running_ = true;
    done_ = 0, all_ = wanted.range.to - wanted.range.from + 1;
    request.targets = {request.loom->output};
    background_.start([this, request, wanted, stop = stop_]() mutable -> Background::Then {
        request.cancel = stop.get();
        FramesWritten written;
        try {
            written = framesWritten(request, wanted, *stop, [this] {
                ++done_;
                bell_.ring();
            });
        } catch (const Cancelled&) {
            return {};
        }
        return [this, written, stop] {
            if (*stop) return;
            running_ = false;
            Q_EMIT ended(written.problem, written.files, written.moved);
        };
    });
}

}  // namespace seedloom::app

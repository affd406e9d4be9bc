#include "app/session/VaryExport.h"

#include "vary/ContactSheet.h"

namespace seedloom::app {

namespace {

struct Exported {
    std::string problem;
    int written = 0, failed = 0;
};

Exported exported(const FitSubject& subject, const std::vector<Variation>& variations, const std::string& to, const VaryOptions& options) {
    const auto folder = VaryFolder::open(to);
    if (!folder) return {folder.error().text};
    if (!folder->numbers().empty()) return {VaryExport::tr("That folder holds variations already. Take another one, so that nothing is lost.").toStdString()};
    const VaryOutcome outcome = vary(subject, variations, 1, *folder, options);
    Exported out;
    for (const VaryRow& row : outcome.rows) ++(row.ok ? out.written : out.failed);
    if (outcome.problem) out.problem = outcome.problem->text;
    else if (const auto error = writeSummaries(*subject.loom, *folder, outcome.rows)) out.problem = error->text;
    return out;
}

}  // namespace

VaryExport::VaryExport(QObject* parent) : QObject(parent) {
    connect(&bell_, &Doorbell::rung, this, [this] {
        if (running_) Q_EMIT progressed(done_, all_);
    });
}

VaryExport::~VaryExport() {
    *stop_ = true;
    background_.wait();
}

void VaryExport::cancel() {
    *stop_ = true;
    running_ = false;
}

void VaryExport::start(const FitSubject& subject, const std::vector<Variation>& variations, const QString& folder, const std::string& ending,
                       const std::string& pattern) {
    cancel();
    stop_ = std::make_shared<std::atomic<bool>>(false);
    running_ = true;
    done_ = 0, all_ = int(variations.size());
    background_.start([this, subject, variations, folder = folder.toStdString(), ending, pattern, stop = stop_]() -> Background::Then {
        VaryOptions options;
        options.ending = ending, options.pattern = pattern;
        options.cancel = stop.get();
        options.onRow = [this](const VaryRow&) {
            ++done_;
            bell_.ring();
        };
        const Exported result = exported(subject, variations, folder, options);
        return [this, result, stop] {
            if (*stop) return;
            running_ = false;
            Q_EMIT ended(QString::fromStdString(result.problem), result.written, result.failed);
        };
    });
}

}  // namespace seedloom::app

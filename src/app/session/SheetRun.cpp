#include "app/session/SheetRun.h"

#include "files/FileIo.h"
#include "publish/Sheet.h"

#include <filesystem>

namespace seedloom::app {

namespace {

std::optional<Error> writeSheet(const AssetSheet& sheet, const std::filesystem::path& file) {
    return file.extension() == ".html" ? writeFileAtomically(file, sheetHtml(sheet)) : writePng(sheetPicture(sheet), file);
}

}  // namespace

SheetRun::SheetRun(QObject* parent) : QObject(parent) {
    connect(&bell_, &Doorbell::rung, this, [this] {
        if (running_) Q_EMIT progressed(done_, all_);
    });
}

SheetRun::~SheetRun() {
    *stop_ = true;
    background_.wait();
}

void SheetRun::cancel() {
    *stop_ = true;
    running_ = false;
}

void SheetRun::start(FitSubject subject, const QString& file) {
    cancel();
    stop_ = std::make_shared<std::atomic<bool>>(false);
    running_ = true;
    done_ = all_ = 0;
    background_.start([this, subject = std::move(subject), file = file.toStdString(), stop = stop_]() -> Background::Then {
        SheetOptions options;
        options.cancel = stop.get();
        options.onEntry = [this](std::size_t done, std::size_t all) {
            done_ = int(done), all_ = int(all);
            bell_.ring();
        };
        const auto sheet = assetSheet(subject, options);
        const auto error = !sheet ? std::optional(sheet.error()) : *stop ? std::nullopt : writeSheet(*sheet, file);
        return [this, error, stop] {
            if (*stop) return;
            running_ = false;
            Q_EMIT ended(error ? QString::fromStdString(error->text) : QString());
        };
    });
}

}  // namespace seedloom::app

#pragma once
// Writing the sheet of an asset, behind the interface.
#include "app/session/Background.h"
#include "publish/FitCheck.h"

#include <QtCore/QObject>

namespace seedloom::app {

class SheetRun : public QObject {
    Q_OBJECT

public:
    explicit SheetRun(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~SheetRun() override;
    /// Writes a page (.html) or a picture (any other ending). What runs is cancelled first.
    void start(FitSubject subject, const QString& file);
    void cancel();
    bool running() const { return running_; }

Q_SIGNALS:
    void progressed(int done, int all);
    /// An empty text: it is written.
    void ended(const QString& problem);

private:
    bool running_ = false;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    std::atomic<int> done_{0}, all_{0};
    Doorbell bell_;
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

#pragma once
// Variations written into a folder, with their index and contact sheets, behind the interface.
#include "app/session/Background.h"
#include "vary/VaryRun.h"

#include <QtCore/QObject>

namespace seedloom::app {

class VaryExport : public QObject {
    Q_OBJECT

public:
    explicit VaryExport(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~VaryExport() override;
    /// A folder that holds variations already is not touched: ended() says so.
    void start(const FitSubject& subject, const std::vector<Variation>& variations, const QString& folder, const std::string& ending,
               const std::string& pattern);
    /// What is written stays.
    void cancel();
    bool running() const { return running_; }

Q_SIGNALS:
    void progressed(int done, int all);
    /// `problem` is empty where all went well; `failed` could not be built, and stand in the index with why.
    void ended(const QString& problem, int written, int failed);

private:
    std::atomic<int> done_ = 0;
    int all_ = 0;
    bool running_ = false;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    Doorbell bell_;
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

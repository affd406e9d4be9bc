#pragma once
// Frames of the model written into files, behind the interface.
#include "app/session/Background.h"
#include "graph/Rebuild.h"
#include "meshes/FrameFiles.h"

#include <QtCore/QObject>
#include <QtCore/QStringList>

namespace seedloom::app {

class FramesExport : public QObject {
    Q_OBJECT

public:
    explicit FramesExport(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~FramesExport() override;
    struct Wanted {
        FrameRange range;
        QString file;
        bool together = true;  ///< one file that moves
    };
    /// `request` builds the model; its frame and targets are set here. Range and name must be sound.
    void start(RebuildRequest request, const Wanted& wanted);
    /// Files that are written stay.
    void cancel();
    bool running() const { return running_; }

Q_SIGNALS:
    void progressed(int done, int all);
    /// `problem` is empty where all went well. `moved`: whether anything did.
    void ended(const QString& problem, const QStringList& files, bool moved);

private:
    std::atomic<int> done_ = 0;
    int all_ = 0;
    bool running_ = false;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    Doorbell bell_;
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

#pragma once
// A model at several frames at once, built behind the interface: a view, of which the document knows nothing.
#include "app/session/Background.h"
#include "engine/Engine.h"

#include <QtCore/QObject>

namespace seedloom::app {

class GhostFrames : public QObject {
    Q_OBJECT

public:
    /// More faces than that would hide what they are ghosts of; further frames are left out.
    static constexpr std::size_t kMostFaces = 3'000'000;
    struct Wish {
        std::shared_ptr<const Loom> loom;
        Assets assets;
        std::string folder;
        ControlValues controls;
        std::string node;         ///< of the outermost graph
        std::string step;         ///< one with state that keeps one frame as its result, and is asked for others; empty: it follows, or there is none
        std::vector<int> frames;  ///< none: no ghosts
        bool operator==(const Wish&) const = default;
    };

    explicit GhostFrames(QObject* parent = nullptr);
    /// Cancels, and waits for what runs.
    ~GhostFrames() override;

    /// ready() follows where it is not what was wanted before.
    void want(const Wish& wish);
    /// All of them as one model; null while there is none.
    std::shared_ptr<const NodeOutcome> outcome() const { return outcome_; }

Q_SIGNALS:
    void ready();

private:
    Wish wish_;
    std::shared_ptr<const NodeOutcome> outcome_;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    std::shared_ptr<Engine> engine_;
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

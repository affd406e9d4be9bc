#pragma once
// The model of one variation, built behind the interface to be seen as a whole.
#include "app/session/Background.h"
#include "engine/Engine.h"
#include "vary/VaryBuilds.h"

#include <QtCore/QObject>

namespace seedloom::app {

class VariedModel : public QObject {
    Q_OBJECT

public:
    explicit VariedModel(QObject* parent = nullptr);
    ~VariedModel() override;
    /// Builds it; what was wanted before is given up. built() tells the end.
    void want(const FitSubject& subject, const Variation& variation);
    /// Gives up, and knows nothing any more.
    void forget();
    /// Null where it failed, or is not built yet.
    const std::shared_ptr<const NodeOutcome>& outcome() const { return outcome_; }
    bool building() const { return building_; }

Q_SIGNALS:
    void built();

private:
    std::shared_ptr<Engine> engine_;
    std::shared_ptr<const NodeOutcome> outcome_;
    bool building_ = false;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    Background background_;  ///< last: it waits for what uses the others
};

}  // namespace seedloom::app

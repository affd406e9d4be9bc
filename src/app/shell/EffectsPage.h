#pragma once
// What each control of the loom does, and where it is safe: a page of the publish window.
#include "app/session/FitRun.h"
#include "app/session/Session.h"

#include <QtWidgets/QWidget>

class QLabel;
class QPushButton;
class QTableWidget;

namespace seedloom::app {

class EffectsPage : public QWidget {
    Q_OBJECT

public:
    EffectsPage(Session& session, QWidget* parent);
    ~EffectsPage() override;
    /// Tries each control from end to end, as `options` say.
    void look(FitSubject subject, FitOptions options);
    FitRun& run() { return run_; }
    QTableWidget* table() const { return table_; }
    QPushButton* lookButton() const { return look_; }
    QPushButton* limitButton() const { return limit_; }
    QString verdict() const;

Q_SIGNALS:
    void lookWanted();

private:
    void fill();
    void showChoice();
    void limit();
    const ControlEffect* chosen() const;

    Document& document_;
    FitRun run_;
    std::shared_ptr<const Loom> seen_;  ///< what the effects are of
    QLabel *verdict_, *words_;
    QTableWidget* table_;
    QPushButton *look_, *limit_;
};

}  // namespace seedloom::app

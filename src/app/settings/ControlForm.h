#pragma once
#include "graph/Loom.h"

#include <QtWidgets/QFrame>

class QLineEdit;

namespace seedloom::app {

class NumberField;

/// Asks, in the column itself, how a control is called, where it stands and how far it goes.
class ControlForm : public QFrame {
    Q_OBJECT

public:
    ControlForm(const Control& control, const QStringList& sections, const QString& button, QWidget* parent);
    /// As filled in.
    Control control() const;
    QLineEdit* name() const { return name_; }

Q_SIGNALS:
    void done(bool take);

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    Control start_;
    QLineEdit *name_, *section_, *unit_, *help_;
    NumberField *least_ = nullptr, *most_ = nullptr;
};

}  // namespace seedloom::app

#pragma once
// A small window in which people type what they want to do, and take an operator.
#include "app/weave/QuickAddRanking.h"

#include <QtWidgets/QFrame>

#include <functional>

class QLineEdit;
class QListWidget;

namespace seedloom::app {

class Pictures;

class QuickAdd : public QFrame {
    Q_OBJECT

public:
    QuickAdd(Pictures& pictures, QWidget* parent);

    /// Opens beside `anchor` (in pixels of the weave), over whatever part of the window has room; `use` gets the operator that is taken.
    /// With `onlyFitting`, only what can follow; `typed` is already in the field.
    void open(QRect anchor, bool onlyFitting, std::optional<Flow> behind, std::function<void(const std::string&)> use, const QString& typed = {});
    QLineEdit* field() const { return field_; }
    QListWidget* list() const { return list_; }

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void fill();
    void take();

    void close();
    void place();

    Pictures& pictures_;
    QWidget* weave_;
    QRect anchor_;
    QLineEdit* field_;
    QListWidget* list_;
    QuickAddContext context_;
    std::function<void(const std::string&)> use_;
};

}  // namespace seedloom::app

#pragma once
// A small window in which people type what they want to do, and take an operator.
#include "operators/Spec.h"

#include <QtWidgets/QFrame>

#include <functional>

class QLineEdit;
class QListWidget;

namespace seedloom::app {

class Pictures;

/// Operators that fit what was typed, best first: names before synonyms before sentences. An empty text gives all.
std::vector<const OperatorSpec*> operatorsFor(const QString& typed, bool onlyWithInput);

class QuickAdd : public QFrame {
    Q_OBJECT

public:
    QuickAdd(Pictures& pictures, QWidget* parent);

    /// Opens beside `anchor` (in pixels of the weave), over whatever part of the window has room; `use` gets the operator that is taken.
    void open(QRect anchor, bool onlyWithInput, std::function<void(const std::string&)> use);
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
    bool onlyWithInput_ = false;
    std::function<void(const std::string&)> use_;
};

}  // namespace seedloom::app

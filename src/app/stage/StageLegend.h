#pragma once
// What the colours on the stage mean: a scale whose ends can be typed or dragged, or a key of categories.
#include "scene/ValueColours.h"

#include <QtWidgets/QWidget>

class QComboBox;
class QLabel;
class QToolButton;

namespace seedloom::app {

class NumberField;

class StageLegend : public QWidget {
    Q_OBJECT

public:
    explicit StageLegend(QWidget* parent);

    /// Hides where there is nothing to tell.
    void show(const Legend& legend);
    const Legend& legend() const { return legend_; }
    NumberField* low() const { return low_; }
    NumberField* high() const { return high_; }
    QToolButton* lock() const { return lock_; }
    /// Between the range of most values and that of all.
    QToolButton* whole() const { return whole_; }
    QComboBox* scale() const { return scale_; }

Q_SIGNALS:
    void chosen(const ColourChoice& choice);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QRect barRect() const;
    void paintKey(QPainter& painter) const;
    void lockAt(double low, double high);
    void fit();
    void showEnds();

    Legend legend_;
    QLabel *title_, *element_;
    NumberField *low_, *high_;
    QToolButton *lock_, *whole_;
    QComboBox* scale_;
};

}  // namespace seedloom::app

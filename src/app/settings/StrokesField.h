#pragma once
// The brush of a painted setting: what it does, how large and strong it is, and the strokes so far.
#include "app/session/Brush.h"

#include <QtWidgets/QWidget>

#include <optional>

class QButtonGroup;
class QLabel;
class QToolButton;

namespace seedloom::app {

class NumberField;
class Slider;

class StrokesField : public QWidget {
    Q_OBJECT

public:
    explicit StrokesField(QWidget* parent = nullptr);
    void setCount(std::size_t strokes);
    bool painting() const;
    void setPainting(bool on);
    const Brush& brush() const { return brush_; }
    void setRadius(double metres);
    QToolButton* paintButton() const { return paint_; }

Q_SIGNALS:
    /// Painting begins, ends, or its brush changes.
    void brushChanged();
    void takeBackWanted();
    void clearWanted();

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    void addPart(const QString& label, const QString& unit, double low, double high, double Brush::*part);
    void addModes();
    void addMirrors();
    void keep() const;

    Brush brush_;
    QToolButton *paint_, *back_, *clear_;
    QLabel* count_;
    NumberField* radius_ = nullptr;
    Slider* radiusSlider_ = nullptr;
};

}  // namespace seedloom::app

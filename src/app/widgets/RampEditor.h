#pragma once
// Draws and edits a ramp: knots are dragged, added by double click, removed with Delete; presets and exact numbers below.
#include "fields/Ramp.h"

#include <QtWidgets/QWidget>

#include <optional>

class QComboBox;

namespace seedloom::app {

class NumberField;

class RampEditor : public QWidget {
    Q_OBJECT

public:
    explicit RampEditor(QWidget* parent = nullptr);

    void setRamp(const Ramp& ramp);
    const Ramp& ramp() const { return ramp_; }
    /// Values behind the curve, 0–1 along x, as heights 0–1.
    /// What x stands for, where that is more than a part from 0 to 1: it is written below the curve, and knots stand at whole steps.
    struct Axis {
        double from = 0, to = 1, step = 1;
        QString unit;                ///< behind numbers
        std::optional<double> here;  ///< a line is drawn there
        bool operator==(const Axis&) const = default;
    };
    void setAxis(const std::optional<Axis>& axis);
    const std::optional<Axis>& axis() const { return axis_; }
    NumberField* knotPosition() const { return x_; }
    void setHistogram(std::vector<float> heights);
    /// Where a knot is, in pixels of the canvas.
    QPoint knotPixel(std::size_t i) const;
    QWidget* canvas() const { return canvas_; }
    static constexpr int kHeight = 178;

Q_SIGNALS:
    void dragStarted();
    void edited(const Ramp& ramp, bool gesture);
    void dragEnded();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    class Canvas;
    QRectF area() const;
    QPointF place(double x, double y) const;
    void paintCurve(QPainter& painter) const;
    void paintAxis(QPainter& painter) const;
    double steppedX(double x) const;
    void press(QPointF at);
    void drag(QPointF at);
    void addKnot(QPointF at);
    void removeChosen();
    void change(std::vector<RampKnot> knots, bool gesture);
    void fitRange();
    void showNumbers();

    Ramp ramp_;
    std::vector<float> histogram_;
    std::optional<Axis> axis_;
    double low_ = 0, high_ = 1;
    int chosen_ = 0;
    bool dragging_ = false;
    QWidget* canvas_;
    NumberField *x_, *y_;
    QComboBox* shape_;
};

}  // namespace seedloom::app

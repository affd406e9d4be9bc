#pragma once
#include <QtWidgets/QWidget>

#include <optional>

namespace seedloom::app {

/// A slim slider over real numbers.
class Slider : public QWidget {
    Q_OBJECT

public:
    explicit Slider(QWidget* parent = nullptr);
    void setRange(double low, double high);
    void setWhole(bool whole) { whole_ = whole; }
    /// Values are multiples of it, counted from the low end; nothing: as fine as the pixels.
    void setStep(std::optional<double> step) { step_ = step; }
    void setValue(double value);
    double value() const { return value_; }
    /// Pixel of a value, for tests.
    QPoint pixelOf(double value) const;
    QSize sizeHint() const override { return {86, 22}; }

Q_SIGNALS:
    void dragStarted();
    void edited(double value, bool gesture);
    void dragEnded();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void take(double x);
    double rounded(double value) const;
    double low_ = 0, high_ = 1, value_ = 0;
    std::optional<double> step_;
    bool whole_ = false, dragging_ = false;
};

}  // namespace seedloom::app

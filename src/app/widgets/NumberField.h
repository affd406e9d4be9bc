#pragma once
// A number that is dragged sideways or typed, with arithmetic and units.
#include <QtWidgets/QLineEdit>

#include <optional>

namespace seedloom::app {

/// Reads "0.3", "1/3", "12cm", "45deg", "2*(3+1)"; `unit` is the field's own (m or °). Nothing where it can't be read.
std::optional<double> numberFromText(const QString& text, const QString& unit);
/// Shortest text that still shows what matters.
QString numberText(double value, bool whole);

class NumberField : public QLineEdit {
    Q_OBJECT

public:
    explicit NumberField(QWidget* parent = nullptr);

    void setUnit(const QString& unit);
    void setWhole(bool whole) { whole_ = whole; }
    void setLimits(std::optional<double> least, std::optional<double> most) { least_ = least, most_ = most; }
    /// How much one pixel of dragging changes, before Shift (finer) and Ctrl (coarser).
    void setStep(double step) { step_ = step; }
    void setValue(double value);
    double value() const { return value_; }
    void setChangedFromDefault(bool changed);

Q_SIGNALS:
    /// `gesture` is true while dragging, between dragStarted and dragEnded.
    void edited(double value, bool gesture);
    void dragStarted();
    void dragEnded();

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

private:
    void beginTyping();
    void endTyping(bool take);
    double held(double value) const;

    double value_ = 0, step_ = 0.01, startValue_ = 0;
    std::optional<double> least_, most_;
    QString unit_;
    bool whole_ = false, typing_ = false, pressed_ = false, dragging_ = false;
    QPointF start_;
};

}  // namespace seedloom::app

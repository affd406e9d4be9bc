#include "app/widgets/Slider.h"

#include "app/look/Theme.h"

#include <QtGui/QKeyEvent>
#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>

#include <cmath>

namespace seedloom::app {

namespace {
constexpr int kMargin = 7;
}

Slider::Slider(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(px(24));
    setMinimumWidth(60);
    setCursor(Qt::PointingHandCursor);
}

void Slider::setRange(double low, double high) {
    low_ = low;
    high_ = std::max(high, low + 1e-12);
    update();
}

void Slider::setValue(double value) {
    value_ = value;
    update();
}

QPoint Slider::pixelOf(double value) const {
    const double t = std::clamp((value - low_) / (high_ - low_), 0.0, 1.0);
    return {int(std::lround(kMargin + t * (width() - 2 * kMargin))), height() / 2};
}

/// Two or three digits are enough: a step is about one pixel.
double Slider::rounded(double value) const {
    if (step_ && *step_ > 0) value = std::clamp(low_ + std::round((value - low_) / *step_) * *step_, low_, high_);
    if (whole_) return std::round(value);
    if (step_ && *step_ > 0) return std::round(value * 1e9) / 1e9;  // 0.3, not 0.30000000000000004
    const double step = std::pow(10.0, std::floor(std::log10((high_ - low_) / 150)));
    return std::clamp(std::round(value / step) * step, low_, high_);
}

void Slider::take(double x) {
    const double t = std::clamp((x - kMargin) / std::max(1, width() - 2 * kMargin), 0.0, 1.0);
    const double value = rounded(low_ + t * (high_ - low_));
    if (value == value_) return;
    setValue(value);
    Q_EMIT edited(value, dragging_);
}

void Slider::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    dragging_ = true;
    setFocus();
    Q_EMIT dragStarted();
    take(event->position().x());
}

void Slider::mouseMoveEvent(QMouseEvent* event) {
    if (dragging_) take(event->position().x());
}

void Slider::mouseReleaseEvent(QMouseEvent*) {
    if (!dragging_) return;
    dragging_ = false;
    Q_EMIT dragEnded();
}

void Slider::keyPressEvent(QKeyEvent* event) {
    const int way = event->key() == Qt::Key_Right || event->key() == Qt::Key_Up ? 1 : event->key() == Qt::Key_Left || event->key() == Qt::Key_Down ? -1 : 0;
    if (way == 0) return QWidget::keyPressEvent(event);
    const double least = whole_ ? 1 : (high_ - low_) / 50;
    const double value = std::clamp(rounded(value_ + way * (step_ && *step_ > 0 ? std::max(*step_, whole_ ? 1.0 : 0.0) : least)), low_, high_);
    if (value == value_) return;
    setValue(value);
    Q_EMIT edited(value, false);
}

void Slider::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Colours& c = colours();
    const QPointF knob = pixelOf(value_), left(kMargin, height() / 2), right(width() - kMargin, height() / 2);
    painter.setPen(QPen(c.line, 3, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(left, right);
    painter.setPen(QPen(c.ink, 3, Qt::SolidLine, Qt::RoundCap));
    painter.drawLine(left, knob);
    painter.setPen(QPen(hasFocus() ? c.link : c.ink, hasFocus() ? 2 : 1.5));
    painter.setBrush(c.card);
    painter.drawEllipse(knob, 5.2, 5.2);
}

}  // namespace seedloom::app

#include "app/widgets/RampEditor.h"

#include "app/look/Theme.h"
#include "app/widgets/NumberField.h"

#include <QtGui/QKeyEvent>
#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

std::vector<std::vector<RampKnot>> presets() {
    constexpr auto smooth = RampShape::smooth;
    return {
        {{0, 0}, {1, 1}}, {{0, 1}, {1, 0}}, {{0, 0, smooth}, {1, 1}}, {{0, 0, smooth}, {0.5, 1, smooth}, {1, 0}}, {{0, 0, RampShape::step}, {0.5, 1}, {1, 1}}};
}

QIcon presetIcon(const Ramp& ramp) {
    QPixmap picture(44, 32);
    picture.setDevicePixelRatio(2);
    picture.fill(Qt::transparent);
    QPainter painter(&picture);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(colours().ink, 1.3));
    QPolygonF line;
    for (int i = 0; i <= 40; ++i) line << QPointF(1 + i * 0.5, 14 - ramp.at(i / 40.0) * 12);
    painter.drawPolyline(line);
    return picture;
}

}  // namespace

class RampEditor::Canvas : public QWidget {
public:
    explicit Canvas(RampEditor* editor) : QWidget(editor), editor_(editor) {
        setFixedHeight(112);
        setFocusPolicy(Qt::StrongFocus);
        setToolTip(RampEditor::tr("Drag knots; double click adds one; Delete removes the chosen one"));
        setAccessibleName(RampEditor::tr("Ramp"));
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        editor_->paintCurve(painter);
    }

private:
    RampEditor* editor_;
};

RampEditor::RampEditor(QWidget* parent) : QWidget(parent), canvas_(new Canvas(this)) {
    setFixedHeight(px(kHeight));
    canvas_->installEventFilter(this);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 2, 0, 2);
    column->setSpacing(5);
    column->addWidget(canvas_);
    auto* shapes = new QHBoxLayout;
    shapes->setSpacing(4);
    for (const auto& knots : presets()) {
        auto* button = new QToolButton(this);
        button->setIcon(presetIcon(Ramp(knots)));
        button->setIconSize({22, 16});
        button->setToolTip(tr("Use this shape between the ramp's least and largest value"));
        connect(button, &QToolButton::clicked, this, [this, knots] {
            std::vector<RampKnot> fitted = knots;
            const double span = high_ - low_;
            for (RampKnot& k : fitted) k.y = low_ + k.y * span;
            change(std::move(fitted), false);
        });
        shapes->addWidget(button);
    }
    shapes->addStretch();
    column->addLayout(shapes);
    auto* numbers = new QHBoxLayout;
    numbers->setSpacing(5);
    x_ = new NumberField(this);
    y_ = new NumberField(this);
    shape_ = new QComboBox(this);
    shape_->addItems({tr("straight"), tr("smooth"), tr("step")});
    shape_->setToolTip(tr("The shape of the stretch after the chosen knot"));
    shape_->setAccessibleName(tr("Shape after the knot"));
    x_->setToolTip(tr("Where the chosen knot stands, 0 to 1"));
    y_->setToolTip(tr("The value at the chosen knot"));
    x_->setAccessibleName(tr("Knot position"));
    y_->setAccessibleName(tr("Knot value"));
    x_->setLimits(0.0, 1.0);
    numbers->addWidget(x_);
    numbers->addWidget(y_);
    numbers->addWidget(shape_, 1);
    column->addLayout(numbers);
    const auto setNumber = [this](NumberField* field, double RampKnot::*part) {
        connect(field, &NumberField::edited, this, [this, part](double value, bool gesture) {
            auto knots = ramp_.knots();
            if (chosen_ < 0 || chosen_ >= int(knots.size())) return;
            const bool along = part == &RampKnot::x && axis_;
            knots[std::size_t(chosen_)].*part = along ? (value - axis_->from) / (axis_->to - axis_->from) : value;
            change(std::move(knots), gesture);
        });
        connect(field, &NumberField::dragStarted, this, &RampEditor::dragStarted);
        connect(field, &NumberField::dragEnded, this, &RampEditor::dragEnded);
    };
    setNumber(x_, &RampKnot::x);
    setNumber(y_, &RampKnot::y);
    connect(shape_, &QComboBox::activated, this, [this](int index) {
        auto knots = ramp_.knots();
        if (chosen_ < 0 || chosen_ >= int(knots.size())) return;
        knots[std::size_t(chosen_)].shape = static_cast<RampShape>(index);
        change(std::move(knots), false);
    });
}

void RampEditor::setRamp(const Ramp& ramp) {
    ramp_ = ramp;
    chosen_ = std::clamp(chosen_, 0, std::max(0, int(ramp.knots().size()) - 1));
    if (!dragging_) fitRange();
    showNumbers();
    canvas_->update();
}

void RampEditor::setAxis(const std::optional<Axis>& axis) {
    // An axis whose steps are lost in rounding has nothing to be read off.
    const bool sound =
        axis && axis->to > axis->from && std::isfinite(axis->to - axis->from) && axis->from + axis->step > axis->from && axis->to - axis->step < axis->to;
    const std::optional<Axis> wanted = sound ? axis : std::nullopt;
    if (wanted == axis_) return;
    axis_ = wanted;
    x_->setLimits(axis_ ? axis_->from : 0.0, axis_ ? axis_->to : 1.0);
    x_->setWhole(axis_ && axis_->step == 1);
    x_->setUnit(axis_ ? axis_->unit.trimmed() : QString());
    x_->setToolTip(axis_ ? tr("Where the chosen knot stands") : tr("Where the chosen knot stands, 0 to 1"));
    fitRange();
    showNumbers();
    canvas_->update();
}

void RampEditor::setHistogram(std::vector<float> heights) {
    histogram_ = std::move(heights);
    canvas_->update();
}

/// The view holds still while a knot is dragged; else it shows all knots with a round upper end.
void RampEditor::fitRange() {
    low_ = 0, high_ = 0;
    for (const RampKnot& k : ramp_.knots()) low_ = std::min(low_, k.y), high_ = std::max(high_, k.y);
    if (high_ - low_ < 1e-9) high_ = low_ + 1;
    x_->setStep(axis_ ? axis_->step : 0.005);
    y_->setStep(std::pow(10.0, std::floor(std::log10((high_ - low_) / 100))));
}

void RampEditor::showNumbers() {
    const auto& knots = ramp_.knots();
    if (knots.empty()) return;
    const RampKnot& k = knots[std::size_t(chosen_)];
    x_->setValue(axis_ ? axis_->from + k.x * (axis_->to - axis_->from) : k.x);
    y_->setValue(k.y);
    shape_->setCurrentIndex(int(k.shape));
}

QRectF RampEditor::area() const { return QRectF(canvas_->rect()).adjusted(10, 10, -10, axis_ ? -22 : -10); }

QPointF RampEditor::place(double x, double y) const {
    const QRectF r = area();
    return {r.left() + x * r.width(), r.bottom() - (y - low_) / (high_ - low_) * r.height()};
}

QPoint RampEditor::knotPixel(std::size_t i) const {
    const RampKnot& k = ramp_.knots()[i];
    return place(k.x, k.y).toPoint();
}

void RampEditor::paintCurve(QPainter& painter) const {
    const Colours& c = colours();
    painter.setPen(QPen(canvas_->hasFocus() ? c.link : c.line, 1));
    painter.setBrush(c.field);
    painter.drawRoundedRect(QRectF(canvas_->rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    const QRectF r = area();
    painter.setPen(Qt::NoPen);
    painter.setBrush(c.line);
    for (std::size_t i = 0; i < histogram_.size(); ++i) {
        const double w = r.width() / double(histogram_.size());
        painter.drawRect(
            QRectF(r.left() + double(i) * w + 0.5, r.bottom() - double(histogram_[i]) * r.height() * 0.6, w - 1, double(histogram_[i]) * r.height() * 0.6));
    }
    painter.setPen(QPen(c.line, 1, Qt::DotLine));
    painter.drawLine(place(0, 0), place(1, 0));
    if (axis_) paintAxis(painter);
    painter.setPen(QPen(c.chosen, 1.8));
    painter.setBrush(Qt::NoBrush);
    QPolygonF line;
    for (int i = 0; i <= 200; ++i) line << place(i / 200.0, std::clamp(ramp_.at(i / 200.0), low_ - 0.05, high_ * 1.05 + 0.05));
    painter.drawPolyline(line);
    for (std::size_t i = 0; i < ramp_.knots().size(); ++i) {
        painter.setPen(QPen(c.chosen, 2));
        painter.setBrush(int(i) == chosen_ ? c.chosen : c.card);
        painter.drawEllipse(knotPixel(i), 5, 5);
    }
    painter.setFont(numberFont(10));
    painter.setPen(c.faint);
    // What the upper edge stands for, in the corner that the curve leaves free.
    const Qt::Alignment side = ramp_.at(1) > ramp_.at(0) ? Qt::AlignLeft : Qt::AlignRight;
    painter.drawText(QRectF(canvas_->rect()).adjusted(6, 3, -6, -3), side | Qt::AlignTop, numberText(high_, false));
}

/// Round numbers below the curve, and where one is now.
void RampEditor::paintAxis(QPainter& painter) const {
    const Colours& c = colours();
    const QRectF r = area();
    const double width = axis_->to - axis_->from;
    const auto across = [&](double at) { return r.left() + (at - axis_->from) / width * r.width(); };
    const double tenth = std::pow(10.0, std::floor(std::log10(width / 4)));
    const double apart = tenth * (width / tenth > 20 ? 5 : width / tenth > 8 ? 2 : 1);
    painter.setFont(numberFont(10));
    const double first = std::ceil(axis_->from / apart) * apart;
    for (int tick = 0; first + tick * apart <= axis_->to + apart * 1e-6; ++tick) {
        const double at = first + tick * apart;
        painter.setPen(QPen(c.line, 1));
        painter.drawLine(QPointF(across(at), r.bottom()), QPointF(across(at), r.bottom() + 3));
        painter.setPen(c.faint);
        const QRectF label(std::clamp(across(at) - 30, 2.0, canvas_->width() - 62.0), r.bottom() + 4, 60, 14);
        const Qt::Alignment side = label.left() <= 2 ? Qt::AlignLeft : label.right() >= canvas_->width() - 2 ? Qt::AlignRight : Qt::AlignHCenter;
        painter.drawText(label.adjusted(4, 0, -4, 0), side | Qt::AlignTop, numberText(at, axis_->step == 1) + axis_->unit);
    }
    if (!axis_->here || *axis_->here < axis_->from || *axis_->here > axis_->to) return;
    painter.setPen(QPen(c.link, 1));
    painter.drawLine(QPointF(across(*axis_->here), r.top() - 4), QPointF(across(*axis_->here), r.bottom()));
}

/// A place on the axis that a hand can mean.
double RampEditor::steppedX(double x) const {
    if (!axis_) return std::round(x * 200) / 200;
    const double width = axis_->to - axis_->from;
    return (std::round((axis_->from + x * width) / axis_->step) * axis_->step - axis_->from) / width;
}

void RampEditor::change(std::vector<RampKnot> knots, bool gesture) {
    ramp_ = Ramp(std::move(knots));
    chosen_ = std::clamp(chosen_, 0, int(ramp_.knots().size()) - 1);
    if (!gesture) fitRange();
    showNumbers();
    canvas_->update();
    Q_EMIT edited(ramp_, gesture);
}

void RampEditor::press(QPointF at) {
    dragging_ = false;
    for (std::size_t i = 0; i < ramp_.knots().size(); ++i)
        if (QLineF(at, knotPixel(i)).length() < 10) {
            chosen_ = int(i);
            dragging_ = true;
            Q_EMIT dragStarted();
        }
    showNumbers();
    canvas_->update();
}

void RampEditor::drag(QPointF at) {
    const QRectF r = area();
    auto knots = ramp_.knots();
    const auto i = std::size_t(chosen_);
    // A knot stays between its neighbours, so that the order never changes under the hand.
    const double least = i > 0 ? knots[i - 1].x : 0, most = i + 1 < knots.size() ? knots[i + 1].x : 1;
    const double step = std::pow(10.0, std::floor(std::log10((high_ - low_) / 100)));
    knots[i].x = std::clamp(steppedX((at.x() - r.left()) / r.width()), std::min(least, most), std::max(least, most));
    knots[i].y = std::round((low_ + (r.bottom() - at.y()) / r.height() * (high_ - low_)) / step) * step;
    change(std::move(knots), true);
}

void RampEditor::addKnot(QPointF at) {
    const QRectF r = area();
    const double along = (at.x() - r.left()) / r.width(), x = std::clamp(axis_ ? steppedX(along) : along, 0.0, 1.0);
    auto knots = ramp_.knots();
    const auto next = std::find_if(knots.begin(), knots.end(), [&](const RampKnot& k) { return k.x > x; });
    const RampShape shape = next == knots.begin() ? RampShape::straight : (next - 1)->shape;
    chosen_ = int(next - knots.begin());
    knots.insert(next, {x, low_ + (r.bottom() - at.y()) / r.height() * (high_ - low_), shape});
    change(std::move(knots), false);
}

void RampEditor::removeChosen() {
    auto knots = ramp_.knots();
    if (knots.size() < 2) return;
    knots.erase(knots.begin() + chosen_);
    change(std::move(knots), false);
}

bool RampEditor::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::MouseButtonDblClick) {
        addKnot(static_cast<QMouseEvent*>(event)->position());
        return true;
    }
    if (event->type() == QEvent::MouseButtonPress) {
        press(static_cast<QMouseEvent*>(event)->position());
        return true;
    }
    if (event->type() == QEvent::MouseMove && dragging_) {
        drag(static_cast<QMouseEvent*>(event)->position());
        return true;
    }
    if (event->type() == QEvent::MouseButtonRelease && dragging_) {
        dragging_ = false;
        fitRange();
        canvas_->update();
        Q_EMIT dragEnded();
        return true;
    }
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
            removeChosen();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace seedloom::app

#include "app/widgets/NumberField.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "fields/Evaluate.h"

#include <QtCore/QRegularExpression>
#include <QtGui/QKeyEvent>
#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QToolTip>

#include <cmath>

namespace seedloom::app {

std::optional<double> numberFromText(const QString& text, const QString& unit) {
    QString plain = text.trimmed();
    plain.replace(QChar(0x2212), QLatin1Char('-'));
    plain.replace(QChar(0xB0), QStringLiteral("deg"));
    // Where people read commas, one between digits is a decimal sign; behind a space it parts the arguments of a function.
    static const QRegularExpression kBetweenDigits(QStringLiteral("(?<=[0-9]),(?=[0-9])"));
    if (decimalComma()) plain.replace(kBetweenDigits, QStringLiteral("."));
    if (plain.count(QLatin1Char(',')) == 1 && !plain.contains(QLatin1Char('('))) plain.replace(QLatin1Char(','), QLatin1Char('.'));
    struct UnitFactor {
        const char* word;
        double factor;
        const char* of;
    };
    // A degree, radian or metre in a field of another unit has no meaning there, so it is not read.
    static constexpr UnitFactor units[] = {{"mm", 0.001, "m"}, {"cm", 0.01, "m"}, {"km", 1000, "m"},
                                           {"m", 1, "m"},      {"deg", 1, "°"},   {"rad", 57.29577951308232, "°"},
                                           {"%", 0.01, ""}};
    for (const UnitFactor& u : units) {
        const QRegularExpression pattern(QStringLiteral("(?<=[0-9.])\\s*%1(?![A-Za-z])").arg(QLatin1String(u.word)));
        if (!plain.contains(pattern)) continue;
        if (unit != QString::fromUtf8(u.of)) return {};
        plain.replace(pattern, QStringLiteral("*%1").arg(QString::number(u.factor, 'g', 17)));
    }
    try {
        const Numbers numbers = evaluate(FormulaSource{plain.toStdString()}, FieldContext{});
        if (numbers.components == 1 && std::isfinite(numbers.value[0])) return numbers.value[0];
    } catch (const FieldError&) {
        // Not a number: the caller says so where the user is looking.
    }
    return {};
}

QString numberText(double value, bool whole) {
    if (whole) return QString::number(value, 'f', 0);
    const double size = std::abs(value);
    if (size > 0 && (size < 5e-9 || size >= 1e6)) return shownNumber(value, 'g', 4);
    // Small distances are written out: 0.00001 says more than 1e-05.
    QString text = QString::number(value, 'f', size > 0 && size < 0.0005 ? 8 : 4);
    while (text.endsWith(QLatin1Char('0')) && text.size() - text.indexOf(QLatin1Char('.')) > 3) text.chop(1);
    return decimalComma() ? text.replace(QLatin1Char('.'), QLatin1Char(',')) : text;
}

NumberField::NumberField(QWidget* parent) : QLineEdit(parent) {
    setFont(numberFont(12));
    setAlignment(Qt::AlignRight);
    setReadOnly(true);
    setFixedHeight(px(24));
    setMinimumWidth(48);
    setCursor(Qt::SizeHorCursor);
    setContextMenuPolicy(Qt::NoContextMenu);
    connect(this, &QLineEdit::returnPressed, this, [this] { endTyping(true); });
}

void NumberField::setUnit(const QString& unit) {
    unit_ = unit;
    setTextMargins(0, 0, unit.isEmpty() ? 0 : 14, 0);
}

void NumberField::setValue(double value) {
    value_ = value;
    if (!typing_) setText(numberText(value, whole_));
}

void NumberField::setChangedFromDefault(bool changed) {
    QFont font = numberFont(12);
    font.setWeight(changed ? QFont::Medium : QFont::Normal);
    if (font != this->font()) setFont(font);
}

double NumberField::held(double value) const {
    if (whole_) value = std::round(value);
    if (least_) value = std::max(value, *least_);
    if (most_) value = std::min(value, *most_);
    return value;
}

void NumberField::mousePressEvent(QMouseEvent* event) {
    if (typing_ || event->button() != Qt::LeftButton) return QLineEdit::mousePressEvent(event);
    pressed_ = true;
    start_ = event->position();
    startValue_ = value_;
}

void NumberField::mouseMoveEvent(QMouseEvent* event) {
    if (!pressed_) return QLineEdit::mouseMoveEvent(event);
    const double by = event->position().x() - start_.x();
    if (!dragging_ && std::abs(by) < 4) return;
    if (!dragging_) {
        dragging_ = true;
        Q_EMIT dragStarted();
    }
    const double speed = event->modifiers() & Qt::ShiftModifier ? 0.1 : event->modifiers() & Qt::ControlModifier ? 10 : 1;
    const double unit = whole_ ? 1 : step_ * speed;
    double value = startValue_ + by * step_ * speed;
    // Steps of a readable size, so that dragging gives 0.35 and not 0.3487219.
    if (!whole_ && unit > 0) value = std::round(value / unit) * unit;
    value = held(value);
    if (value == value_) return;
    setValue(value);
    Q_EMIT edited(value, true);
}

void NumberField::mouseReleaseEvent(QMouseEvent* event) {
    if (!pressed_) return QLineEdit::mouseReleaseEvent(event);
    pressed_ = false;
    if (dragging_) {
        dragging_ = false;
        Q_EMIT dragEnded();
    } else {
        beginTyping();
    }
}

void NumberField::beginTyping() {
    typing_ = true;
    setReadOnly(false);
    setCursor(Qt::IBeamCursor);
    setFocus();
    setText(shownNumber(value_, 'g', 9));
    selectAll();
}

void NumberField::endTyping(bool take) {
    if (!typing_) return;
    const auto typed = numberFromText(text(), unit_);
    if (take && !typed) {
        QToolTip::showText(mapToGlobal(QPoint(0, height())), tr("This can't be read as a number. Try 0.3, 1/3, 12cm or 45deg."), this);
        selectAll();
        return;
    }
    typing_ = false;
    setReadOnly(true);
    setCursor(Qt::SizeHorCursor);
    const double before = value_;
    setValue(take ? held(*typed) : value_);
    deselect();
    if (value_ != before) Q_EMIT edited(value_, false);
}

void NumberField::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    if (event->reason() == Qt::TabFocusReason || event->reason() == Qt::BacktabFocusReason) beginTyping();
}

void NumberField::focusOutEvent(QFocusEvent* event) {
    if (typing_) endTyping(numberFromText(text(), unit_).has_value());
    QLineEdit::focusOutEvent(event);
}

void NumberField::keyPressEvent(QKeyEvent* event) {
    if (typing_ && event->key() == Qt::Key_Escape) return endTyping(false);
    if (typing_ && (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down)) {
        const double by = (event->key() == Qt::Key_Up ? 1 : -1) * (whole_ ? 1 : step_ * 10);
        const double value = held(value_ + by);
        value_ = value;
        setText(numberText(value, whole_));
        selectAll();
        Q_EMIT edited(value, false);
        return;
    }
    QLineEdit::keyPressEvent(event);
}

void NumberField::paintEvent(QPaintEvent* event) {
    QLineEdit::paintEvent(event);
    if (unit_.isEmpty()) return;
    QPainter painter(this);
    painter.setFont(bodyFont(11));
    painter.setPen(colours().faint);
    painter.drawText(rect().adjusted(0, 0, -6, 0), Qt::AlignRight | Qt::AlignVCenter, unit_);
}

}  // namespace seedloom::app

#include "app/stage/StageLegend.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/NumberField.h"

#include <QtGui/QPainter>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

namespace {

constexpr int kMargin = 10, kBarWidth = 14, kBarHeight = 112, kKeyRow = 17, kCap = 7;

QString text(const std::string& from) { return QString::fromStdString(from); }

QColor onScreen(Vec3 c) { return QColor::fromRgbF(c.x, c.y, c.z); }

}  // namespace

StageLegend::StageLegend(QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("Legend"));
    title_ = new QLabel(this);
    title_->setFont(bodyFont(12, QFont::DemiBold));
    title_->setTextFormat(Qt::PlainText);
    element_ = new QLabel(this);
    element_->setFont(bodyFont(11));
    const auto field = [this](const QString& name) {
        auto* made = new NumberField(this);
        made->setAccessibleName(name);
        made->setToolTip(tr("%1. Drag or type; the range is then locked.").arg(name));
        return made;
    };
    high_ = field(tr("Value of the top colour"));
    low_ = field(tr("Value of the bottom colour"));
    connect(high_, &NumberField::edited, this, [this](double v) { lockAt(legend_.low, v); });
    connect(low_, &NumberField::edited, this, [this](double v) { lockAt(v, legend_.high); });
    lock_ = new QToolButton(this);
    lock_->setCheckable(true);
    lock_->setFont(bodyFont(11));
    lock_->setToolTip(tr("Locked, the same value keeps the same colour; automatic follows the values"));
    connect(lock_, &QToolButton::clicked, this, [this](bool on) {
        ColourChoice choice = legend_.choice;
        choice.range = on ? std::optional(std::array{legend_.low, legend_.high}) : std::nullopt;
        Q_EMIT chosen(choice);
    });
    whole_ = new QToolButton(this);
    whole_->setCheckable(true);
    whole_->setFont(bodyFont(11));
    connect(whole_, &QToolButton::clicked, this, [this](bool on) {
        ColourChoice choice = legend_.choice;
        choice.whole = on;
        Q_EMIT chosen(choice);
    });
    scale_ = new QComboBox(this);
    scale_->setAccessibleName(tr("Colours"));
    scale_->addItems({tr("Even"), tr("Two-sided"), tr("Categories")});
    scale_->setItemData(0, tr("From dark to light in equal steps"), Qt::ToolTipRole);
    scale_->setItemData(1, tr("Two hues away from a light middle, which is 0 where values lie on both sides"), Qt::ToolTipRole);
    scale_->setItemData(2, tr("A colour for each value"), Qt::ToolTipRole);
    connect(scale_, &QComboBox::activated, this, [this](int i) {
        ColourChoice choice = legend_.choice;
        choice.scale = static_cast<ColourScale>(i);
        Q_EMIT chosen(choice);
    });
    hide();
}

void StageLegend::lockAt(double low, double high) {
    ColourChoice choice = legend_.choice;
    choice.range = {low, high};
    Q_EMIT chosen(choice);
}

void StageLegend::show(const Legend& legend) {
    legend_ = legend;
    setVisible(!legend.title.empty());
    if (legend.title.empty()) return;
    const bool fine = legend.problem.empty();
    title_->setText(legend.title == "moved" ? tr("moved, m")
                    : legend.unit.empty()   ? text(legend.title)
                                            : text(legend.title) + QStringLiteral(", ") + catalogueText(legend.unit));
    element_->setText(fine ? QString::fromUtf8(elementName(legend.element).data()) : text(legend.problem));
    element_->setStyleSheet(QStringLiteral("color: %1;").arg((fine ? colours().faint : colours().warning).name()));
    for (QWidget* part : {static_cast<QWidget*>(low_), static_cast<QWidget*>(high_), static_cast<QWidget*>(lock_)}) part->setVisible(fine && legend.scaled);
    scale_->setVisible(fine && legend.numeric);
    showEnds();
    if (!low_->hasFocus()) low_->setValue(legend.low);
    if (!high_->hasFocus()) high_->setValue(legend.high);
    const double step = std::max(std::abs(legend.high - legend.low) / 200, 1e-9);
    for (NumberField* field : {low_, high_}) field->setStep(step);
    lock_->setChecked(legend.choice.range.has_value());
    lock_->setText(legend.choice.range ? tr("locked") : tr("automatic"));
    const QSignalBlocker blocker(scale_);
    scale_->setCurrentIndex(int(legend.choice.scale));
    fit();
    update();
}

/// Where a few values lie far out, both ends are said, and one click takes them in.
void StageLegend::showEnds() {
    const bool outside = legend_.below + legend_.above > 0;
    whole_->setVisible(legend_.problem.empty() && legend_.scaled && !legend_.choice.range && (outside || legend_.choice.whole));
    whole_->setChecked(legend_.choice.whole);
    const auto number = [](double v) { return shownNumber(v, 'g', 3).replace(QLatin1Char('-'), QChar(0x2212)); };
    whole_->setText(tr("all: %1 … %2").arg(number(legend_.least), number(legend_.greatest)));
    whole_->setToolTip(legend_.choice.whole
                           ? tr("Colours span all values. Click for those of the middle 96 %.")
                           : tr("Colours span the middle 96 % of the values; %1 lie below and %2 above, with a colour of their own. Click to span "
                                "all of them.")
                                 .arg(countText(legend_.below), countText(legend_.above)));
}

QRect StageLegend::barRect() const { return {kMargin, title_->geometry().bottom() + 8 + (legend_.above > 0 ? kCap : 0), kBarWidth, px(kBarHeight)}; }

/// Places what is visible from top to bottom; as wide as its widest line.
void StageLegend::fit() {
    title_->adjustSize();
    element_->adjustSize();
    title_->move(kMargin, 8);
    element_->move(title_->geometry().right() + 8, title_->geometry().center().y() - element_->height() / 2 + 1);
    int bottom = title_->geometry().bottom(), right = element_->geometry().right();
    if (!legend_.problem.empty()) return resize(right + kMargin, bottom + 8);
    if (legend_.scaled) {
        const QRect bar = barRect();
        const int left = bar.right() + 10, wide = px(92), high = high_->sizeHint().height();
        high_->setGeometry(left, bar.top() - 2, wide, high);
        low_->setGeometry(left, bar.bottom() - high + 3, wide, high);
        const int middle = px(24);
        lock_->setGeometry(left, bar.center().y() - middle - 1, wide, middle);
        scale_->setGeometry(left, bar.center().y() + 2, wide, middle);
        bottom = bar.bottom() + (legend_.below > 0 ? kCap : 0);
        right = std::max(right, left + wide);
        if (whole_->isVisibleTo(this)) {
            whole_->setGeometry(kMargin, bottom + 6, std::max(whole_->sizeHint().width(), left + wide - kMargin), middle);
            bottom = whole_->geometry().bottom();
            right = std::max(right, whole_->geometry().right());
        }
    }
    const QFontMetrics metrics(bodyFont(11));
    for (const LegendKey& key : legend_.key)
        right = std::max(right, kMargin + 18 + metrics.horizontalAdvance(text(key.text)) + 16 + metrics.horizontalAdvance(countText(key.count)));
    const auto rows = int(legend_.key.size()) + (legend_.further > 0 ? 1 : 0);
    bottom += rows > 0 ? 8 + rows * px(kKeyRow) : 0;
    if (!legend_.scaled && scale_->isVisibleTo(this)) {
        scale_->setGeometry(kMargin, bottom + 8, px(106), px(24));
        bottom = scale_->geometry().bottom();
        right = std::max(right, scale_->geometry().right());
    }
    resize(std::min(right + kMargin, px(320)), bottom + 10);
}

void StageLegend::paintKey(QPainter& painter) const {
    int y = whole_->isVisibleTo(this) ? whole_->geometry().bottom() + 8 : legend_.scaled ? barRect().bottom() + 8 : title_->geometry().bottom() + 8;
    painter.setFont(bodyFont(11));
    const int row = px(kKeyRow), countWidth = painter.fontMetrics().horizontalAdvance(countText(legend_.key.empty() ? 0 : legend_.key.front().count)) + 4;
    const auto line = [&](const QColor& colour, const QString& what, const QString& count) {
        painter.fillRect(QRect(kMargin, y + (row - 11) / 2, 11, 11), colour);
        painter.setPen(colours().ink);
        const QRect place(kMargin + 18, y, width() - kMargin * 2 - 18, row);
        painter.drawText(place.adjusted(0, 0, -countWidth - 6, 0), Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(what, Qt::ElideRight, place.width() - countWidth - 6));
        painter.setPen(colours().faint);
        painter.drawText(place, Qt::AlignRight | Qt::AlignVCenter, count);
        y += row;
    };
    for (const LegendKey& key : legend_.key) line(onScreen(key.colour), text(key.text), countText(key.count));
    if (legend_.further > 0) line(onScreen(categoryColour(kMostCategories)), tr("%n more value(s)", nullptr, int(legend_.further)), {});
}

void StageLegend::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Colours& c = colours();
    QColor ground = c.card;
    ground.setAlpha(225);
    painter.setPen(QPen(c.line, 1));
    painter.setBrush(ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    if (!legend_.problem.empty()) return;
    if (legend_.scaled) {
        const QRect bar = barRect();
        QLinearGradient gradient(bar.bottomLeft(), bar.topLeft());
        for (int i = 0; i <= 16; ++i) gradient.setColorAt(i / 16.0, onScreen(scaleColour(legend_.choice.scale, float(i) / 16)));
        painter.setPen(QPen(c.ink, 1));
        painter.setBrush(gradient);
        painter.drawRect(bar);
        // Values beyond the ends: a point at the end, in their colour.
        const auto cap = [&](bool above) {
            const double edge = above ? bar.top() : bar.bottom() + 1, tip = above ? edge - kCap : edge + kCap;
            painter.setBrush(onScreen(beyondColour(legend_.choice.scale, above)));
            painter.drawPolygon(QPolygonF{{double(bar.left()), edge}, {bar.center().x() + 0.5, tip}, {bar.right() + 1.0, edge}});
        };
        if (legend_.above > 0) cap(true);
        if (legend_.below > 0) cap(false);
    }
    paintKey(painter);
}

}  // namespace seedloom::app

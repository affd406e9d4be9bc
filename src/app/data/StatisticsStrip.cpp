#include "app/data/StatisticsStrip.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/Bars.h"

#include <QtGui/QPainter>

namespace seedloom::app {

StatisticsStrip::StatisticsStrip(QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("Statistics of the chosen column"));
    setFixedHeight(px(40));
}

QSize StatisticsStrip::sizeHint() const { return {px(420), px(40)}; }

void StatisticsStrip::show(const QString& name, const Statistics& statistics) {
    name_ = name;
    statistics_ = statistics;
    setAccessibleDescription(
        tr("%1: %2 values from %3 to %4, mean %5").arg(name, countText(statistics.count)).arg(statistics.least).arg(statistics.most).arg(statistics.mean));
    update();
}

void StatisticsStrip::clear() {
    name_.clear();
    statistics_ = {};
    update();
}

void StatisticsStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const Colours& c = colours();
    painter.fillRect(rect(), c.paper);
    painter.setPen(c.line);
    painter.drawLine(0, 0, width(), 0);
    if (name_.isEmpty() || statistics_.count == 0) {
        painter.setFont(bodyFont(11));
        painter.setPen(c.faint);
        painter.drawText(rect().adjusted(16, 0, -16, 0), Qt::AlignVCenter, tr("Choose a column to see what its numbers are like."));
        return;
    }
    int x = 16;
    const auto part = [&](const QString& label, const QString& value) {
        painter.setFont(bodyFont(10));
        painter.setPen(c.faint);
        painter.drawText(QRect(x, 3, px(200), height() / 2 - 2), Qt::AlignLeft | Qt::AlignVCenter, label);
        const int labelWidth = painter.fontMetrics().horizontalAdvance(label);
        painter.setFont(numberFont(11));
        painter.setPen(c.ink);
        painter.drawText(QRect(x, height() / 2 - 2, px(200), height() / 2), Qt::AlignLeft | Qt::AlignVCenter, value);
        x += std::max(painter.fontMetrics().horizontalAdvance(value), labelWidth) + px(18);
    };
    const auto number = [](double v) { return shownNumber(v, 'g', 5); };
    part(name_, countText(statistics_.count));
    part(tr("least"), number(statistics_.least));
    part(tr("mean"), number(statistics_.mean));
    part(tr("most"), number(statistics_.most));
    part(tr("deviation"), number(statistics_.deviation));
    if (statistics_.nonFinite > 0) part(tr("not a number"), countText(statistics_.nonFinite));
    const QRect chart(x, 5, std::min(width() - x - 16, px(260)), height() - 10);
    if (chart.width() < 40 || statistics_.bars.empty()) return;
    paintBars(painter, chart, statistics_.bars);
}

}  // namespace seedloom::app

#include "app/settings/SourcePreview.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/Bars.h"

#include <QtGui/QPainter>

namespace seedloom::app {

SourcePreview::SourcePreview(QWidget* parent) : QWidget(parent) { setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed); }

QSize SourcePreview::sizeHint() const { return {160, px(34)}; }

void SourcePreview::show(const Statistics& statistics) {
    statistics_ = statistics;
    reason_.clear();
    const auto text = [](double v) { return shownNumber(v, 'g', 4); };
    setAccessibleName(tr("Values from %1 to %2, %3 on average").arg(text(statistics.least), text(statistics.most), text(statistics.mean)));
    setToolTip(tr("What this source gives on the %n element(s) that come in", nullptr, int(statistics.count)));
    update();
}

void SourcePreview::showReason(const QString& reason) {
    statistics_ = {};
    reason_ = reason;
    setAccessibleName(reason);
    setToolTip(reason);
    update();
}

void SourcePreview::paintEvent(QPaintEvent*) {
    const Colours& c = colours();
    QPainter painter(this);
    painter.setFont(numberFont(10));
    painter.setPen(c.faint);
    if (statistics_.count == 0) {
        painter.setFont(bodyFont(11));
        painter.drawText(rect(), Qt::AlignVCenter | Qt::AlignLeft, painter.fontMetrics().elidedText(reason_, Qt::ElideRight, width()));
        return;
    }
    const int textHeight = painter.fontMetrics().height();
    const QRectF field(0, 0, width(), height() - textHeight - 1);
    painter.fillRect(field, c.field);
    paintBars(painter, field, statistics_.bars);
    if (statistics_.most > statistics_.least) {
        const double at = (statistics_.mean - statistics_.least) / (statistics_.most - statistics_.least) * field.width();
        painter.fillRect(QRectF(at - 1, 0, 2, field.height()), c.chosen);
    }
    const QRectF line(0, height() - textHeight, width(), textHeight);
    const auto text = [](double v) { return shownNumber(v, 'g', 4); };
    painter.drawText(line, Qt::AlignLeft, text(statistics_.least));
    painter.drawText(line, Qt::AlignRight, text(statistics_.most));
    painter.setPen(c.chosen);
    // What is left of numbers that cancel out is no value to read.
    const double range = std::max(std::abs(statistics_.least), std::abs(statistics_.most));
    painter.drawText(line, Qt::AlignHCenter, tr("mean %1").arg(text(std::abs(statistics_.mean) < 1e-7 * range ? 0 : statistics_.mean)));
}

}  // namespace seedloom::app

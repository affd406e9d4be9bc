#include "app/data/FrameBar.h"

#include "app/look/Theme.h"

#include <QtGui/QPainter>

namespace seedloom::app {

FrameBar::FrameBar(QWidget* parent) : QWidget(parent) {
    setFixedHeight(px(8));
    setAccessibleName(tr("Frames that are done"));
    setVisible(false);
}

void FrameBar::show(std::vector<std::uint8_t> kept, int first, int last) {
    kept_ = std::move(kept);
    first_ = first, last_ = std::max(last, first + 1);
    setVisible(!kept_.empty());
    const auto done = std::count_if(kept_.begin(), kept_.end(), [](std::uint8_t k) { return k != 0; });
    setToolTip(tr("%n frame(s) are done; filled in the bar. Each builds on the one before.", nullptr, int(done)));
    update();
}

void FrameBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const Colours& c = colours();
    painter.fillRect(rect(), c.field);
    const double step = double(width()) / double(last_ - first_ + 1);
    // Runs of frames as one: a thousand frames are a few strips.
    for (int frame = first_; frame <= last_; ++frame) {
        if (!isKept(frame)) continue;
        const int begin = frame;
        while (frame < last_ && isKept(frame + 1)) ++frame;
        painter.fillRect(QRectF((begin - first_) * step, 0, (frame - begin + 1) * step, height()), c.fresh);
    }
    painter.setPen(c.line);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

}  // namespace seedloom::app

#include "app/widgets/ColourSwatch.h"

#include "app/look/Theme.h"

#include <QtGui/QPainter>
#include <QtWidgets/QColorDialog>

namespace seedloom::app {

namespace {

constexpr int kSwatch = 16;

QIcon swatchIcon(const QColor& colour) {
    QPixmap pixmap(px(kSwatch), px(kSwatch));
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(colours().line, 1));
    painter.setBrush(colour);
    painter.drawRoundedRect(QRectF(pixmap.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    return pixmap;
}

}  // namespace

ColourSwatch::ColourSwatch(QWidget* parent) : QToolButton(parent) {
    setIconSize({px(kSwatch), px(kSwatch)});
    connect(this, &QToolButton::clicked, this, &ColourSwatch::choose);
}

void ColourSwatch::setColour(const QColor& colour) {
    if (colour == colour_) return;
    colour_ = colour;
    setIcon(swatchIcon(colour));
}

void ColourSwatch::choose() {
    auto* dialog = new QColorDialog(colour_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setOption(QColorDialog::DontUseNativeDialog);
    dialog->setWindowTitle(toolTip());
    connect(dialog, &QColorDialog::colorSelected, this, [this](const QColor& colour) {
        setColour(colour);
        Q_EMIT edited(colour);
    });
    dialog->open();
}

}  // namespace seedloom::app

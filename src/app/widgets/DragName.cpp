#include "app/widgets/DragName.h"

#include "app/look/Theme.h"

#include <QtCore/QMimeData>
#include <QtGui/QDrag>
#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QApplication>

namespace seedloom::app {

std::pair<std::string, std::string> draggedSetting(const QMimeData* data) {
    const QByteArray bytes = data->data(QLatin1String(kSettingMime));
    const auto at = bytes.indexOf('\n');
    if (at < 0) return {};
    return {bytes.left(at).toStdString(), bytes.mid(at + 1).toStdString()};
}

std::string draggedControl(const QMimeData* data) { return data->data(QLatin1String(kControlMime)).toStdString(); }

DragName::DragName(const QString& text, const char* mime, QByteArray carried, QWidget* parent)
    : QLabel(text, parent), mime_(mime), carried_(std::move(carried)) {
    setCursor(Qt::PointingHandCursor);
}

void DragName::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    pressed_ = event->pos();
    down_ = true;
}

void DragName::mouseMoveEvent(QMouseEvent* event) {
    if (!down_ || (event->pos() - pressed_).manhattanLength() < QApplication::startDragDistance()) return;
    down_ = false;
    auto* drag = new QDrag(this);
    auto* data = new QMimeData;
    data->setData(QLatin1String(mime_), carried_);
    drag->setMimeData(data);
    // A slip of paper with the name goes along.
    const QSize size = QFontMetrics(font()).size(0, text()) + QSize(20, 10);
    QPixmap slip(size);
    slip.fill(colours().note);
    QPainter painter(&slip);
    painter.setFont(font());
    painter.setPen(colours().ink);
    painter.drawText(slip.rect(), Qt::AlignCenter, text());
    painter.end();
    drag->setPixmap(slip);
    drag->exec(Qt::LinkAction | Qt::CopyAction, Qt::LinkAction);
}

void DragName::mouseReleaseEvent(QMouseEvent*) {
    if (!std::exchange(down_, false)) return;
    Q_EMIT clicked();
}

void DragName::contextMenuEvent(QContextMenuEvent* event) { Q_EMIT menuWanted(event->globalPos()); }

}  // namespace seedloom::app

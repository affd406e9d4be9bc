#include "app/widgets/Gallery.h"

#include "app/look/TextLines.h"
#include "app/look/Theme.h"

#include <QtGui/QKeyEvent>
#include <QtGui/QPainter>
#include <QtGui/QPainterPath>

namespace seedloom::app {

namespace {

constexpr int kWide = 204, kPictureHigh = 138, kTextHigh = 100, kGap = 16, kInset = 10;

}  // namespace

GalleryCard::GalleryCard(Content content, QWidget* parent) : QAbstractButton(parent), content_(std::move(content)) {
    setText(content_.name);
    setAccessibleName(content_.name);
    setAccessibleDescription(content_.words + QLatin1Char(' ') + content_.remark);
    setToolTip(content_.words);
    setCursor(Qt::PointingHandCursor);
    setFocusPolicy(Qt::StrongFocus);
}

QSize GalleryCard::sizeHint() const { return {px(kWide), kPictureHigh + px(kTextHigh)}; }

void GalleryCard::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return click();
    QAbstractButton::keyPressEvent(event);
}

void GalleryCard::paintEvent(QPaintEvent*) {
    const Colours& c = colours();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const QRectF card = QRectF(rect()).adjusted(1, 1, -1, -1);
    painter.setPen(QPen(hasFocus() ? c.chosen : underMouse() ? c.faint : c.line, hasFocus() ? 2 : 1));
    painter.setBrush(c.card);
    painter.drawRoundedRect(card, 5, 5);
    const QRectF picture(card.left() + 1, card.top() + 1, card.width() - 2, kPictureHigh);
    painter.fillRect(picture, c.field);
    if (!content_.picture.isNull()) {
        // The middle of it, as large as it takes to fill the place.
        const QSizeF whole = content_.picture.size();
        const QSizeF part = picture.size().scaled(whole, Qt::KeepAspectRatio);
        painter.drawPixmap(picture, content_.picture, QRectF(QPointF((whole.width() - part.width()) / 2, (whole.height() - part.height()) / 2), part));
    }
    QRectF text(card.left() + kInset, picture.bottom() + 8, card.width() - 2 * kInset, card.bottom() - picture.bottom() - 12);
    painter.setFont(bodyFont(13, QFont::DemiBold));
    painter.setPen(c.ink);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignTop, painter.fontMetrics().elidedText(content_.name, Qt::ElideRight, int(text.width())));
    text.setTop(text.top() + painter.fontMetrics().height() + 2);
    painter.setFont(bodyFont(11));
    const int line = painter.fontMetrics().lineSpacing();
    const QRectF remark(text.left(), text.bottom() - 2 * line, text.width(), 2 * line);
    painter.setPen(c.link);
    const auto lines = [&](const QString& words) { return inTwoLines(words, painter.fontMetrics(), int(text.width())).join(QLatin1Char('\n')); };
    painter.drawText(remark, Qt::AlignLeft | Qt::AlignBottom, lines(content_.remark));
    painter.setPen(c.faint);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignTop, lines(content_.words));
}

GalleryCard* Gallery::add(GalleryCard::Content content) {
    auto* card = new GalleryCard(std::move(content), this);
    card->show();
    cards_.push_back(card);
    layOut();
    return card;
}

void Gallery::clear() {
    for (GalleryCard* card : cards_) card->hide(), card->deleteLater();
    cards_.clear();
    layOut();
}

void Gallery::layOut() {
    if (cards_.empty()) return setFixedHeight(0);
    const QSize size = cards_.front()->sizeHint();
    // As many as fit, and as wide as they can be.
    const int columns = std::max(1, (width() + kGap) / (size.width() + kGap)), wide = std::min((width() + kGap) / columns - kGap, size.width() * 3 / 2);
    for (std::size_t i = 0; i < cards_.size(); ++i) {
        const int column = int(i) % columns, row = int(i) / columns;
        cards_[i]->setGeometry(QRect(QPoint(column * (wide + kGap), row * (size.height() + kGap)), QSize(wide, size.height())));
    }
    const int rows = (int(cards_.size()) + columns - 1) / columns;
    setFixedHeight(rows * (size.height() + kGap) - kGap);
}

}  // namespace seedloom::app

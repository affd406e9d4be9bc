#include "app/library/AssetCard.h"

#include "app/library/LibraryModel.h"
#include "app/look/TextLines.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"

#include <QtGui/QPainter>
#include <QtGui/QPainterPath>

namespace seedloom::app {

namespace {

constexpr int kCardHigh = 82, kPictureWide = 96, kPictureHigh = 64, kInset = 8, kShelfHigh = 30;

}  // namespace

AssetCard::AssetCard(const LibraryModel& model, QObject* parent) : QStyledItemDelegate(parent), model_(model) {}

QSize AssetCard::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const LibraryModel::Row& row = model_.row(index);
    if (row.kind == LibraryModel::Row::Kind::asset) return {px(200), std::max(px(kCardHigh), kPictureHigh + 2 * kInset)};
    if (row.kind == LibraryModel::Row::Kind::shelf) return {px(200), px(kShelfHigh)};
    const int width = std::max(px(120), option.rect.width() - 2 * px(14));
    const QRect needed = QFontMetrics(bodyFont(12)).boundingRect(QRect(0, 0, width, 10'000), Qt::TextWordWrap, row.text);
    return {px(200), needed.height() + px(14)};
}

void AssetCard::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    painter->setRenderHint(QPainter::SmoothPixmapTransform);
    switch (model_.row(index).kind) {
        case LibraryModel::Row::Kind::shelf: paintShelf(*painter, option, index); break;
        case LibraryModel::Row::Kind::asset: paintAsset(*painter, option, index); break;
        case LibraryModel::Row::Kind::remark:
            painter->setFont(bodyFont(12));
            painter->setPen(colours().faint);
            painter->drawText(option.rect.adjusted(px(14), px(4), -px(14), 0), Qt::TextWordWrap, model_.row(index).text);
            break;
    }
    painter->restore();
}

/// A board with the shelf's name on it.
void AssetCard::paintShelf(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const Colours& c = colours();
    const LibraryModel::Row& row = model_.row(index);
    const QRect box = option.rect.adjusted(px(10), 0, -px(10), -3);
    painter.setPen(QPen(option.state & QStyle::State_Selected ? c.chosen : c.line, 2));
    painter.drawLine(box.bottomLeft(), box.bottomRight());
    painter.setPen(c.ink);
    painter.setFont(bodyFont(12, QFont::DemiBold));
    const QString count = model_.folded(row) ? tr("%1 folded").arg(countText(std::size_t(row.count))) : countText(std::size_t(row.count));
    const int right = QFontMetrics(numberFont(11)).horizontalAdvance(count) + 8;
    painter.drawText(box.adjusted(0, 0, -right, -2), Qt::AlignLeft | Qt::AlignBottom,
                     painter.fontMetrics().elidedText(row.text, Qt::ElideMiddle, box.width() - right));
    painter.setFont(numberFont(11));
    painter.setPen(c.faint);
    painter.drawText(box.adjusted(0, 0, 0, -2), Qt::AlignRight | Qt::AlignBottom, count);
}

void AssetCard::paintAsset(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const Colours& c = colours();
    const LibraryModel::Row& row = model_.row(index);
    const ShelfAsset& asset = model_.asset(row);
    const bool chosen = option.state & QStyle::State_Selected, under = option.state & QStyle::State_MouseOver;
    const QRectF card = QRectF(option.rect).adjusted(px(10), 2, -px(10), -2);
    painter.setPen(QPen(chosen ? c.chosen : under ? c.faint : c.line, chosen ? 2 : 1));
    painter.setBrush(c.card);
    painter.drawRoundedRect(card, 5, 5);
    const QRectF picture(card.left() + kInset, card.top() + (card.height() - kPictureHigh) / 2, kPictureWide, kPictureHigh);
    const QPixmap seen = model_.picture(row);
    painter.fillRect(picture, c.field);
    if (!seen.isNull()) {
        const QSizeF part = picture.size().scaled(seen.size(), Qt::KeepAspectRatio);
        painter.drawPixmap(picture, seen, QRectF(QPointF((seen.width() - part.width()) / 2, (seen.height() - part.height()) / 2), part));
    } else {
        painter.drawPixmap(picture.center() - QPointF(12, 12), iconPixmap(QStringLiteral("seedloom"), 24, c.faint));
    }
    QRectF text(picture.right() + px(10), card.top() + px(7), card.right() - picture.right() - px(18), card.height() - px(12));
    painter.setFont(numberFont(11));
    painter.setPen(c.faint);
    const QString version = asset.pack ? QString::fromStdString(asset.about.version) : tr("loom");
    const int wide = painter.fontMetrics().horizontalAdvance(version) + 6;
    painter.drawText(text, Qt::AlignRight | Qt::AlignTop, version);
    painter.setFont(bodyFont(12, QFont::DemiBold));
    painter.setPen(c.ink);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignTop,
                     painter.fontMetrics().elidedText(QString::fromStdString(asset.about.name), Qt::ElideRight, int(text.width()) - wide));
    text.setTop(text.top() + painter.fontMetrics().height() + 2);
    painter.setFont(bodyFont(11));
    const QStringList older = model_.olderInUse(row);
    QString foot;
    if (!older.isEmpty()) foot = tr("Here in use: %1").arg(older.join(QStringLiteral(", ")));
    else if (row.versions.size() > 1) foot = tr("%1 versions").arg(row.versions.size());
    else if (model_.inUse(row)) foot = tr("Used here");
    QString words = QString::fromStdString(asset.problem.empty() ? asset.about.summary : asset.problem);
    painter.setPen(asset.problem.empty() ? c.faint : c.warning);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignTop, inTwoLines(words, painter.fontMetrics(), int(text.width())).join(QLatin1Char('\n')));
    painter.setPen(older.isEmpty() ? c.link : c.warning);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignBottom, painter.fontMetrics().elidedText(foot, Qt::ElideRight, int(text.width())));
}

}  // namespace seedloom::app

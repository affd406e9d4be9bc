#include "app/weave/QuickAdd.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/session/Pictures.h"
#include "app/weave/Selvedge.h"
#include "operators/Catalogue.h"

#include <QtCore/QSettings>
#include <QtGui/QPainter>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QStyledItemDelegate>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

int rowHeight() { return px(52); }

class RowPainter : public QStyledItemDelegate {
public:
    RowPainter(Pictures& pictures, QObject* parent) : QStyledItemDelegate(parent), pictures_(pictures) {}

    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {100, rowHeight()}; }

    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const OperatorSpec* spec = findOperator(index.data(Qt::UserRole).toString().toStdString());
        if (!spec) return;
        const Colours& c = colours();
        const bool chosen = option.state & QStyle::State_Selected;
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        painter->setRenderHint(QPainter::SmoothPixmapTransform);
        const QRect row = option.rect.adjusted(4, 2, -4, -2);
        painter->setPen(chosen ? QPen(c.chosen, 1.5) : QPen(Qt::NoPen));
        painter->setBrush(chosen ? c.field : c.card);
        painter->drawRoundedRect(row, 4, 4);
        paintSelvedge(*painter, QRectF(row.left() + 4, row.top() + 5, 6, row.height() - 10), spec->family, c.ink);
        const QRect picture(row.left() + 16, row.top() + 4, 40, 40);
        painter->setPen(Qt::NoPen);
        painter->setBrush(c.field);
        painter->drawRoundedRect(picture, 3, 3);
        painter->drawPixmap(picture.adjusted(2, 2, -2, -2), pictures_.ofOperator(spec->id));
        const QRect text = row.adjusted(66, 5, -8, -5);
        painter->setFont(bodyFont(13, QFont::DemiBold));
        painter->setPen(c.ink);
        painter->drawText(text, Qt::AlignLeft | Qt::AlignTop, catalogueText(spec->label));
        painter->setFont(bodyFont(11));
        painter->setPen(c.faint);
        painter->drawText(text, Qt::AlignRight | Qt::AlignTop, catalogueText(std::string(familyName(spec->family))));
        const QString sentence = painter->fontMetrics().elidedText(catalogueText(spec->sentence), Qt::ElideRight, text.width());
        painter->drawText(text, Qt::AlignLeft | Qt::AlignBottom, sentence);
        painter->restore();
    }

private:
    Pictures& pictures_;
};

constexpr const char* kRecent = "recentOperators";
constexpr int kMostRecent = 8;

}  // namespace

QuickAdd::QuickAdd(Pictures& pictures, QWidget* weave) : SearchPopup(weave), pictures_(pictures) {
    field()->setPlaceholderText(tr("What do you want to do?  e.g. round, wall, even spacing"));
    field()->setAccessibleName(tr("Quick add"));
    list()->setItemDelegate(new RowPainter(pictures_, list()));
    list()->setAccessibleName(tr("Operators"));
    auto* hint = new QLabel(tr("Enter adds  ·  ↑ ↓ choose  ·  Esc closes"), this);
    hint->setProperty("role", "faint");
    column()->addWidget(hint);
    connect(&pictures_, &Pictures::ready, list()->viewport(), qOverload<>(&QWidget::update));
}

void QuickAdd::open(QRect anchor, bool onlyFitting, std::optional<Flow> behind, std::function<void(const std::string&)> use, const QString& typed) {
    context_ = {onlyFitting, behind, QSettings().value(QLatin1String(kRecent)).toStringList()};
    use_ = std::move(use);
    anchor_ = QRect(owner()->mapTo(owner()->window(), anchor.topLeft()), anchor.size());
    openWith(typed);
}

/// As high as its rows need, beside the anchor: below where there is room, else above.
void QuickAdd::place() {
    const int kFrame = px(88), kMostRows = 6;
    const QSize area = parentWidget()->size();
    const int rows = std::clamp(list()->count(), 1, kMostRows);
    resize(std::min(px(470), area.width() - 16), std::min(kFrame + rows * rowHeight(), area.height() - 16));
    const bool below = anchor_.bottom() + 8 + kFrame + kMostRows * rowHeight() < area.height();
    const int y = below ? anchor_.bottom() + 8 : anchor_.top() - 8 - height();
    move(std::clamp(anchor_.left(), 8, std::max(8, area.width() - width() - 8)), std::clamp(y, 8, std::max(8, area.height() - height() - 8)));
}

void QuickAdd::fill() {
    list()->clear();
    for (const OperatorSpec* spec : operatorsFor(field()->text(), context_)) {
        auto* item = new QListWidgetItem(list());
        item->setData(Qt::UserRole, QString::fromStdString(spec->id));
        item->setData(Qt::AccessibleTextRole, QString(catalogueText(spec->label) + QStringLiteral(": ") + catalogueText(spec->sentence)));
    }
    if (list()->count() == 0) addNothing(tr("Nothing fits these words. Try others, such as 'smooth' or 'line'."));
    list()->setCurrentRow(0);
    place();
}

void QuickAdd::take() {
    const QListWidgetItem* item = list()->currentItem();
    const QString id = item ? item->data(Qt::UserRole).toString() : QString();
    if (id.isEmpty()) return;
    close();
    QStringList recent = context_.recent;
    recent.removeAll(id);
    recent.prepend(id);
    QSettings().setValue(QLatin1String(kRecent), QStringList(recent.mid(0, kMostRecent)));
    if (use_) use_(id.toStdString());
}

}  // namespace seedloom::app

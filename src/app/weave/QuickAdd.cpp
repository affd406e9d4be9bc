#include "app/weave/QuickAdd.h"

#include "app/shell/Pictures.h"
#include "app/shell/Theme.h"
#include "app/weave/Selvedge.h"
#include "operators/Catalogue.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QStyledItemDelegate>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kRowHeight = 52;

/// How well a typed word fits: 0 is not at all.
int fit(const OperatorSpec& spec, const QString& word) {
    const QString label = QString::fromStdString(spec.label).toLower();
    if (label.startsWith(word)) return 100;
    for (const QString& part : label.split(QLatin1Char(' ')))
        if (part.startsWith(word)) return 80;
    int best = 0;
    for (const std::string& synonym : spec.synonyms) {
        const QString text = QString::fromStdString(synonym);
        if (text.startsWith(word)) best = std::max(best, 60);
        else if (text.contains(word)) best = std::max(best, 40);
    }
    if (best > 0) return best;
    if (word.size() > 2 && QString::fromStdString(spec.sentence).toLower().contains(word)) return 20;
    return label.contains(word) ? 15 : 0;
}

class RowPainter : public QStyledItemDelegate {
public:
    RowPainter(Pictures& pictures, QObject* parent) : QStyledItemDelegate(parent), pictures_(pictures) {}

    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {100, kRowHeight}; }

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
        const QRect text = row.adjusted(66, 6, -8, -6);
        painter->setFont(bodyFont(13, QFont::DemiBold));
        painter->setPen(c.ink);
        painter->drawText(text, Qt::AlignLeft | Qt::AlignTop, QString::fromStdString(spec->label));
        painter->setFont(bodyFont(11));
        painter->setPen(c.faint);
        painter->drawText(text, Qt::AlignRight | Qt::AlignTop, QString::fromUtf8(familyName(spec->family).data()));
        const QString sentence = painter->fontMetrics().elidedText(QString::fromStdString(spec->sentence), Qt::ElideRight, text.width());
        painter->drawText(text, Qt::AlignLeft | Qt::AlignBottom, sentence);
        painter->restore();
    }

private:
    Pictures& pictures_;
};

}  // namespace

std::vector<const OperatorSpec*> operatorsFor(const QString& typed, bool onlyWithInput) {
    const QStringList words = typed.toLower().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<std::pair<int, const OperatorSpec*>> found;
    for (const OperatorSpec& spec : catalogue()) {
        if (onlyWithInput && spec.inputs.empty()) continue;
        int total = 0;
        bool all = true;
        for (const QString& word : words) {
            const int points = fit(spec, word);
            all &= points > 0;
            total += points;
        }
        if (all) found.push_back({total, &spec});
    }
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<const OperatorSpec*> out;
    for (const auto& [points, spec] : found) out.push_back(spec);
    return out;
}

QuickAdd::QuickAdd(Pictures& pictures, QWidget* parent) : QFrame(parent), pictures_(pictures), weave_(parent), field_(new QLineEdit(this)), list_(new QListWidget(this)) {
    setObjectName(QStringLiteral("quickAdd"));
    setStyleSheet(QStringLiteral("#quickAdd { background: %1; border: 1px solid %2; border-radius: 6px; }").arg(colours().card.name(), colours().ink.name()));
    field_->setPlaceholderText(tr("What do you want to do?  e.g. round, wall, even spacing"));
    field_->setAccessibleName(tr("Quick add"));
    field_->setMinimumHeight(30);
    list_->setItemDelegate(new RowPainter(pictures_, list_));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setAccessibleName(tr("Operators"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(6);
    column->addWidget(field_);
    column->addWidget(list_);
    auto* hint = new QLabel(tr("Enter adds  ·  ↑ ↓ choose  ·  Esc closes"), this);
    hint->setStyleSheet(QStringLiteral("color: %1; font-size: 11px;").arg(colours().faint.name()));
    column->addWidget(hint);
    field_->installEventFilter(this);
    connect(field_, &QLineEdit::textChanged, this, &QuickAdd::fill);
    connect(list_, &QListWidget::itemClicked, this, &QuickAdd::take);
    connect(&pictures_, &Pictures::ready, list_->viewport(), qOverload<>(&QWidget::update));
    hide();
}

void QuickAdd::close() {
    hide();
    weave_->setFocus();
}

void QuickAdd::open(QRect anchor, bool onlyWithInput, std::function<void(const std::string&)> use) {
    onlyWithInput_ = onlyWithInput;
    use_ = std::move(use);
    // The weave may be low: the whole window is there to open in, and the chosen card stays in sight.
    if (parentWidget() != weave_->window()) setParent(weave_->window());
    anchor_ = QRect(weave_->mapTo(parentWidget(), anchor.topLeft()), anchor.size());
    field_->clear();
    fill();
    show();
    raise();
    field_->setFocus();
}

/// As high as its rows need, beside the anchor: below where there is room, else above.
void QuickAdd::place() {
    constexpr int kFrame = 88, kMostRows = 6;
    const QSize area = parentWidget()->size();
    const int rows = std::clamp(list_->count(), 1, kMostRows);
    resize(std::min(470, area.width() - 16), std::min(kFrame + rows * kRowHeight, area.height() - 16));
    const bool below = anchor_.bottom() + 8 + kFrame + kMostRows * kRowHeight < area.height();
    const int y = below ? anchor_.bottom() + 8 : anchor_.top() - 8 - height();
    move(std::clamp(anchor_.left(), 8, std::max(8, area.width() - width() - 8)), std::clamp(y, 8, std::max(8, area.height() - height() - 8)));
}

void QuickAdd::fill() {
    list_->clear();
    for (const OperatorSpec* spec : operatorsFor(field_->text(), onlyWithInput_)) {
        auto* item = new QListWidgetItem(list_);
        item->setData(Qt::UserRole, QString::fromStdString(spec->id));
        item->setData(Qt::AccessibleTextRole, QString::fromStdString(spec->label + ": " + spec->sentence));
    }
    if (list_->count() == 0) {
        auto* item = new QListWidgetItem(tr("Nothing fits these words. Try others, such as 'smooth' or 'line'."), list_);
        item->setFlags(Qt::NoItemFlags);
    }
    list_->setCurrentRow(0);
    place();
}

void QuickAdd::take() {
    const QListWidgetItem* item = list_->currentItem();
    const QString id = item ? item->data(Qt::UserRole).toString() : QString();
    if (id.isEmpty()) return;
    close();
    if (use_) use_(id.toStdString());
}

bool QuickAdd::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(event);
        const int rows = std::max(list_->count(), 1);
        switch (key->key()) {
            case Qt::Key_Down: list_->setCurrentRow((list_->currentRow() + 1) % rows); return true;
            case Qt::Key_Up: list_->setCurrentRow((list_->currentRow() + rows - 1) % rows); return true;
            case Qt::Key_Return:
            case Qt::Key_Enter: take(); return true;
            case Qt::Key_Escape:
                close();
                return true;
            default: break;
        }
    }
    if (event->type() == QEvent::FocusOut && !list_->hasFocus()) hide();
    return QFrame::eventFilter(watched, event);
}

}  // namespace seedloom::app

#include "app/settings/PresetBar.h"

#include "app/look/Theme.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/Slider.h"

#include <QtGui/QPainter>
#include <QtWidgets/QAbstractItemView>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QStyledItemDelegate>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kPictureRole = Qt::UserRole + 1, kRowInset = 5;

/// A preset as a row: its picture, and its name.
class PresetRow : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {px(220), PresetPictures::kHigh + 2 * kRowInset}; }
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Colours& c = colours();
        const bool chosen = option.state & (QStyle::State_Selected | QStyle::State_MouseOver);
        painter->fillRect(option.rect, chosen ? c.field : c.card);
        const QRect picture(option.rect.left() + kRowInset, option.rect.top() + kRowInset, PresetPictures::kWide, PresetPictures::kHigh);
        const auto drawn = index.data(kPictureRole).value<QPixmap>();
        if (drawn.isNull()) painter->fillRect(picture, chosen ? c.card : c.field);  // it is still being drawn
        else painter->drawPixmap(picture, drawn);
        painter->setFont(bodyFont(12, chosen ? QFont::DemiBold : QFont::Normal));
        painter->setPen(c.ink);
        const QRect text = option.rect.adjusted(PresetPictures::kWide + 3 * kRowInset, 0, -kRowInset, 0);
        painter->drawText(text, Qt::AlignVCenter | Qt::AlignLeft, painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, text.width()));
    }
};

/// Asks for pictures when its list opens.
class PresetBox : public QComboBox {
public:
    PresetBox(QWidget* parent, std::function<void()> opens) : QComboBox(parent), opens_(std::move(opens)) { setItemDelegate(new PresetRow(this)); }
    void showPopup() override {
        opens_();
        view()->setMinimumWidth(std::max(width(), px(240)));
        QComboBox::showPopup();
    }

private:
    std::function<void()> opens_;
};

}  // namespace

PresetBar::PresetBar(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), pictures_(document), presets_(new PresetBox(this,
                                                                                        [this] {
                                                                                            pictures_.want();
                                                                                            showPictures();
                                                                                        })),
      more_(new QToolButton(this)), name_(new QLineEdit(this)), blendRow_(new QWidget(this)), fromName_(smallLabel({}, blendRow_)),
      toName_(smallLabel({}, blendRow_)), blend_(new Slider(blendRow_)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* line = new QHBoxLayout;
    presets_->setAccessibleName(tr("Presets"));
    presets_->setToolTip(tr("Sets all controls to values that were kept under a name"));
    presets_->setPlaceholderText(tr("Presets"));
    presets_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    connect(presets_, &QComboBox::activated, this, &PresetBar::choose);
    line->addWidget(presets_, 1);
    more_->setIcon(icon(QStringLiteral("add")));
    more_->setToolTip(tr("Keep these values as a preset; rename, order, blend or delete presets"));
    more_->setAccessibleName(tr("Keep or change presets"));
    connect(more_, &QToolButton::clicked, this, [this] { makeMenu()->popup(more_->mapToGlobal(QPoint(0, more_->height()))); });
    line->addWidget(more_);
    column->addLayout(line);
    name_->hide();
    connect(name_, &QLineEdit::returnPressed, this, [this] {
        const std::string name = name_->text().trimmed().toStdString();
        name_->hide();
        if (!name.empty() && taken_) std::exchange(taken_, nullptr)(name);
    });
    connect(name_, &QLineEdit::editingFinished, this, [this] {
        if (!name_->hasFocus()) name_->hide();
    });
    column->addWidget(name_);
    auto* blending = new QHBoxLayout(blendRow_);
    blending->setContentsMargins(0, 0, 0, 0);
    blend_->setRange(0, 1);
    blend_->setAccessibleName(tr("From one preset to the other"));
    auto* end = new QToolButton(blendRow_);
    end->setIcon(icon(QStringLiteral("close")));
    end->setToolTip(tr("Keeps the values and takes this slider away"));
    end->setAccessibleName(tr("End blending"));
    connect(end, &QToolButton::clicked, this, &PresetBar::endBlend);
    for (QWidget* part : std::initializer_list<QWidget*>{fromName_, blend_, toName_, end}) blending->addWidget(part);
    blending->setStretch(1, 1);
    blendRow_->hide();
    column->addWidget(blendRow_);
    connect(blend_, &Slider::dragStarted, this, [this] { gesture_ = document_.newGesture(); });
    connect(blend_, &Slider::dragEnded, this, [this] {
        gesture_ = 0;
        document_.endGesture();
    });
    connect(blend_, &Slider::edited, this, [this](double part, bool gesture) {
        const Preset *from = document_.loom().preset(from_), *to = document_.loom().preset(to_);
        if (from && to) document_.apply(blendPresets(document_.loom(), *from, *to, part), gesture ? gesture_ : 0);
    });
    connect(&pictures_, &PresetPictures::ready, this, &PresetBar::showPictures);
    connect(&document_, &Document::changed, this, &PresetBar::refresh);
    connect(&document_, &Document::replaced, this, &PresetBar::endBlend);
    refresh();
}

const Preset* PresetBar::compared() const { return document_.loom().preset(compared_); }

void PresetBar::refresh() {
    const Loom& loom = document_.loom();
    setHidden(loom.controls.empty());
    presets_->setVisible(!loom.presets.empty());
    std::string used;
    for (const Preset& preset : loom.presets)
        if (applyPreset(loom, preset).empty() && (used.empty() || preset.name == compared_)) used = preset.name;
    const std::string before = compared_;
    if (!used.empty()) compared_ = used;
    if (!loom.preset(compared_)) compared_.clear();
    const QSignalBlocker quiet(presets_);
    presets_->clear();
    for (const Preset& preset : loom.presets) {
        const QString name = QString::fromStdString(preset.name);
        presets_->addItem(preset.name == compared_ && used.empty() ? tr("%1, changed").arg(name) : name, name);
    }
    presets_->setCurrentIndex(presets_->findData(QString::fromStdString(compared_)));
    if (!loom.preset(from_) || !loom.preset(to_)) endBlend();
    if (before != compared_) Q_EMIT comparedChanged();
}

void PresetBar::choose(int index) {
    const std::string name = presets_->itemData(index).toString().toStdString();
    const Preset* preset = document_.loom().preset(name);
    if (!preset) return;
    endBlend();
    compared_ = name;
    document_.apply(applyPreset(document_.loom(), *preset));
    refresh();
    Q_EMIT comparedChanged();
}

void PresetBar::showPictures() {
    for (int i = 0; i < presets_->count(); ++i) presets_->setItemData(i, pictures_.picture(presets_->itemData(i).toString().toStdString()), kPictureRole);
}

QMenu* PresetBar::makeMenu() {
    auto* menu = new QMenu(window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Keep as a preset …"), this, &PresetBar::askForName);
    const Preset* preset = compared();
    if (!preset) return menu;
    const QString name = QString::fromStdString(preset->name);
    const bool differs = !applyPreset(document_.loom(), *preset).empty();
    menu->addAction(tr("Update %1 to these values").arg(name), this, [this, id = preset->name] { document_.apply(savePreset(document_.loom(), id)); })
        ->setEnabled(differs);
    QMenu* blend = menu->addMenu(tr("Blend %1 with").arg(name));
    for (const Preset& other : document_.loom().presets)
        if (other.name != preset->name) blend->addAction(QString::fromStdString(other.name), this, [this, to = other.name] { startBlend(to); });
    blend->setEnabled(!blend->isEmpty());
    menu->addSeparator();
    menu->addAction(tr("Rename %1 …").arg(name), this, [this, id = preset->name] {
        ask(tr("New name, then Enter"), QString::fromStdString(id), [this, id](const std::string& to) {
            const Edit edit = renamePreset(document_.loom(), id, to);
            if (!edit.empty()) compared_ = to;
            document_.apply(edit);
        });
    });
    addMoves(menu, preset->name);
    menu->addAction(tr("Delete %1").arg(name), this, [this, id = preset->name] { document_.apply(removePreset(document_.loom(), id)); });
    return menu;
}

void PresetBar::addMoves(QMenu* menu, const std::string& preset) {
    const auto& all = document_.loom().presets;
    std::size_t at = 0;
    while (at < all.size() && all[at].name != preset) ++at;
    const auto move = [&](const QString& text, std::size_t to, bool possible) {
        menu->addAction(text, this, [this, preset, to] { document_.apply(movePreset(document_.loom(), preset, to)); })->setEnabled(possible);
    };
    move(tr("Move up"), at - 1, at > 0);
    move(tr("Move down"), at + 1, at + 1 < all.size());
}

void PresetBar::ask(const QString& placeholder, const QString& text, std::function<void(const std::string&)> take) {
    taken_ = std::move(take);
    name_->setPlaceholderText(placeholder);
    name_->setAccessibleName(tr("Name of the preset"));
    name_->setText(text);
    name_->show();
    name_->setFocus();
    name_->selectAll();
}

void PresetBar::askForName() {
    ask(tr("Name of the preset, then Enter"), QString::fromStdString(compared_), [this](const std::string& name) {
        compared_ = name;
        document_.apply(savePreset(document_.loom(), name));
        refresh();
    });
}

void PresetBar::startBlend(const std::string& to) {
    if (!document_.loom().preset(to) || compared_.empty()) return;
    from_ = compared_, to_ = to;
    fromName_->setText(QString::fromStdString(from_));
    toName_->setText(QString::fromStdString(to_));
    blend_->setValue(0);
    blendRow_->show();
    blend_->setFocus();
    document_.apply(blendPresets(document_.loom(), *document_.loom().preset(from_), *document_.loom().preset(to_), 0));
}

void PresetBar::endBlend() {
    from_.clear(), to_.clear();
    blendRow_->hide();
}

}  // namespace seedloom::app

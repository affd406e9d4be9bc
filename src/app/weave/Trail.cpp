#include "app/weave/Trail.h"

#include "app/look/Theme.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <QtCore/QSettings>
#include <QtCore/QSignalBlocker>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

Trail::Trail(Document& document, RebuildService& rebuilds, Selection& selection, QWidget* parent)
    : QWidget(parent), document_(document), rebuilds_(rebuilds), selection_(selection) {
    const Colours& c = colours();
    setObjectName(QStringLiteral("trail"));
    setStyleSheet(QStringLiteral("#trail { background: %1; border-top: 1px solid %2; } #trail QToolButton { border: none; padding: 2px 5px; border-radius: "
                                 "3px; background: transparent; } "
                                 "#trail QToolButton:hover { background: %3; }")
                      .arg(c.card.name(), c.line.name(), c.field.name()));
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 3, 14, 3);
    row->setSpacing(6);
    way_ = new QHBoxLayout;
    way_->setSpacing(1);
    row->addLayout(way_);
    row->addStretch();
    partName_ = new QLabel(this);
    row->addWidget(partName_);
    const auto step = [&](const QString& text, const QString& name, int by) {
        auto* button = new QToolButton(this);
        button->setText(text);
        button->setAccessibleName(name);
        button->setToolTip(name);
        connect(button, &QToolButton::clicked, this, [this, by] { part_->setValue(part_->value() + by); });
        return button;
    };
    before_ = step(QStringLiteral("‹"), tr("The part before"), -1);
    next_ = step(QStringLiteral("›"), tr("The next part"), 1);
    part_ = new QSpinBox(this);
    part_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    part_->setAlignment(Qt::AlignRight);
    part_->setFixedWidth(px(58));
    part_->setKeyboardTracking(false);
    part_->setAccessibleName(tr("Part that is looked at"));
    connect(part_, &QSpinBox::valueChanged, this, [this](int value) {
        if (overFrames_) selection_.setFrame(value);
        else document_.setPart(value);
    });
    connect(&selection_, &Selection::frameChanged, this, &Trail::refresh);
    partCount_ = new QLabel(this);
    partCount_->setProperty("role", "faint");
    for (QWidget* widget : {static_cast<QWidget*>(before_), static_cast<QWidget*>(part_), static_cast<QWidget*>(next_), static_cast<QWidget*>(partCount_)})
        row->addWidget(widget);
    row->addSpacing(10);
    surroundings_ = new QCheckBox(tr("Show around it"), this);
    surroundings_->setToolTip(tr("Draws the finished result of the whole container faintly around the part"));
    surroundings_->setChecked(QSettings().value(QStringLiteral("surroundings"), true).toBool());
    connect(surroundings_, &QCheckBox::toggled, this, [this](bool on) {
        QSettings().setValue(QStringLiteral("surroundings"), on);
        Q_EMIT surroundingsChanged();
    });
    row->addWidget(surroundings_);
    connect(&document_, &Document::placeChanged, this, &Trail::rebuild);
    connect(&document_, &Document::changed, this, &Trail::rebuild);
    connect(&rebuilds_, &RebuildService::stateChanged, this, &Trail::refresh);
    rebuild();
}

bool Trail::surroundings() const { return surroundings_->isChecked(); }

QStringList Trail::steps() const {
    QStringList out{document_.title()};
    const Loom* at = &document_.loom();
    for (const std::string& id : document_.place().path) {
        out << QString::fromStdString(displayName(*at->node(id)));
        at = at->node(id)->graph.get();
    }
    return out;
}

void Trail::go(int step) {
    const int depth = int(document_.place().path.size());
    if (step < depth) document_.leave(std::size_t(depth - step));
}

void Trail::rebuild() {
    setVisible(document_.inside());
    while (QLayoutItem* item = way_->takeAt(0)) {
        item->widget()->hide();
        item->widget()->deleteLater();
        delete item;
    }
    if (!document_.inside()) return;
    const QStringList names = steps();
    for (int i = 0; i < names.size(); ++i) {
        if (i > 0) {
            auto* between = new QLabel(QStringLiteral("/"), this);
            between->setProperty("role", "faint");
            way_->addWidget(between);
        }
        auto* button = new QToolButton(this);
        button->setText(names[i]);
        const bool last = i + 1 == names.size();
        button->setFont(bodyFont(12, last ? QFont::DemiBold : QFont::Normal));
        button->setEnabled(!last);
        button->setToolTip(last ? QString() : tr("Go out to %1").arg(names[i]));
        connect(button, &QToolButton::clicked, this, [this, i] { go(i); });
        way_->addWidget(button);
    }
    refresh();
}

void Trail::refresh() {
    if (!document_.inside()) return;
    const auto& path = document_.place().path;
    const std::vector<std::string> outside(path.begin(), path.end() - 1);
    const Loom* around = loomAt(document_.loom(), outside);
    const Node* container = around ? around->node(path.back()) : nullptr;
    if (!container) return;
    std::string full;
    for (const std::string& id : path) full += (full.empty() ? "" : "/") + id;
    overFrames_ = container->op == kTimeStep;
    const auto outcome = rebuilds_.outcomeOf(full);
    const int parts = outcome ? outcome->parts : 0;
    const bool many = container->op != kNest;
    for (QWidget* widget : {static_cast<QWidget*>(partName_), static_cast<QWidget*>(before_), static_cast<QWidget*>(part_), static_cast<QWidget*>(next_),
                            static_cast<QWidget*>(partCount_)})
        widget->setVisible(many);
    if (overFrames_) return showFrame(full);
    part_->setEnabled(true);
    partName_->setText(container->op == kRepeat ? tr("Turn") : tr("Part"));
    partCount_->setText(parts > 0 ? tr("of %1, from 0").arg(parts) : tr("none yet"));
    const QSignalBlocker blocker(part_);
    part_->setRange(0, std::max(parts - 1, document_.place().parts.back()));
    part_->setValue(document_.place().parts.back());
    before_->setEnabled(part_->value() > 0);
    next_->setEnabled(part_->value() + 1 < parts);
}

/// The frame is that of the Time drawer, but where the container keeps one. What is deeper inside has no frames that could be chosen.
void Trail::showFrame(const std::string& container) {
    const int keeps = rebuilds_.reportOf(container).keeps;
    const bool free = keeps < 0 && document_.place().path.size() == 1;
    const QSignalBlocker blocker(part_);
    partName_->setText(tr("Frame"));
    part_->setRange(0, 1'000'000);
    part_->setValue(keeps >= 0 ? keeps : int(selection_.frame()));
    part_->setEnabled(free);
    next_->setEnabled(free);
    before_->setEnabled(free && part_->value() > 0);
    partCount_->setText(keeps >= 0 ? tr("is kept") : tr("of the Time drawer"));
}

}  // namespace seedloom::app

#include "app/shell/Rail.h"

#include "app/look/Theme.h"

#include <QtGui/QPainter>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

Rail::Rail(const std::vector<std::unique_ptr<Workplace>>& workplaces, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 10, 0, 8);
    column->setSpacing(4);
    for (const auto& workplace : workplaces) {
        QToolButton* button = places_[workplace->id()] = add(workplace->iconName(), workplace->label(), workplace->tip());
        button->setCheckable(true);
        connect(button, &QToolButton::clicked, this, [this, id = workplace->id()] {
            setCurrent(id);
            Q_EMIT workplaceWanted(id);
        });
    }
    if (!workplaces.empty()) setCurrent(workplaces.front()->id());
    column->addSpacing(px(10));
    library_ = add(QStringLiteral("library"), tr("Library"), tr("Shelves of assets, to be put into the weave (Ctrl+L)"));
    library_->setCheckable(true);
    connect(library_, &QToolButton::clicked, this, &Rail::libraryWanted);
    column->addStretch();
    connect(add(QStringLiteral("help"), tr("Help"), tr("The user guide")), &QToolButton::clicked, this, &Rail::helpWanted);
    connect(add(QStringLiteral("settings"), tr("Settings"), tr("Look, size of texts, shortcuts")), &QToolButton::clicked, this, &Rail::settingsWanted);
    fitWords();
}

void Rail::setCurrent(const QString& id) {
    for (const auto& [place, button] : places_) button->setChecked(place == id);
}

void Rail::setLibraryShown(bool shown) { library_->setChecked(shown); }

/// As wide as its longest word needs, in any language.
void Rail::fitWords() {
    int wide = px(56);
    const auto buttons = findChildren<QToolButton*>();
    for (QToolButton* button : buttons) {
        button->ensurePolished();
        wide = std::max(wide, button->sizeHint().width());
    }
    setFixedWidth(wide);
    for (QToolButton* button : buttons) button->setFixedSize(wide, px(54));
}

QToolButton* Rail::add(const QString& iconName, const QString& text, const QString& tip) {
    auto* button = new QToolButton(this);
    button->setIcon(icon(iconName));
    button->setIconSize({px(22), px(22)});
    button->setText(text);
    button->setToolTip(tip);
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    button->setFont(bodyFont(11, QFont::Medium));
    button->setStyleSheet(
        QStringLiteral("QToolButton { border: none; border-left: 3px solid transparent; border-radius: 0; background: transparent; padding: 4px 0; }"
                       "QToolButton:hover { background: %1; } QToolButton:checked { background: %1; color: %2; border-left: 3px solid %3; }"
                       "QToolButton:focus { outline: 1px solid %4; }"
                       "QToolButton:disabled { color: %5; }")
            .arg(colours().field.name(), colours().ink.name(), colours().chosen.name(), colours().link.name(), colours().faint.name()));
    layout()->addWidget(button);
    return button;
}

void Rail::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), colours().card);
    painter.setPen(colours().line);
    painter.drawLine(width() - 1, 0, width() - 1, height());
}

}  // namespace seedloom::app

#include "app/widgets/SearchPopup.h"

#include "app/look/Theme.h"

#include <QtGui/QKeyEvent>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

SearchPopup::SearchPopup(QWidget* owner)
    : QFrame(owner), owner_(owner), field_(new QLineEdit(this)), list_(new QListWidget(this)), column_(new QVBoxLayout(this)) {
    setObjectName(QStringLiteral("searchPopup"));
    setStyleSheet(
        QStringLiteral("#searchPopup { background: %1; border: 1px solid %2; border-radius: 6px; }").arg(colours().card.name(), colours().ink.name()));
    field_->setMinimumHeight(px(30));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column_->setContentsMargins(8, 8, 8, 8);
    column_->setSpacing(6);
    column_->addWidget(field_);
    column_->addWidget(list_);
    field_->installEventFilter(this);
    connect(field_, &QLineEdit::textChanged, this, [this] { fill(); });
    connect(list_, &QListWidget::itemClicked, this, [this] { take(); });
    // Once opened it is a child of the window, which outlives its owner when the theme or the size of texts changes.
    connect(owner, &QObject::destroyed, this, [this] {
        hide();
        deleteLater();
    });
    hide();
}

void SearchPopup::openWith(const QString& typed) {
    // The owner may be low or narrow: the whole window is there to open in.
    if (parentWidget() != owner_->window()) setParent(owner_->window());
    {
        const QSignalBlocker once(field_);
        field_->setText(typed);
    }
    fill();
    show();
    raise();
    field_->setFocus();
}

void SearchPopup::close() {
    hide();
    if (owner_) owner_->setFocus();
}

void SearchPopup::addNothing(const QString& text) {
    auto* item = new QListWidgetItem(text, list_);
    item->setFlags(Qt::NoItemFlags);
}

bool SearchPopup::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int rows = std::max(list_->count(), 1);
        switch (static_cast<QKeyEvent*>(event)->key()) {
            case Qt::Key_Down: list_->setCurrentRow((list_->currentRow() + 1) % rows); return true;
            case Qt::Key_Up: list_->setCurrentRow((list_->currentRow() + rows - 1) % rows); return true;
            case Qt::Key_Return:
            case Qt::Key_Enter: take(); return true;
            case Qt::Key_Escape: close(); return true;
            default: break;
        }
    }
    if (event->type() == QEvent::FocusOut && !list_->hasFocus()) hide();
    return QFrame::eventFilter(watched, event);
}

}  // namespace seedloom::app

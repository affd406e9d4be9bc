#include "app/widgets/NoticeStrip.h"

#include "app/look/Theme.h"
#include "app/widgets/WrapLayout.h"

#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

NoticeStrip::NoticeStrip(bool framed, QWidget* parent) : QWidget(parent), framed_(framed), words_(new QLabel(this)), row_(new QWidget(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    words_->setWordWrap(true);
    words_->setTextFormat(Qt::PlainText);
    words_->setFont(bodyFont(framed ? 12 : 11));
    column->addWidget(words_);
    auto* line = new WrapLayout(row_, 6);
    line->setContentsMargins(0, 0, 0, 2);
    column->addWidget(row_);
    hide();
}

QString NoticeStrip::text() const { return words_->text(); }

void NoticeStrip::setNotice(const QString& text, NoticeLevel level, const std::vector<NoticeFix>& fixes) {
    if (text == words_->text() && level == level_ && fixes == fixes_) return;
    level_ = level;
    fixes_ = fixes;
    const Colours& c = colours();
    const QColor ink = level == NoticeLevel::error ? c.chosen : level == NoticeLevel::warning ? c.warning : c.faint;
    words_->setText(text);
    words_->setStyleSheet(framed_ ? QStringLiteral("color: %1; background: %2; border-left: 3px solid %1; padding: 5px 8px;").arg(ink.name(), c.field.name())
                                  : QStringLiteral("color: %1;").arg(ink.name()));
    for (QPushButton* button : buttons_) row_->layout()->removeWidget(button), button->hide(), button->deleteLater();
    buttons_.clear();
    for (const NoticeFix& fix : fixes) {
        auto* button = new QPushButton(QString::fromStdString(fix.label), row_);
        button->setFont(bodyFont(11, QFont::Medium));
        button->setFixedHeight(px(24));
        button->setToolTip(tr("Do it: one step, which Undo takes back"));
        button->setAccessibleDescription(text);
        connect(button, &QPushButton::clicked, this, [this, fix] { Q_EMIT fixWanted(fix); });
        row_->layout()->addWidget(button);
        buttons_.push_back(button);
    }
    row_->setVisible(!fixes.empty());
    setVisible(!text.isEmpty());
}

}  // namespace seedloom::app

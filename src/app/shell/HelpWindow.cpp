#include "app/shell/HelpWindow.h"

#include "app/look/Theme.h"
#include "app/shell/HelpBook.h"

#include <QtGui/QTextBlock>
#include <QtGui/QTextTable>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QTextBrowser>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kPage = Qt::UserRole, kHeading = Qt::UserRole + 1;

/// The colours of the theme for what Markdown makes of links and code.
void dress(QTextDocument& document) {
    const Colours& c = colours();
    for (QTextFrame* frame : document.rootFrame()->childFrames())
        if (auto* table = qobject_cast<QTextTable*>(frame)) {
            QTextTableFormat lines = table->format();
            lines.setBorderCollapse(true);
            lines.setBorder(1);
            lines.setBorderBrush(c.line);
            lines.setCellPadding(px(5));
            table->setFormat(lines);
        }
    for (QTextBlock block = document.begin(); block.isValid(); block = block.next()) {
        QTextCursor cursor(block);
        QTextBlockFormat room = block.blockFormat();
        const int level = room.headingLevel();
        room.setTopMargin(level > 1 ? px(14) : level == 1 ? 0 : px(4));
        room.setBottomMargin(px(4));
        if (!block.text().contains(QChar::ObjectReplacementCharacter)) room.setLineHeight(130, QTextBlockFormat::ProportionalHeight);
        cursor.setBlockFormat(room);
        // Formats change what the block is made of, so its parts are noted first.
        std::vector<QTextFragment> parts;
        for (auto part = block.begin(); !part.atEnd(); ++part) parts.push_back(part.fragment());
        for (const QTextFragment& part : parts) {
            QTextCharFormat format;
            if (part.charFormat().isAnchor()) format.setForeground(c.link);
            if (level > 0) format.setFont(bodyFont(level == 1 ? 20 : 14, QFont::DemiBold), QTextCharFormat::FontPropertiesSpecifiedOnly);
            cursor.setPosition(part.position());
            cursor.setPosition(part.position() + part.length(), QTextCursor::KeepAnchor);
            cursor.mergeCharFormat(format);
        }
    }
}

}  // namespace

HelpWindow::HelpWindow(QWidget* parent) : QDialog(parent), search_(new QLineEdit(this)), list_(new QListWidget(this)), text_(new QTextBrowser(this)) {
    setWindowTitle(tr("Help"));
    resize(px(900), px(640));
    auto* across = new QHBoxLayout(this);
    across->setContentsMargins(12, 12, 12, 12);
    across->setSpacing(12);
    auto* left = new QVBoxLayout;
    search_->setPlaceholderText(tr("Find in help"));
    search_->setAccessibleName(tr("Find in help"));
    search_->setClearButtonEnabled(true);
    left->addWidget(search_);
    list_->setAccessibleName(tr("Pages"));
    list_->setFixedWidth(px(250));
    list_->setSpacing(2);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    left->addWidget(list_, 1);
    across->addLayout(left);
    text_->setAccessibleName(tr("Text of the page"));
    text_->setOpenLinks(false);
    text_->document()->setDocumentMargin(px(18));
    text_->document()->setDefaultFont(bodyFont(13));
    across->addWidget(text_, 1);
    connect(search_, &QLineEdit::textChanged, this, &HelpWindow::fill);
    connect(search_, &QLineEdit::returnPressed, this, [this] {
        if (list_->count() > 0) list_->setCurrentRow(0);
    });
    connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (item) showPage(item->data(kPage).toString(), item->data(kHeading).toString());
    });
    connect(text_, &QTextBrowser::anchorClicked, this, [this](const QUrl& link) { follow(link.toString()); });
    fill();
}

void HelpWindow::fill() {
    const QSignalBlocker quiet(list_);
    list_->clear();
    const auto add = [this](const QString& text, const QString& page, const QString& heading) {
        auto* item = new QListWidgetItem(text, list_);
        item->setData(kPage, page);
        item->setData(kHeading, heading);
        item->setToolTip(text);
        if (page == page_ && heading.isEmpty()) list_->setCurrentItem(item);
    };
    if (search_->text().trimmed().isEmpty()) {
        for (const HelpPage& page : HelpBook::common().pages()) add(page.title, page.id, {});
        return;
    }
    for (const HelpHit& hit : HelpBook::common().find(search_->text()))
        add(hit.heading.isEmpty() ? hit.title : hit.title + QStringLiteral(" › ") + hit.heading, hit.page, hit.heading);
    if (list_->count() == 0) {
        auto* none = new QListWidgetItem(tr("Nothing found. Try fewer letters."), list_);
        none->setFlags(Qt::NoItemFlags);
    }
}

void HelpWindow::showPage(const QString& id, const QString& at) {
    const HelpPage* page = HelpBook::common().page(id);
    if (!page) return;
    if (page_ != id) {
        page_ = id;
        QString text = page->text;
        // Pictures of operators are shipped under the same names.
        text.replace(QStringLiteral("](operators/"), QStringLiteral("](qrc:/help/operators/"));
        text_->setMarkdown(text);
        dress(*text_->document());
        if (search_->text().isEmpty()) fill();
    }
    scrollTo(at);
}

void HelpWindow::scrollTo(const QString& at) {
    text_->verticalScrollBar()->setValue(0);
    text_->moveCursor(QTextCursor::Start);
    if (at.isEmpty()) return;
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        if (block.blockFormat().headingLevel() == 0 || block.text() != at) continue;
        text_->moveCursor(QTextCursor::End);  // so that the heading comes to the upper edge
        text_->setTextCursor(QTextCursor(block));
        return text_->ensureCursorVisible();
    }
    text_->find(at);
}

void HelpWindow::follow(const QString& link) {
    if (const QString page = HelpBook::common().target(link); !page.isEmpty()) showPage(page);
}

}  // namespace seedloom::app

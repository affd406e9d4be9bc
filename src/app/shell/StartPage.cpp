#include "app/shell/StartPage.h"

#include "app/look/Theme.h"
#include "app/session/Demos.h"
#include "app/session/RecentFiles.h"
#include "app/widgets/Gallery.h"

#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtCore/QLocale>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QFrame>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QScrollArea>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kMostRecent = 5;

QPushButton* largeButton(const QString& text, const QString& tip, QWidget* parent) {
    auto* out = new QPushButton(text, parent);
    out->setToolTip(tip);
    out->setFont(bodyFont(13, QFont::Medium));
    out->setFixedHeight(px(34));
    out->setMinimumWidth(px(132));
    return out;
}

/// As people write it: from the home folder.
QString shortPath(const QString& file) {
    const QString folder = QFileInfo(file).absolutePath(), home = QDir::homePath();
    return folder.startsWith(home) ? QStringLiteral("~") + folder.mid(home.size()) : folder;
}

}  // namespace

StartPage::StartPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("startPage"));
    setAccessibleName(tr("Start"));
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    auto* area = new QScrollArea(this);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    area->setFocusPolicy(Qt::NoFocus);
    auto* page = new QWidget(area);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(40, 28, 40, 32);
    column->setSpacing(10);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("What would you like to weave?"), page);
    title->setFont(bodyFont(21, QFont::DemiBold));
    head->addWidget(title);
    head->addStretch();
    empty_ = largeButton(tr("Empty loom"), tr("Begins with nothing but an output (Ctrl+N)"), page);
    open_ = largeButton(tr("Open …"), tr("Opens a loom, or a mesh, drawing or picture to build on (Ctrl+O)"), page);
    connect(empty_, &QPushButton::clicked, this, &StartPage::emptyWanted);
    connect(open_, &QPushButton::clicked, this, &StartPage::openWanted);
    head->addWidget(empty_);
    head->addWidget(open_);
    column->addLayout(head);
    left_ = new QWidget(page);
    left_->setObjectName(QStringLiteral("leftWork"));
    auto* leftColumn = new QVBoxLayout(left_);
    leftColumn->setContentsMargins(0, 0, 0, 0);
    leftColumn->addWidget(heading(tr("Not saved when Seed Loom ended")));
    leftRows_ = new QVBoxLayout;
    leftRows_->setSpacing(6);
    leftColumn->addLayout(leftRows_);
    left_->hide();
    column->addWidget(left_);
    recentHeading_ = heading(tr("Lately"));
    column->addWidget(recentHeading_);
    recent_ = new Gallery(page);
    column->addWidget(recent_);
    column->addWidget(heading(tr("Demos from Gull Rock harbour")));
    demos_ = new Gallery(page);
    column->addWidget(demos_);
    column->addStretch();
    area->setWidget(page);
    whole->addWidget(area);
}

QLabel* StartPage::heading(const QString& text) {
    auto* out = new QLabel(text, this);
    out->setFont(bodyFont(13, QFont::DemiBold));
    out->setContentsMargins(0, 14, 0, 0);
    return out;
}

void StartPage::showLeft(const std::vector<LeftWork>& left) {
    while (QLayoutItem* item = leftRows_->takeAt(0)) {
        // Its button may be the one that is being pressed.
        item->widget()->hide();
        item->widget()->deleteLater();
        delete item;
    }
    for (const LeftWork& one : left) leftRows_->addWidget(leftRow(one));
    left_->setVisible(!left.empty());
}

QWidget* StartPage::leftRow(const LeftWork& left) {
    auto* out = new QFrame(left_);
    out->setObjectName(QStringLiteral("leftRow"));
    out->setStyleSheet(
        QStringLiteral("#leftRow { background: %1; border: 1px solid %2; border-radius: 6px; }").arg(colours().note.name(), colours().line.name()));
    auto* row = new QHBoxLayout(out);
    row->setContentsMargins(14, 8, 10, 8);
    auto* name = new QLabel(left.name, out);
    name->setFont(bodyFont(13, QFont::Medium));
    row->addWidget(name);
    row->addWidget(new QLabel(tr("%n edit(s), the last %1", nullptr, left.edits).arg(QLocale().toString(left.last, QLocale::ShortFormat)), out), 1);
    const auto button = [&](const QString& text, const QString& tip, auto wanted) {
        auto* made = new QPushButton(text, out);
        made->setToolTip(tip);
        connect(made, &QPushButton::clicked, this, [this, wanted, left] { Q_EMIT(this->*wanted)(left); });
        row->addWidget(made);
    };
    button(tr("Bring it back"), tr("Opens it with all its edits, to the last finished one"), &StartPage::bringBackWanted);
    button(tr("Throw it away"), tr("Forgets these edits for good; a file that was saved stays as it is"), &StartPage::throwAwayWanted);
    return out;
}

void StartPage::addDemos() {
    for (const Demo& demo : seedloom::app::demos()) {
        GalleryCard* card = demos_->add({demo.name, demo.sentence, tr("Shows %1").arg(demo.teaches), demo.picture});
        connect(card, &GalleryCard::clicked, this, [this, id = demo.id] { Q_EMIT demoWanted(id); });
    }
}

void StartPage::refresh() {
    // Only who looks at them needs the demos read.
    if (demos_->cards().empty()) addDemos();
    recent_->clear();
    const QStringList files = recentFiles();
    for (const QString& file : files.mid(0, kMostRecent)) {
        GalleryCard* card = recent_->add({QFileInfo(file).completeBaseName(), shortPath(file), {}, recentPicture(file)});
        card->setToolTip(file);
        connect(card, &GalleryCard::clicked, this, [this, file] { Q_EMIT fileWanted(file); });
    }
    for (QWidget* part : {static_cast<QWidget*>(recentHeading_), static_cast<QWidget*>(recent_)}) part->setVisible(!files.isEmpty());
}

void StartPage::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) return left();
    QWidget::keyPressEvent(event);
}

}  // namespace seedloom::app

#include "app/shell/StartPage.h"

#include "app/look/Theme.h"
#include "app/shell/Demos.h"
#include "app/shell/RecentFiles.h"
#include "app/widgets/Gallery.h"

#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtGui/QKeyEvent>
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
    open_ = largeButton(tr("Open …"), tr("Opens a loom, or a mesh to build on (Ctrl+O)"), page);
    connect(empty_, &QPushButton::clicked, this, &StartPage::emptyWanted);
    connect(open_, &QPushButton::clicked, this, &StartPage::openWanted);
    head->addWidget(empty_);
    head->addWidget(open_);
    column->addLayout(head);
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

#include "app/shell/UpdateWindow.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/stage/StageTools.h"
#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "graph/InnerEdits.h"
#include "publish/UpdateResults.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

QString kindText(ControlDifference::Kind kind) {
    switch (kind) {
        case ControlDifference::Kind::added: return UpdateWindow::tr("New");
        case ControlDifference::Kind::removed: return UpdateWindow::tr("Gone");
        case ControlDifference::Kind::changed: break;
    }
    return UpdateWindow::tr("Changed");
}

/// The node of the document itself that shows what a use makes: the use, or what is around it.
std::string shownNode(const AssetUse& use) { return use.path.empty() ? use.node : use.path.front(); }

QString sizeText(const Geometry& geometry) {
    const Bounds bounds = boundsOf(geometry);
    if (bounds.empty) return QStringLiteral("–");
    const auto number = [](float metres) { return shownNumber(metres, 'g', 3); };
    const Vec3 size = bounds.size();
    return QStringLiteral("%1 × %2 × %3 m").arg(number(size.x), number(size.y), number(size.z));
}

}  // namespace

UpdateWindow::UpdateWindow(Session& session, std::vector<AssetUse> uses, ShelfAsset newer, QWidget* parent)
    : QDialog(parent), session_(session), uses_(std::move(uses)), newer_(std::move(newer)), stage_(new Stage(selection_, this)), list_(new QListWidget(this)),
      facts_(new QLabel(this)), take_(new QPushButton(this)), cancel_(new QPushButton(tr("Keep %1").arg(QString::fromStdString(uses_.front().version)), this)) {
    setAttribute(Qt::WA_DeleteOnClose);
    const QString name = QString::fromStdString(newer_.about.name), version = QString::fromStdString(newer_.about.version);
    setWindowTitle(tr("Update %1").arg(name));
    resize(px(980), px(620));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 16, 20, 14);
    column->setSpacing(10);
    auto* title = new QLabel(tr("%1: from %2 to %3").arg(name, QString::fromStdString(uses_.front().version), version), this);
    title->setFont(bodyFont(15, QFont::DemiBold));
    column->addWidget(title);
    auto* across = new QHBoxLayout;
    across->setSpacing(16);
    auto* words = new QVBoxLayout;
    list_->setWordWrap(true);
    list_->setStyleSheet(QStringLiteral("QListView { padding: 6px; } QListView::item { padding: 3px 4px; }"));
    list_->setFixedWidth(px(300));
    list_->setSelectionMode(QAbstractItemView::NoSelection);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setAccessibleName(tr("What changes"));
    list_->setAccessibleDescription(tr("Controls and inputs that are new, gone or others, and values that can't stay"));
    words->addWidget(list_, 1);
    facts_->setWordWrap(true);
    facts_->setFixedWidth(px(300));
    facts_->setAccessibleName(tr("What changes in the model"));
    facts_->setText(tr("Building both …"));
    words->addWidget(facts_);
    across->addLayout(words);
    connect(stage_, &Stage::compareWanted, this, [this](bool on) { stage_->compare(on ? left_ : Stage::Subject{}); });
    stage_->setInvitation(tr("Both versions are being built."));
    across->addWidget(stage_, 1);
    column->addLayout(across, 1);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    take_->setText(uses_.size() == 1 ? tr("Update the node") : tr("Update all %1 nodes").arg(uses_.size()));
    take_->setToolTip(tr("Takes the newer version; one step to undo"));
    take_->setDefault(true);
    cancel_->setToolTip(tr("Leaves everything as it is"));
    connect(take_, &QPushButton::clicked, this, &UpdateWindow::takeIt);
    connect(cancel_, &QPushButton::clicked, this, &QDialog::reject);
    buttons->addWidget(cancel_);
    buttons->addWidget(take_);
    column->addLayout(buttons);
    connect(&session_.document(), &Document::replaced, this, &QDialog::close);
    read();
}

UpdateWindow::~UpdateWindow() {
    *stop_ = true;
    background_.wait();
}

QString UpdateWindow::facts() const { return facts_->text(); }

void UpdateWindow::read() {
    Document& document = session_.document();
    const auto loom = loomOnShelf(newer_);
    const Loom* around = loomAt(document.loom(), uses_.front().path);
    const Node* node = around ? around->node(uses_.front().node) : nullptr;
    take_->setEnabled(loom && node);
    if (!loom || !node) return facts_->setText(loom ? tr("The node is not there any more.") : QString::fromStdString(loom.error().text));
    const Inside before = insideOf(*node, document.assets());
    std::vector<LostValue> lost;
    seen_ = document.snapshot();
    edit_ = updateAssets(*seen_, uses_, document.writtenPath(QString::fromStdString(newer_.file.string())), *loom, document.assets(), &lost);
    listChanges(before ? *before.loom : Loom(), *loom, lost);
    build();
}

void UpdateWindow::listChanges(const Loom& before, const Loom& after, const std::vector<LostValue>& lost) {
    const auto add = [this](const QString& text, const QColor& colour) {
        auto* item = new QListWidgetItem(text, list_);
        item->setForeground(colour);
        item->setFlags(Qt::ItemIsEnabled);
        return item;
    };
    for (const LostValue& value : lost)
        add(tr("%1, %2: %3.").arg(QString::fromStdString(value.node), QString::fromStdString(value.label), QString::fromStdString(value.text)),
            colours().warning);
    for (const ControlDifference& difference : controlDifferences(before, after)) {
        QStringList texts;
        for (const std::string& text : difference.texts) texts << shownNumbers(QString::fromStdString(text));
        add(QStringLiteral("%1  ·  %2").arg(kindText(difference.kind), QString::fromStdString(difference.label)), colours().ink)
            ->setFont(bodyFont(12, QFont::DemiBold));
        for (const QString& text : texts) add(QStringLiteral("      ") + text, colours().faint);
    }
    if (list_->count() == 0) add(tr("Controls and inputs are the same, and all values stay."), colours().fresh);
}

void UpdateWindow::build() {
    building_ = true;
    FitSubject subject;
    subject.loom = seen_;
    subject.assets = session_.document().assets();
    subject.folder = session_.document().file().parent_path().string();
    background_.start([this, subject, edit = edit_, node = shownNode(uses_.front()), stop = stop_]() -> Background::Then {
        auto results = updateResults(subject, edit, node, stop.get());
        return [this, results = std::move(results)] {
            building_ = false;
            if (!results) return facts_->setText(QString::fromStdString(results.error().text));
            QStringList told;
            if (results->same) told << tr("The model stays the same to the bit.");
            for (const Notice& notice : results->told) told << QString::fromStdString(notice.text);
            facts_->setText(told.join(QLatin1Char('\n')));
            showModels(results->before, results->after);
        };
    });
}

void UpdateWindow::showModels(std::shared_ptr<const NodeOutcome> before, std::shared_ptr<const NodeOutcome> after) {
    if (!after) return facts_->setText(tr("The newer version builds nothing here.") + QLatin1Char('\n') + facts_->text());
    QStringList lines;
    const auto row = [&](const QString& what, const QString& a, const QString& b) {
        lines << (a == b ? tr("%1: %2, as before").arg(what, b) : tr("%1: %2 → %3").arg(what, a, b));
    };
    if (before) {
        row(tr("Triangles"), countText(bakedCounts(before->geometry).triangles), countText(bakedCounts(after->geometry).triangles));
        row(tr("Size"), sizeText(before->geometry), sizeText(after->geometry));
    }
    if (!facts_->text().isEmpty()) lines << facts_->text();
    facts_->setText(lines.join(QLatin1Char('\n')));
    const QString newer = QString::fromStdString(newer_.about.version);
    stage_->frameNext();
    left_ = {QString::fromStdString(uses_.front().version), before};
    if (before) stage_->compare(left_);
    stage_->show({newer, after});
    stage_->endFraming();
}

void UpdateWindow::takeIt() {
    Document& document = session_.document();
    // What was worked on meanwhile stays.
    const auto loom = loomOnShelf(newer_);
    const Edit now =
        loom ? updateAssets(document.loom(), uses_, document.writtenPath(QString::fromStdString(newer_.file.string())), *loom, document.assets()) : Edit{};
    if (now.empty()) return facts_->setText(tr("Nothing was updated: the nodes, or the newer version, are not there any more."));
    document.apply(now);
    Q_EMIT updated(int(uses_.size()));
    accept();
}

}  // namespace seedloom::app

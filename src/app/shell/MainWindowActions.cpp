// Menus, shortcuts and the search over all commands.
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/library/LibraryDrawer.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/session/Log.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/FramesDialog.h"
#include "app/shell/HelpWindow.h"
#include "app/shell/MainWindow.h"
#include "app/shell/PublishWindow.h"
#include "app/shell/ReportDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/stage/Stage.h"
#include "app/weave/Weave.h"
#include "app/widgets/Finder.h"
#include "formats/LoomFile.h"

#include <QtGui/QPainter>
#include <QtWidgets/QApplication>
#include <QtWidgets/QLabel>
#include <QtWidgets/QMenuBar>
#include <QtWidgets/QMessageBox>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

QAction* MainWindow::add(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) {
    QAction* made = menu->addAction(text);
    made->setObjectName(QLatin1String(id));
    made->setShortcut(keys);
    connect(made, &QAction::triggered, this, run);
    actions_ << made;
    return made;
}

QAction* MainWindow::action(const QString& id) const {
    for (QAction* one : actions_)
        if (one->objectName() == id) return one;
    return nullptr;
}

QMenu* MainWindow::menu(const QString& id, const QString& title) {
    QMenu*& known = menus_[id];
    if (!known) known = menuBar()->addMenu(title);
    return known;
}

void MainWindow::makeActions() {
    makeFileActions();
    makeEditActions();
    for (const auto& workplace : workplaces_) {
        // View comes behind what a workplace adds of its own.
        workplace->addCommands(*this);
    }
    makeViewActions();
    QMenu* node = menu(QStringLiteral("node"), tr("&Node"));
    add(node, "make_local", tr("Make the asset &local"), {}, [this] {
        makeLocal();
    })->setToolTip(tr("Writes the asset beside the document as a loom that can be changed, and uses that"));
    QMenu* help = menu(QStringLiteral("help"), tr("&Help"));
    add(help, "first_steps", tr("&First steps"), {}, [this] { showFirstSteps(true); });
    add(help, "help", tr("&User guide"), QKeySequence(QStringLiteral("F1")), [this] { helpHere(); });
    add(help, "keys", tr("&Keys"), QKeySequence(QStringLiteral("Shift+F1")), [this] { showKeys(); });
    help->addSeparator();
    add(help, "report", tr("&Report a problem …"), {}, [this] { showReport(); });
    shortcuts::restore(actions_);
}

void MainWindow::makeFileActions() {
    QMenu* file = menu(QStringLiteral("file"), tr("&File"));
    QMenu* fresh = file->addMenu(tr("&New"));
    add(fresh, "new", tr("&Empty loom"), QKeySequence::New, [this] {
        if (mayLeave()) document_.startNew();
    });
    add(fresh, "start", tr("From the &start page"), {}, [this] { showStart(true); });
    add(file, "new_window", tr("New &window"), QKeySequence(QStringLiteral("Ctrl+Shift+N")), [] { openNew()->show(); });
    add(file, "open", tr("&Open …"), QKeySequence::Open, [this] { openAsked(); });
    add(file, "recent", tr("Re&cent …"), QKeySequence(QStringLiteral("Ctrl+Shift+O")), [this] { openRecent(); });
    add(file, "demo", tr("Open the &demo bollard"), {}, [this] {
        if (mayLeave()) openDemo();
    });
    file->addSeparator();
    add(file, "save", tr("&Save"), QKeySequence::Save, [this] { save(); });
    add(file, "save_as", tr("Save &as …"), QKeySequence(QStringLiteral("Ctrl+Shift+S")), [this] { saveAs(); });
    add(file, "rename_loom", tr("Re&name …"), {}, [this] { renameAsked(); });
    add(file, "export", tr("&Export …"), QKeySequence(QStringLiteral("Ctrl+E")), [this] {
        exportAsked();
    })->setToolTip(tr("Write the output's model as .glb, .gltf, .obj, .ply or .stl (Ctrl+E)"));
    add(file, "write_frames", tr("Write &frames …"), {}, [this] {
        showFrames();
    })->setToolTip(tr("Write frames of the model: one file in which it moves, or a file for each"));
    add(file, "publish", tr("Pu&blish …"), QKeySequence(QStringLiteral("Ctrl+Shift+E")), [this] {
        showPublish();
    })->setToolTip(tr("Check the loom at many settings of its controls, and write it as an asset for others (Ctrl+Shift+E)"));
    file->addSeparator();
    add(file, "statistics", tr("S&tatistics"), {}, [this] { showStatistics(); });
    add(file, "settings", tr("Sett&ings …"), QKeySequence(QStringLiteral("Ctrl+,")), [this] { openSettings(); });
    file->addSeparator();
    add(file, "close", tr("C&lose window"), QKeySequence(QStringLiteral("Ctrl+W")), [this] { close(); });
    add(file, "quit", tr("&Quit"), QKeySequence::Quit, [] { QApplication::closeAllWindows(); });
}

void MainWindow::makeEditActions() {
    QMenu* edit = menu(QStringLiteral("edit"), tr("&Edit"));
    undo_ = add(edit, "undo", tr("Undo"), QKeySequence::Undo, [this] { document_.undo(); });
    redo_ = add(edit, "redo", tr("Redo"), {}, [this] { document_.redo(); });
    redo_->setShortcuts({QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))});
    edit->addSeparator();
    add(edit, "commands", tr("&Search every command …"), QKeySequence(QStringLiteral("Ctrl+K")), [this] { openCommandSearch(); });
}

/// The library, and one entry a workplace where there is a choice.
void MainWindow::makeViewActions() {
    QMenu* view = menu(QStringLiteral("view"), tr("&View"));
    view->addSeparator();
    add(view, "library", tr("&Library"), QKeySequence(QStringLiteral("Ctrl+L")), [this] { toggleLibrary(); });
    if (workplaces_.size() < 2) return;
    for (std::size_t i = 0; i < workplaces_.size(); ++i)
        add(view, QByteArray("workplace_" + workplaces_[i]->id().toLatin1()).constData(), workplaces_[i]->label(),
            QKeySequence(QStringLiteral("Ctrl+Alt+%1").arg(i + 1)), [this, id = workplaces_[i]->id()] { showWorkplace(id); });
}

void MainWindow::openCommandSearch() {
    std::vector<Finder::Entry> entries;
    for (QAction* one : actions_) {
        if (!one->isEnabled()) continue;
        QString title = one->text();
        title.remove(QLatin1Char('&'));
        const auto* menu = qobject_cast<QMenu*>(one->associatedObjects().value(0));
        QString in = menu ? menu->title() : QString();
        entries.push_back(
            {title, in.remove(QLatin1Char('&')), one->objectName(), one->shortcut().toString(QKeySequence::NativeText), [one] { one->trigger(); }});
    }
    commands_->open(tr("What do you want to do?"), std::move(entries), QPoint(width() / 2, 44));
}

void MainWindow::openSettings() {
    auto* dialog = new SettingsDialog(actions_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &SettingsDialog::appearanceChanged, this, [] {
        for (MainWindow* window : windows()) window->rebuildInterface();
    });
    connect(dialog, &SettingsDialog::workChanged, this, [] {
        for (MainWindow* window : windows()) window->followPreferences();
    });
    connect(dialog, &SettingsDialog::motionChanged, this, [this](bool on) { weave()->setMotion(on); });
    dialog->open();
}

/// Help on what the keyboard is at: a setting, the chosen node, the stage; else the guide from its beginning.
void MainWindow::helpHere() {
    const QWidget* focus = QApplication::focusWidget();
    const Node* node = document_.shown().node(weave()->chosen());
    const QString page = node ? QStringLiteral("operator:") + QString::fromStdString(node->op) : QString();
    for (const QWidget* around = focus; around; around = around->parentWidget()) {
        if (const auto* row = qobject_cast<const SettingRow*>(around)) return showHelp(page, catalogueText(row->spec().label));
        if (around == stage()) return showHelp(QStringLiteral("stage"));
        if (around == weave() && node) return showHelp(page);
        if (around == settings()) return showHelp(page.isEmpty() ? QStringLiteral("settings") : page);
        if (around == data() || around == checkup() || around == time()) return showHelp(QStringLiteral("drawers"));
    }
    showHelp(QStringLiteral("guide"));
}

void MainWindow::showHelp(const QString& page, const QString& at) {
    if (!help_) {
        help_ = new HelpWindow(this);
        help_->setAttribute(Qt::WA_DeleteOnClose);
    }
    help_->show();
    help_->raise();
    help_->activateWindow();
    help_->showPage(page, at);
}

void MainWindow::showKeys() {
    auto* dialog = new QDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("Keys"));
    auto* column = new QVBoxLayout(dialog);
    column->setContentsMargins(24, 20, 24, 16);
    const auto keysOf = [this](std::initializer_list<const char*> ids) {
        QStringList out;
        for (const char* id : ids) out << action(QLatin1String(id))->shortcut().toString(QKeySequence::NativeText);
        return out.join(QStringLiteral(" · "));
    };
    const std::pair<QString, QString> keys[] = {{tr("%1, a letter, or double click a free cell").arg(keysOf({"add"})), tr("Add a node")},
                                                {tr("Double click a thread"), tr("Insert a node there")},
                                                {tr("Drag a card onto a thread"), tr("Weave it in there")},
                                                {tr("Pull from a card's right edge"), tr("Link to another card, or add one in the open")},
                                                {tr("Arrow keys, with Shift"), tr("Walk along the strands, choose several")},
                                                {keysOf({"skip", "pin", "rename", "delete"}), tr("Skip, pin on stage, rename, delete")},
                                                {keysOf({"find", "commands", "tidy", "note"}), tr("Find a node, search commands, tidy, note")},
                                                {tr("Hold Space"), tr("Show what goes into the chosen node")},
                                                {keysOf({"compare"}), tr("Compare with a divider")},
                                                {tr("Drag · right drag · wheel on the stage"), tr("Orbit, pan, zoom to the pointer")},
                                                {keysOf({"frame_all", "frame_marks", "whole_weave"}), tr("Frame the model, the chosen elements, the weave")},
                                                {tr("Drag a number sideways"), tr("Change it; Shift finer, Ctrl coarser; click to type 12cm or 1/3")}};
    QString text = QStringLiteral("<table cellspacing='7'>");
    for (const auto& [key, what] : keys) text += QStringLiteral("<tr><td><b>%1</b></td><td>%2</td></tr>").arg(key.toHtmlEscaped(), what.toHtmlEscaped());
    column->addWidget(new QLabel(text + QStringLiteral("</table>"), dialog));
    auto* close = new QPushButton(tr("Close"), dialog);
    close->setDefault(true);
    connect(close, &QPushButton::clicked, dialog, &QDialog::accept);
    column->addWidget(close, 0, Qt::AlignRight);
    dialog->open();
}

QString MainWindow::statistics() const {
    const Loom& loom = document_.loom();
    double ms = 0;
    std::size_t bytes = 0, skipped = 0;
    for (const Node& node : loom.nodes) {
        skipped += node.skipped;
        if (const auto outcome = session_.rebuilds().outcomeOf(node.id)) ms += outcome->ms, bytes += outcome->geometry.byteSize();
    }
    QStringList lines{tr("Nodes: %1 (%2 skipped) · links: %3 · notes: %4")
                          .arg(countText(loom.nodes.size()), countText(skipped), countText(loom.links.size()), countText(loom.notes.size())),
                      tr("Controls: %1 · presets: %2").arg(countText(loom.controls.size()), countText(loom.presets.size())),
                      tr("Steps to undo: %1").arg(int(document_.history().index()))};
    if (const auto outcome = session_.rebuilds().outcomeOf(loom.output)) {
        const Geometry& g = outcome->geometry;
        lines << tr("Result: %1 points · %2 faces · %3 copies").arg(countText(g.pointCount()), countText(g.faceCount()), countText(g.copyCount()));
    }
    lines << tr("All nodes together: %1 ms · results in memory: %2 MB · remembered: %3 MB")
                 .arg(shownNumber(ms, 'f', 1))
                 .arg(shownNumber(double(bytes) / 1e6, 'f', 1))
                 .arg(shownNumber(double(session_.rebuilds().memo().bytes()) / 1e6, 'f', 1));
    if (!document_.file().empty()) lines << tr("File: %1").arg(QString::fromStdString(document_.file().string()));
    return lines.join(QLatin1Char('\n'));
}

PublishWindow* MainWindow::showPublish() {
    if (!publish_) {
        publish_ = new PublishWindow(session_, this);
        connect(publish_, &PublishWindow::nodeWanted, this, [this](const QString& node) {
            showStart(false);
            document_.leave(document_.place().path.size());
            weave()->choose(node.toStdString());
        });
    }
    publish_->show();
    publish_->raise();
    publish_->activateWindow();
    return publish_;
}

FramesDialog* MainWindow::showFrames() {
    auto* dialog = new FramesDialog(session_, {time()->first(), time()->last()}, fileProposed(QStringLiteral(".glb")), this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
    return dialog;
}

void MainWindow::showReport() {
    auto* dialog = new ReportDialog(statistics(), Log::common().newest(), QString::fromStdString(loomToText(document_.loom())), this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void MainWindow::showStatistics() {
    auto* box = new QMessageBox(QMessageBox::NoIcon, tr("Statistics"), document_.title(), QMessageBox::Close, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->setInformativeText(statistics());
    box->open();
}

}  // namespace seedloom::app

// Menus, shortcuts and the search over all commands.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/shell/MainWindow.h"
#include "app/shell/SettingsDialog.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/Weave.h"
#include "app/widgets/Finder.h"
#include "operators/flow/Containers.h"

#include <QtGui/QPainter>
#include <QtWidgets/QApplication>
#include <QtWidgets/QLabel>
#include <QtWidgets/QMenuBar>
#include <QtWidgets/QMessageBox>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

QAction* MainWindow::addAction(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) {
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

void MainWindow::makeActions() {
    makeFileActions();
    makeEditActions();
    makeNodeActions();
    makeViewActions();
    QMenu* help = menuBar()->addMenu(tr("&Help"));
    addAction(help, "first_steps", tr("&First steps"), {}, [this] { showFirstSteps(true); });
    addAction(help, "keys", tr("&Keys"), QKeySequence(QStringLiteral("F1")), [this] { showHelp(); });
    shortcuts::restore(actions_);
}

void MainWindow::makeFileActions() {
    QMenu* file = menuBar()->addMenu(tr("&File"));
    addAction(file, "new", tr("&New"), QKeySequence::New, [this] {
        if (mayLeave()) document_.startNew();
    });
    addAction(file, "new_window", tr("New &window"), QKeySequence(QStringLiteral("Ctrl+Shift+N")), [] { openNew()->show(); });
    addAction(file, "open", tr("&Open …"), QKeySequence::Open, [this] { openAsked(); });
    addAction(file, "recent", tr("Re&cent …"), QKeySequence(QStringLiteral("Ctrl+Shift+O")), [this] { openRecent(); });
    addAction(file, "demo", tr("Open the &demo bollard"), {}, [this] {
        if (mayLeave()) openDemo();
    });
    file->addSeparator();
    addAction(file, "save", tr("&Save"), QKeySequence::Save, [this] { save(); });
    addAction(file, "save_as", tr("Save &as …"), QKeySequence(QStringLiteral("Ctrl+Shift+S")), [this] { saveAs(); });
    addAction(file, "rename_loom", tr("Re&name …"), {}, [this] { renameAsked(); });
    addAction(file, "export", tr("&Export …"), QKeySequence(QStringLiteral("Ctrl+E")), [this] {
        exportAsked();
    })->setToolTip(tr("Write the output's model as .glb, .gltf, .obj, .ply or .stl (Ctrl+E)"));
    file->addSeparator();
    addAction(file, "statistics", tr("S&tatistics"), {}, [this] { showStatistics(); });
    addAction(file, "settings", tr("Sett&ings …"), QKeySequence(QStringLiteral("Ctrl+,")), [this] { openSettings(); });
    file->addSeparator();
    addAction(file, "close", tr("C&lose window"), QKeySequence(QStringLiteral("Ctrl+W")), [this] { close(); });
    addAction(file, "quit", tr("&Quit"), QKeySequence::Quit, [] { QApplication::closeAllWindows(); });
}

void MainWindow::makeEditActions() {
    QMenu* edit = menuBar()->addMenu(tr("&Edit"));
    undo_ = addAction(edit, "undo", tr("Undo"), QKeySequence::Undo, [this] { document_.undo(); });
    redo_ = addAction(edit, "redo", tr("Redo"), {}, [this] { document_.redo(); });
    redo_->setShortcuts({QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))});
    edit->addSeparator();
    // In a text field these keys belong to the text.
    weaveActions_ << addAction(edit, "cut", tr("Cu&t nodes"), QKeySequence::Cut, [this] { weave_->cutChosen(); });
    weaveActions_ << addAction(edit, "copy", tr("&Copy nodes"), QKeySequence::Copy, [this] { weave_->copyChosen(); });
    weaveActions_ << addAction(edit, "paste", tr("&Paste nodes"), QKeySequence::Paste, [this] { weave_->paste(); });
    weaveActions_ << addAction(edit, "duplicate", tr("&Duplicate nodes"), QKeySequence(QStringLiteral("Ctrl+D")), [this] { weave_->duplicateChosen(); });
    weaveActions_ << addAction(edit, "choose_all", tr("Choose &all nodes"), QKeySequence::SelectAll, [this] { weave_->chooseEverything(); });
    edit->addSeparator();
    weaveActions_ << addAction(edit, "find", tr("&Find a node …"), QKeySequence::Find, [this] { weave_->openFind(); });
    addAction(edit, "commands", tr("&Search every command …"), QKeySequence(QStringLiteral("Ctrl+K")), [this] { openCommandSearch(); });
}

void MainWindow::makeNodeActions() {
    nodeMenu_ = menuBar()->addMenu(tr("&Node"));
    addAction(nodeMenu_, "add", tr("&Add …"), QKeySequence(QStringLiteral("/")), [this] { weave_->openQuickAdd(); });
    // These are keys of the weave alone: in a ramp or a table Delete and letters mean something else.
    const auto here = [this](const char* id, const QString& text, const QKeySequence& keys, auto run) {
        weaveActions_ << addAction(nodeMenu_, id, text, keys, run);
    };
    here("rename", tr("&Rename"), QKeySequence(QStringLiteral("F2")), [this] { weave_->renameChosen(); });
    here("skip", tr("S&kip or use"), QKeySequence(QStringLiteral("K")), [this] { weave_->toggleSkip(); });
    here("pin", tr("&Pin on stage"), QKeySequence(QStringLiteral("P")), [this] { weave_->togglePin(); });
    here("delete", tr("&Delete"), QKeySequence::Delete, [this] { weave_->deleteChosen(); });
    tintMenu_ = nodeMenu_->addMenu(tr("&Tint"));
    const QString names[] = {tr("No tint"), tr("Blue"), tr("Rose"), tr("Green"), tr("Straw"), tr("Lilac"), tr("Sea")};
    for (int i = 0; i <= kTints; ++i)
        weaveActions_ << addAction(tintMenu_, QByteArray("tint_" + QByteArray::number(i)).constData(), names[i],
                                   QKeySequence(QStringLiteral("Ctrl+Shift+%1").arg(i)), [this, i] { weave_->tintChosen(i); });
    nodeMenu_->addSeparator();
    here("open_container", tr("&Open the container"), QKeySequence(QStringLiteral("Ctrl+Return")), [this] { openChosen(); });
    here("go_out", tr("&Go out of the container"), QKeySequence(QStringLiteral("Ctrl+Backspace")), [this] { goOut(); });
    here("fold", tr("&Fold into a nest"), QKeySequence(QStringLiteral("Ctrl+J")), [this] { foldChosen(); });
    here("unfold", tr("&Unfold the nest"), QKeySequence(QStringLiteral("Ctrl+Shift+J")), [this] { unfoldChosen(); });
    nodeMenu_->addSeparator();
    here("note", tr("Add a n&ote"), QKeySequence(QStringLiteral("Ctrl+M")), [this] { weave_->addNoteHere(); });
    here("tidy", tr("T&idy the weave"), QKeySequence(QStringLiteral("Ctrl+T")), [this] { weave_->tidyAll(); });
}

void MainWindow::makeViewActions() {
    QMenu* view = menuBar()->addMenu(tr("&View"));
    const auto place = [&](QMenu* menu, const char* id, const QString& text, const QString& keys, auto run) {
        placeActions_ << addAction(menu, id, text, QKeySequence(keys), run);
    };
    place(view, "frame_all", tr("&Frame all"), QStringLiteral("Home"), [this] { stage_->frameAll(); });
    place(view, "frame_marks", tr("Frame the chosen &elements"), QStringLiteral("End"), [this] { stage_->frameMarks(); });
    place(view, "whole_weave", tr("Show the whole &weave"), QStringLiteral("Shift+Home"), [this] { weave_->showAll(); });
    view->addSeparator();
    const std::pair<const char*, QString> sides[] = {{"from_right", tr("From the &right (+X)")}, {"from_left", tr("From the &left (−X)")},
                                                     {"from_above", tr("From &above (+Y)")},     {"from_below", tr("From &below (−Y)")},
                                                     {"from_front", tr("From the fr&ont (+Z)")}, {"from_back", tr("From the bac&k (−Z)")}};
    for (int i = 0; i < 6; ++i)
        addAction(view, sides[i].first, sides[i].second, QKeySequence(QStringLiteral("Alt+%1").arg(i + 1)), [this, i] { stage_->lookFrom(i); });
    addAction(view, "flat", tr("&No perspective"), QKeySequence(QStringLiteral("Alt+0")), [this] { stage_->setFlat(!stage_->camera().flat); });
    view->addSeparator();
    addAction(view, "compare", tr("&Compare before and after, or two nodes"), QKeySequence(QStringLiteral("Ctrl+B")), [this] { toggleCompare(!compare_); });
    QMenu* overlays = view->addMenu(tr("On the &stage"));
    const std::pair<const char*, QString> shown[] = {{"wire", tr("Wire")},  {"points", tr("Points")},         {"normals", tr("Normals")},
                                                     {"xray", tr("X-ray")}, {"open_edges", tr("Open edges")}, {"numbers", tr("Numbers of points or faces")}};
    for (const auto& [id, text] : shown) {
        QAction* made = addAction(overlays, id, text, {}, [] {});
        made->setCheckable(true);
        connect(made, &QAction::toggled, this, [this, id = QString::fromLatin1(id)](bool on) { stage_->tools()->setOverlay(id, on); });
    }
    const QString shadings[] = {tr("Clay"), tr("Colours of an attribute"), tr("Checker"), tr("Face sides")};
    const char* shadingIds[] = {"clay", "attribute", "checker", "sides"};
    overlays->addSeparator();
    for (int i = 0; i < 4; ++i) addAction(overlays, shadingIds[i], shadings[i], {}, [this, i] { stage_->tools()->setShading(static_cast<Shading>(i)); });
    view->addSeparator();
    addAction(view, "data", tr("&Data"), QKeySequence(QStringLiteral("Ctrl+1")), [this] { dataButton_->click(); });
    addAction(view, "checkup", tr("Check&up"), QKeySequence(QStringLiteral("Ctrl+2")), [this] { checkupButton_->click(); });
    addAction(view, "notices", tr("N&otices"), QKeySequence(QStringLiteral("Ctrl+3")), [this] { noticesButton_->click(); });
    addAction(view, "time", tr("&Time"), QKeySequence(QStringLiteral("Ctrl+4")), [this] { timeButton_->click(); });
}

/// The menu at the pointer in the weave: what the Node menu has for what was hit.
void MainWindow::fillContextMenu(QMenu* menu) {
    if (!weave_->chosenNote().empty()) {
        menu->addAction(action(QStringLiteral("delete")));
        return;
    }
    menu->addAction(action(QStringLiteral("add")));
    if (!weave_->chosen().empty()) {
        menu->addActions({action(QStringLiteral("rename")), action(QStringLiteral("skip")), action(QStringLiteral("pin"))});
        menu->addMenu(tintMenu_);
        menu->addSeparator();
        const Node* node = document_.shown().node(weave_->chosen());
        if (node && insideOf(*node, document_.assets())) menu->addAction(action(QStringLiteral("open_container")));
        if (node && node->op == kNest) menu->addAction(action(QStringLiteral("unfold")));
        menu->addAction(action(QStringLiteral("fold")));
        menu->addSeparator();
        menu->addActions({action(QStringLiteral("cut")), action(QStringLiteral("copy")), action(QStringLiteral("duplicate"))});
    }
    menu->addActions({action(QStringLiteral("paste")), action(QStringLiteral("delete"))});
    menu->addSeparator();
    menu->addActions({action(QStringLiteral("note")), action(QStringLiteral("tidy"))});
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
        for (QWidget* widget : QApplication::topLevelWidgets())
            if (auto* window = qobject_cast<MainWindow*>(widget)) window->rebuildInterface();
    });
    connect(dialog, &SettingsDialog::motionChanged, this, [this](bool on) { weave_->setMotion(on); });
    dialog->open();
}

void MainWindow::showHelp() {
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
        if (const auto outcome = rebuilds_.outcomeOf(node.id)) ms += outcome->ms, bytes += outcome->geometry.byteSize();
    }
    QStringList lines{tr("Nodes: %1 (%2 skipped) · links: %3 · notes: %4")
                          .arg(countText(loom.nodes.size()), countText(skipped), countText(loom.links.size()), countText(loom.notes.size())),
                      tr("Controls: %1 · presets: %2").arg(countText(loom.controls.size()), countText(loom.presets.size())),
                      tr("Steps to undo: %1").arg(int(document_.history().index()))};
    if (const auto outcome = rebuilds_.outcomeOf(loom.output)) {
        const Geometry& g = outcome->geometry;
        lines << tr("Result: %1 points · %2 faces · %3 copies").arg(countText(g.pointCount()), countText(g.faceCount()), countText(g.copyCount()));
    }
    lines << tr("All nodes together: %1 ms · results in memory: %2 MB · remembered: %3 MB")
                 .arg(ms, 0, 'f', 1)
                 .arg(double(bytes) / 1e6, 0, 'f', 1)
                 .arg(double(rebuilds_.memo().bytes()) / 1e6, 0, 'f', 1);
    if (!document_.file().empty()) lines << tr("File: %1").arg(QString::fromStdString(document_.file().string()));
    return lines.join(QLatin1Char('\n'));
}

void MainWindow::showStatistics() {
    auto* box = new QMessageBox(QMessageBox::NoIcon, tr("Statistics"), document_.title(), QMessageBox::Close, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    box->setInformativeText(statistics());
    box->open();
}

}  // namespace seedloom::app

// The commands of Build: menus, shortcuts, and the menu at the pointer.
#include "app/stage/StageTools.h"
#include "app/weave/Weave.h"
#include "app/workplaces/BuildWorkplace.h"
#include "operators/flow/Containers.h"

#include <QtWidgets/QToolButton>

namespace seedloom::app {

void BuildWorkplace::addCommands(CommandHost& host) {
    host_ = &host;
    addEditCommands();
    addNodeCommands();
    addViewCommands();
}

QAction* BuildWorkplace::add(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) {
    return own_.emplace_back(host_->add(menu, id, text, keys, std::move(run)));
}

/// What works on the weave and the stage of Build can be asked for only where they are seen.
void BuildWorkplace::offerCommands(bool offered) {
    for (QAction* one : own_) one->setEnabled(offered);
    if (nodeMenu_) nodeMenu_->menuAction()->setVisible(offered);
}

void BuildWorkplace::addEditCommands() {
    QMenu* edit = host_->menu(QStringLiteral("edit"));
    edit->addSeparator();
    // In a text field these keys belong to the text.
    weaveActions_ << add(edit, "cut", tr("Cu&t nodes"), QKeySequence::Cut, [this] { weave_->cutChosen(); });
    weaveActions_ << add(edit, "copy", tr("&Copy nodes"), QKeySequence::Copy, [this] { weave_->copyChosen(); });
    weaveActions_ << add(edit, "paste", tr("&Paste nodes"), QKeySequence::Paste, [this] { weave_->paste(); });
    weaveActions_ << add(edit, "duplicate", tr("&Duplicate nodes"), QKeySequence(QStringLiteral("Ctrl+D")), [this] { weave_->duplicateChosen(); });
    weaveActions_ << add(edit, "choose_all", tr("Choose &all nodes"), QKeySequence::SelectAll, [this] { weave_->chooseEverything(); });
    edit->addSeparator();
    weaveActions_ << add(edit, "find", tr("&Find a node …"), QKeySequence::Find, [this] { weave_->openFind(); });
}

void BuildWorkplace::addNodeCommands() {
    nodeMenu_ = host_->menu(QStringLiteral("node"), tr("&Node"));
    add(nodeMenu_, "add", tr("&Add …"), QKeySequence(QStringLiteral("/")), [this] { weave_->openQuickAdd(); });
    // These are keys of the weave alone: in a ramp or a table Delete and letters mean something else.
    const auto here = [this](const char* id, const QString& text, const QKeySequence& keys, auto run) { weaveActions_ << add(nodeMenu_, id, text, keys, run); };
    here("rename", tr("&Rename"), QKeySequence(QStringLiteral("F2")), [this] { weave_->renameChosen(); });
    here("skip", tr("S&kip or use"), QKeySequence(QStringLiteral("K")), [this] { weave_->toggleSkip(); });
    here("pin", tr("&Pin on stage"), QKeySequence(QStringLiteral("P")), [this] { weave_->togglePin(); });
    here("delete", tr("&Delete"), QKeySequence::Delete, [this] { weave_->deleteChosen(); });
    tintMenu_ = nodeMenu_->addMenu(tr("&Tint"));
    const QString names[] = {tr("No tint"), tr("Blue"), tr("Rose"), tr("Green"), tr("Straw"), tr("Lilac"), tr("Sea")};
    for (int i = 0; i <= kTints; ++i)
        weaveActions_ << add(tintMenu_, QByteArray("tint_" + QByteArray::number(i)).constData(), names[i], QKeySequence(QStringLiteral("Ctrl+Shift+%1").arg(i)),
                             [this, i] { weave_->tintChosen(i); });
    nodeMenu_->addSeparator();
    here("open_container", tr("&Open the container"), QKeySequence(QStringLiteral("Ctrl+Return")), [this] { openChosen(); });
    here("go_out", tr("&Go out of the container"), QKeySequence(QStringLiteral("Ctrl+Backspace")), [this] { goOut(); });
    here("fold", tr("&Fold into a nest"), QKeySequence(QStringLiteral("Ctrl+J")), [this] { foldChosen(); });
    here("unfold", tr("&Unfold the nest"), QKeySequence(QStringLiteral("Ctrl+Shift+J")), [this] { unfoldChosen(); });
    nodeMenu_->addSeparator();
    here("note", tr("Add a n&ote"), QKeySequence(QStringLiteral("Ctrl+M")), [this] { weave_->addNoteHere(); });
    here("cut_thread", tr("C&ut the thread in two, or join it"), QKeySequence(QStringLiteral("Ctrl+Shift+T")), [this] {
        if (!weave_->threadChosen()) return messageWanted(tr("Click a thread first; then it is cut into two named ends, or joined."));
        weave_->cutOrJoinThread();
    });
    here("tidy", tr("T&idy the weave"), QKeySequence(QStringLiteral("Ctrl+T")), [this] { weave_->tidyAll(); });
}

void BuildWorkplace::addViewCommands() {
    QMenu* view = host_->menu(QStringLiteral("view"), tr("&View"));
    const auto place = [&](QMenu* menu, const char* id, const QString& text, const QString& keys, auto run) {
        placeActions_ << add(menu, id, text, QKeySequence(keys), run);
    };
    place(view, "frame_all", tr("&Frame all"), QStringLiteral("Home"), [this] { stage_->frameAll(); });
    place(view, "frame_marks", tr("Frame the chosen &elements"), QStringLiteral("End"), [this] { stage_->frameMarks(); });
    place(view, "mark_kind", tr("Mark all faces of this &kind"), QStringLiteral("Ctrl+Shift+A"), [this] { markKind(); });
    place(view, "whole_weave", tr("Show the whole &weave"), QStringLiteral("Shift+Home"), [this] { weave_->showAll(); });
    view->addSeparator();
    const std::pair<const char*, QString> sides[] = {{"from_right", tr("From the &right (+X)")}, {"from_left", tr("From the &left (−X)")},
                                                     {"from_above", tr("From &above (+Y)")},     {"from_below", tr("From &below (−Y)")},
                                                     {"from_front", tr("From the fr&ont (+Z)")}, {"from_back", tr("From the bac&k (−Z)")}};
    for (int i = 0; i < 6; ++i)
        add(view, sides[i].first, sides[i].second, QKeySequence(QStringLiteral("Alt+%1").arg(i + 1)), [this, i] { stage_->lookFrom(i); });
    add(view, "flat", tr("&No perspective"), QKeySequence(QStringLiteral("Alt+0")), [this] { stage_->setFlat(!stage_->camera().flat); });
    view->addSeparator();
    add(view, "compare", tr("&Compare before and after, or two nodes"), QKeySequence(QStringLiteral("Ctrl+B")), [this] { toggleCompare(!compare_); });
    QMenu* overlays = view->addMenu(tr("On the &stage"));
    const std::pair<const char*, QString> shown[] = {{"wire", tr("Wire")},
                                                     {"points", tr("Points")},
                                                     {"normals", tr("Normals")},
                                                     {"xray", tr("X-ray")},
                                                     {"open_edges", tr("Open edges")},
                                                     {"numbers", tr("Numbers of points or faces")},
                                                     {"height", tr("Height beside the model")}};
    for (const auto& [id, text] : shown) {
        QAction* made = add(overlays, id, text, {}, [] {});
        made->setCheckable(true);
        made->setChecked(std::string_view(id) == "height" && StageTools::heightWanted());
        connect(made, &QAction::toggled, this, [this, id = QString::fromLatin1(id)](bool on) { stage_->tools()->setOverlay(id, on); });
    }
    const QString shadings[] = {tr("Clay"), tr("Colours of an attribute"), tr("Checker"), tr("Face sides"), tr("Difference"), tr("Look: its own colours")};
    overlays->addSeparator();
    for (std::size_t i = 0; i < kShadingIds.size(); ++i)
        add(overlays, kShadingIds[i], shadings[i], {}, [this, i] { stage_->tools()->setShading(static_cast<Shading>(i)); });
    view->addSeparator();
    add(view, "data", tr("&Data"), QKeySequence(QStringLiteral("Ctrl+1")), [this] { dataButton_->click(); });
    add(view, "checkup", tr("Check&up"), QKeySequence(QStringLiteral("Ctrl+2")), [this] { checkupButton_->click(); });
    add(view, "notices", tr("N&otices"), QKeySequence(QStringLiteral("Ctrl+3")), [this] { noticesButton_->click(); });
    add(view, "time", tr("&Time"), QKeySequence(QStringLiteral("Ctrl+4")), [this] { timeButton_->click(); });
}

/// The menu at the pointer in the weave: what the Node menu has for what was hit.
void BuildWorkplace::fillContextMenu(QMenu* menu) {
    if (!weave_->chosenNote().empty()) {
        menu->addAction(host_->action(QStringLiteral("delete")));
        return;
    }
    // What helps with what is told of the node comes first.
    if (const auto outcome = rebuilds_.outcome(weave_->chosen()))
        for (const Notice& notice : outcome->notices)
            for (const NoticeFix& fix : notice.fixes)
                menu->addAction(QString::fromStdString(fix.label), this, [this, fix, node = weave_->chosen()] { useFix(fix, node); })
                    ->setToolTip(QString::fromStdString(notice.text));
    if (!menu->isEmpty()) menu->addSeparator();
    menu->addAction(host_->action(QStringLiteral("add")));
    if (weave_->threadChosen()) menu->addAction(host_->action(QStringLiteral("cut_thread")));
    if (!weave_->chosen().empty()) {
        menu->addActions({host_->action(QStringLiteral("rename")), host_->action(QStringLiteral("skip")), host_->action(QStringLiteral("pin"))});
        menu->addMenu(tintMenu_);
        menu->addSeparator();
        const Node* node = document_.shown().node(weave_->chosen());
        if (node && insideOf(*node, document_.assets())) menu->addAction(host_->action(QStringLiteral("open_container")));
        if (node && node->op == kNest) menu->addAction(host_->action(QStringLiteral("unfold")));
        menu->addAction(host_->action(QStringLiteral("fold")));
        menu->addSeparator();
        menu->addActions({host_->action(QStringLiteral("cut")), host_->action(QStringLiteral("copy")), host_->action(QStringLiteral("duplicate"))});
    }
    menu->addActions({host_->action(QStringLiteral("paste")), host_->action(QStringLiteral("delete"))});
    menu->addSeparator();
    menu->addActions({host_->action(QStringLiteral("note")), host_->action(QStringLiteral("tidy"))});
}

}  // namespace seedloom::app

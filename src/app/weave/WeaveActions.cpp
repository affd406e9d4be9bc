// What keys, menus and commands do in the weave.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/Weave.h"
#include "app/weave/WeaveMetrics.h"
#include "app/widgets/Finder.h"
#include "app/widgets/TextArea.h"
#include "formats/LoomFile.h"
#include "graph/NodeSpec.h"
#include "graph/Tidy.h"

#include <QtGui/QClipboard>
#include <QtGui/QGuiApplication>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QLineEdit>

namespace seedloom::app {

namespace {

/// Escape leaves the name as it was, whatever the window uses that key for.
class NameField : public QLineEdit {
public:
    using QLineEdit::QLineEdit;
    std::function<void()> left;

protected:
    bool event(QEvent* event) override {
        if (event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) event->accept();
        return QLineEdit::event(event);
    }
    void keyPressEvent(QKeyEvent* event) override {
        if (event->key() == Qt::Key_Escape) return left();
        QLineEdit::keyPressEvent(event);
    }
};

}  // namespace

void Weave::openQuickAdd(QRectF beside, const std::string& behind, std::function<void(const std::string&)> use, bool onlyWithInput, const QString& typed) {
    const auto outcome = rebuilds_.outcome(behind);
    quickAdd_->open(beside.toAlignedRect(), onlyWithInput, outcome ? std::optional(flowOf(outcome->geometry)) : std::nullopt, std::move(use), typed);
}

void Weave::openQuickAddAt(Cell cell, const QString& typed) {
    cell = {std::max(cell.column, 0), std::max(cell.row, 0)};
    openQuickAdd(
        cellRect(cell), {},
        [this, cell](const std::string& op) {
            std::string id;
            choosePlaced(addNode(loom(), op, cell, &id), id);
        },
        false, typed);
}

void Weave::openQuickAdd(const QString& typed) {
    const std::string after = chosen();
    if (after.empty()) return openQuickAddAt({0, 0}, typed);
    openQuickAdd(
        cardRect(after), after,
        [this, after](const std::string& op) {
            std::string id;
            choosePlaced(addNodeAfter(loom(), op, after, &id), id);
        },
        false, typed);
}

void Weave::choosePlaced(const Edit& edit, const std::string& id) {
    document_.applyShown(edit);
    choose(id);
    Q_EMIT placed(id);
}

void Weave::openFind() {
    std::vector<Finder::Entry> entries;
    for (const Node& n : loom().nodes) {
        const auto spec = document_.specOf(n);
        entries.push_back({QString::fromStdString(displayName(n)),
                           spec ? catalogueText(spec->label) : QString::fromStdString(n.op),
                           QString::fromStdString(n.id),
                           {},
                           [this, id = n.id] {
                               choose(id);
                               const QRectF card = cardRect(id);
                               pan_ += QRectF(rect()).center() - card.center();
                               fitted_ = false;
                               placeFields();
                               update();
                           }});
    }
    finder_->open(tr("Find a node by name"), std::move(entries), mapTo(window(), QPoint(width() / 2, 12)));
}

void Weave::deleteChosen() {
    if (chosenLink_) return document_.applyShown(removeLink(loom(), *chosenLink_));
    if (!chosenNote_.empty()) return document_.applyShown(removeNote(loom(), chosenNote_));
    if (chosenAll().empty()) return;
    std::string next;
    for (const Link& link : loom().links)
        if (link.to == chosen() && next.empty() && !isChosen(link.from)) next = link.from;
    document_.applyShown(removeNodes(loom(), chosenAll()));
    choose(next);
}

void Weave::toggleSkip() {
    if (const Node* first = node(chosen())) document_.applyShown(setSkipped(loom(), chosenAll(), !first->skipped));
}

void Weave::togglePin() { pin(pinned() == chosen() ? std::string() : chosen()); }

void Weave::tintChosen(int tint) { document_.applyShown(setTint(loom(), chosenAll(), tint)); }

void Weave::tidyAll() { document_.applyShown(tidy(loom())); }

void Weave::chooseEverything() {
    std::vector<std::string> all;
    for (const Node& n : loom().nodes) all.push_back(n.id);
    chooseAll(std::move(all));
}

void Weave::copyChosen() {
    const std::vector<std::string> notes = chosenNote_.empty() ? std::vector<std::string>() : std::vector<std::string>{chosenNote_};
    if (chosenAll().empty() && notes.empty()) return;
    // Text, so that it can be sent by mail, kept in a file, or pasted into another window.
    QGuiApplication::clipboard()->setText(
        QString::fromStdString(loomToText(fragmentOf(loom(), chosenNote_.empty() ? chosenAll() : std::vector<std::string>(), notes))));
}

void Weave::cutChosen() {
    copyChosen();
    deleteChosen();
}

void Weave::paste() {
    const auto fragment = loomFromText(QGuiApplication::clipboard()->text().toStdString());
    if (!fragment || (fragment->nodes.empty() && fragment->notes.empty())) return;
    const Node* behind = node(chosen());
    std::vector<std::string> ids;
    document_.applyShown(pasteFragment(loom(), *fragment, behind ? Cell{behind->cell.column, behind->cell.row + 1} : Cell{0, 0}, false, &ids));
    if (!ids.empty()) chooseAll(std::move(ids));
}

void Weave::duplicateChosen() {
    if (chosenAll().empty()) return;
    const Loom fragment = fragmentOf(loom(), chosenAll());
    Cell corner{1 << 20, 1 << 20};
    for (const Node& n : fragment.nodes) corner = {std::min(corner.column, n.cell.column), std::min(corner.row, n.cell.row)};
    std::vector<std::string> ids;
    Edit edit = pasteFragment(loom(), fragment, {corner.column, corner.row + 1}, true, &ids);
    edit.label = tr("Duplicate").toStdString();
    document_.applyShown(edit);
    if (!ids.empty()) chooseAll(std::move(ids));
}

void Weave::renameChosen() {
    const Node* node = this->node(chosen());
    if (!node || (nameField_ && named_ == node->id)) return;
    endNaming(true);
    named_ = node->id;
    nameField_ = new NameField(QString::fromStdString(displayName(*node)), this);
    nameField_->setAccessibleName(tr("Name"));
    placeFields();
    nameField_->selectAll();
    nameField_->show();
    nameField_->setFocus();
    connect(nameField_, &QLineEdit::editingFinished, this, [this] { endNaming(true); });
    connect(nameField_, &QLineEdit::textChanged, this, &Weave::placeFields);
    static_cast<NameField*>(nameField_)->left = [this] { endNaming(false); };
}

/// The field goes whatever happens to its card; what was typed is taken where the card is still there.
void Weave::endNaming(bool take) {
    if (!nameField_) return;
    QLineEdit* field = std::exchange(nameField_, nullptr);
    const std::string id = std::exchange(named_, {});
    const QString text = field->text().trimmed();
    const bool focused = field->hasFocus();
    field->disconnect(this);
    field->hide();
    field->deleteLater();
    if (take && node(id) && text != QString::fromStdString(displayName(*node(id)))) document_.applyShown(renameNode(loom(), id, text.toStdString()));
    if (focused) setFocus();
}

void Weave::addNoteHere() {
    const Node* near = node(chosen());
    Cell cell = near ? Cell{near->cell.column, near->cell.row + 1} : cellAt(rect().center());
    while (cells_.count(cell)) ++cell.row;
    std::string id;
    document_.applyShown(addNote(loom(), cell, {}, &id));
    chosenNote_ = id;
    editNote(id);
}

namespace {

/// Ends with Ctrl+Enter, Escape, or when the focus leaves.
class NoteField : public TextArea {
public:
    using TextArea::TextArea;
    std::function<void(bool take)> done;

protected:
    bool event(QEvent* event) override {
        // While a note is written, these keys end it, whatever the window's actions use them for.
        if (event->type() == QEvent::ShortcutOverride && ends(*static_cast<QKeyEvent*>(event))) event->accept();
        return TextArea::event(event);
    }
    void keyPressEvent(QKeyEvent* event) override {
        if (ends(*event)) return done(event->key() != Qt::Key_Escape);
        TextArea::keyPressEvent(event);
    }
    void focusOutEvent(QFocusEvent* event) override {
        TextArea::focusOutEvent(event);
        if (event->reason() != Qt::PopupFocusReason) done(true);
    }

private:
    static bool ends(const QKeyEvent& event) {
        const bool enter = event.key() == Qt::Key_Return || event.key() == Qt::Key_Enter;
        return event.key() == Qt::Key_Escape || (enter && event.modifiers() & Qt::ControlModifier);
    }
};

}  // namespace

void Weave::editNote(const std::string& id) {
    const Note* note = loom().note(id);
    if (!note || noteField_) return;
    auto* field = new NoteField(QString::fromStdString(note->text), this);
    noteField_ = field;
    noted_ = id;
    placeFields();
    field->setAccessibleName(tr("Text of the note"));
    field->setPlaceholderText(tr("Write a note. Ctrl+Enter ends."));
    field->selectAll();
    field->show();
    field->setFocus();
    field->done = [this, field, id](bool take) {
        if (noteField_ != field) return;
        noteField_ = nullptr;
        field->hide();
        field->deleteLater();
        if (const Note* now = loom().note(id)) {
            Note changed = *now;
            if (take) changed.text = field->toPlainText().trimmed().toStdString();
            // A note without words is none.
            document_.applyShown(changed.text.empty() ? removeNote(loom(), id) : changeNote(loom(), changed));
        }
        setFocus();
    };
}

/// Fields for names and notes end when the hand goes elsewhere.
void Weave::leaveFields(const QWidget* to) {
    if (nameField_ && to != nameField_) endNaming(true);
    if (noteField_ && to != noteField_) static_cast<NoteField*>(noteField_)->done(true);
}

/// Chooses the nearest card in a direction; sideways along links first, so that the walk keeps to its strand.
void Weave::walk(int columns, int rows, bool extend) {
    const Node* from = node(chosen());
    if (!from) return choose(loom().nodes.empty() ? std::string() : loom().nodes.front().id);
    std::string to;
    for (const Link& link : loom().links) {
        if (rows != 0) break;
        if (columns > 0 && link.from == chosen() && (to.empty() || node(link.to)->cell.row == from->cell.row)) to = node(link.to) ? link.to : to;
        if (columns < 0 && link.to == chosen() && to.empty() && node(link.from)) to = link.from;
    }
    int nearest = 1 << 28;
    for (const Node& n : loom().nodes) {
        if (!to.empty() && rows == 0) break;
        const int dx = n.cell.column - from->cell.column, dy = n.cell.row - from->cell.row;
        const int ahead = dx * columns + dy * rows, aside = std::abs(dx * rows) + std::abs(dy * columns);
        if (ahead <= 0) continue;
        if (const int far = ahead + aside * 4; far < nearest) nearest = far, to = n.id;
    }
    if (to.empty()) return;
    if (!extend) return choose(to);
    auto nodes = chosenAll();
    std::erase(nodes, to);
    nodes.push_back(to);
    chooseAll(std::move(nodes));
}

void Weave::keyPressEvent(QKeyEvent* event) {
    leaveFields(this);
    const bool extend = event->modifiers() & Qt::ShiftModifier;
    switch (event->key()) {
        case Qt::Key_Left: return walk(-1, 0, extend);
        case Qt::Key_Right: return walk(1, 0, extend);
        case Qt::Key_Up: return walk(0, -1, extend);
        case Qt::Key_Down: return walk(0, 1, extend);
        case Qt::Key_Escape: return choose(chosen());
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (!chosenNote_.empty()) return editNote(chosenNote_);
            Q_EMIT settingsWanted();
            return;
        default: break;
    }
    // A letter is the start of a word: what to add.
    const QString text = event->text();
    if (!text.isEmpty() && text[0].isLetter() && !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier))) return openQuickAdd(text);
    QWidget::keyPressEvent(event);
}

}  // namespace seedloom::app

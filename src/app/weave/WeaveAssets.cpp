// Assets that are put into the weave, by a drag from the library or behind the chosen node.
#include "app/weave/Weave.h"
#include "app/widgets/AssetMime.h"

#include <QtCore/QFileInfo>
#include <QtGui/QDropEvent>

namespace seedloom::app {

void Weave::addAsset(const QString& file, Cell cell, const std::optional<Link>& into, const std::string& behind) {
    const int gesture = document_.newGesture();
    std::string id;
    Edit edit = addNode(loom(), "asset", cell, &id);
    if (const auto added = applied(loom(), edit)) edit = joined(edit, setSetting(*added, id, "asset", document_.writtenPath(file)));
    edit.label = tr("Add %1").arg(QFileInfo(file).completeBaseName()).toStdString();
    document_.applyShown(edit, gesture);
    // What it is called and takes is known when its file is.
    const Node* made = node(id);
    if (const Inside inside = made ? insideOf(*made, document_.assets()) : Inside(); inside && !inside->name.empty())
        document_.applyShown(renameNode(loom(), id, inside->name), gesture);
    made = node(id);
    const auto spec = made ? document_.specOf(*made) : nullptr;
    if (made && into) document_.applyShown(weaveIn(loom(), id, *into, document_.assets()), gesture);
    else if (spec && !spec->inputs.empty() && !behind.empty())
        document_.applyShown(addLink(loom(), {behind, "", id, "", Json::object()}, document_.assets()), gesture);
    document_.endGesture();
    choose(id);
    Q_EMIT placed(id);
}

void Weave::placeAsset(const QString& file) {
    const Node* behind = node(chosen());
    std::optional<Link> into;
    for (const Link& link : loom().links)
        if (behind && !into && (link.from == behind->id || (behind->op == "output" && link.to == behind->id))) into = link;
    // Before an output that waits for something, else a strand below.
    const bool feeds = behind && behind->op == "output" && !into;
    const Cell cell = !behind ? Cell{0, 0}
                    : feeds   ? Cell{std::max(0, behind->cell.column - 1), behind->cell.row}
                              : Cell{behind->cell.column, behind->cell.row + 1};
    addAsset(file, cell, into, behind && behind->op != "output" ? behind->id : std::string());
    setFocus();
}

void Weave::dragEnterEvent(QDragEnterEvent* event) {
    if (!draggedAsset(event->mimeData()).isEmpty()) event->acceptProposedAction();
}

void Weave::dragMoveEvent(QDragMoveEvent* event) {
    const QPointF at = event->position();
    dropLink_ = cardAt(at).empty() ? linkAt(at) : std::nullopt;
    dropCell_ = dropLink_ ? std::nullopt : std::optional(cellAt(at));
    event->acceptProposedAction();
    update();
}

void Weave::dragLeaveEvent(QDragLeaveEvent*) {
    dropLink_.reset();
    dropCell_.reset();
    update();
}

void Weave::dropEvent(QDropEvent* event) {
    event->acceptProposedAction();
    const auto link = std::exchange(dropLink_, std::nullopt);
    dropCell_.reset();
    addAsset(draggedAsset(event->mimeData()), cellAt(event->position()), link);
    setFocus();
}

}  // namespace seedloom::app

#pragma once
// The graph on its grid of cells: cards, threads, and all that is done to them by mouse and keys.
#include "app/shell/Document.h"
#include "app/shell/Pictures.h"
#include "app/shell/RebuildService.h"

#include <QtCore/QTimer>
#include <QtWidgets/QWidget>

namespace seedloom::app {

class QuickAdd;

class Weave : public QWidget {
    Q_OBJECT

public:
    Weave(Document& document, RebuildService& rebuilds, Pictures& pictures, QWidget* parent = nullptr);

    const std::string& chosen() const { return chosen_; }
    void choose(const std::string& node);
    const std::string& pinned() const { return pinned_; }

    /// Shows all nodes, as far as text stays readable.
    void showAll();
    /// Opens quick add at the chosen node, or at a cell.
    void openQuickAdd();
    void openQuickAddAt(Cell cell);

    // Where things are on screen, in pixels of this widget.
    QRectF cardRect(const std::string& node) const;
    QPointF inputKnob(const std::string& node, int port = 0) const;
    QPointF outputKnob(const std::string& node) const;
    QPointF linkMiddle(const Link& link) const;
    QuickAdd* quickAdd() const { return quickAdd_; }

public Q_SLOTS:
    void deleteChosen();
    void toggleSkip();
    void togglePin();
    void renameChosen();

Q_SIGNALS:
    void chosenChanged();
    void pinnedChanged();
    void settingsWanted();

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;

private:
    enum class Drag : unsigned char { none, pan, card, thread };

    const Loom& loom() const { return document_.loom(); }
    QRectF cellRect(Cell cell) const;
    Cell cellAt(QPointF at) const;
    std::string cardAt(QPointF at) const;
    std::string outputKnobAt(QPointF at) const;
    /// Node and port under a knob, or an empty id.
    std::pair<std::string, std::string> inputAt(QPointF at) const;
    std::optional<Link> linkAt(QPointF at) const;
    QPainterPath threadPath(QPointF from, QPointF to) const;
    QPainterPath threadPath(const Link& link) const;
    int portIndex(const Link& link) const;
    bool fits(const std::string& from, const std::string& to) const;

    void paintCells(QPainter& painter) const;
    void paintNotes(QPainter& painter) const;
    void paintLinks(QPainter& painter) const;
    void paintCard(QPainter& painter, const Node& node) const;
    void paintKnobs(QPainter& painter, const Node& node) const;
    void paintFailure(QPainter& painter, const QRectF& card) const;
    void paintDrag(QPainter& painter) const;
    void paintEmpty(QPainter& painter) const;
    QString factOf(const Node& node, bool brief) const;
    QString linkTip(const Link& link) const;
    void dropThread(QPointF at);
    void walk(int columns, int rows);
    void bringIntoView(const std::string& node);
    void openQuickAdd(QRectF beside, std::function<void(const std::string&)> use, bool onlyWithInput);
    void choosePlaced(const Edit& edit, const std::string& id);

    Document& document_;
    RebuildService& rebuilds_;
    Pictures& pictures_;
    QuickAdd* quickAdd_;
    std::string chosen_, pinned_, hovered_;
    std::optional<Link> chosenLink_, hoveredLink_;
    QPointF pan_{16, 26};
    double zoom_ = 1;
    bool fitted_ = true;  ///< shows all by itself, until the user moves the view

    Drag drag_ = Drag::none;
    QPointF pressed_, last_;
    std::string dragged_;
    bool movedFar_ = false;
    QTimer pulse_;
    double phase_ = 0;
};

}  // namespace seedloom::app

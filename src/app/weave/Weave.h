#pragma once
// The graph on its grid of cells: cards, threads and notes, and all that is done to them by mouse and keys.
// Weave.cpp: what there is and where; WeaveMouse.cpp and WeaveActions.cpp: what is done; WeavePainting.cpp: how it looks; WeaveEnds.cpp: threads that are
// cut in two.
#include "app/session/Session.h"
#include "app/weave/CardMotion.h"
#include "graph/Origin.h"

#include <QtCore/QTimer>
#include <QtWidgets/QWidget>

class QLineEdit;
class QMenu;
class QPlainTextEdit;

namespace seedloom::app {

class QuickAdd;
class Finder;

class Weave : public QWidget {
    Q_OBJECT

public:
    explicit Weave(Session& session, QWidget* parent = nullptr);

    /// The node that the stage and the settings show; with several chosen, the one that was taken last.
    const std::string& chosen() const { return selection_.chosen(); }
    void choose(const std::string& node);
    /// All chosen nodes, the shown one last.
    const std::vector<std::string>& chosenAll() const { return selection_.all(); }
    void chooseAll(std::vector<std::string> nodes);
    const std::string& pinned() const { return selection_.pinned(); }
    void pin(const std::string& node);
    /// Nodes that the stage compares; drawn with a mark.
    void setCompared(std::string left, std::string right);
    /// Marks the nodes that made or changed an attribute; an empty list takes the marks away.
    void setOrigins(const QString& attribute, std::vector<Origin> origins);
    const std::vector<Origin>& origins() const { return origins_; }

    /// Shows all nodes, as far as text stays readable; where they do not fit, the end with the last steps.
    void showAll();
    /// The field in which a node is named, or nullptr.
    QLineEdit* nameField() const { return nameField_; }
    /// Opens quick add at the chosen node, or at a cell; `typed` is already in its field.
    void openQuickAdd(const QString& typed = {});
    void openQuickAddAt(Cell cell, const QString& typed = {});
    /// Opens a search for nodes by name, operator or id.
    void openFind();

    // Where things are on screen, in pixels of this widget.
    QRectF cardRect(const std::string& node) const;
    QRectF cellRect(Cell cell) const;
    QRectF noteRect(const Note& note) const;
    QPointF inputKnob(const std::string& node, int port = 0) const;
    QPointF outputKnob(const std::string& node, int port = 0) const;
    QPointF linkMiddle(const Link& link) const;
    /// Of a thread that is cut: where its end at the card that it comes from, or goes to, is named.
    QRectF threadEnd(const Link& link, bool start) const;
    bool threadChosen() const { return chosenLink_.has_value(); }
    /// A card's name as it is drawn.
    QStringList nameLines(const Node& node) const;
    /// The small map of the whole; empty while everything is in sight.
    QRectF overviewRect() const;
    QuickAdd* quickAdd() const { return quickAdd_; }
    Finder* finder() const { return finder_; }
    /// Puts an asset node of that file behind the chosen one where it takes geometry, else beside it; it is chosen then.
    void placeAsset(const QString& file);
    const std::string& chosenNote() const { return chosenNote_; }
    bool moving() const { return motion_.moving(); }
    void setMotion(bool on) { animate_ = on; }

public Q_SLOTS:
    void deleteChosen();
    void toggleSkip();
    void togglePin();
    void renameChosen();
    void chooseEverything();
    void copyChosen();
    void cutChosen();
    void paste();
    void duplicateChosen();
    void tidyAll();
    void addNoteHere();
    void cutOrJoinThread();
    void tintChosen(int tint);

Q_SIGNALS:
    void settingsWanted();
    /// A node has been added, and is chosen.
    void placed(const std::string& node);
    /// A double click on a container.
    void openWanted();
    /// A menu is about to open at the pointer; the window adds what belongs to the place.
    void menuWanted(QMenu* menu);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent*) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dragLeaveEvent(QDragLeaveEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void resizeEvent(QResizeEvent*) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    enum class Drag : unsigned char { none, pan, cards, thread, band, note, noteWidth, overview };

    const Loom& loom() const { return document_.shown(); }
    const Node* node(const std::string& id) const;
    bool isChosen(const std::string& id) const { return std::find(chosenAll().begin(), chosenAll().end(), id) != chosenAll().end(); }
    void documentChanged();
    void placeChanged();
    QRectF rectAt(QPointF place) const;
    /// Where a card is drawn now, which may be on its way.
    QRectF shownRect(const Node& node) const { return rectAt(motion_.place(node)); }
    QPointF knobOut(const QRectF& card, const Node& node, int port) const;
    QPointF knobIn(const QRectF& card, const Node& node, int port) const;
    Cell cellAt(QPointF at) const;
    std::string cardAt(QPointF at) const;
    std::string noteAt(QPointF at) const;
    /// Node and output under a knob, or an empty id; the first output has no name.
    std::pair<std::string, std::string> outputAt(QPointF at) const;
    /// What flows through a link; empty where nothing has yet.
    Geometry flowing(const Link& link) const;
    /// Node and port under a knob, or an empty id.
    std::pair<std::string, std::string> inputAt(QPointF at) const;
    std::optional<Link> linkAt(QPointF at) const;
    QString endText(const Link& link, bool start) const;
    void paintEnds(QPainter& painter, const Link& link, const QPen& pen) const;
    QPainterPath threadPath(QPointF from, QPointF to) const;
    QPainterPath threadPath(const Link& link, bool shown = false) const;
    int portIndex(const Link& link) const;
    bool fits(const std::string& from, const std::string& to) const;
    /// Columns and rows that are used, in cells.
    QRect usedCells() const;
    double fittingZoom() const;

    void paintCells(QPainter& painter) const;
    void paintNotes(QPainter& painter) const;
    void paintLinks(QPainter& painter) const;
    void paintCard(QPainter& painter, const Node& node) const;
    void paintState(QPainter& painter, const Node& node, const NodeReport& report, const QRectF& card) const;
    /// Of what a node did to the shown attribute; invalid where it did nothing.
    QColor originColour(const std::string& node) const;
    void paintOrigin(QPainter& painter, const Node& node, const QRectF& card) const;
    void paintKnobs(QPainter& painter, const Node& node) const;
    void paintFailure(QPainter& painter, const QRectF& card) const;
    void paintDrag(QPainter& painter) const;
    void paintEmpty(QPainter& painter) const;
    void paintOverview(QPainter& painter) const;
    /// Of a card that failed: a click there says what helps.
    QRectF tornCorner(const QRectF& card) const;
    QRectF pictureOf(const QRectF& card) const;
    QRectF textOf(const QRectF& card) const;
    QString factOf(const Node& node, bool brief) const;
    QString cardTip(const Node& node) const;
    QString linkTip(const Link& link) const;
    void dropThread(QPointF at);
    void dropCards(QPointF at);
    void takeBand(QPointF at, bool add);
    void moveByOverview(QPointF at);
    void editNote(const std::string& id);
    void openMenu(QPointF at);
    void hover(QPointF at, QPoint global);
    void leaveFields(const QWidget* to);
    void endNaming(bool take);
    /// Fields keep to the card or note that they belong to.
    void placeFields();
    void walk(int columns, int rows, bool extend);
    void bringIntoView(const std::string& node);
    void openQuickAdd(QRectF beside, const std::string& behind, std::function<void(const std::string&)> use, bool onlyWithInput, const QString& typed);
    void choosePlaced(const Edit& edit, const std::string& id);
    /// An asset node at a cell; where it takes geometry in a link, or else fed by the node `behind`.
    void addAsset(const QString& file, Cell cell, const std::optional<Link>& into, const std::string& behind = {});

    Document& document_;
    RebuildService& rebuilds_;
    Pictures& pictures_;
    Selection& selection_;
    QuickAdd* quickAdd_;
    Finder* finder_;
    std::string hovered_, chosenNote_, comparedLeft_, comparedRight_;
    QString originOf_;
    std::vector<Origin> origins_;
    std::optional<Link> chosenLink_, hoveredLink_;
    QPointF pan_{16, 26};
    double zoom_;
    bool fitted_ = true;  ///< shows all by itself, until the user moves the view
    bool animate_ = true;
    std::map<std::string, const Node*> nodes_;  ///< of the loom as it is now
    std::map<Cell, const Node*> cells_;
    std::vector<std::string> path_;        ///< of the containers around
    std::shared_ptr<const Loom> indexed_;  ///< keeps nodes_ valid
    CardMotion motion_;
    QTimer motionTimer_;

    Drag drag_ = Drag::none;
    QPointF pressed_, last_;
    std::string dragged_, draggedOutput_;
    std::optional<Link> dropLink_;
    std::optional<Cell> dropCell_;  ///< of an asset that is dragged over
    bool movedFar_ = false;
    QPlainTextEdit* noteField_ = nullptr;
    std::string noted_, named_;  ///< what the fields belong to
    QLineEdit* nameField_ = nullptr;
    QTimer pulse_;
    double phase_ = 0;
};

}  // namespace seedloom::app

#pragma once
// Build: stage over weave, controls and settings at the side, drawers below.
// BuildWorkplace.cpp: what is shown where; BuildCommands.cpp: its commands; BuildLayout.cpp: how it is put together; BuildView.cpp: what is kept of it.
#include "app/session/Background.h"
#include "app/session/GhostFrames.h"
#include "app/stage/Gesture.h"
#include "app/stage/Stage.h"
#include "app/workplaces/Workplace.h"

#include <functional>
#include <map>

class QListWidget;
class QListWidgetItem;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace seedloom::app {

class CheckupDrawer;
class ControlsPanel;
class DataDrawer;
class SettingsPanel;
class TimeDrawer;
class Trail;
class Weave;

class BuildWorkplace : public Workplace {
    Q_OBJECT

public:
    explicit BuildWorkplace(Session& session, QObject* parent = nullptr);
    ~BuildWorkplace() override;

    QString id() const override { return QStringLiteral("build"); }
    QString iconName() const override { return QStringLiteral("build"); }
    QString label() const override { return tr("Build"); }
    QString tip() const override { return tr("Build: make the recipe"); }
    void addCommands(CommandHost& host) override;
    QWidget* makeWidget(QWidget* parent) override;
    void enter() override;
    void leave() override;
    Json saveView() const override;
    void restoreView(const Json& view) override;
    void saveLayout(const QString& key) const override;
    void restoreLayout(const QString& key) override;
    std::function<void()> keepState() override;

    Stage* stage() const { return stage_; }
    Weave* weave() const { return weave_; }
    Trail* trail() const { return trail_; }
    SettingsPanel* settings() const { return settings_; }
    ControlsPanel* controls() const { return controls_; }
    DataDrawer* data() const { return data_; }
    CheckupDrawer* checkup() const { return checkup_; }
    TimeDrawer* time() const { return time_; }

    /// Opens a drawer; an empty name closes the open one.
    void showDrawer(const QString& name);
    /// The id of the open drawer: data, checkup, notices, time, or empty.
    QString shownDrawer() const;
    void showFirstSteps(bool shown);
    void toggleCompare(bool on);
    /// Marks all faces that are of the marked one's kind; in Data they are the only ones then.
    void markKind();
    bool comparing() const { return compare_; }
    /// Shows the input of the chosen node for as long as it is on.
    void peek(bool on);
    bool eventFilter(QObject* watched, QEvent* event) override;
    /// The controls get the room that they need, once.
    void fitSide(int height);
    /// The same where there are more of them; they never get smaller by themselves.
    void growControls();

private:
    QAction* add(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run);
    void offerCommands(bool offered);
    void addEditCommands();
    void addNodeCommands();
    void addViewCommands();
    void fillContextMenu(QMenu* menu);

    void connectSession();
    void connectPanels();
    void makeSide(QWidget* parent, QWidget* main);
    QWidget* makeDrawerBar(QWidget* parent);
    QWidget* makeFirstSteps(QWidget* parent);
    std::array<std::pair<QString, QToolButton*>, 4> drawerButtons() const;
    void fitDrawer();

    void placeChanged();
    Stage::Subject surroundings() const;
    /// Whether density is painted: then the surface is shown, with the points on it.
    bool paintsDensity() const;
    void openChosen();
    void openAsset(const Node& node);
    void goOut();
    void foldChosen();
    void unfoldChosen();
    void useFix(const NoticeFix& fix, const std::string& node);
    void showChosen();
    void showStage();
    void showOrigins();
    void showNotices();
    const Node* frameStep() const;
    void showFrames();
    void showGhosts();
    void keepFrame(int frame);
    void seekRest();
    void keepRest();
    QListWidgetItem* addNotice(NoticeLevel level, const QString& of, const std::string& text, const std::string& node);
    void offerFixes(QListWidgetItem* item, const std::vector<std::pair<std::string, std::function<void()>>>& fixes);
    QString nameOf(const std::string& node) const;
    /// A node's result, as the stage shows it; `output` by its place.
    Stage::Subject subjectOf(const std::string& node, std::size_t output = 0) const;
    /// What goes into a node's first port; an empty name where nothing does.
    Stage::Subject inputOf(const std::string& node) const;
    struct Compared {
        std::string leftNode, rightNode;
        Stage::Subject left, right;
    };
    /// What Compare means now: two chosen nodes, pinned and chosen, or before and after the chosen one.
    Compared compared() const;
    Stage::Handles handlesOf(const std::string& node) const;
    void applySettings(const std::string& node, const std::map<std::string, Json>& settings);
    std::optional<std::size_t> chosenLine() const;
    Stage::Subject finishedBefore(const std::string& id) const;
    bool hasFirstSteps() const;
    bool drawsOnSurface(const Node* node) const;
    void showChosenLine();
    void beginProfile(const std::string& id);
    Bounds inputBounds(const std::string& node) const;
    void insertHandle(int behind, Vec3 at);
    void appendHandle(int end, Vec3 at);
    void removeHandle(int index);
    /// The gesture that a press on the stage begins, by what is chosen; phases as the stage tells them.
    void gestureOnModel(Vec3 at, Vec3 normal, int phase);
    void gestureOnHandle(int index, Vec3 to, int phase);
    bool planeIsPlain();
    void runGesture(Vec3 at, Vec3 normal, int phase);
    std::optional<Brush> penOf(const Node* node) const;
    void faceThePlane(int plane);

    Document& document_;
    RebuildService& rebuilds_;
    Pictures& pictures_;
    Selection& selection_;
    CommandHost* host_ = nullptr;
    std::unique_ptr<Gesture> gesture_;
    Stage* stage_ = nullptr;
    Weave* weave_ = nullptr;
    Trail* trail_ = nullptr;
    SettingsPanel* settings_ = nullptr;
    ControlsPanel* controls_ = nullptr;
    DataDrawer* data_ = nullptr;
    CheckupDrawer* checkup_ = nullptr;
    TimeDrawer* time_ = nullptr;
    QListWidget* notices_ = nullptr;
    QStackedWidget* drawers_ = nullptr;
    QToolButton *dataButton_ = nullptr, *checkupButton_ = nullptr, *noticesButton_ = nullptr, *timeButton_ = nullptr;
    QWidget* firstSteps_ = nullptr;
    QSplitter *across_ = nullptr, *down_ = nullptr, *side_ = nullptr;
    std::vector<QAction*> own_;  ///< all of its commands
    QList<QAction*> weaveActions_, placeActions_;
    QMenu *nodeMenu_ = nullptr, *tintMenu_ = nullptr;
    GhostFrames ghosts_;
    Background origins_;
    int originWish_ = 0;
    std::map<QString, int> drawerHeights_;  ///< as the user has left them
    bool sideFitted_ = false, compare_ = false, peeking_ = false;
    std::string seeksRest_;  ///< the step whose rest is looked for, by its last frame
    int soughtAt_ = 0;
    bool showsOpenInput_ = false;  ///< its edges are marked, until something else is shown
};

}  // namespace seedloom::app

#pragma once
// The window: Build workplace with stage, weave, controls, settings and drawers; files; history.
// MainWindow.cpp: what is shown where; MainWindowActions.cpp: menus and commands; MainWindowFiles.cpp: documents on disk;
// MainWindowLayout.cpp: how the window is put together.
#include "app/session/Background.h"
#include "app/session/Document.h"
#include "app/session/Pictures.h"
#include "app/session/RebuildService.h"
#include "app/stage/Stage.h"

#include <QtCore/QFileSystemWatcher>
#include <QtCore/QTimer>
#include <QtWidgets/QMainWindow>

class QHBoxLayout;
class QSplitter;
class QListWidget;
class QMenu;
class QToolButton;
class QLabel;
class QStackedWidget;

namespace seedloom::app {

class CheckupDrawer;
class ControlsPanel;
class DataDrawer;
class Finder;
class SettingsPanel;
class TimeDrawer;
class Trail;
class Weave;

class MainWindow : public QMainWindow {
    Q_OBJECT

public:
    MainWindow();
    ~MainWindow() override;

    Document& document() { return document_; }
    RebuildService& rebuilds() { return rebuilds_; }
    Stage* stage() const { return stage_; }
    Weave* weave() const { return weave_; }
    Trail* trail() const { return trail_; }
    SettingsPanel* settings() const { return settings_; }
    ControlsPanel* controls() const { return controls_; }
    DataDrawer* data() const { return data_; }
    CheckupDrawer* checkup() const { return checkup_; }
    TimeDrawer* time() const { return time_; }
    Finder* commandSearch() const { return commands_; }
    /// Every action, by the id under which its shortcut is kept; nullptr where there is none.
    QAction* action(const QString& id) const;
    QList<QAction*> allActions() const { return actions_; }
    QString message() const;
    /// Presses a button of the message by its text; false where there is none.
    bool answerMessage(const QString& button);

    /// A window that lives until it is closed.
    static MainWindow* openNew();
    /// Opens a file; errors are shown in the window. False where it failed.
    bool openFile(const QString& file);
    void openDemo();
    bool saveTo(const QString& file);
    /// Writes the output's model, off the interface thread; exported() tells the end. False, with a message, where it could not begin.
    bool exportTo(const QString& file, bool large = false);
    /// Journals go to `folder`; those that a program left there when it died are offered.
    void keepJournalIn(const QString& folder);
    /// Opens a drawer; an empty name closes the open one.
    void showDrawer(const QString& name);
    /// The id of the open drawer: data, checkup, notices, time, or empty.
    QString shownDrawer() const;
    void showFirstSteps(bool shown);
    /// Builds all panels anew, after a change of theme or size of texts; document, choice and views stay.
    void rebuildInterface();
    void toggleCompare(bool on);
    bool comparing() const { return compare_; }
    /// Shows the input of the chosen node for as long as it is on.
    void peek(bool on);
    /// Facts about the document, as text.
    QString statistics() const;

Q_SIGNALS:
    void exported(bool done);

protected:
    void closeEvent(QCloseEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void changeEvent(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    struct Answer {
        QString text;
        std::function<void()> use;
    };

    void makeActions();
    void makeFileActions();
    void makeEditActions();
    void makeNodeActions();
    void makeViewActions();
    QAction* addAction(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run);
    void fillContextMenu(QMenu* menu);
    void openCommandSearch();
    void openSettings();

    void makeLayout();
    void connectPanels();
    QWidget* makeMessage(QWidget* parent);
    QWidget* makeDrawerBar();
    QWidget* makeFirstSteps();
    std::array<std::pair<QString, QToolButton*>, 4> drawerButtons() const;
    void fitDrawer();
    QString layoutKey() const;
    void restoreLayout();
    void saveLayout();

    void rebuildNow(RebuildService::Mode mode);
    void documentChanged();
    void placeChanged();
    Stage::Subject surroundings() const;
    /// Whether density is painted: then the surface is shown, with the points on it.
    bool paintsDensity() const;
    void openChosen();
    void goOut();
    void foldChosen();
    void unfoldChosen();
    void showChosen();
    void showStage();
    void showOrigins();
    void keepPicture();
    void paintStroke(Vec3 at, Vec3 normal, int phase);
    void showNotices();
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
    void moveHandle(int index, Vec3 to, int phase);
    Stage::Handles handlesOf(const std::string& node) const;
    Bounds inputBounds(const std::string& node) const;
    void insertHandle(int behind, Vec3 at);
    void removeHandle(int index);
    void drawLine(Vec3 at, int phase);
    std::optional<Brush> penOf(const Node* node) const;
    Json viewState() const;
    void takeViewState(const Json& view);

    /// Asks about unsaved changes; false where the user wants to stay.
    bool mayLeave();
    bool save();
    bool saveAs();
    void renameAsked();
    void openAsked();
    void openRecent();
    void openLastGood(const QString& file);
    void exportAsked();
    void offerJournals();
    void checkDisk();
    void watchFile();
    void openAsset(const Node& node);
    void showMessage(const QString& text, const std::vector<Answer>& answers = {});
    void showHelp();
    void showStatistics();

    Document document_;
    RebuildService rebuilds_;
    Pictures pictures_;
    Stage* stage_ = nullptr;
    Weave* weave_ = nullptr;
    Trail* trail_ = nullptr;
    SettingsPanel* settings_ = nullptr;
    ControlsPanel* controls_ = nullptr;
    DataDrawer* data_ = nullptr;
    CheckupDrawer* checkup_ = nullptr;
    TimeDrawer* time_ = nullptr;
    Finder* commands_ = nullptr;
    QListWidget* notices_ = nullptr;
    QStackedWidget* drawers_ = nullptr;
    QToolButton *dataButton_ = nullptr, *checkupButton_ = nullptr, *noticesButton_ = nullptr, *timeButton_ = nullptr;
    QWidget *firstSteps_ = nullptr, *message_ = nullptr;
    QLabel* messageText_ = nullptr;
    QHBoxLayout* messageAnswers_ = nullptr;
    QSplitter *across_ = nullptr, *down_ = nullptr, *side_ = nullptr;
    QList<QAction*> actions_, weaveActions_, placeActions_;
    QAction *undo_ = nullptr, *redo_ = nullptr;
    QMenu *nodeMenu_ = nullptr, *tintMenu_ = nullptr;
    QFileSystemWatcher watcher_;
    std::set<std::filesystem::path> watchedAssets_;
    QTimer rest_;
    Background exports_, origins_;
    int originWish_ = 0;
    QString pictureWanted_;  ///< a saved file without its picture yet
    QString journalFolder_;
    std::map<QString, int> drawerHeights_;  ///< as the user has left them
    int handleGesture_ = 0;
    bool sideFitted_ = false, compare_ = false, peeking_ = false, exporting_ = false;
    bool showsOpenInput_ = false;  ///< its edges are marked, until something else is shown
};

}  // namespace seedloom::app

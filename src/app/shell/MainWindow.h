#pragma once
// The window: frame, menus, messages, files; what is worked on and how is the affair of its session and workplaces.
// MainWindowLibrary.cpp: assets on shelves and in the document; MainWindowActions.cpp: menus and commands; MainWindowFiles.cpp: documents on disk;
// MainWindowLayout.cpp: how the window is put together.
#include "app/session/Background.h"
#include "app/session/Library.h"
#include "app/shell/HelpWindow.h"
#include "app/workplaces/BuildWorkplace.h"
#include "app/workplaces/VaryWorkplace.h"
#include "app/workplaces/Workplaces.h"
#include "graph/AssetUpdate.h"
#include "graph/Importing.h"

#include <QtCore/QFileSystemWatcher>
#include <QtCore/QPointer>
#include <QtWidgets/QMainWindow>

class QHBoxLayout;
class QMenu;
class QLabel;
class QSplitter;
class QStackedWidget;

namespace seedloom::app {

class Finder;
class LibraryDrawer;
class FramesDialog;
class PublishWindow;
class Rail;
class StartPage;
class UpdateWindow;

class MainWindow : public QMainWindow, private CommandHost {
    Q_OBJECT

public:
    MainWindow();
    ~MainWindow() override;

    Session& session() { return session_; }
    Document& document() { return document_; }
    RebuildService& rebuilds() { return session_.rebuilds(); }
    BuildWorkplace& build() const;
    VaryWorkplace& vary() const;
    Stage* stage() const { return build().stage(); }
    Weave* weave() const { return build().weave(); }
    Trail* trail() const { return build().trail(); }
    SettingsPanel* settings() const { return build().settings(); }
    ControlsPanel* controls() const { return build().controls(); }
    DataDrawer* data() const { return build().data(); }
    CheckupDrawer* checkup() const { return build().checkup(); }
    TimeDrawer* time() const { return build().time(); }
    Finder* commandSearch() const { return commands_; }
    /// Every action, by the id under which its shortcut is kept; nullptr where there is none.
    QAction* action(const QString& id) const override;
    QList<QAction*> allActions() const { return actions_; }
    QString message() const;
    /// Presses a button of the message by its text; false where there is none.
    bool answerMessage(const QString& button);

    /// A window that lives until it is closed.
    static MainWindow* openNew();
    static QList<MainWindow*> windows();
    /// Opens a loom, or a new one that imports a mesh; of a drawing or a picture it asks what it is to become. Errors are shown in the window.
    /// False where it failed.
    bool openFile(const QString& file);
    /// The first loom here, each other one in a window of its own; what can be imported together in one new loom.
    void openFiles(const QStringList& files);
    /// What there is to begin with, in the place of the workplaces, or these again.
    void showStart(bool shown);
    StartPage* startPage() const { return start_; }
    void openDemo();
    bool saveTo(const QString& file);
    /// Writes the output's model, off the interface thread; exported() tells the end. False, with a message, where it could not begin.
    bool exportTo(const QString& file, bool large = false);
    /// Journals go to `folder`, those of windows that are opened later, too; those that a program left there when it died are offered.
    void keepJournalIn(const QString& folder);
    /// Takes over whether a journal is kept.
    void followPreferences();
    /// A page of the help, at a heading or where a text occurs.
    void showHelp(const QString& page, const QString& at = {});
    HelpWindow* help() const { return help_; }
    /// Checking the loom and making a pack of it, in a window beside this one.
    PublishWindow* showPublish();
    FramesDialog* showFrames();
    /// Shelves of assets beside the workplace, or not.
    void showLibrary(bool shown);
    LibraryDrawer* libraryDrawer() const { return drawer_; }
    Library& library() { return library_; }
    /// What changes where the document's nodes of this asset stand for the one in `file`; null, with a message, where there are none.
    UpdateWindow* showUpdate(const QString& file);
    /// Writes a pack as a loom with its files into a new folder, and opens that in a window of its own. False, with a message, where it could not.
    bool unpackTo(const QString& pack, const QString& folder);
    /// The chosen asset node stands for a loom beside the document from now on, which can be changed.
    void makeLocal();
    void showWorkplace(const QString& id);
    void showDrawer(const QString& name) { build().showDrawer(name); }
    QString shownDrawer() const { return build().shownDrawer(); }
    void showFirstSteps(bool shown) { build().showFirstSteps(shown); }
    /// Builds all panels anew, after a change of theme or size of texts; document, choice and views stay.
    void rebuildInterface();
    void toggleCompare(bool on) { build().toggleCompare(on); }
    bool comparing() const { return build().comparing(); }
    /// Shows the input of the chosen node for as long as it is on.
    void peek(bool on) { build().peek(on); }
    /// Facts about the document, as text.
    QString statistics() const;

Q_SIGNALS:
    void exported(bool done);

protected:
    void closeEvent(QCloseEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void changeEvent(QEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    struct Answer {
        QString text;
        std::function<void()> use;
    };

    QMenu* menu(const QString& id, const QString& title = {}) override;
    QAction* add(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) override;
    void makeActions();
    void makeFileActions();
    void makeEditActions();
    void makeViewActions();
    void openCommandSearch();
    void openSettings();

    void makeLayout();
    QWidget* makeLibrary(QWidget* parent);
    void toggleLibrary();
    void addShelfAsked();
    void unpackAsked(const QString& pack);
    void showUses();
    void offerUpdates();
    QWidget* makeMessage(QWidget* parent);
    QWidget* makeStart();
    QString layoutKey() const;
    void restoreLayout();
    void saveLayout();
    void documentChanged();
    Json viewNow() const;
    void restoreViews();

    /// Asks about unsaved changes; false where the user wants to stay.
    bool mayLeave();
    bool save();
    bool saveAs();
    QString folderOfFiles() const;
    QString fileProposed(const QString& ending) const;
    void renameAsked();
    void openAsked();
    void openRecent();
    /// A new loom of them, each as it is meant there.
    void openImports(const std::vector<ImportedFile>& files);
    /// A drawing or a picture: asks what is to become of it.
    bool offerImport(const QString& file);
    /// A new loom with a node of a published asset.
    void useAsset(const QString& file);
    void openNamedDemo(const QString& id);
    void openLastGood(const QString& file);
    void exportAsked();
    void offerJournals();
    void bringBack(const std::filesystem::path& journal);
    void throwAway(const std::filesystem::path& journal);
    void checkDisk();
    void watchFile();
    void keepPicture();
    void showMessage(const QString& text, const std::vector<Answer>& answers = {});
    void helpHere();
    void showKeys();
    void showStatistics();
    void showReport();

    Session session_;
    Library library_;
    Document& document_ = session_.document();
    std::vector<std::unique_ptr<Workplace>> workplaces_;
    Finder* commands_ = nullptr;
    Rail* rail_ = nullptr;
    QStackedWidget *front_ = nullptr, *places_ = nullptr;  ///< the start page or the workplaces; one of these
    StartPage* start_ = nullptr;
    LibraryDrawer* drawer_ = nullptr;
    QSplitter* beside_ = nullptr;  ///< the library and all else
    std::vector<AssetUse> uses_;   ///< of assets in the document
    std::set<QString> offered_;    ///< updates that were offered
    QWidget* message_ = nullptr;
    QLabel* messageText_ = nullptr;
    QHBoxLayout* messageAnswers_ = nullptr;
    QList<QAction*> actions_;
    std::map<QString, QMenu*> menus_;
    QAction *undo_ = nullptr, *redo_ = nullptr;
    QFileSystemWatcher watcher_;
    std::set<std::filesystem::path> watchedAssets_;
    QPointer<HelpWindow> help_;
    QPointer<PublishWindow> publish_;
    QPointer<UpdateWindow> update_;
    Background exports_;
    QString pictureWanted_;  ///< a saved file without its picture yet
    QString journalFolder_;
    bool exporting_ = false;
};

}  // namespace seedloom::app

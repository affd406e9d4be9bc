#pragma once
// The window: Build workplace with stage, weave, controls, settings and drawers; files; history.
#include "app/shell/Document.h"
#include "app/shell/Pictures.h"
#include "app/shell/RebuildService.h"

#include <QtWidgets/QMainWindow>

class QSplitter;
class QListWidget;
class QToolButton;
class QLabel;
class QStackedWidget;

namespace seedloom::app {

class Stage;
class Weave;
class SettingsPanel;
class ControlsPanel;
class DataDrawer;

class MainWindow : public QMainWindow {
    Q_OBJECT

public:
    MainWindow();
    ~MainWindow() override;

    Document& document() { return document_; }
    RebuildService& rebuilds() { return rebuilds_; }
    Stage* stage() const { return stage_; }
    Weave* weave() const { return weave_; }
    SettingsPanel* settings() const { return settings_; }
    ControlsPanel* controls() const { return controls_; }
    DataDrawer* data() const { return data_; }

    /// Opens a file; errors are shown in the window. False where it failed.
    bool openFile(const QString& file);
    void openDemo();
    bool saveTo(const QString& file);
    /// Writes the output's model. False with a message in the window where it failed.
    bool exportTo(const QString& file);
    void showDrawer(const QString& name);
    void showFirstSteps(bool shown);

protected:
    void closeEvent(QCloseEvent* event) override;
    void showEvent(QShowEvent* event) override;

private:
    void makeActions();
    void makeLayout();
    QWidget* makeDrawerBar();
    QWidget* makeFirstSteps();
    void restoreLayout();
    void saveLayout();

    void rebuildNow();
    void showChosen();
    void showNotices();
    void moveHandle(int index, Vec3 to, int phase);
    std::vector<Vec3> handlesOf(const std::string& node) const;

    /// Asks about unsaved changes; false where the user wants to stay.
    bool mayLeave();
    bool save();
    bool saveAs();
    void renameAsked();
    void openAsked();
    void exportAsked();
    void showMessage(const QString& text);
    void showHelp();

    Document document_;
    RebuildService rebuilds_;
    Pictures pictures_;
    Stage* stage_ = nullptr;
    Weave* weave_ = nullptr;
    SettingsPanel* settings_ = nullptr;
    ControlsPanel* controls_ = nullptr;
    DataDrawer* data_ = nullptr;
    QListWidget* notices_ = nullptr;
    QStackedWidget* drawers_ = nullptr;
    QToolButton *dataButton_ = nullptr, *noticesButton_ = nullptr;
    QWidget *firstSteps_ = nullptr, *message_ = nullptr;
    QLabel* messageText_ = nullptr;
    QSplitter *across_ = nullptr, *down_ = nullptr, *side_ = nullptr;
    QAction *new_ = nullptr, *open_ = nullptr, *save_ = nullptr, *saveAs_ = nullptr, *export_ = nullptr, *undo_ = nullptr, *redo_ = nullptr;
    QList<QAction*> weaveActions_, viewActions_;
    int handleGesture_ = 0;
    bool sideFitted_ = false;
};

}  // namespace seedloom::app

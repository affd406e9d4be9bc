#pragma once
// Vary: what varies at the left, the contact sheet in the middle, the chosen variation large at the right.
// VaryWorkplace.cpp: what is shown and done; VaryLayout.cpp: how it is put together; VaryView of app/vary: the sheet.
#include "app/session/VariedModel.h"
#include "app/session/VaryExport.h"
#include "app/session/VarySheet.h"
#include "app/stage/Stage.h"
#include "app/vary/VaryTable.h"
#include "app/workplaces/Workplace.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QProgressBar;
class QPushButton;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace seedloom::app {

class FactList;
class VaryPanel;
class VaryView;

class VaryWorkplace : public Workplace {
    Q_OBJECT

public:
    explicit VaryWorkplace(Session& session, QObject* parent = nullptr);
    ~VaryWorkplace() override;

    QString id() const override { return QStringLiteral("vary"); }
    QString iconName() const override { return QStringLiteral("vary"); }
    QString label() const override { return tr("Vary"); }
    QString tip() const override { return tr("Vary: see many variations side by side"); }
    void addCommands(CommandHost& host) override;
    QWidget* makeWidget(QWidget* parent) override;
    void enter() override;
    void leave() override;
    Json saveView() const override;
    void restoreView(const Json& view) override;
    void saveLayout(const QString& key) const override;
    void restoreLayout(const QString& key) override;
    std::function<void()> keepState() override;
    bool eventFilter(QObject* watched, QEvent* event) override;

    VarySheet& sheet() { return sheet_; }
    VaryTable& table() { return table_; }
    VaryExport& exporting() { return export_; }
    VaryPanel* panel() const { return panel_; }
    VaryView* view() const { return view_; }
    Stage* stage() const { return stage_; }
    FactList* facts() const { return facts_; }
    QListWidget* stars() const { return stars_; }
    QComboBox* columns() const { return columns_; }
    QComboBox* rows() const { return rows_; }
    QComboBox* order() const { return order_; }
    QComboBox* kind() const { return kind_; }
    QLineEdit* condition() const { return condition_; }
    QPushButton* useButton() const { return use_; }
    QPushButton* keepButton() const { return keep_; }
    QToolButton* compareButton() const { return compare_; }
    QPushButton* exportButton() const { return exportButton_; }
    QPushButton* stopButton() const { return stopButton_; }
    QLineEdit* presetName() const { return presetName_; }
    QLineEdit* pattern() const { return pattern_; }
    QString progressText() const;
    QString exportText() const;

    /// The variation that is shown large; nothing where none is.
    std::optional<Variation> shown() const { return shown_; }
    /// Beside another one, with a divider; nothing: alone.
    void compareWith(std::optional<Variation> other);
    void toggleStar(std::size_t item);
    /// Puts its values into the controls, as one step.
    void useShown();
    void keepAsPreset(const QString& name);
    /// Writes all that are starred; without stars, the one that is shown.
    void exportTo(const QString& folder);

private:
    QWidget* makeMiddle(QWidget* parent);
    QWidget* makeSheetBar(QWidget* parent);
    QWidget* makeInvitation(QWidget* parent);
    QWidget* makeSide(QWidget* parent);
    QWidget* makeExport(QWidget* parent);
    void connectParts();

    void offerCommands(bool offered);
    void documentChanged();
    void showPlan();
    void showProgress();
    void showChosen();
    void showModels();
    void showFacts();
    void showStars();
    void fillCompare();
    void arrange();
    void fillArrangement();
    void showNames();
    void exportAsked();
    void takeMemory(const Json& varied);
    Json memory() const;
    void remember();
    const VaryRow* rowOf(const std::optional<Variation>& variation) const;
    QString nameOf(const Variation& variation) const;

    Document& document_;
    VarySheet sheet_;
    VaryTable table_;
    VariedModel model_, other_;
    VaryExport export_;
    QTimer remember_, turn_;
    std::optional<Variation> shown_, compared_;  ///< large, and beside it
    std::optional<Variation> wanted_;            ///< what the model is of, with
    std::shared_ptr<const Loom> wantedOf_;
    QString names_ = QStringLiteral("{name}-{n}"), ending_ = QStringLiteral("glb");  ///< of files
    bool restoring_ = false, front_ = false;
    Selection selection_;
    QMenu* menu_ = nullptr;
    QList<QAction*> actions_;
    QSplitter* across_ = nullptr;
    VaryPanel* panel_ = nullptr;
    VaryView* view_ = nullptr;
    QWidget* bar_ = nullptr;
    QStackedWidget* middle_ = nullptr;
    Stage* stage_ = nullptr;
    FactList* facts_ = nullptr;
    QListWidget* stars_ = nullptr;
    QComboBox *columns_ = nullptr, *rows_ = nullptr, *order_ = nullptr, *kind_ = nullptr, *format_ = nullptr;
    QLineEdit *condition_ = nullptr, *pattern_ = nullptr, *presetName_ = nullptr;
    QLabel *progress_ = nullptr, *title_ = nullptr, *beside_ = nullptr, *exportText_ = nullptr, *starTitle_ = nullptr, *problem_ = nullptr;
    QPushButton *use_ = nullptr, *keep_ = nullptr, *build_ = nullptr, *exportButton_ = nullptr, *stopButton_ = nullptr, *largest_ = nullptr;
    QToolButton* compare_ = nullptr;
};

}  // namespace seedloom::app

#pragma once
// Making an asset of the loom: what is told of it, whether it is fit for others, and its pack.
#include "app/session/Background.h"
#include "app/session/FitRun.h"
#include "app/session/Session.h"
#include "app/session/SheetRun.h"
#include "formats/Pack.h"

#include <QtCore/QTimer>
#include <QtWidgets/QDialog>

class QCheckBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QSpinBox;
class QTableWidget;

class QTabWidget;

namespace seedloom::app {

class EffectsPage;

class PublishWindow : public QDialog {
    Q_OBJECT

public:
    PublishWindow(Session& session, QWidget* parent);
    ~PublishWindow() override;
    /// Begins the check; what runs is stopped.
    void check();
    /// Writes the pack, behind the interface; written() tells the end. False, with words in the window, where it could not begin.
    bool publishTo(const QString& file);
    /// Writes the sheet, behind the interface.
    void sheetTo(const QString& file);
    FitRun& run() { return run_; }
    SheetRun& sheetRun() { return sheet_; }
    QPushButton* sheetButton() const { return sheetButton_; }
    EffectsPage* effects() const { return effects_; }
    QTabWidget* pages() const { return pages_; }
    QTableWidget* table() const { return table_; }
    QLineEdit* name() const { return name_; }
    QLineEdit* version() const { return version_; }
    QLineEdit* summary() const { return summary_; }
    QSpinBox* random() const { return random_; }
    QCheckBox* onlyUnfit() const { return onlyUnfit_; }
    QPushButton* checkButton() const { return check_; }
    QPushButton* openButton() const { return open_; }
    QPushButton* shrinkButton() const { return shrink_; }
    QPushButton* publishButton() const { return publish_; }
    QString verdict() const;
    QString message() const;

Q_SIGNALS:
    /// The node that told what is wrong is to be looked at.
    void nodeWanted(const QString& node);
    void written(bool done);

private:
    QWidget* makeFacts();
    QWidget* makeReport();
    FitSubject subjectNow() const;
    FitOptions optionsNow() const;
    QWidget* makeButtons();
    void showFacts();
    void showPicture();
    void takeFacts();
    void showAdvice();
    void fillTable();
    void showRow(int row);
    void showVerdict();
    /// The loom as it is now was found fit at all settings that were tried.
    bool knownFit() const;
    void showChoice();
    /// The trial of the chosen row; nothing where there is none.
    std::optional<std::size_t> chosen() const;
    void use(const Trial& trial, const std::string& node);
    void publishAsked();
    void sheetAsked();
    QString proposed(const QString& ending) const;

    Session& session_;
    Document& document_;
    FitRun run_;
    SheetRun sheet_;
    Background writing_;
    std::shared_ptr<std::atomic<bool>> stopWriting_ = std::make_shared<std::atomic<bool>>(false);
    QTimer fill_;                          ///< verdicts come faster than anybody reads
    std::vector<int> rowOf_;               ///< by trial
    std::shared_ptr<const Loom> checked_;  ///< what the verdicts are of
    QLineEdit *name_, *version_, *summary_, *author_, *licence_, *tags_;
    QSpinBox *random_, *budget_;
    QCheckBox *openMeant_, *onlyUnfit_;
    QLabel *picture_, *advice_, *verdict_, *message_, *faults_;
    QProgressBar* progress_;
    EffectsPage* effects_;
    QTabWidget* pages_;
    QTableWidget* table_;
    QPushButton *check_, *open_, *shrink_, *publish_, *sheetButton_;
};

}  // namespace seedloom::app

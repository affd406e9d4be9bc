#pragma once
#include "graph/ControlReadings.h"
#include "graph/Controls.h"

#include <QtWidgets/QFrame>

class QComboBox;
class QFormLayout;
class QLabel;
class QLineEdit;
class QToolButton;

namespace seedloom::app {

class ControlRow;
class FormulaEditor;

/// Asks, in the column itself, for everything about a control: how it is called, where it stands, what it takes, when it is shown and allowed.
class ControlForm : public QFrame {
    Q_OBJECT

public:
    /// What the form needs to know of the document around.
    struct Around {
        QStringList sections;
        QStringList controls;                  ///< ids, for conditions
        QString folder;                        ///< that paths start from
        std::vector<ControlReading> readings;  ///< of this control
        std::vector<std::string> readers;      ///< controls that read it
        /// What would be wrong with the control as filled in; nothing where it can be taken.
        std::function<std::optional<Error>(const Control&)> problem;
    };

    ControlForm(const Control& control, Around around, const QString& button, QWidget* parent);
    /// As filled in.
    Control control() const;
    QLineEdit* name() const { return name_; }
    QLineEdit* id() const { return id_; }
    QComboBox* type() const { return type_; }
    /// What is said against it now; empty where nothing is.
    QString problem() const;

Q_SIGNALS:
    void done(bool take);
    /// A place that the control drives was clicked.
    void placeWanted(const ControlReading& reading);

protected:
    void keyPressEvent(QKeyEvent* event) override;

private:
    QLineEdit* addLine(const QString& label, const QString& help, const std::string& text, const QString& placeholder = {});
    FormulaEditor* addCondition(const QString& label, const std::string& text, const QString& placeholder);
    QLineEdit* addNumber(QWidget* row, const std::optional<double>& value, const QString& name, const QString& none);
    void addNumbers();
    void addConditions();
    void addPlaces();
    void addButtons(const QString& button);
    void showType();
    void showDefault();
    void take();

    Control start_;
    Around around_;
    QFormLayout* form_;
    QLineEdit *name_, *id_, *section_, *unit_, *help_, *choices_, *pictures_;
    QComboBox* type_;
    QToolButton* computed_;
    QWidget *limits_, *sliderEnds_, *default_ = nullptr;
    QLineEdit *least_, *most_, *low_, *high_, *step_;
    FormulaEditor* formula_ = nullptr;  ///< of a default that is computed
    ControlRow* row_ = nullptr;
    Json fallback_;
    FormulaEditor *shown_, *allowed_;
    QLabel* problem_;
};

}  // namespace seedloom::app

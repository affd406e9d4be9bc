#pragma once
// A window that writes frames of the model: one file that moves, or a file for each.
#include "app/session/FramesExport.h"
#include "app/session/Session.h"

#include <QtWidgets/QDialog>

class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QRadioButton;
class QSpinBox;

namespace seedloom::app {

class FramesDialog : public QDialog {
    Q_OBJECT

public:
    /// `file`: what is proposed, with the ending .glb. `range`: the frames that the Time drawer shows.
    FramesDialog(Session& session, FrameRange range, const QString& file, QWidget* parent);

    QSpinBox* first() const { return first_; }
    QSpinBox* last() const { return last_; }
    QRadioButton* together() const { return together_; }
    QRadioButton* each() const { return each_; }
    QLineEdit* file() const { return file_; }
    QPushButton* writeButton() const { return write_; }
    QPushButton* stopButton() const { return stop_; }
    QString message() const;
    const FramesExport& run() const { return run_; }

private:
    void proposeName();
    void choose();
    void write();
    void stop();
    void showEnd(const QString& problem, const QStringList& files, bool moved);
    void refresh();

    Session& session_;
    QSpinBox *first_, *last_;
    QRadioButton *together_, *each_;
    QLineEdit* file_;
    QLabel* message_;
    QProgressBar* progress_;
    QPushButton *write_, *stop_;
    QString ended_;
    FramesExport run_;
};

}  // namespace seedloom::app

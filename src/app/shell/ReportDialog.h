#pragma once
#include <QtWidgets/QDialog>

class QCheckBox;
class QPlainTextEdit;

namespace seedloom::app {

/// What a report of a problem would hold, to be read before it is saved: version, facts about the document, the newest of the log; the document itself only
/// where that is asked for. Nothing is sent anywhere.
class ReportDialog : public QDialog {
    Q_OBJECT

public:
    /// `document`: its text as it would be saved.
    ReportDialog(const QString& facts, const QString& log, const QString& document, QWidget* parent = nullptr);
    QString text() const;
    QCheckBox* withDocument() const { return withDocument_; }
    /// False, with a message in the dialog, where it can't be written.
    bool saveTo(const QString& file);

private:
    void refresh();
    void saveAsked();

    QString facts_, log_, document_;
    QCheckBox* withDocument_;
    QPlainTextEdit* shown_;
    class QLabel* problem_;
};

}  // namespace seedloom::app

#pragma once
// Text of the formula language, coloured, with completion, and with what is wrong marked at its place.
#include "app/widgets/TextArea.h"

class QCompleter;
class QStringListModel;

namespace seedloom::app {

class FormulaColours;

enum class FormulaForm : unsigned char {
    statements,
    expression,  ///< one value: as high as its lines need, Enter takes it
};

class FormulaEditor : public TextArea {
    Q_OBJECT

public:
    explicit FormulaEditor(FormulaForm form, QWidget* parent = nullptr);

    /// Attributes and controls that can be read here; they are completed and coloured.
    void setNames(const QStringList& names);
    /// Marks a place, lines and columns from 1; 0 takes the mark away. Syntax is checked while typing, beside that.
    void setMark(int line, int column);
    /// What the language itself says against the text now; empty where it can be read.
    QString syntaxProblem() const { return problem_; }
    /// Shows the text, and leaves the cursor where it is as far as it can.
    void showText(const QString& text);
    QCompleter* completions() const { return completer_; }
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

Q_SIGNALS:
    /// A pause in typing, the end of editing, or Ctrl+Enter: the text can be read and differs from the last one told.
    void settled(const QString& text);
    void checked();
    void editingStarted();
    void editingEnded();

protected:
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    void check();
    void settle();
    void paintMarks();
    void offerWords(bool asked);
    void insertWord(const QString& word);
    QString wordBeforeCursor() const;

    FormulaForm form_;
    FormulaColours* highlighter_;
    QCompleter* completer_;
    QStringListModel* words_;
    QTimer* pause_;
    QString problem_, told_;
    int problemLine_ = 0, problemColumn_ = 0, markLine_ = 0, markColumn_ = 0;
};

}  // namespace seedloom::app

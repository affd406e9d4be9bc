#include "app/widgets/FormulaEditor.h"

#include "app/look/Theme.h"
#include "app/widgets/FormulaColours.h"
#include "fields/Formula.h"
#include "fields/FormulaText.h"

#include <QtCore/QStringListModel>
#include <QtCore/QTimer>
#include <QtGui/QKeyEvent>
#include <QtGui/QTextBlock>
#include <QtGui/QTextLayout>
#include <QtWidgets/QAbstractItemView>
#include <QtWidgets/QCompleter>
#include <QtWidgets/QScrollBar>

namespace seedloom::app {

namespace {

constexpr int kPauseMs = 350, kFewestLines = 5, kMostLines = 16, kLettersToOffer = 2;

}  // namespace

FormulaEditor::FormulaEditor(FormulaForm form, QWidget* parent)
    : TextArea(parent), form_(form), highlighter_(new FormulaColours(document())), completer_(new QCompleter(this)), words_(new QStringListModel(this)),
      pause_(new QTimer(this)) {
    setFont(numberFont(12));
    setTabChangesFocus(true);  // Tab leaves the field, as in all others
    setPlaceholderText(form == FormulaForm::statements ? tr("mask = along * 0.5;") : tr("along * 0.5"));
    setVerticalScrollBarPolicy(form == FormulaForm::statements ? Qt::ScrollBarAsNeeded : Qt::ScrollBarAlwaysOff);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    if (form == FormulaForm::expression) document()->setDocumentMargin(1);
    completer_->setModel(words_);
    completer_->setWidget(this);
    completer_->setCaseSensitivity(Qt::CaseInsensitive);
    completer_->setModelSorting(QCompleter::CaseInsensitivelySortedModel);
    completer_->popup()->setObjectName(QStringLiteral("formula_words"));
    connect(completer_, qOverload<const QString&>(&QCompleter::activated), this, &FormulaEditor::insertWord);
    pause_->setSingleShot(true);
    pause_->setInterval(kPauseMs);
    connect(pause_, &QTimer::timeout, this, &FormulaEditor::settle);
    connect(this, &QPlainTextEdit::textChanged, this, [this] {
        // The mark is of the text before this one.
        markLine_ = 0;
        check();
        updateGeometry();
        if (hasFocus()) pause_->start();
    });
    setNames({});
}

QSize FormulaEditor::sizeHint() const {
    int lines = 0;  // as wrapped
    for (QTextBlock block = document()->firstBlock(); block.isValid(); block = block.next()) lines += std::max(1, block.layout()->lineCount());
    const bool statements = form_ == FormulaForm::statements;
    lines = std::clamp(lines, statements ? kFewestLines : 1, kMostLines);
    return {statements ? 200 : 100, lines * fontMetrics().lineSpacing() + 2 * frameWidth() + px(statements ? 14 : 2)};
}

void FormulaEditor::setNames(const QStringList& names) {
    QStringList words = names;
    words << QStringLiteral("normal") << QStringLiteral("position");
    highlighter_->setNames(words);
    for (const std::string& name : formulaFunctions()) words << QString::fromStdString(name);
    if (form_ == FormulaForm::statements) words << QStringLiteral("let") << QStringLiteral("dial");
    for (const char* word : {"index", "count", "time", "frame", "true", "false"}) words << QLatin1String(word);
    words.removeDuplicates();
    words.sort(Qt::CaseInsensitive);
    words_->setStringList(words);
}

void FormulaEditor::setMark(int line, int column) {
    if (line == markLine_ && column == markColumn_) return;
    markLine_ = line;
    markColumn_ = column;
    paintMarks();
}

void FormulaEditor::showText(const QString& text) {
    if (toPlainText() == text) return;
    const int at = textCursor().position();
    const QSignalBlocker quiet(this);
    setPlainText(text);
    QTextCursor cursor = textCursor();
    cursor.setPosition(std::min(at, int(text.size())));
    setTextCursor(cursor);
    told_ = text;
    check();
    updateGeometry();
}

void FormulaEditor::check() {
    const std::string text = toPlainText().toStdString();
    const auto keep = [this](const auto& parsed) {
        problem_ = parsed ? QString() : QString::fromStdString(parsed.error().text);
        problemLine_ = parsed ? 0 : parsed.error().line;
        problemColumn_ = parsed ? 0 : parsed.error().column;
    };
    form_ == FormulaForm::statements ? keep(parseFormulaText(text)) : keep(parseFormula(text));
    paintMarks();
    Q_EMIT checked();
}

/// A wavy line under the word at the place, or under the end of the line.
void FormulaEditor::paintMarks() {
    QList<QTextEdit::ExtraSelection> marks;
    const int line = problemLine_ > 0 ? problemLine_ : markLine_, column = problemLine_ > 0 ? problemColumn_ : markColumn_;
    if (const QTextBlock block = document()->findBlockByNumber(line - 1); line > 0 && block.isValid()) {
        QTextEdit::ExtraSelection mark;
        mark.format.setUnderlineStyle(QTextCharFormat::WaveUnderline);
        mark.format.setUnderlineColor(colours().chosen);
        mark.format.setBackground(colours().note);
        mark.cursor = QTextCursor(block);
        mark.cursor.setPosition(block.position() + std::min(column - 1, std::max(0, block.length() - 2)));
        mark.cursor.movePosition(QTextCursor::EndOfWord, QTextCursor::KeepAnchor);
        if (!mark.cursor.hasSelection()) mark.cursor.movePosition(QTextCursor::NextCharacter, QTextCursor::KeepAnchor);
        marks << mark;
    }
    setExtraSelections(marks);
}

void FormulaEditor::settle() {
    pause_->stop();
    const QString text = toPlainText();
    if (!problem_.isEmpty() || text == told_) return;
    told_ = text;
    Q_EMIT settled(text);
}

QString FormulaEditor::wordBeforeCursor() const {
    QTextCursor cursor = textCursor();
    cursor.movePosition(QTextCursor::StartOfWord, QTextCursor::KeepAnchor);
    return cursor.selectedText();
}

void FormulaEditor::offerWords(bool asked) {
    const QString begun = wordBeforeCursor();
    if (!asked && begun.size() < kLettersToOffer) return completer_->popup()->hide();
    completer_->setCompletionPrefix(begun);
    const bool nothingNew = completer_->completionCount() == 0 || (completer_->completionCount() == 1 && completer_->currentCompletion() == begun);
    if (nothingNew) return completer_->popup()->hide();
    completer_->popup()->setCurrentIndex(completer_->completionModel()->index(0, 0));
    QRect place = cursorRect();
    place.setWidth(completer_->popup()->sizeHintForColumn(0) + completer_->popup()->verticalScrollBar()->sizeHint().width() + px(12));
    completer_->complete(place);
}

void FormulaEditor::insertWord(const QString& word) {
    QTextCursor cursor = textCursor();
    cursor.movePosition(QTextCursor::StartOfWord, QTextCursor::KeepAnchor);
    cursor.insertText(word);
    setTextCursor(cursor);
}

void FormulaEditor::resizeEvent(QResizeEvent* event) {
    TextArea::resizeEvent(event);
    updateGeometry();  // lines wrap anew
}

void FormulaEditor::keyPressEvent(QKeyEvent* event) {
    if (completer_->popup()->isVisible()) {
        switch (event->key()) {
            // The list of words takes these itself.
            case Qt::Key_Return:
            case Qt::Key_Enter:
            case Qt::Key_Tab:
            case Qt::Key_Escape: return event->ignore();
            default: break;
        }
    }
    const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
    if (enter && (event->modifiers() & Qt::ControlModifier || form_ == FormulaForm::expression)) return settle();
    if (event->key() == Qt::Key_Space && event->modifiers() & Qt::ControlModifier) return offerWords(true);
    TextArea::keyPressEvent(event);
    if (!event->text().isEmpty() && (event->text()[0].isLetterOrNumber() || event->key() == Qt::Key_Backspace)) offerWords(false);
    else completer_->popup()->hide();
}

void FormulaEditor::focusInEvent(QFocusEvent* event) {
    TextArea::focusInEvent(event);
    if (event->reason() != Qt::PopupFocusReason) Q_EMIT editingStarted();
}

void FormulaEditor::focusOutEvent(QFocusEvent* event) {
    TextArea::focusOutEvent(event);
    if (event->reason() == Qt::PopupFocusReason) return;
    settle();
    Q_EMIT editingEnded();
}

}  // namespace seedloom::app

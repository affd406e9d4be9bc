#pragma once
#include <QtCore/QMimeData>
#include <QtGui/QMouseEvent>
#include <QtGui/QTextCursor>
#include <QtWidgets/QPlainTextEdit>

namespace seedloom::app {

/// A field of several lines, without two ways in which Qt 6.4 ends the program: pasting nothing, where it reads the first of no formats, and dragging
/// chosen text, where it reads the field after it has gone, as panels do when something is rebuilt meanwhile. One-line fields don't let text be dragged
/// either.
class TextArea : public QPlainTextEdit {
public:
    using QPlainTextEdit::QPlainTextEdit;

protected:
    void insertFromMimeData(const QMimeData* pasted) override {
        if (pasted && !pasted->formats().isEmpty()) QPlainTextEdit::insertFromMimeData(pasted);
    }
    void mousePressEvent(QMouseEvent* event) override {
        const QTextCursor at = cursorForPosition(event->position().toPoint());
        const bool onChosen = at.position() >= textCursor().selectionStart() && at.position() <= textCursor().selectionEnd();
        if (event->button() == Qt::LeftButton && onChosen) setTextCursor(at);
        QPlainTextEdit::mousePressEvent(event);
    }
};

}  // namespace seedloom::app

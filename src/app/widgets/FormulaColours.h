#pragma once
#include <QtCore/QSet>
#include <QtGui/QSyntaxHighlighter>

namespace seedloom::app {

/// Colours words of the formula language, known names, numbers, texts and comments.
class FormulaColours : public QSyntaxHighlighter {
    Q_OBJECT

public:
    explicit FormulaColours(QTextDocument* document);
    void setNames(const QStringList& names);

protected:
    void highlightBlock(const QString& text) override;

private:
    void colourWords(const QString& text, int from, int to);
    QSet<QString> names_;
};

}  // namespace seedloom::app

#include "app/widgets/FormulaColours.h"

#include "app/look/Theme.h"
#include "fields/FormulaText.h"

#include <QtCore/QRegularExpression>

namespace seedloom::app {

namespace {

enum BlockState { plain = 0, inComment = 1 };

const QSet<QString>& statementWords() {
    static const QSet<QString> words{QStringLiteral("let"),  QStringLiteral("dial"),  QStringLiteral("in"),
                                     QStringLiteral("true"), QStringLiteral("false"), QStringLiteral("ctl")};
    return words;
}

const QSet<QString>& functions() {
    static const QSet<QString> words = [] {
        QSet<QString> out;
        for (const std::string& name : formulaFunctions()) out.insert(QString::fromStdString(name));
        return out;
    }();
    return words;
}

}  // namespace

FormulaColours::FormulaColours(QTextDocument* document) : QSyntaxHighlighter(document) {}

void FormulaColours::setNames(const QStringList& names) {
    const QSet<QString> next(names.begin(), names.end());
    if (next == names_) return;
    names_ = next;
    rehighlight();
}

void FormulaColours::colourWords(const QString& text, int from, int to) {
    static const QRegularExpression tokens(QStringLiteral("[A-Za-z_][A-Za-z_0-9]*|[0-9]*\\.?[0-9]+([eE][+-]?[0-9]+)?"));
    auto found = tokens.globalMatch(text.mid(from, to - from));
    while (found.hasNext()) {
        const auto match = found.next();
        const QString word = match.captured();
        QTextCharFormat format;
        if (statementWords().contains(word)) format.setForeground(colours().chosen), format.setFontWeight(QFont::DemiBold);
        else if (functions().contains(word)) format.setForeground(colours().link);
        else if (names_.contains(word)) format.setForeground(colours().fresh);
        else if (word[0].isDigit() || word[0] == QLatin1Char('.')) format.setForeground(colours().warning);
        else continue;
        setFormat(from + int(match.capturedStart()), int(match.capturedLength()), format);
    }
}

void FormulaColours::highlightBlock(const QString& text) {
    QTextCharFormat comment, quoted;
    comment.setForeground(colours().faint);
    comment.setFontItalic(true);
    quoted.setForeground(colours().warning);
    setCurrentBlockState(plain);
    int at = 0, begun = 0;
    if (previousBlockState() == inComment) {
        const int end = int(text.indexOf(QStringLiteral("*/")));
        setFormat(0, end < 0 ? int(text.size()) : end + 2, comment);
        if (end < 0) return setCurrentBlockState(inComment);
        at = begun = end + 2;
    }
    static const QRegularExpression starts(QStringLiteral("//|/\\*|\""));
    for (;;) {
        const auto match = starts.match(text, at);
        colourWords(text, begun, match.hasMatch() ? int(match.capturedStart()) : int(text.size()));
        if (!match.hasMatch()) return;
        const int start = int(match.capturedStart());
        if (match.captured() == QStringLiteral("//")) return setFormat(start, int(text.size()) - start, comment);
        const bool isText = match.captured() == QStringLiteral("\"");
        const int end = int(text.indexOf(isText ? QStringLiteral("\"") : QStringLiteral("*/"), start + (isText ? 1 : 2)));
        at = begun = end < 0 ? int(text.size()) : end + (isText ? 1 : 2);
        setFormat(start, at - start, isText ? quoted : comment);
        if (end < 0) return setCurrentBlockState(isText ? plain : inComment);
    }
}

}  // namespace seedloom::app

#pragma once
#include <QtCore/QStringList>
#include <QtGui/QFontMetrics>

namespace seedloom::app {

/// Broken between words into two lines at most; what is still too long ends in dots.
inline QStringList inTwoLines(const QString& text, const QFontMetrics& metrics, int width) {
    if (metrics.elidedText(text, Qt::ElideRight, width) == text) return {text};
    const QStringList words = text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    QString first = words.value(0);
    qsizetype taken = 1;
    for (; taken < words.size(); ++taken) {
        const QString longer = first + QLatin1Char(' ') + words[taken];
        if (metrics.elidedText(longer, Qt::ElideRight, width) != longer) break;
        first = longer;
    }
    QStringList out{metrics.elidedText(first, Qt::ElideRight, width)};
    const QString rest = words.mid(taken).join(QLatin1Char(' '));
    if (!rest.isEmpty()) out << metrics.elidedText(rest, Qt::ElideRight, width);
    return out;
}

}  // namespace seedloom::app

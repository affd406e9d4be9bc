#pragma once
#include <QtCore/QCoreApplication>
#include <QtCore/QLocale>
#include <QtCore/QRegularExpression>

namespace seedloom::app {

/// A text of the catalogue (label, sentence, help) in the language of the interface.
inline QString catalogueText(const std::string& text) { return QCoreApplication::translate("Catalogue", text.c_str()); }

/// 16 640, with thin spaces between thousands.
inline QString countText(std::size_t n) { return QLocale(QLocale::English).toString(qulonglong(n)).replace(QLatin1Char(','), QChar(0x2009)); }

/// Whether people read 0,25 or 0.25. Formulas and files always have the point.
inline bool& decimalComma() {
    static bool comma = false;
    return comma;
}
/// A number as QString::number writes it, with the sign that people read.
inline QString shownNumber(double value, char form, int digits) {
    QString text = QString::number(value, form, digits);
    return decimalComma() ? text.replace(QLatin1Char('.'), QLatin1Char(',')) : text;
}

/// A text of the core with numbers in it, as people read them: places are then parted by semicolons.
inline QString shownNumbers(QString text) {
    if (!decimalComma()) return text;
    static const QRegularExpression kPoint(QStringLiteral("(?<=[0-9])\\.(?=[0-9])"));
    return text.replace(QStringLiteral(", "), QStringLiteral("; ")).replace(kPoint, QStringLiteral(","));
}

/// Endings as a file dialog takes them: "*.obj *.stl".
inline QString filePatterns(const std::vector<std::string>& endings) {
    QStringList out;
    for (const std::string& ending : endings) out << QLatin1Char('*') + QString::fromStdString(ending);
    return out.join(QLatin1Char(' '));
}

}  // namespace seedloom::app

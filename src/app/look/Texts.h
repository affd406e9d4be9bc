#pragma once
#include <QtCore/QCoreApplication>
#include <QtCore/QLocale>

namespace seedloom::app {

/// A text of the catalogue (label, sentence, help) in the language of the interface.
inline QString catalogueText(const std::string& text) { return QCoreApplication::translate("Catalogue", text.c_str()); }

/// 16 640, with thin spaces between thousands.
inline QString countText(std::size_t n) { return QLocale(QLocale::English).toString(qulonglong(n)).replace(QLatin1Char(','), QChar(0x2009)); }

}  // namespace seedloom::app

#pragma once
// The look of the application: colours by role, shipped fonts, own icons.
#include <QtGui/QColor>
#include <QtGui/QFont>
#include <QtGui/QIcon>

class QApplication;

namespace seedloom::app {

/// Colours of the Linen theme by what they are for.
struct Colours {
    QColor paper{0xF3, 0xEE, 0xE4};   ///< window
    QColor card{0xFC, 0xFA, 0xF5};    ///< cards, panels, fields in focus
    QColor field{0xF0, 0xEA, 0xDD};   ///< value fields
    QColor ink{0x23, 0x2B, 0x36};     ///< text
    QColor faint{0x5F, 0x61, 0x60};   ///< secondary text, still 4.5 : 1 on paper
    QColor line{0xCF, 0xC6, 0xB6};
    QColor chosen{0xB3, 0x40, 0x2E};  ///< madder: what is chosen and what acts
    QColor link{0x2D, 0x4A, 0x78};    ///< indigo: ways to explanations
    QColor fresh{0x4E, 0x68, 0x2E};   ///< moss, dark enough for text
    QColor warning{0x8F, 0x60, 0x0B}; ///< ochre, dark enough for text
    QColor sand{0xD9, 0xC2, 0x8F};
    QColor note{0xF0, 0xE2, 0xBE};
};

const Colours& colours();

/// Loads fonts, sets palette and style sheet.
void applyTheme(QApplication& application);

QFont bodyFont(int pixels = 12, QFont::Weight weight = QFont::Normal);
QFont numberFont(int pixels = 12);
/// One of the shipped line icons in the given colour (ink where none is given).
QIcon icon(const QString& name, QColor colour = {});
QPixmap iconPixmap(const QString& name, int pixels, QColor colour, qreal ratio = 1);

}  // namespace seedloom::app

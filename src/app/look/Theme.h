#pragma once
// The look of the application: colours by role, shipped fonts, own icons.
#include <QtGui/QColor>
#include <QtGui/QFont>
#include <QtGui/QIcon>

#include <array>

class QApplication;

namespace seedloom::app {

enum class ThemeName : unsigned char { linen, night };

/// Colours by what they are for; as they stand here, those of Linen.
struct Colours {
    QColor paper{0xF3, 0xEE, 0xE4};  ///< window
    QColor card{0xFC, 0xFA, 0xF5};   ///< cards, panels, fields in focus
    QColor field{0xF0, 0xEA, 0xDD};  ///< value fields
    QColor ink{0x23, 0x2B, 0x36};    ///< text
    QColor faint{0x5F, 0x61, 0x60};  ///< secondary text, still 4.5 : 1 on paper
    QColor line{0xCF, 0xC6, 0xB6};
    QColor chosen{0xB3, 0x40, 0x2E};   ///< madder: what is chosen and what acts
    QColor link{0x2D, 0x4A, 0x78};     ///< indigo: ways to explanations
    QColor fresh{0x4E, 0x68, 0x2E};    ///< moss, dark enough for text
    QColor warning{0x8F, 0x60, 0x0B};  ///< ochre, dark enough for text
    QColor sand{0xD9, 0xC2, 0x8F};
    QColor note{0xF0, 0xE2, 0xBE};
    QColor stageTop{0xF1, 0xED, 0xE6}, stageFoot{0xDA, 0xD8, 0xD3}, stageGrid{0xB8, 0xB0, 0xA1};
    std::array<QColor, 6> tints{QColor(0xDD, 0xE6, 0xF2), QColor(0xF5, 0xDF, 0xD8), QColor(0xE3, 0xEC, 0xD6),
                                QColor(0xF6, 0xEA, 0xC8), QColor(0xE9, 0xE0, 0xEE), QColor(0xD9, 0xEB, 0xE8)};
};

const Colours& coloursOf(ThemeName theme);
/// Those of the theme in use.
const Colours& colours();
ThemeName currentTheme();

/// How large texts are, as a factor: 1 is the size the window was drawn for.
double textScale();
/// A height or width in pixels that follows the size of texts.
int px(int pixels);

/// Takes theme and text size into use for everything that is made or painted from now on; kept for the next start.
void setAppearance(ThemeName theme, double scale);

/// Loads fonts, sets palette and style sheet as kept from last time.
void applyTheme(QApplication& application);

/// Fonts in pixels before scaling.
QFont bodyFont(int pixels = 12, QFont::Weight weight = QFont::Normal);
QFont numberFont(int pixels = 12);
/// One of the shipped line icons in the given colour (ink where none is given).
QIcon icon(const QString& name, QColor colour = {});
QPixmap iconPixmap(const QString& name, int pixels, QColor colour, qreal ratio = 1);

}  // namespace seedloom::app

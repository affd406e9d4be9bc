#pragma once
#include "app/look/Theme.h"

#include <QtGui/QFont>

#include <algorithm>
#include <cmath>

namespace seedloom::app {

/// Not smaller than `least` pixels, which nobody could read.
inline QFont scaled(QFont font, double zoom, int least) {
    font.setPixelSize(std::max(least, int(std::round(font.pixelSize() / textScale() * zoom))));
    return font;
}

}  // namespace seedloom::app

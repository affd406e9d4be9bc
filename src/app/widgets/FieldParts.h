#pragma once
// What the fields of settings share.
#include "fields/Source.h"

#include <QtGui/QColor>
#include <QtWidgets/QLabel>

#include <cmath>

namespace seedloom::app {

/// Whole numbers stay whole in the file.
inline Json numberJson(double value, bool whole) { return whole ? Json(std::int64_t(std::llround(value))) : Json(value); }

/// A picked colour as [r, g, b], to a thousandth.
inline Json colourJson(const QColor& colour) {
    const auto part = [](double v) { return std::round(v * 1000) / 1000; };
    return Json::array({part(colour.redF()), part(colour.greenF()), part(colour.blueF())});
}

inline QLabel* smallLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "faint");
    return label;
}

}  // namespace seedloom::app

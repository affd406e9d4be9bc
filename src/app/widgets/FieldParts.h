#pragma once
// What the fields of settings share.
#include "fields/Source.h"

#include <QtWidgets/QLabel>

namespace seedloom::app {

/// Whole numbers stay whole in the file.
inline Json numberJson(double value, bool whole) { return whole ? Json(std::int64_t(std::llround(value))) : Json(value); }

inline QLabel* smallLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "faint");
    return label;
}

}  // namespace seedloom::app

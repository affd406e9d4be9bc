#pragma once
// An entry of a setting of lines: a list of points, or {"points": [...], "hidden": true}; what is hidden takes no part in the result.
#include "fields/Source.h"

namespace seedloom {

/// Its points; the entry itself where it is no object.
const Json& pointsOfLine(const Json& line);
bool lineHidden(const Json& line);
/// The same line, hidden or shown; written as a plain list where nothing else is said of it.
Json lineShown(const Json& line, bool shown);
/// The same line with other points.
Json lineWithPoints(const Json& line, Json points);

}  // namespace seedloom

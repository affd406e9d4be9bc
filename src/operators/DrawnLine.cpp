#include "operators/DrawnLine.h"

namespace seedloom {

const Json& pointsOfLine(const Json& line) {
    static const Json none = Json::array();
    if (!line.is_object()) return line;
    const auto points = line.find("points");
    return points == line.end() ? none : *points;
}

bool lineHidden(const Json& line) {
    if (!line.is_object()) return false;
    const auto hidden = line.find("hidden");
    return hidden != line.end() && hidden->is_boolean() && hidden->get<bool>();
}

Json lineShown(const Json& line, bool shown) {
    Json out = line.is_object() ? line : Json{{"points", line}};
    if (shown) out.erase("hidden");
    else out["hidden"] = true;
    return out.size() == 1 && out.contains("points") ? out["points"] : out;
}

Json lineWithPoints(const Json& line, Json points) {
    if (!line.is_object()) return points;
    Json out = line;
    out["points"] = std::move(points);
    return out;
}

}  // namespace seedloom

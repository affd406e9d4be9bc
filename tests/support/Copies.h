#pragma once
// Points, shapes and copies for tests of what is placed.
#include "support/Run.h"

namespace seedloom::test {

/// Points with ids and normals on a flat square of ten metres.
inline Geometry points(int count, double spacing = 0) {
    return made("scatter", {{"mode", spacing > 0 ? "spacing" : "count"}, {"count", count}, {"spacing", spacing > 0 ? spacing : 1}},
                {made("grid", {{"size", {10, 10}}})});
}
inline Geometry box(double x = 0.2, double y = 0.2, double z = 0.2) { return made("box", {{"size", {x, y, z}}}); }
inline Geometry placed(const Geometry& at, std::vector<Geometry> shapes, const Json& settings = Json::object()) {
    return madeOf("place_copies", {{at}, std::move(shapes)}, settings);
}

template <class T> const std::vector<T>& ofCopies(const Geometry& g, const char* name) { return *g.values<T>(Element::copy, name); }

inline bool alike(const Affine& a, const Affine& b, float most = 1e-5f) {
    return length(a.x - b.x) < most && length(a.y - b.y) < most && length(a.z - b.z) < most && length(a.move - b.move) < most;
}

/// By the id of each copy, what it shows and where.
inline std::map<std::int32_t, std::pair<std::int32_t, Affine>> byId(const Geometry& g) {
    std::map<std::int32_t, std::pair<std::int32_t, Affine>> out;
    for (std::size_t i = 0; i < g.copyCount(); ++i) out[ofCopies<std::int32_t>(g, "id")[i]] = {ofCopies<std::int32_t>(g, "shape")[i], g.copies()->place[i]};
    return out;
}

}  // namespace seedloom::test

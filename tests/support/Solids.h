#pragma once
// Solids to break, and what must become of their skin and their broken faces.
#include "geometry/Rows.h"
#include "support/Chance.h"
#include "support/Pieces.h"

namespace seedloom::test {

inline Geometry solidNamed(const QString& name) {
    if (name == "box") return made("box", {{"cells", {3, 3, 3}}});
    if (name == "plain box") return made("box");
    if (name == "ball") return made("geodesic_sphere", {{"radius", 0.5}, {"frequency", 10}});
    if (name == "ring") return made("torus");
    if (name == "hollow") {
        Geometry out = madeOf("boolean", {{made("box")}, {made("geodesic_sphere", {{"radius", 0.4}, {"frequency", 6}})}}, {{"form", "subtract"}});
        out.removeColumn(Element::face, "inside");
        return out;
    }
    if (name == "two") return combine({made("box"), made("transform", {{"move", {2, 0.3, 0}}}, {made("geodesic_sphere", {{"radius", 0.6}})})});
    if (name == "horseshoe") return made("bend", {{"angle", 270}, {"axis", "x"}}, {made("box", {{"size", {3, 0.3, 0.3}}, {"cells", {40, 2, 2}}})});
    return {};
}

/// Faces numbered, corners marked: to see what becomes of them.
inline Geometry marked(Geometry g) {
    Chance chance(4);
    std::vector<std::int32_t> number(g.faceCount());
    for (std::size_t f = 0; f < number.size(); ++f) number[f] = std::int32_t(f);
    std::vector<Vec2> uv(g.cornerCount());
    std::vector<Vec3> mark(g.cornerCount());
    for (auto& v : uv) v = {chance.number(0, 1), chance.number(0, 1)};
    for (auto& v : mark) v = chance.place();
    g.setColumn(Element::face, "number", Column(std::move(number)));
    g.setColumn(Element::corner, "uv", Column(std::move(uv)));
    g.setColumn(Element::corner, "mark", Column(std::move(mark)));
    return g;
}

/// Corners of the old skin that stand where the old face had one, and carry something else.
inline std::size_t changedCorners(const Geometry& before, const Geometry& after) {
    const auto& inside = *after.values<std::uint8_t>(Element::face, "inside");
    const auto& number = *after.values<std::int32_t>(Element::face, "number");
    std::size_t changed = 0, seen = 0;
    for (Index f = 0; f < after.faceCount(); ++f) {
        if (inside[f]) continue;
        const auto& old = before.topology();
        for (Index c = after.topology().faceStart()[f]; c < after.topology().faceStart()[f + 1]; ++c)
            for (Index d = old.faceStart()[std::size_t(number[f])]; d < old.faceStart()[std::size_t(number[f]) + 1]; ++d) {
                if (after.positions()[after.topology().cornerPoint()[c]] != before.positions()[old.cornerPoint()[d]]) continue;
                ++seen;
                changed += (*after.values<Vec2>(Element::corner, "uv"))[c] != (*before.values<Vec2>(Element::corner, "uv"))[d] ||
                           (*after.values<Vec3>(Element::corner, "mark"))[c] != (*before.values<Vec3>(Element::corner, "mark"))[d];
            }
    }
    return seen ? changed : ~std::size_t(0);
}

/// How many triangles of inside faces have their middle in another one's texture, of the same piece.
inline std::size_t overlappingInside(const Geometry& g) {
    constexpr double kClear = 2e-5;  // metres: farther inside than slivers are wide
    const auto& inside = *g.values<std::uint8_t>(Element::face, "inside");
    const auto& uv = *g.values<Vec2>(Element::corner, "uv");
    const Triangles triangles = triangulate(g);
    const auto flat = [&](Index t, int k) { return uv[triangles.corners[3 * t + Index(k)]]; };
    const auto turn = [](Vec2 a, Vec2 b, Vec2 c) { return double(b.x - a.x) * double(c.y - a.y) - double(b.y - a.y) * double(c.x - a.x); };
    std::map<std::int32_t, std::vector<Index>> byPiece;
    for (Index t = 0; t < triangles.count(); ++t)
        if (inside[triangles.faceOf[t]]) byPiece[pieceOf(g)[triangles.faceOf[t]]].push_back(t);
    std::size_t out = 0;
    for (const auto& [piece, all] : byPiece)
        for (Index t : all) {
            const Vec2 middle{(flat(t, 0).x + flat(t, 1).x + flat(t, 2).x) / 3, (flat(t, 0).y + flat(t, 1).y + flat(t, 2).y) / 3};
            for (Index u : all) {
                const auto [low, high] = std::minmax({flat(u, 0).x, flat(u, 1).x, flat(u, 2).x});
                bool in = u != t && middle.x > low && middle.x < high;
                for (int k = 0; in && k < 3; ++k) {
                    const Vec2 a = flat(u, k), b = flat(u, (k + 1) % 3);
                    in = turn(a, b, middle) > kClear * std::hypot(b.x - a.x, b.y - a.y);
                }
                out += in;
            }
        }
    return out;
}

}  // namespace seedloom::test

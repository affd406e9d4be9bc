#include "breaking/InsideFaces.h"

#include "geometry/Materials.h"
#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "surface/ChartPacking.h"

#include <map>

namespace seedloom {

namespace {

constexpr double kMargin = 0.01;              ///< between the parts of a piece's texture, part of its side
constexpr Vec3 kBroken{0.56f, 0.50f, 0.45f};  ///< darker than clay: faces that never saw the sun

/// Faces of one wall on one piece.
struct Chart {
    std::vector<Index> faces;
    std::vector<Vec2> places;  ///< of their corners, one face after the other
};

std::vector<Vec3> wallNormals(const Walls& walls) {
    Index count = 0;
    for (Index w : walls.wall) count = std::max(count, w + 1);
    std::vector<Vec3> out(count);
    for (Index f = 0; f < walls.wall.size(); ++f) out[walls.wall[f]] += areaVector(walls.geometry.topology().face(f), walls.geometry.positions());
    for (Vec3& n : out) n = normalized(n, {0, 0, 1});
    return out;
}

/// Where the texture of what was broken before ends, along u; what comes anew begins there. 0 where there is none.
float oldEnd(const SolidPieces& pieces, const std::vector<Vec2>& uv, std::size_t firstFace, std::size_t endFace) {
    const auto* inside = pieces.geometry.values<std::uint8_t>(Element::face, "inside");
    const auto& faceStart = pieces.geometry.topology().faceStart();
    float end = 0;
    for (std::size_t f = firstFace; f < endFace; ++f) {
        if (!(*inside)[f] || pieces.faces[f].inside) continue;
        for (Index c = faceStart[f]; c < faceStart[f + 1]; ++c) end = std::max(end, uv[c].x);
    }
    return end * (1 + float(kMargin));
}

}  // namespace

void mapInside(SolidPieces& pieces, const Walls& walls, const RunContext& run) {
    Geometry& g = pieces.geometry;
    const Topology& t = g.topology();
    const std::vector<Vec3> normals = wallNormals(walls);
    const auto* unfolded = walls.geometry.values<Vec2>(Element::corner, "uv") ? g.values<Vec2>(Element::corner, "uv") : nullptr;
    std::vector<Vec2> uv(g.cornerCount());
    if (const auto* old = g.values<Vec2>(Element::corner, "uv")) uv = *old;
    else if (const auto* ofPoints = g.values<Vec2>(Element::point, "uv"))
        for (Index c = 0; c < uv.size(); ++c) uv[c] = (*ofPoints)[t.cornerPoint()[c]];
    const auto* piece = g.values<std::int32_t>(Element::face, "piece");
    std::vector<std::size_t> start{0};  // faces of a piece come one after the other
    for (std::size_t f = 1; f <= g.faceCount(); ++f)
        if (f == g.faceCount() || (*piece)[f] != (*piece)[f - 1]) start.push_back(f);
    forEach(
        g.faceCount() ? start.size() - 1 : 0, run,
        [&](std::size_t p) {
            std::map<std::pair<Index, bool>, Chart> charts;
            for (std::size_t f = start[p]; f < start[p + 1]; ++f)
                if (pieces.faces[f].inside) charts[{walls.wall[pieces.faces[f].source], pieces.faces[f].turned}].faces.push_back(Index(f));
            std::vector<std::vector<Vec2>> shapes;
            for (auto& [key, chart] : charts) {
                const Vec3 n = key.second ? -normals[key.first] : normals[key.first];
                const Vec3 u = normalized(cross(std::abs(n.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{1, 0, 0}, n)), v = cross(n, u);
                for (Index f : chart.faces)
                    for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
                        const Vec3 at = g.positions()[t.cornerPoint()[c]];
                        // A wall that knows how it unfolds is seen from its front; from behind it is the other way round.
                        chart.places.push_back(unfolded ? Vec2{(*unfolded)[c].x * (key.second ? -1.0f : 1.0f), (*unfolded)[c].y}
                                                        : Vec2{dot(at, u), dot(at, v)});
                    }
                shapes.push_back(chart.places);
            }
            if (shapes.empty()) return;
            const ChartPacking packing = packCharts(shapes, kMargin);
            const float beside = oldEnd(pieces, uv, start[p], start[p + 1]);
            std::size_t i = 0;
            for (const auto& [key, chart] : charts) {
                std::size_t k = 0;
                for (Index f : chart.faces)
                    for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) uv[c] = packing.places[i].of(chart.places[k++]) + Vec2{beside, 0};
                ++i;
            }
        },
        8);
    g.removeColumn(Element::point, "uv");
    g.setColumn(Element::corner, "uv", Column(std::move(uv)));
}

namespace {

/// By the element's number: whether it belongs to faces made by breaking, and to no others.
std::vector<std::uint8_t> insideOnly(const Geometry& g, const std::vector<PieceFace>& faces, Element element) {
    const Topology& t = g.topology();
    std::vector<std::uint8_t> out(g.count(element), 1);
    for (Index f = 0; f < faces.size(); ++f) {
        if (faces[f].inside) continue;
        if (element == Element::face) out[f] = 0;
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
            if (element == Element::corner) out[c] = 0;
            if (element == Element::point) out[t.cornerPoint()[c]] = 0;
        }
    }
    return out;
}

void colourInside(Geometry& g, const std::vector<PieceFace>& faces, Vec3 colour) {
    for (Element element : {Element::point, Element::corner, Element::face}) {
        const auto* before = g.values<Vec3>(element, "color");
        if (!before) continue;
        std::vector<Vec3> after = *before;
        const std::vector<std::uint8_t> inside = insideOnly(g, faces, element);
        for (std::size_t i = 0; i < after.size(); ++i)
            if (inside[i]) after[i] = colour;
        g.setColumn(element, "color", Column(std::move(after)));
    }
}

}  // namespace

void giveInsideMaterial(Geometry& pieces, const std::vector<PieceFace>& faces, const std::string& name) {
    if (name.empty()) return colourInside(pieces, faces, kBroken);
    std::vector<Material> all = materialsOf(pieces);
    auto found = std::find_if(all.begin(), all.end(), [&](const Material& m) { return m.name == name; });
    if (found == all.end()) found = all.insert(all.end(), Material{name, kBroken, 0.95f, 0});
    const auto slot = std::int32_t(found - all.begin());
    const auto* before = pieces.values<std::int32_t>(Element::face, "material");
    std::vector<std::int32_t> material = before ? *before : std::vector<std::int32_t>(faces.size(), -1);
    for (std::size_t f = 0; f < faces.size(); ++f)
        if (faces[f].inside) material[f] = slot;
    pieces.setColumn(Element::face, "material", Column(std::move(material)));
    setMaterials(pieces, all);
    colourInside(pieces, faces, found->color);
}

}  // namespace seedloom

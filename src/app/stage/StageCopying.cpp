#include "app/stage/StageCopying.h"

#include "fields/Random.h"
#include "geometry/Bake.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Materials.h"
#include "geometry/ShownColours.h"
#include "geometry/Triangulate.h"

#include <numeric>

namespace seedloom::app {

namespace {

/// The range that all shapes' values span together, so that one legend holds for all of them.
std::optional<std::array<double, 2>> commonRange(const std::vector<Geometry>& shapes, const std::string& attribute) {
    std::optional<std::array<double, 2>> out;
    for (const Geometry& shape : shapes) {
        const auto column = columnFor(shape, attribute, shape.faceCount() > 0 ? Element::corner : Element::point);
        if (!column || column->type() == ColumnType::text) continue;
        Legend alone;
        coloursOf(*column, alone);
        if (!alone.scaled) continue;
        out = out ? std::array{std::min((*out)[0], alone.low), std::max((*out)[1], alone.high)} : std::array{alone.low, alone.high};
    }
    return out;
}

/// A colour for each copy, and how far it counts; none where the shapes' own colours stay.
std::vector<std::array<std::uint8_t, 4>> copyColours(const Geometry& g, const StageLook& look, StageMesh& mesh) {
    std::optional<std::vector<Vec3>> colours;
    if (look.shading == Shading::attribute) {
        if (const Column* column = g.column(Element::copy, look.attribute)) {
            mesh.legend.element = Element::copy;
            mesh.copyValues = *column;
            colours = coloursOf(*column, mesh.legend);
        }
    } else {
        colours = materialColours(g, Element::copy, {});
    }
    if (!colours) return {};
    const auto* materials = look.shading == Shading::attribute ? nullptr : g.values<std::int32_t>(Element::copy, "material");
    const auto byte = [](float v) { return std::uint8_t(std::lround(std::clamp(v, 0.0f, 1.0f) * 255)); };
    std::vector<std::array<std::uint8_t, 4>> out(colours->size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = {byte((*colours)[i].x), byte((*colours)[i].y), byte((*colours)[i].z), std::uint8_t(materials && (*materials)[i] < 0 ? 0 : 255)};
    return out;
}

/// Copies in an order that looks like chance and is always the same.
std::vector<Index> shuffled(std::size_t count) {
    std::vector<Index> out(count);
    std::iota(out.begin(), out.end(), Index{0});
    for (std::size_t i = count; i > 1; --i) std::swap(out[i - 1], out[mixBits(i) % i]);
    return out;
}

}  // namespace

void addCopies(const Geometry& g, const StageLook& look, StageMesh& mesh) {
    const Copies& copies = *g.copies();
    const auto colours = copyColours(g, look, mesh);
    std::vector<std::uint8_t> used(copies.shapes.size(), 0);
    for (Index s : copies.shapeOf) used[s] = 1;
    std::vector<Geometry> shapes(copies.shapes.size());
    for (std::size_t s = 0; s < shapes.size(); ++s)
        if (used[s]) shapes[s] = bakeCopies(withFewerCopies(*copies.shapes[s], kMostBakedUnasked));
    StageLook shapeLook = look;
    const bool byShape = look.shading == Shading::attribute && colours.empty();
    if (byShape && !shapeLook.colours.range) shapeLook.colours.range = commonRange(shapes, look.attribute);
    if (!byShape && look.shading == Shading::attribute) shapeLook.shading = Shading::clay;
    if (look.shading == Shading::difference) shapeLook.shading = Shading::clay;
    // Places of each shape, those that mirror apart.
    std::vector<std::array<StageCopies, 2>> groups(shapes.size());
    for (Index i : shuffled(copies.place.size())) {
        const bool mirrored = copies.place[i].mirrors();
        StageCopies& group = groups[copies.shapeOf[i]][mirrored];
        group.mirrored = mirrored;
        group.rows.push_back(i);
        if (!colours.empty()) group.colours.push_back(colours[i]);
    }
    bool known = !byShape;
    for (std::size_t s = 0; s < shapes.size(); ++s) {
        if (!used[s]) continue;
        const auto shape = stageMesh(shapes[s], shapeLook);
        if (byShape && shape->legend.problem.empty() && !known) {
            mesh.legend = shape->legend;
            mesh.legend.choice = look.colours;
            known = true;
        }
        for (StageCopies& group : groups[s])
            if (!group.rows.empty()) {
                group.shape = shape;
                mesh.copies.push_back(std::move(group));
            }
    }
    if (!known && g.pointCount() == 0) mesh.legend.problem = "not on this geometry";
}

void markCopy(const Geometry& g, Index copy, Vec3 colour, MarkShapes& marks) {
    constexpr std::size_t kMostTriangles = 60000;  // of all marked copies
    const Affine& place = g.copies()->place[copy];
    const Geometry& shape = *g.copies()->shapes[g.copies()->shapeOf[copy]];
    const Bounds box = boundsOf(shape);
    if (box.empty) return;
    const auto vertex = [&](Vec3 p) {
        marks.bounds.add(place.point(p));
        return StageMesh::Vertex{place.point(p), {0, 1, 0}, colour, {}};
    };
    const auto corner = [&](int c) { return Vec3{c & 1 ? box.max.x : box.min.x, c & 2 ? box.max.y : box.min.y, c & 4 ? box.max.z : box.min.z}; };
    for (int a = 0; a < 8; ++a)
        for (int bit : {1, 2, 4})
            if (!(a & bit)) marks.lines.push_back(vertex(corner(a))), marks.lines.push_back(vertex(corner(a | bit)));
    const Triangles triangles = triangulate(shape);
    if (marks.triangles.size() / 3 + triangles.count() > kMostTriangles) return;
    for (Index c : triangles.corners) marks.triangles.push_back(vertex(shape.positions()[shape.topology().cornerPoint()[c]]));
}

}  // namespace seedloom::app

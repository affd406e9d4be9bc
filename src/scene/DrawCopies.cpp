#include "scene/DrawCopies.h"

#include "fields/Random.h"
#include "geometry/Bake.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Materials.h"
#include "geometry/ShownColours.h"
#include "geometry/Triangulate.h"

#include <numeric>

namespace seedloom {

namespace {

/// The range that all shapes' values span together, so that one legend holds for all of them.
std::optional<std::array<double, 2>> commonRange(const std::vector<Geometry>& shapes, const std::string& attribute, bool whole) {
    std::optional<std::array<double, 2>> out;
    for (const Geometry& shape : shapes) {
        const auto column = columnFor(shape, attribute, shape.faceCount() > 0 ? Element::corner : Element::point);
        if (!column || column->type() == ColumnType::text) continue;
        Legend alone;
        alone.choice.whole = whole;
        coloursOf(*column, alone);
        if (!alone.scaled) continue;
        out = out ? std::array{std::min((*out)[0], alone.low), std::max((*out)[1], alone.high)} : std::array{alone.low, alone.high};
    }
    return out;
}

/// Colours of copies: none where the shapes' own stay.
struct CopyColours {
    std::vector<std::array<std::uint8_t, 4>> each;  ///< as in DrawCopies
    std::string from;                               ///< the attribute that they are of: as after baking, a shape that has it itself keeps its own
};

CopyColours colouredBy(const std::vector<Vec3>& colours, std::string from) {
    const auto byte = [](float v) { return std::uint8_t(std::lround(std::clamp(v, 0.0f, 1.0f) * 255)); };
    CopyColours out{{}, std::move(from)};
    for (Vec3 c : colours) out.each.push_back({byte(c.x), byte(c.y), byte(c.z), 255});
    return out;
}

CopyColours copyColours(const Geometry& g, const SceneLook& look, DrawScene& mesh) {
    if (look.shading == Shading::attribute) {
        const Column* column = g.column(Element::copy, look.attribute);
        if (!column) return {};
        mesh.legend.element = Element::copy;
        mesh.copyValues = *column;
        return colouredBy(coloursOf(*column, mesh.legend), {});
    }
    if (look.shading != Shading::look) return {};
    if (const auto* own = g.values<Vec3>(Element::copy, "color")) return colouredBy(*own, "color");
    const auto byMaterial = materialColours(g, Element::copy, {});
    if (!byMaterial) return {};
    CopyColours out = colouredBy(*byMaterial, "material");
    const auto& numbers = *g.values<std::int32_t>(Element::copy, "material");
    for (std::size_t i = 0; i < numbers.size(); ++i)
        if (numbers[i] < 0) out.each[i][3] = 0;
    return out;
}

/// Copies in an order that looks like chance and is always the same.
std::vector<Index> shuffled(std::size_t count) {
    std::vector<Index> out(count);
    std::iota(out.begin(), out.end(), Index{0});
    for (std::size_t i = count; i > 1; --i) std::swap(out[i - 1], out[mixBits(i) % i]);
    return out;
}

bool hasOwn(const Geometry& shape, const std::string& attribute) {
    return !attribute.empty() && std::any_of(kAllElements.begin(), kAllElements.end(), [&](Element e) { return shape.column(e, attribute) != nullptr; });
}

}  // namespace

void addCopies(const Geometry& g, const SceneLook& look, DrawScene& mesh) {
    const Copies& copies = *g.copies();
    const auto colours = copyColours(g, look, mesh);
    std::vector<std::uint8_t> used(copies.shapes.size(), 0);
    for (Index s : copies.shapeOf) used[s] = 1;
    std::vector<Geometry> shapes(copies.shapes.size());
    for (std::size_t s = 0; s < shapes.size(); ++s)
        if (used[s]) shapes[s] = bakeCopies(withFewerCopies(*copies.shapes[s], kMostBakedUnasked));
    SceneLook shapeLook = look;
    shapeLook.whole = false;
    const bool byShape = look.shading == Shading::attribute && colours.each.empty();
    if (byShape && !shapeLook.colours.range) shapeLook.colours.range = commonRange(shapes, look.attribute, look.colours.whole);
    if (!byShape && look.shading == Shading::attribute) shapeLook.shading = Shading::clay;
    if (look.shading == Shading::difference) shapeLook.shading = Shading::clay;
    // Places of each shape, those that mirror apart.
    std::vector<std::array<DrawCopies, 2>> groups(shapes.size());
    for (Index i : shuffled(copies.place.size())) {
        const bool mirrored = copies.place[i].mirrors();
        DrawCopies& group = groups[copies.shapeOf[i]][mirrored];
        group.mirrored = mirrored;
        group.rows.push_back(i);
        if (!colours.each.empty()) group.colours.push_back(colours.each[i]);
    }
    bool known = !byShape;
    for (std::size_t s = 0; s < shapes.size(); ++s) {
        if (!used[s]) continue;
        const auto shape = drawScene(shapes[s], shapeLook);
        if (byShape && shape->legend.problem.empty() && !known) {
            mesh.legend = shape->legend;
            mesh.legend.choice = look.colours;
            known = true;
        }
        for (DrawCopies& group : groups[s])
            if (!group.rows.empty()) {
                group.shape = shape;
                if (hasOwn(shapes[s], colours.from)) group.colours.clear();
                mesh.copies.push_back(std::move(group));
            }
    }
    if (!known && g.pointCount() == 0) mesh.legend.problem = "not on this geometry";
}

}  // namespace seedloom

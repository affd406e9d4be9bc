// Method: own: places looked up in the target's UV space, height along its normal.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// The target's triangles laid out flat by their uv, each with points of its own.
Geometry flatTarget(const std::vector<Vec2>& uv, const Triangles& triangles) {
    std::vector<Vec3> places;
    std::vector<Index> start{0}, corners;
    for (std::size_t i = 0; i < triangles.corners.size(); ++i) {
        const Vec2 at = uv[triangles.corners[i]];
        places.push_back({at.x, at.y, 0});
        corners.push_back(Index(i));
        if (i % 3 == 2) start.push_back(Index(corners.size()));
    }
    const std::size_t count = places.size();
    return Geometry(std::move(places), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
}

Geometry computeDrapeByUv(OperatorCall& call) {
    const Geometry& in = call.in();
    const Geometry& target = call.port(1).front();
    if (target.faceCount() == 0) call.fail("surface.none", "The target has no faces to drape over.");
    const auto found = findColumn(target, "uv", Element::corner);
    const auto uvColumn =
        found && found->column.type() == ColumnType::vec2 ? std::optional(changeElement(target, found->column, found->element, Element::corner)) : std::nullopt;
    if (!uvColumn) call.fail("drape.uv", "The target has no uv. Put Project UV or Unwrap UV before it.");
    const Triangles triangles = triangulate(target);
    const Geometry flat = flatTarget(*uvColumn->as<Vec2>(), triangles);
    const NearestPlace places(flat, NearestPlace::On::faces);
    if (places.empty()) call.fail("drape.uv", "The target's uv has no finite place.");
    const auto normals = pointNormals(target);
    const bool fit = call.flag("fit");
    const Vec2 scale = call.vec2("scale"), move = call.vec2("move");
    const Field<float> height = call.each("height", in), weights = call.weights(in, Element::point);
    const Bounds bounds = boundsOf(in.positions());
    const Vec3 size = bounds.size();
    std::vector<Vec3> after = in.positions();
    std::vector<float> weight(after.size());
    std::vector<std::uint8_t> outside(after.size(), 0);
    forChunks(after.size(), call.run(), [&](std::size_t, Range range) {
        Index start = 0;
        for (std::size_t p = range.begin; p < range.end; ++p) {
            weight[p] = weights[p];
            const Vec3 from = after[p];
            if (!isFinite(from)) continue;
            // Seen from above: x to the right, −z up.
            const Vec2 plain =
                fit ? Vec2{size.x > 0 ? (from.x - bounds.min.x) / size.x : 0.5f, size.z > 0 ? (bounds.max.z - from.z) / size.z : 0.5f} : Vec2{from.x, -from.z};
            const Vec3 uv{plain.x * scale.x + move.x, plain.y * scale.y + move.y, 0};
            const Place place = places.find(uv, start);
            start = place.part;
            outside[p] = place.squaredDistance > 1e-8f;
            Vec3 at{}, normal{};
            for (std::size_t k = 0; k < 3; ++k) {
                const Index point = target.topology().cornerPoint()[triangles.corners[place.points[k]]];
                at += target.positions()[point] * place.weights[k];
                normal += normals[point] * place.weights[k];
            }
            after[p] = at + normalized(normal) * (from.y * height[p]);
        }
    });
    const auto beyond = std::count(outside.begin(), outside.end(), 1);
    if (beyond > 0)
        call.tell(NoticeLevel::warning, "drape.outside",
                  fmt::format("{} points lie beside the target's uv and are laid onto its border. Make the scale smaller.", beyond), "scale");
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), weight));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    return out;
}

}  // namespace

OperatorSpec drapeByUvOperator() {
    OperatorSpec spec;
    spec.id = "drape_by_uv";
    spec.order = 620;
    spec.label = "Drape by UV";
    spec.family = Family::deform;
    spec.sentence = "Lays a geometry over a surface by its uv, with the height along the surface's normal.";
    spec.help =
        "Seen from above, x goes along u and −z along v; y becomes height. What is draped follows the target when that is bent or moved. Fit spreads the "
        "bounds over the whole of uv 0–1; without it, metres are uv, times the scale.";
    spec.synonyms = {"wrap", "trim", "decal", "tiles", "cover", "surface deform", "lay over"};
    spec.inputs = {{"in", "Geometry"}, {"target", "Target"}};
    spec.settings = {
        flagSetting("fit", "Fit", true).helped("Spreads the bounds over uv 0–1."),
        vec2Setting("scale", "Scale", Unit::none, {1, 1}).helped("Multiplies the place in uv."),
        vec2Setting("move", "Move", Unit::none, {0, 0}).helped("Shifts it in uv."),
        numberSetting("height", "Height", Unit::none, 1).within(-1e6, 1e6).slider(-2, 2).each().helped("Multiplies y; negative lays it on the back."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::plugged(sample::step(spec.id, Json::object(), {sample::sheetAbove()}), "target",
                                  sample::step("uv_project", {{"form", "plane"}}, {sample::step("grid", {{"size", {1.6, 1.6}}, {"cells", {10, 10}}})}));
    spec.compute = computeDrapeByUv;
    return spec;
}

}  // namespace seedloom

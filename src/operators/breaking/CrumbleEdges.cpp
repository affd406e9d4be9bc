// Method: own: crumbs are cells of places along the line (Voronoi, 1908), cut out of all that they reach through one set of walls.
#include "breaking/BreakLines.h"
#include "breaking/Crumbled.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "operators/SolidInput.h"
#include "operators/breaking/CellSettings.h"
#include "operators/breaking/FinishedPieces.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr float kLeastSize = 0.02f;  ///< of a crumb, part of the width

/// What the settings say at each point of the lines.
struct AlongLines {
    Field<float> width, crumbs, where;
    AlongLines(OperatorCall& call, const Geometry& lines)
        : width(call.each("width", lines, Element::point)), crumbs(call.each("crumbs", lines, Element::point)), where(call.weights(lines, Element::point)) {}
    LineStretch stretch(const Geometry& lines, Index a, Index b, Vec3 out) const {
        const auto rate = [&](Index p) { return atLeastNone(double(crumbs[p]) * double(where[p])); };
        return {lines.positions()[a], lines.positions()[b], out, {atLeastNone(double(width[a])), atLeastNone(double(width[b]))}, {rate(a), rate(b)}};
    }
    static double atLeastNone(double v) { return v > 0 && std::isfinite(v) ? v : 0; }
};

/// The lines with what the surface carries where they lie on it, as far as they have nothing of that name themselves.
Geometry onSurface(const Geometry& lines, const NearestPlace& surface, const Geometry& solid, std::vector<Vec3>& out) {
    std::vector<Place> places;
    for (Vec3 p : lines.positions()) {
        places.push_back(surface.find(isFinite(p) ? p : Vec3{}, places.empty() ? 0 : places.back().part));
        out.push_back(normalized(areaVector(solid.topology().face(places.back().element), solid.positions()), {0, 1, 0}));
    }
    Geometry carrying = lines;
    for (Element element : {Element::point, Element::corner, Element::face})
        for (const auto& [name, column] : solid.table(element))
            if (!carrying.column(Element::point, name)) carrying.setColumn(Element::point, name, valuesAt(column, element, places));
    return carrying;
}

std::vector<LineStretch> stretchesOf(OperatorCall& call, const Geometry& in) {
    std::vector<LineStretch> out;
    if (call.port(1).empty()) {
        const AlongLines along(call, in);
        for (const BreakEdge& e : breakEdges(in)) out.push_back(along.stretch(in, e.a, e.b, e.out));
        if (!out.empty()) return out;
        call.offer(insertFix("Shatter before it", "shatter"));
        call.tell(NoticeLevel::info, "crumble.no_edges",
                  "Nothing is broken here, so there are no edges to crumble: shatter or cut it first, or link lines to Curves.");
        return out;
    }
    const Geometry curves = combine(call.port(1));
    if (curves.curveCount() == 0) call.fail("cut.no_lines", "There are no curves in Curves. Link a drawn curve, or lines from another step; or unlink it.");
    const NearestPlace surface(in, NearestPlace::On::faces);
    if (surface.empty()) call.fail("surface.none", "Crumble edges needs closed pieces, and there are no faces with an area here.");
    std::vector<Vec3> facing;
    const Geometry lines = onSurface(curves, surface, in, facing);
    const AlongLines along(call, lines);
    const Topology& t = lines.topology();
    for (Index c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        const std::size_t stretches = curve.size() < 2 ? 0 : curve.size() - (t.curveClosed(c) ? 0 : 1);
        for (std::size_t k = 0; k < stretches; ++k) {
            const Index a = curve[k], b = curve[(k + 1) % curve.size()];
            if (isFinite(lines.positions()[a]) && isFinite(lines.positions()[b]))
                out.push_back(along.stretch(lines, a, b, normalized(facing[a] + facing[b], facing[a])));
        }
    }
    return out;
}

/// Pieces keep their numbers, as far as there are no gaps in them; new crumbs come after all of them. Faces of crumbs get the tag, and what breaks off a
/// crumb is one.
void number(Geometry& pieces, const Crumbled& made, const Geometry& in) {
    const auto& part = *pieces.values<std::int32_t>(Element::face, "piece");
    const auto* before = in.values<std::int32_t>(Element::face, "piece");
    const auto* crumbBefore = in.values<std::uint8_t>(Element::face, "crumb");
    std::vector<std::int32_t> old(made.crumb.size(), 0);
    std::vector<std::uint8_t> isCrumb = made.crumb;
    for (std::size_t f = 0; f < part.size(); ++f) {
        const PieceFace& face = made.pieces.faces[f];
        if (face.inside) continue;
        if (before) old[std::size_t(part[f])] = (*before)[face.source];
        if (crumbBefore && (*crumbBefore)[face.source]) isCrumb[std::size_t(part[f])] = 1;
    }
    std::vector<Index> order(made.crumb.size());
    for (Index p = 0; p < order.size(); ++p) order[p] = p;
    const auto rank = [&](Index p) {
        const bool largest = made.largestOfBody[made.body[p]] == p;
        return std::tuple(made.crumb[p] ? 2 : largest ? 0 : 1, made.crumb[p] ? 0 : old[p], p);
    };
    std::sort(order.begin(), order.end(), [&](Index a, Index b) { return rank(a) < rank(b); });
    std::vector<std::int32_t> number(order.size());
    for (std::size_t i = 0; i < order.size(); ++i) number[order[i]] = std::int32_t(i);
    std::vector<std::int32_t> piece;
    std::vector<std::uint8_t> crumb;
    for (std::int32_t p : part) piece.push_back(number[std::size_t(p)]), crumb.push_back(isCrumb[std::size_t(p)]);
    pieces.setColumn(Element::face, "piece", Column(std::move(piece)));
    pieces.setColumn(Element::face, "crumb", Column(std::move(crumb)));
}

void tellOfCrumbs(OperatorCall& call, const Crumbled& made, double size) {
    constexpr double kUsual = 0.02;  // of the size of the whole
    const auto count = std::count(made.crumb.begin(), made.crumb.end(), 1);
    if (!made.sound) {
        call.offer(setFix("Try another seed", "seed", call.number("seed") + 1));
        call.tell(NoticeLevel::warning, "crumble.unsound",
                  "Some pieces cross or touch themselves. They may have done so before: look at them in the Checkup. Otherwise try another seed.", "seed");
    }
    if (count > 0) return call.tell(NoticeLevel::info, "crumble.count", fmt::format("{} crumbs.", count));
    const double width = twoDigits(size * kUsual, std::ceil);
    call.offer(setFix(fmt::format("Set Width to {:g} m", width), "width", width));
    const char* text = call.port(1).empty()
                         ? "No crumb could be broken off: they are too small for the model, or there was no room for any. Make Width larger."
                         : "No crumb could be broken off: the lines lie beside the pieces, or Width is too small for the model. Draw the lines on "
                           "the surface, or make Width larger.";
    call.tell(NoticeLevel::warning, "crumble.none", text, "width");
}

/// As it is, with a tag that no face has yet.
Geometry withoutCrumbs(Geometry in) {
    if (!in.column(Element::face, "crumb")) in.setColumn(Element::face, "crumb", Column(std::vector<std::uint8_t>(in.faceCount(), 0)));
    return in;
}

Geometry computeCrumbleEdges(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Crumble edges needs closed pieces, and there are no faces here.");
    needSolid(call, in, "The piece", "crumble");
    const Vec2 sizes = call.vec2("size");
    if (!(sizes.x >= kLeastSize && sizes.x <= sizes.y && sizes.y <= 1)) {
        const auto possible = [](float v) { return double(std::isfinite(v) ? std::clamp(v, kLeastSize, 1.0f) : 1.0f); };
        const auto [least, largest] = std::minmax({possible(sizes.x), possible(sizes.y)});
        call.offer(setFix(fmt::format("Set Sizes to {:.3g} and {:.3g}", least, largest), "size", Json::array({least, largest})));
        call.fail("setting.range", "Sizes must be 0.02 to 1, the smaller first: parts of the width.", "size");
    }
    const std::vector<LineStretch> lines = stretchesOf(call, in);
    const std::vector<Crumb> crumbs = crumbsAlong(lines, {double(sizes.x), double(sizes.y)}, call.number("seed"), call.run());
    if (crumbs.empty()) return withoutCrumbs(in);
    Crumbled made = crumbled(in, crumbs, call.run());
    tellOfCrumbs(call, made, boundsOf(in.positions()).diagonal());
    Geometry out = finishedPieces(call, made.pieces, made.walls, true);
    number(out, made, in);
    return out;
}

}  // namespace

OperatorSpec crumbleEdgesOperator() {
    OperatorSpec spec;
    spec.id = "crumble_edges";
    spec.order = 864;
    spec.label = "Crumble edges";
    spec.family = Family::breaking;
    spec.sentence = "Breaks crumbs off along the edges of a break, or along lines.";
    spec.help =
        "Crumbs lie along the edges between old skin and broken faces, or along Curves where some are linked, on both sides of a break. Each is a "
        "closed piece of its own that fits the hole it left, tagged crumb; the others keep their numbers and crumbs come after them. Width and "
        "Crumbs may differ along the line by any source: lines carry what the surface has where they lie, so a painted mask makes one stretch crumble "
        "more. More crumbs leave those that are there as long as there is room. Crumbs that would leave slivers are left out. Remove pieces with the tag "
        "crumb takes some away again.";
    spec.takes = Takes::faces;
    spec.synonyms = {"chips", "chipped", "debris", "spall", "erode", "wear", "damage", "fragments along"};
    spec.inputs = {{"in", "Pieces"}, {"curves", "Curves", true, true}};
    spec.settings = {
        numberSetting("width", "Width", Unit::metre, 0.05)
            .within(0, 1000)
            .slider(0, 0.2)
            .each(Element::point)
            .helped("How far crumbs reach to each side of the line."),
        numberSetting("crumbs", "Crumbs", Unit::none, 20)
            .within(0, 1e6)
            .slider(0, 100)
            .each(Element::point)
            .helped("How many a metre of line, where there is room."),
        vec2Setting("size", "Sizes", Unit::part, {0.35f, 1}).helped("The least and the largest, part of the width; small ones are more frequent."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed puts them elsewhere."),
        whereSetting(Element::point),
        insideMaterialSetting(),
    };
    spec.sample =
        sample::step("spread_pieces", {{"amount", 0.3}},
                     {sample::step(spec.id, {{"width", 0.14}, {"crumbs", 6}}, {sample::step("shatter", {{"pieces", 3}, {"seed", 3}}, {sample::box()})})});
    spec.compute = computeCrumbleEdges;
    spec.coarse = [](OperatorCall& call) { return withoutCrumbs(call.in()); };
    return spec;
}

}  // namespace seedloom

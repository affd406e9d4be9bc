// Method: charts laid flat by least squares conformal maps (Levy, Petitjean, Ray & Maillot, SIGGRAPH 2002), split until nothing folds.
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "surface/ChartPacking.h"
#include "surface/Unwrap.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

bool sameRow(const Column& column, Index a, Index b) {
    return std::visit([&](const auto& values) { return (*values)[a] == (*values)[b]; }, column.data());
}

/// 1 where charts end: at a sharp edge, between two points of the seam tag, or between faces of unlike parts.
std::vector<std::uint8_t> seamsOf(OperatorCall& call, const Geometry& in) {
    const EdgeTable& table = in.topology().edges();
    std::vector<std::uint8_t> out(table.edges.size(), 0);
    std::vector<Index> firstFace(table.edges.size(), ~Index{0});
    const auto normals = faceNormals(in);
    const double angle = call.number("angle");
    const float leastDot = angle >= 180 ? -2.0f : float(std::cos(angle * kPi / 180) - 1e-5);
    const std::string parts = call.text("parts"), seam = call.text("seam");
    std::optional<Column> partOf;
    if (!parts.empty()) {
        const FoundColumn found = namedAttribute(call, in, "parts", Element::face);
        partOf = changeElement(in, found.column, found.element, Element::face, Combine::first);
    }
    for (Index c = 0; c < in.cornerCount(); ++c) {
        const Index e = table.cornerEdge[c], f = in.topology().faceOfCorner()[c], other = firstFace[e];
        if (other == ~Index{0}) {
            firstFace[e] = f;
            continue;
        }
        if (dot(normals[f], normals[other]) < leastDot || (partOf && !sameRow(*partOf, f, other))) out[e] = 1;
    }
    if (const Column* tag = seam.empty() ? nullptr : in.column(Element::point, seam); tag && tag->type() != ColumnType::text)
        for (std::size_t e = 0; e < out.size(); ++e)
            if (tag->component(table.edges[e].a, 0) > 0.5 && tag->component(table.edges[e].b, 0) > 0.5) out[e] = 1;
    return out;
}

std::vector<std::vector<Vec2>> pointsOfCharts(const Geometry& in, const Unwrapped& flat) {
    std::vector<std::vector<Vec2>> out(flat.charts);
    for (Index c = 0; c < in.cornerCount(); ++c)
        if (const Index chart = flat.chartOf[in.topology().faceOfCorner()[c]]; chart != Unwrapped::kNoChart) out[chart].push_back(flat.places[c]);
    return out;
}

Geometry computeUvUnwrap(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Unwrap UV needs a surface, and there are no faces here.");
    UnwrapOptions options;
    const Field<float> where = call.each("where", in, Element::face);
    options.chosen.resize(in.faceCount());
    for (std::size_t f = 0; f < options.chosen.size(); ++f) options.chosen[f] = where[f] > 0;
    options.seams = seamsOf(call, in);
    options.mostStretch = call.number("most_stretch");
    const Unwrapped flat = unwrap(in, options, call.run());
    const ChartPacking packing = packCharts(pointsOfCharts(in, flat), call.number("margin"));
    const float scale = call.choice("size") == "metres" || !(packing.side > 0) ? 1.0f : float(1 / packing.side);
    const auto* old = in.values<Vec2>(Element::corner, "uv");
    std::vector<Vec2> uv = old ? *old : std::vector<Vec2>(in.cornerCount());
    std::vector<std::int32_t> number(in.faceCount(), -1);
    for (Index c = 0; c < in.cornerCount(); ++c) {
        const Index f = in.topology().faceOfCorner()[c], chart = flat.chartOf[f];
        if (chart == Unwrapped::kNoChart) continue;
        const Vec2 place = packing.places[chart].of(flat.places[c]);
        uv[c] = {place.x * scale, place.y * scale};
        number[f] = std::int32_t(chart);
    }
    call.tell(NoticeLevel::info, "unwrap.charts",
              fmt::format("{} {}, areas stretched {:.3g}-fold on average.", flat.charts, flat.charts == 1 ? "chart" : "charts", flat.stretch), "most_stretch");
    Geometry out = in;
    out.setColumn(Element::corner, "uv", Column(std::move(uv)));
    if (call.flag("number_charts")) out.setColumn(Element::face, "chart", Column(std::move(number)));
    return out;
}

}  // namespace

OperatorSpec uvUnwrapOperator() {
    OperatorSpec spec;
    spec.id = "uv_unwrap";
    spec.order = 500;
    spec.label = "Unwrap UV";
    spec.family = Family::surface;
    spec.sentence = "Cuts the surface into charts, lays each flat, and packs them without overlap into one square of uv.";
    spec.help =
        "Charts end at open and sharp edges, at edges between two points that carry the seam tag, and between the parts that a face attribute names. What is "
        "closed, or would be stretched too much, is split further by itself. All charts have the same scale, and none is mirrored. Many small charts: raise "
        "Angle. Stretched texture: lower Most stretch, or tag seams.";
    spec.takes = Takes::faces;
    spec.synonyms = {"texture coordinates", "atlas", "islands", "flatten", "lay flat", "map"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("angle", "Angle", Unit::degree, 66).within(0, 180).slider(0, 180).helped("Edges that turn by more end a chart; 180: none does."),
        textSetting("seam", "Seam", "seam").helped("A tag of points. Edges between two of them end a chart."),
        textSetting("parts", "Parts", "").helped("A face attribute or tag. Charts end where it changes."),
        numberSetting("most_stretch", "Most stretch", Unit::none, 1.5)
            .within(1.01, 100)
            .slider(1.05, 4)
            .helped("Charts whose areas are stretched more on average are split in two."),
        numberSetting("margin", "Margin", Unit::none, 0.01).within(0, 0.1).slider(0, 0.05).helped("Room around each chart, as a part of the square."),
        choiceSetting("size", "Size", {"unit square", "metres"}, "unit square").helped("uv from 0 to 1, or one unit of uv for a metre of surface."),
        flagSetting("number_charts", "Number charts", false).helped("Writes the number of its chart on each face, as chart."),
        whereSetting(Element::face),
    };
    spec.sample =
        sample::step("colour", {{"attribute", "chart"}}, {sample::step(spec.id, {{"number_charts", true}, {"most_stretch", 1.08}}, {sample::step("torus")})});
    spec.compute = computeUvUnwrap;
    return spec;
}

}  // namespace seedloom

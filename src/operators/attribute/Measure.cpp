// Method: area, volume and angles by their formulas; curvature: Rusinkiewicz, 3DPVT 2004; openness by rays over the half sphere (Embree).
#include "geometry/Measures.h"

#include "geometry/Checkup.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"
#include "surface/Curvature.h"
#include "surface/Openness.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

struct Measured {
    Element element;
    Column values;
};

template <class F> Measured each(OperatorCall& call, Element element, F&& f) {
    std::vector<std::decay_t<decltype(f(std::size_t(0)))>> out(call.in().count(element));
    forEach(out.size(), call.run(), [&](std::size_t i) { out[i] = f(i); });
    return {element, Column(std::move(out))};
}

Measured perimeter(OperatorCall& call) {
    const Geometry& in = call.in();
    return each(call, Element::face, [&](std::size_t f) {
        const auto face = in.topology().face(f);
        double sum = 0;
        for (std::size_t k = 0; k < face.size(); ++k) sum += double(distance(in.positions()[face[k]], in.positions()[face[(k + 1) % face.size()]]));
        return float(sum);
    });
}

/// Of every face, the volume of the piece it belongs to.
Measured volume(OperatorCall& call) {
    const Geometry& in = call.in();
    const Topology& t = in.topology();
    const Connection& connection = t.connection();
    std::vector<double> sums(connection.parts, 0.0);
    std::vector<Index> pieceOf(in.faceCount(), 0);
    const auto& at = in.positions();
    for (Index f = 0; f < in.faceCount(); ++f) {
        const auto face = t.face(f);
        if (face.empty()) continue;
        pieceOf[f] = connection.pieceOfPoint[face[0]];
        // Tetrahedra from the origin over a fan around the face's centre: the same for either side of a bent quad.
        const Vec3 c = centreOf(face, at);
        for (std::size_t k = 0; k < face.size(); ++k) {
            const Vec3 a = at[face[k]], b = at[face[(k + 1) % face.size()]];
            sums[pieceOf[f]] +=
                (double(c.x) * (double(a.y) * double(b.z) - double(a.z) * double(b.y)) + double(c.y) * (double(a.z) * double(b.x) - double(a.x) * double(b.z)) +
                 double(c.z) * (double(a.x) * double(b.y) - double(a.y) * double(b.x))) /
                6;
        }
    }
    if (in.faceCount() > 0 && !checkupOf(in).closed)
        call.tell(NoticeLevel::warning, "measure.open", "The surface is open, so it encloses no volume; the numbers mean little. Close it with Thicken first.",
                  "of");
    return each(call, Element::face, [&](std::size_t f) { return float(sums.empty() ? 0 : sums[pieceOf[f]]); });
}

/// At each corner, how far the surface turns over the edge that starts there, in degrees; 180 for an open edge's missing side is 0.
Measured edgeAngle(OperatorCall& call) {
    const Geometry& in = call.in();
    const EdgeTable& edges = in.topology().edges();
    const auto normals = faceNormals(in);
    constexpr Index none = ~Index(0);
    std::vector<std::array<Index, 2>> sides(edges.edges.size(), {none, none});
    for (Index c = 0; c < in.cornerCount(); ++c) {
        auto& side = sides[edges.cornerEdge[c]];
        (side[0] == none ? side[0] : side[1]) = in.topology().faceOfCorner()[c];
    }
    return each(call, Element::corner, [&](std::size_t c) {
        const auto [a, b] = sides[edges.cornerEdge[c]];
        if (a == none || b == none || edges.faceCount[edges.cornerEdge[c]] != 2) return 0.0f;
        return float(degrees(std::atan2(double(length(cross(normals[a], normals[b]))), double(dot(normals[a], normals[b])))));
    });
}

Measured curvature(OperatorCall& call) {
    const auto bends = curvatureOf(call.in(), call.run());
    const std::string kind = call.choice("curvature");
    return each(call, Element::point, [&](std::size_t p) {
        return kind == "mean" ? bends[p].mean() : kind == "gaussian" ? bends[p].gaussian() : bends[p].largest;
    });
}

Measured gradient(OperatorCall& call) {
    const FoundColumn found = namedNumbers(call, call.in(), "attribute");
    const Column values = changeElement(call.in(), found.column, found.element, Element::point);
    return {Element::point, Column(gradientOf(call.in(), *values.as<float>(), call.run()))};
}

Measured slope(OperatorCall& call) {
    const auto normals = pointNormals(call.in());
    return each(call, Element::point, [&](std::size_t p) { return float(degrees(std::acos(std::clamp(double(normals[p].y), -1.0, 1.0)))); });
}

Measured measured(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string of = call.choice("of");
    if (of == "area") return each(call, Element::face, [&](std::size_t f) { return length(areaVector(in.topology().face(f), in.positions())); });
    if (of == "perimeter") return perimeter(call);
    if (of == "length") return each(call, Element::curve, [&](std::size_t c) { return float(curveLength(in, c)); });
    if (of == "volume") return volume(call);
    if (of == "curvature") return curvature(call);
    if (of == "principal direction") return {Element::point, Column(principalDirectionsOf(in, call.choice("along") == "largest", call.run()))};
    if (of == "edge angle") return edgeAngle(call);
    if (of == "corner count") return each(call, Element::face, [&](std::size_t f) { return std::int32_t(in.topology().face(f).size()); });
    if (of == "gradient") return gradient(call);
    if (of == "height") return each(call, Element::point, [&](std::size_t p) { return in.positions()[p].y; });
    if (of == "slope") return slope(call);
    if (of == "thickness") return {Element::point, Column(pointThickness(in, call.run()))};
    const int rays = call.integer("rays");
    call.run().require(double(rays) * double(in.pointCount()) / 400, "rays");
    return {Element::point, Column(opennessOf(in, rays, call.number("reach"), call.run()))};
}

Geometry computeMeasure(OperatorCall& call) {
    std::string name = call.text("name");
    if (name.empty()) name = call.choice("of");
    std::replace(name.begin(), name.end(), ' ', '_');
    if (name == "position") call.fail("attribute.position", "position can't be overwritten here. Choose another name.", "name");
    Measured result = measured(call);
    if (call.in().count(result.element) == 0 && !call.in().empty())
        call.tell(NoticeLevel::info, "measure.nothing", fmt::format("This is measured on each {}, and there is none here.", elementName(result.element)), "of");
    Geometry out = call.in();
    out.setColumn(result.element, name, std::move(result.values));
    return out;
}

}  // namespace

OperatorSpec measureOperator() {
    OperatorSpec spec;
    spec.id = "measure";
    spec.order = 700;
    spec.label = "Measure";
    spec.family = Family::attribute;
    spec.sentence = "Writes what can be measured on each element: area, curvature, slope, thickness and more.";
    spec.help =
        "Area (m²), perimeter (m), volume (m³, of the whole piece) and corner count are on faces; length (m) is on curves; the edge angle (°, 0 for flat) is "
        "on corners, of the "
        "edge that starts there; the others are on points. Curvature is in 1/m, positive where the surface bends outwards (Rusinkiewicz, 2004); Gaussian "
        "curvature in 1/m². "
        "The gradient is a direction along the surface, per metre. Height is the y coordinate in m, slope the angle of the normal from straight up in °. "
        "The principal direction is that of the largest or smallest curvature, as long as both differ (1/m); its sign means nothing. Thickness (m) is how "
        "far it is straight inwards to the other side. Openness is the part of the directions above the surface that nothing blocks.";
    spec.synonyms = {"area",   "curvature", "length",    "volume", "angle", "slope", "ambient occlusion",
                     "cavity", "gradient",  "thickness", "height", "ridge", "flow"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("of", "Measure",
                      {"area", "perimeter", "length", "volume", "curvature", "principal direction", "edge angle", "corner count", "gradient", "height", "slope",
                       "thickness", "openness"},
                      "curvature")
            .helped("What is measured."),
        choiceSetting("curvature", "Curvature", {"mean", "gaussian", "largest"}, "mean")
            .when("of", {"curvature"})
            .helped("The mean or the product of both principal curvatures, or the larger one."),
        choiceSetting("along", "Along", {"largest", "smallest"}, "smallest")
            .when("of", {"principal direction"})
            .helped("Where the surface bends outwards most: across a ridge; or least: along it, and across a valley."),
        textSetting("attribute", "Of the attribute", "mask").when("of", {"gradient"}).helped("The number whose gradient is taken."),
        integerSetting("rays", "Rays", 64).within(1, 4096).slider(16, 256).when("of", {"openness"}).helped("More rays give a smoother result and take longer."),
        numberSetting("reach", "Reach", Unit::metre, 0)
            .atLeast(0)
            .slider(0, 2)
            .when("of", {"openness"})
            .helped("Faces farther away do not count; 0: all count."),
        textSetting("name", "Name", "").helped("The attribute to write; empty: named after the measure."),
    };
    spec.compute = computeMeasure;
    return spec;
}

}  // namespace seedloom

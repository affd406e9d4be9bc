// Method: own: faces and points change places.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/surface/BevelKernel.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// For each point with a whole ring of faces around it: these faces, anticlockwise seen from outside.
struct FaceRings {
    std::vector<Index> start{0}, faces, point;
    std::size_t open = 0;  ///< points with faces around them that make no ring
};

FaceRings ringsOf(const Topology& t) {
    const auto twin = twinCorners(t);
    const auto prev = [&](Index c) {
        const Index f = t.faceOfCorner()[c];
        return c == t.faceStart()[f] ? t.faceStart()[f + 1] - 1 : c - 1;
    };
    std::vector<std::uint8_t> seen(t.cornerCount(), 0);
    FaceRings out;
    for (Index first = 0; first < t.cornerCount(); ++first) {
        if (seen[first]) continue;
        const std::size_t before = out.faces.size();
        bool closed = false;
        // Around the point by the edge before each corner: anticlockwise.
        for (Index c = first; c != kNone && !seen[c];) {
            seen[c] = 1;
            out.faces.push_back(t.faceOfCorner()[c]);
            c = twin[prev(c)];
            closed = c == first;
        }
        if (closed && out.faces.size() - before >= 3) {
            out.start.push_back(Index(out.faces.size()));
            out.point.push_back(t.cornerPoint()[first]);
        } else {
            out.faces.resize(before);
            ++out.open;
        }
    }
    return out;
}

Geometry computeDual(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Dual needs a surface, and there are no faces here.");
    FaceRings rings = ringsOf(in.topology());
    if (rings.point.empty())
        call.fail("dual.open", "No point has a whole ring of faces around it, so there is no dual. Use a closed surface, or a larger sheet.");
    if (rings.open > 0)
        call.tell(NoticeLevel::info, "dual.border", fmt::format("{} points at open edges give no face, so the surface is smaller by a row there.", rings.open));
    const std::size_t points = in.faceCount();
    Geometry out(faceCentres(in), Topology(points, std::move(rings.start), std::move(rings.faces), {0}, {}, {}));
    // Faces and points change places, and so do their attributes.
    for (const auto& [name, column] : in.table(Element::face))
        if (name != "normal") out.setColumn(Element::point, name, column);
    for (const auto& [name, column] : in.table(Element::point)) {
        if (name == "position" || name == "normal") continue;
        out.setColumn(Element::face, name, gather(column, rings.point));
        if (!out.column(Element::point, name)) out.setColumn(Element::point, name, changeElement(in, column, Element::point, Element::face));
    }
    for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
    return out;
}

}  // namespace

OperatorSpec dualOperator() {
    OperatorSpec spec;
    spec.id = "dual";
    spec.order = 420;
    spec.label = "Dual";
    spec.family = Family::surface;
    spec.sentence = "Makes a point of every face and a face of every point: triangles become cells.";
    spec.help =
        "The new points are the middles of the old faces. A closed surface stays closed; at open edges a row of faces is lost. Attributes of faces go to "
        "points and the other way round. Curves and copies are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"hexagons", "cells", "honeycomb", "voronoi", "swap", "panels"};
    spec.inputs = {{"in", "Surface"}};
    spec.sample = sample::step(spec.id, Json::object(), {sample::ball(0.6, 4)});
    spec.compute = computeDual;
    return spec;
}

}  // namespace seedloom

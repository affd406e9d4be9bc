// Method: own.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

/// Places as mixes of points, the element each stands for, and what it is called.
struct Origins {
    Element element = Element::point;
    std::vector<Index> rows;  ///< of that element (edges and pieces have none: the point or face that comes first)
    std::vector<Vec3> at, normal;
    std::vector<Vec3> tangent;  ///< of edges
    std::vector<Place> places;  ///< where attributes are mixed from; empty where rows are copied
};

Origins fromPoints(const Geometry& in) {
    Origins out;
    out.at = in.positions();
    out.normal = in.values<Vec3>(Element::point, "normal") ? *in.values<Vec3>(Element::point, "normal") : pointNormals(in);
    for (Index p = 0; p < in.pointCount(); ++p) out.rows.push_back(p);
    return out;
}

Origins fromEdges(const Geometry& in) {
    Origins out;
    const std::vector<Vec3> normals = pointNormals(in);
    const auto& at = in.positions();
    const auto add = [&](Index a, Index b) {
        Place place;
        place.points = {a, b, b}, place.weights = {0.5f, 0.5f, 0};
        out.places.push_back(place);
        out.rows.push_back(a);
        out.at.push_back((at[a] + at[b]) * 0.5f);
        out.normal.push_back(normalized(normals[a] + normals[b], normals[a]));
        out.tangent.push_back(normalized(at[b] - at[a], {1, 0, 0}));
    };
    for (const auto& edge : in.topology().edges().edges) add(edge.a, edge.b);
    const Topology& t = in.topology();
    for (Index c = 0; c < t.curveCount(); ++c)
        for (std::size_t i = 0; i + (t.curveClosed(c) ? 0 : 1) < t.curve(c).size(); ++i) add(t.curve(c)[i], t.curve(c)[(i + 1) % t.curve(c).size()]);
    return out;
}

Origins fromFaces(const Geometry& in) {
    Origins out{Element::face, {}, faceCentres(in), faceNormals(in), {}, {}};
    for (Index f = 0; f < in.faceCount(); ++f) out.rows.push_back(f);
    return out;
}

Origins fromCorners(const Geometry& in, float inset) {
    Origins out{Element::corner, {}, {}, {}, {}, {}};
    const std::vector<Vec3> normals = faceNormals(in), centres = faceCentres(in);
    const Topology& t = in.topology();
    for (Index c = 0; c < in.cornerCount(); ++c) {
        const Index face = t.faceOfCorner()[c];
        const Vec3 at = in.positions()[t.cornerPoint()[c]], inward = centres[face] - at;
        const float far = length(inward);
        out.rows.push_back(c);
        out.at.push_back(far > 0 ? at + inward * (std::min(inset, far) / far) : at);
        out.normal.push_back(normals[face]);
    }
    return out;
}

/// The middle of each connected part's bounds.
Origins fromPieces(const Geometry& in) {
    Origins out;
    const Connection& pieces = in.topology().connection();
    std::vector<Bounds> bounds(pieces.parts);
    std::vector<Index> first(pieces.parts, ~0u);
    for (Index p = 0; p < in.pointCount(); ++p) {
        const Index piece = pieces.pieceOfPoint[p];
        bounds[piece].add(in.positions()[p]);
        first[piece] = std::min(first[piece], p);
    }
    for (Index piece = 0; piece < pieces.parts; ++piece) {
        out.rows.push_back(first[piece]);
        out.at.push_back(bounds[piece].centre());
        out.normal.push_back({0, 1, 0});
    }
    return out;
}

Origins fromCopies(const Geometry& in) {
    Origins out{Element::copy, {}, {}, {}, {}, {}};
    for (Index i = 0; i < in.copyCount(); ++i) {
        out.rows.push_back(i);
        out.at.push_back(in.copies()->place[i].move);
        out.normal.push_back(normalized(in.copies()->place[i].y));
    }
    return out;
}

Origins originsOf(OperatorCall& call, const Geometry& in, const std::string& of) {
    if (of == "edges") return fromEdges(in);
    if (of == "face centres") return fromFaces(in);
    if (of == "corners") return fromCorners(in, float(call.number("inset")));
    if (of == "piece centres") return fromPieces(in);
    return of == "copies" ? fromCopies(in) : fromPoints(in);
}

void keepRows(Origins& all, const std::vector<Index>& kept) {
    const auto take = [&](auto& values) {
        if (values.empty()) return;
        auto from = std::move(values);
        values.clear();
        for (Index i : kept) values.push_back(from[i]);
    };
    take(all.rows), take(all.at), take(all.normal), take(all.tangent), take(all.places);
}

Geometry computePointsFrom(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string of = call.choice("of");
    Origins origins = originsOf(call, in, of);
    const Field<float> where = call.weights(in, origins.element);
    std::vector<Index> kept;
    for (Index i = 0; i < origins.rows.size(); ++i)
        if (where[origins.rows[i]] > 0.5f) kept.push_back(i);
    if (kept.size() != origins.rows.size()) keepRows(origins, kept);
    Geometry out(std::move(origins.at));
    if (out.pointCount() == 0) call.tell(NoticeLevel::info, "points_from.nothing", "There are no " + of + " here.", "of");
    for (Element element : {origins.element, Element::point})
        for (const auto& [name, column] : in.table(element)) {
            if (name == "position" || name == "normal" || out.column(Element::point, name)) continue;
            if (element == Element::point && !origins.places.empty()) out.setColumn(Element::point, name, valuesAt(column, element, origins.places));
            else if (element == origins.element) out.setColumn(Element::point, name, gather(column, origins.rows));
            else if (origins.element != Element::copy)
                out.setColumn(Element::point, name, gather(changeElement(in, column, element, origins.element), origins.rows));
        }
    for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
    out.setColumn(Element::point, "normal", Column(std::move(origins.normal)));
    if (!origins.tangent.empty() && !out.column(Element::point, "tangent")) out.setColumn(Element::point, "tangent", Column(std::move(origins.tangent)));
    if (!out.column(Element::point, "id")) out.setColumn(Element::point, "id", Column(std::vector<std::int32_t>(kept.begin(), kept.end())));
    return out;
}

}  // namespace

OperatorSpec pointsFromOperator() {
    OperatorSpec spec;
    spec.id = "points_from";
    spec.order = 800;
    spec.label = "Points from";
    spec.family = Family::scatter;
    spec.sentence = "Makes a point of every point, edge, face, corner, piece or copy.";
    spec.help =
        "The points carry the attributes of what they stand for, a normal, and an id where there was none: the number of the point, edge, face … that it came "
        "from. Edges give their middle and a tangent; "
        "corners can be moved towards the middle of their face, as for nails; pieces give the middle of their bounds.";
    spec.synonyms = {"extract", "centres", "vertices", "centroid", "midpoint", "nails", "to points"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("of", "Of", {"points", "edges", "face centres", "corners", "piece centres", "copies"}, "points").helped("What gets a point."),
        numberSetting("inset", "Inset", Unit::metre, 0)
            .atLeast(0)
            .slider(0, 0.2)
            .when("of", {"corners"})
            .helped("How far corners move towards the middle of their face."),
        whereSetting(Element::point),
    };
    spec.sample = sample::dotted(sample::step(spec.id, {{"of", "face centres"}}, {sample::step("box", {{"cells", {2, 2, 2}}})}),
                                 sample::step("box", {{"cells", {2, 2, 2}}}));
    spec.compute = computePointsFrom;
    return spec;
}

}  // namespace seedloom

// Method: own: connected parts by union and find, or groups of equal values; nearest points by a tree of boxes.
#include "fields/Random.h"
#include "geometry/FaceGroups.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "operators/AttributeWork.h"
#include "operators/breaking/PieceList.h"

#include <fmt/format.h>

#include <cstring>

namespace seedloom {

namespace {

/// Numbers without gaps for whatever each face holds, in the order in which it comes.
template <class Value> std::vector<std::int32_t> inOrder(const std::vector<Value>& values) {
    std::map<Value, std::int32_t> known;
    std::vector<std::int32_t> out;
    for (const Value& v : values) out.push_back(known.try_emplace(v, std::int32_t(known.size())).first->second);
    return out;
}

std::vector<std::int32_t> byValue(OperatorCall& call, const Geometry& in) {
    const FoundColumn found = namedAttribute(call, in, "attribute", Element::face);
    const Column values = changeElement(in, found.column, found.element, Element::face, Combine::first);
    if (const auto* texts = values.as<std::string>()) return inOrder(*texts);
    std::vector<std::vector<double>> rows(in.faceCount());
    for (std::size_t f = 0; f < rows.size(); ++f)
        for (int c = 0; c < componentCount(values.type()); ++c) {
            const double v = values.component(f, c);
            rows[f].push_back(std::isnan(v) ? -std::numeric_limits<double>::infinity() : v);
        }
    return inOrder(rows);
}

/// What hangs together across edges on whose both sides `values` are the same.
std::vector<std::int32_t> connected(const Geometry& in, const std::vector<std::int32_t>& values) {
    Groups groups(in.faceCount());
    joinAcrossEdges(in.topology(), groups, [&](Index a, Index b) { return values[a] == values[b]; });
    std::vector<Index> roots;
    for (Index f = 0; f < in.faceCount(); ++f) roots.push_back(groups.find(f));
    return inOrder(roots);
}

/// By the point that is nearest to each face's middle.
std::vector<std::int32_t> byNearest(OperatorCall& call, const Geometry& in) {
    const Geometry points = combine(call.port(1));
    const NearestPlace nearest(points, NearestPlace::On::points);
    if (nearest.empty()) call.fail("pieces.no_points", "There are no points in Points. Link some, or number by connection.", "by");
    std::vector<Index> of(in.faceCount());
    const std::vector<Vec3> centres = faceCentres(in);
    for (std::size_t f = 0; f < of.size(); ++f) of[f] = nearest.find(isFinite(centres[f]) ? centres[f] : Vec3{}).points[0];
    return inOrder(of);
}

/// A number in [0, 1) that the place of a piece gives, whatever else there is.
std::vector<float> tones(const Geometry& in, const PieceList& pieces, double seed) {
    std::vector<std::optional<Vec3>> least(pieces.count);
    for (Index f = 0; f < in.faceCount(); ++f)
        for (Index p : in.topology().face(f)) {
            const Vec3 at = in.positions()[p];
            auto& best = least[pieces.ofFace[f]];
            if (!best || std::tie(at.x, at.y, at.z) < std::tie(best->x, best->y, best->z)) best = at;
        }
    std::vector<float> out(pieces.count);
    for (Index i = 0; i < pieces.count; ++i) {
        const Vec3 at = least[i].value_or(Vec3{});
        out[i] = float(randomOf(double(at.x), randomOf(double(at.y), randomOf(double(at.z), seed))));
    }
    return out;
}

Geometry computeNumberPieces(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "There are no faces here, and so no pieces.");
    const std::string by = call.choice("by");
    std::vector<std::int32_t> piece = by == "connection"     ? connected(in, std::vector<std::int32_t>(in.faceCount(), 0))
                                    : by == "nearest points" ? byNearest(call, in)
                                                             : byValue(call, in);
    if (by == "tag") piece = connected(in, piece);
    Geometry out = in;
    out.setColumn(Element::face, "piece", Column(std::move(piece)));
    const PieceList pieces = piecesOf(call, out);
    const std::vector<PieceMeasure> measures = measurePieces(out, pieces);
    const std::vector<float> tone = tones(out, pieces, call.number("seed"));
    const auto spread = [&](auto valueOf) {
        std::vector<std::decay_t<decltype(valueOf(Index{}))>> values;
        for (Index i : pieces.ofFace) values.push_back(valueOf(i));
        return Column(std::move(values));
    };
    out.setColumn(Element::face, "piece_size", spread([&](Index i) { return float(measures[i].size); }));
    out.setColumn(Element::face, "piece_centre", spread([&](Index i) { return measures[i].centre; }));
    out.setColumn(Element::face, "piece_tone", spread([&](Index i) { return tone[i]; }));
    return out;
}

}  // namespace

OperatorSpec numberPiecesOperator() {
    OperatorSpec spec;
    spec.id = "number_pieces";
    spec.order = 868;
    spec.label = "Number pieces";
    spec.family = Family::breaking;
    spec.sentence = "Gives every piece a number, its size, its centre and a tone of its own.";
    spec.help =
        "Pieces are what hangs together, parts with and without a tag, faces of one value of an attribute, or what is nearest to the same one of the points. "
        "They are written to the faces as piece, piece_size (m³ where closed, else m²), piece_centre and piece_tone: a number from 0 to 1 that comes from the "
        "seed and the piece's own place, so that it stays when other pieces come and go.";
    spec.takes = Takes::faces;
    spec.synonyms = {"piece id", "island", "label parts", "random colour", "per piece", "volume of pieces", "connectivity"};
    spec.inputs = {{"in", "Geometry"}, {"points", "Points", true, true}};
    spec.settings = {
        choiceSetting("by", "By", {"connection", "tag", "attribute", "nearest points"}, "connection").helped("What makes faces one piece."),
        textSetting("attribute", "Attribute", "").when("by", {"tag", "attribute"}).helped("The tag or attribute that tells pieces apart."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other tones."),
    };
    const SampleStep broken = sample::step("shatter", {{"pieces", 16}}, {sample::ball()});
    spec.sample = sample::step("colour", {{"attribute", "piece_tone"}, {"element", "face"}}, {sample::step(spec.id, Json::object(), {broken})});
    spec.compute = computeNumberPieces;
    return spec;
}

}  // namespace seedloom

// Method: own: strips along edges that meet in patches of a ball (BevelKernel).
#include "geometry/Measures.h"
#include "operators/GreatestFit.h"
#include "operators/OperatorCall.h"
#include "operators/surface/BevelKernel.h"
#include "surface/FaultyFaces.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

std::vector<std::uint8_t> sharpEdges(const Geometry& in, double overDegrees, const std::vector<float>& width) {
    const Topology& t = in.topology();
    const EdgeTable& edges = t.edges();
    const auto normals = faceNormals(in);
    const auto twins = twinCorners(t);
    const float least = float(std::cos(radians(overDegrees))) - 1e-6f;
    std::vector<std::uint8_t> out(edges.edges.size(), 0);
    for (Index c = 0; c < twins.size(); ++c) {
        if (twins[c] == ~Index{0}) continue;
        const Index e = edges.cornerEdge[c];
        if (width[edges.edges[e].a] > 0 && width[edges.edges[e].b] > 0) out[e] = dot(normals[t.faceOfCorner()[c]], normals[t.faceOfCorner()[twins[c]]]) < least;
    }
    return out;
}

struct Bevelled {
    Geometry geometry;
    std::size_t narrow = 0;  ///< points at which it is narrower than asked, or not there
    std::size_t faulty = 0;  ///< faces that cross all the same, or have no area
};

/// Takes half of the width near faces, and no edge or corner at all where that has been done often.
std::size_t giveWay(const Geometry& in, const Geometry& out, const std::vector<Index>& faulty, const std::vector<float>& wished, bool last,
                    BevelOptions& options) {
    constexpr float kReach = 2;  // widths
    const std::vector<float> far = squaredDistancesTo(out, faulty, in.positions());
    std::vector<std::uint8_t> near(in.pointCount(), 0);
    for (std::size_t p = 0; p < near.size(); ++p) near[p] = wished[p] > 0 && far[p] < kReach * kReach * wished[p] * wished[p];
    for (std::size_t p = 0; p < near.size(); ++p)
        if (near[p]) options.width[p] /= 2;
    for (std::size_t p = 0; last && p < options.points.size(); ++p) options.points[p] &= std::uint8_t(!near[p]);
    const auto& edges = in.topology().edges().edges;
    for (std::size_t e = 0; last && e < options.edges.size(); ++e)
        if (near[edges[e].a] || near[edges[e].b]) options.edges[e] = 0;
    return std::size_t(std::count(near.begin(), near.end(), 1));
}

/// Strips may cross what lies opposite, or each other: there the bevel gets narrower until none does, unless the surface crosses itself without it.
Bevelled bevelSoundly(const Geometry& in, BevelOptions options, const RunContext& run) {
    constexpr int kMostTries = 6, kHalved = 4;
    const std::vector<float> wished = options.width;
    std::size_t held = 0;
    Bevelled out{bevel(in, options, run, &held)};
    out.narrow = held;
    for (int attempt = 0;; ++attempt) {
        const std::vector<Index> faulty = faultyFaces(out.geometry, run);
        if (attempt == 0 && !faulty.empty() && !faultyFaces(in, run).empty()) break;
        out.faulty = faulty.size();
        if (faulty.empty() || attempt == kMostTries) break;
        if (giveWay(in, out.geometry, faulty, wished, attempt >= kHalved, options) == 0) break;
        out.geometry = bevel(in, options, run, &held);
        std::size_t lessened = 0;
        for (std::size_t p = 0; p < wished.size(); ++p) lessened += options.width[p] < wished[p];
        out.narrow = std::max(held, lessened);
    }
    return out;
}

/// The greatest even width found for which there is room everywhere, metres; 0 where there is none.
double widthThatFits(const Geometry& in, BevelOptions options, double wished, const RunContext& run) {
    const std::vector<float> whole = options.width;
    return greatestFit(wished, [&](double width) {
        for (std::size_t p = 0; p < whole.size(); ++p) options.width[p] = whole[p] > 0 ? float(width) : 0;
        std::size_t held = 0;
        const Geometry out = bevel(in, options, run, &held);
        return held == 0 && faultyFaces(out, run).empty();
    });
}

void tellOfRoom(OperatorCall& call, const Bevelled& bevelled, double possible) {
    std::string even = "Make the width smaller.";
    if (possible > 0) {
        // A formula is not thrown away for it.
        if (std::holds_alternative<FixedSource>(call.source("width"))) call.offer(setFix(fmt::format("Set Width to {:g} m", possible), "width", possible));
        even = fmt::format("It may be {:g} m wide everywhere.", possible);
    }
    if (bevelled.faulty > 0)
        call.tell(NoticeLevel::warning, "bevel.crosses",
                  fmt::format("{} faces cross or have no area, as there is no room for the bevel. {}", bevelled.faulty, even), "width");
    else
        call.tell(NoticeLevel::warning, "bevel.narrow",
                  fmt::format("The bevel is narrower than asked at {} points, where faces have no room for it. {}", bevelled.narrow, even), "width");
}

Geometry computeBevel(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Bevel needs faces, and there are none here. For curves use Round corners.");
    for (Index f = 0; f < in.faceCount(); ++f)
        if (in.topology().face(f).size() < 3) call.fail("mesh.degenerate_face", "There are faces of fewer than three corners. Weld first, which removes them.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    const Field<float> width = call.each("width", in, Element::point), weights = call.weights(in, Element::point);
    BevelOptions options;
    options.segments = call.integer("segments");
    options.width.resize(in.pointCount());
    for (std::size_t p = 0; p < options.width.size(); ++p) {
        options.width[p] = width[p] * weights[p];
        if (!(options.width[p] >= 0) || !std::isfinite(options.width[p])) options.width[p] = 0;
    }
    const double strips = double(in.topology().edges().edges.size()) * options.segments;
    call.run().require(double(in.cornerCount()) * 2 + 4 * strips + double(in.cornerCount()) * options.segments * options.segments, "corners");
    if (call.choice("of") == "points") {
        options.points.resize(in.pointCount());
        for (std::size_t p = 0; p < options.points.size(); ++p) options.points[p] = options.width[p] > 0;
    } else {
        options.edges = sharpEdges(in, call.number("angle_over"), options.width);
        if (std::none_of(options.edges.begin(), options.edges.end(), [](auto e) { return e != 0; })) {
            call.tell(NoticeLevel::info, "bevel.none", "No edge turns by more than the angle, so nothing is bevelled. Make the angle smaller.", "angle_over");
            return in;
        }
    }
    Bevelled out = bevelSoundly(in, options, call.run());
    if (out.narrow > 0 || out.faulty > 0) {
        const bool even = width.uniform && weights.uniform && weights.value == 1;
        tellOfRoom(call, out, even ? widthThatFits(in, options, double(width.value), call.run()) : 0);
    }
    return std::move(out.geometry);
}

}  // namespace

OperatorSpec bevelOperator() {
    OperatorSpec spec;
    spec.id = "bevel";
    spec.order = 290;
    spec.label = "Bevel";
    spec.family = Family::surface;
    spec.sentence = "Cuts edges or corners off, straight or round.";
    spec.help =
        "Edges that turn by more than an angle become strips of even width; with two segments or more they are round and run smoothly into both faces, and "
        "corners become parts of a ball. Where there is no room it gets narrower, with a notice that offers how wide it may be. "
        "A closed solid stays closed. New faces have the tag bevel; the faces that are left keep their tags and the texture of their insides.";
    spec.takes = Takes::faces;
    spec.synonyms = {"chamfer", "round edges", "round corners", "fillet", "soften", "break edges", "truncate"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("of", "Of", {"edges", "points"}, "edges").helped("Edges with the corners where they meet, or corners alone."),
        numberSetting("width", "Width", Unit::metre, 0.05)
            .within(0, 1e6)
            .slider(0, 0.5)
            .each()
            .helped("From the old edge to the border of the new strip, measured in the face."),
        integerSetting("segments", "Segments", 1).within(1, 200).slider(1, 12).helped("Faces across a strip: 1 is straight, more is round."),
        numberSetting("angle_over", "Angle over", Unit::degree, 30)
            .within(0, 180)
            .slider(0, 90)
            .helped("Only edges that turn by more than this.")
            .when("of", {"edges"}),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"width", 0.14}, {"segments", 5}}, {sample::box()});
    spec.compute = computeBevel;
    return spec;
}

}  // namespace seedloom

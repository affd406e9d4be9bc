// Method: nearest places by a tree of boxes; along the surface by unfolding triangles (Novotni & Klein, WSCG 2002).
#include "geometry/NearestPlace.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"
#include "surface/SurfaceDistance.h"

#include <fmt/format.h>

#include <limits>

namespace seedloom {

namespace {

constexpr float kFar = std::numeric_limits<float>::infinity();

NearestPlace::On targetOf(const OperatorCall& call, const Geometry& from) {
    const std::string to = call.choice("to");
    if (to == "points") return NearestPlace::On::points;
    if (to == "curves") return NearestPlace::On::curves;
    if (to == "faces") return NearestPlace::On::faces;
    return from.faceCount() > 0 ? NearestPlace::On::faces : from.curveCount() > 0 ? NearestPlace::On::curves : NearestPlace::On::points;
}

/// The part of the geometry that a tag or mask on it chooses: its points, with the faces and curves all of whose points are chosen.
Geometry taggedPart(OperatorCall& call, const Geometry& in) {
    const FoundColumn found = namedAttribute(call, in, "tag");
    if (componentCount(found.column.type()) != 1) call.fail("setting.type", "A tag or mask with one number is needed. Choose another attribute.", "tag");
    const Topology& t = in.topology();
    std::vector<std::uint8_t> chosen(in.pointCount(), 0);
    const auto on = [&](Index row) { return found.column.component(row, 0) > 0.5; };
    std::vector<Index> faceStart{0}, cornerPoint;
    for (Index f = 0; f < in.faceCount(); ++f) {
        const auto face = t.face(f);
        bool whole = !face.empty();
        for (std::size_t k = 0; k < face.size(); ++k)
            whole &= found.element == Element::face   ? on(f)
                   : found.element == Element::corner ? on(t.faceStart()[f] + Index(k))
                                                      : found.element == Element::point && on(face[k]);
        if (!whole) continue;
        for (Index p : face) cornerPoint.push_back(p), chosen[p] = 1;
        faceStart.push_back(Index(cornerPoint.size()));
    }
    if (found.element == Element::point)
        for (Index p = 0; p < in.pointCount(); ++p) chosen[p] |= on(p);
    std::vector<Index> number(in.pointCount(), 0);
    std::vector<Vec3> at;
    for (Index p = 0; p < in.pointCount(); ++p)
        if (chosen[p]) number[p] = Index(at.size()), at.push_back(in.positions()[p]);
    for (Index& p : cornerPoint) p = number[p];
    const std::size_t points = at.size();
    return Geometry(std::move(at), Topology(points, std::move(faceStart), std::move(cornerPoint), {0}, {}, {}));
}

std::vector<float> straight(const OperatorCall& call, const Geometry& in, const NearestPlace& places) {
    std::vector<float> out(in.pointCount(), kFar);
    forChunks(
        out.size(), call.run(),
        [&](std::size_t, Range range) {
            Index start = 0;
            for (std::size_t i = range.begin; i < range.end; ++i) {
                if (!isFinite(in.positions()[i])) continue;
                const Place place = places.find(in.positions()[i], start);
                start = place.part;
                out[i] = std::sqrt(place.squaredDistance);
            }
        },
        1024);
    return out;
}

/// Along the surface it starts where the other geometry touches this one: at the corners of each face that is nearest to one of its
/// points (or to a point on it where there are none), as far from there as they are.
std::vector<float> alongSurface(const OperatorCall& call, const Geometry& in, const Geometry& from) {
    std::vector<float> start(in.pointCount(), kFar);
    const NearestPlace ground(in, in.faceCount() > 0 ? NearestPlace::On::faces : in.curveCount() > 0 ? NearestPlace::On::curves : NearestPlace::On::points);
    if (ground.empty()) return start;
    for (Vec3 p : from.positions()) {
        if (!isFinite(p)) continue;
        const Place place = ground.find(p);
        for (Index corner : place.points) start[corner] = std::min(start[corner], distance(in.positions()[corner], place.position));
    }
    return surfaceDistance(in, std::move(start), call.run());
}

Geometry computeDistance(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name");
    const bool plugged = !call.port(1).empty();
    if (!plugged && call.text("tag").empty())
        call.fail("input.missing",
                  "Nothing is plugged into From, and no tag is named. Link what the distance is measured from, or name a tag of this geometry.", "tag");
    const Geometry from = plugged ? call.port(1).front() : taggedPart(call, in);
    const NearestPlace places(from, targetOf(call, from));
    std::vector<float> far;
    if (places.empty()) {
        call.tell(NoticeLevel::warning, "distance.nothing",
                  "There is nothing to measure from: no elements of that kind, or the tag chooses none. Everything is 0.", plugged ? "to" : "tag");
        far.assign(in.pointCount(), 0);
    } else {
        far = call.choice("way") == "straight" ? straight(call, in, places) : alongSurface(call, in, from);
    }
    std::size_t unreached = 0;
    const auto range = rangeOf(far);
    for (float& v : far)
        if (!std::isfinite(v)) v = float(range[1]), ++unreached;
    if (unreached > 0)
        call.tell(NoticeLevel::info, "distance.unreached", fmt::format("{} points can't be reached and get the largest distance.", unreached), "way");
    const auto given = call.range("range");
    const auto* plain = std::get_if<FixedSource>(&call.source("ramp"));
    const bool remapped = !given.exact() || call.choice("result") == "by ramp" || !(plain && plain->value == rampSetting("ramp", "").fallback);
    if (remapped) {
        const Ramp ramp = call.ramp("ramp");
        const auto [low, high] = given.over(far);
        const double width = high - low;
        forEach(far.size(), call.run(), [&, low = low](std::size_t i) { far[i] = float(ramp.at(width != 0 ? (double(far[i]) - low) / width : 0)); });
    }
    return withAttribute(call, in, Element::point, name, Column(std::move(far)));
}

}  // namespace

OperatorSpec distanceOperator() {
    OperatorSpec spec;
    spec.id = "distance";
    spec.order = 690;
    spec.label = "Distance";
    spec.family = Family::attribute;
    spec.sentence = "Writes how far each point is from points, curves, faces or a tagged part.";
    spec.help =
        "Straight through space, or along the surface from where the other geometry touches it. Metres, unless a range or a ramp turns them into a mask: the "
        "range's ends "
        "stand at the ramp's left and right end. Without anything plugged in, it is measured from the part that a tag or mask of this geometry chooses.";
    spec.synonyms = {"proximity", "near", "falloff", "mask", "geodesic", "range", "closest"};
    spec.inputs = {{"in", "Geometry"}, {"from", "From", false, true}};
    spec.settings = {
        textSetting("name", "Name", "distance").helped("The attribute to write."),
        choiceSetting("way", "Way", {"straight", "along the surface"}, "straight").helped("Through space, or over faces, edges and curves."),
        choiceSetting("to", "To the nearest", {"anything", "points", "curves", "faces"}, "anything")
            .helped("Anything: faces where there are some, else curves, else points."),
        textSetting("tag", "From the tag", "").helped("A tag or mask of this geometry to measure from; used where nothing is plugged into From."),
        choiceSetting("result", "Result", {"metres", "by ramp"}, "metres")
            .helped("Metres, or what the ramp makes of them. A range or a changed ramp counts as by ramp."),
        rangeSetting("range", "Range")
            .helped("The distances that stand at the ramp's ends: of all values, of the middle ones (auto 2 % leaves 2 % out at each end), or two numbers in "
                    "metres."),
        rampSetting("ramp", "Ramp").helped("Turns 0–1 over the range into the result."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::plugged(sample::step(spec.id, Json::object(), {sample::cells()}), "from", sample::step("point_list"));
    spec.compute = computeDistance;
    return spec;
}

}  // namespace seedloom

// Method: nearest place by a tree of boxes, or rays (Embree).
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/RayScene.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"
#include "surface/SurfaceWalk.h"
#include "surface/Untangle.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// The place on the target along a line through a point, the nearer of both ways.
std::optional<Vec3> alongLine(const RayScene& rays, Vec3 from, Vec3 direction) {
    const auto ahead = rays.firstHit(from, direction, 0), behind = rays.firstHit(from, -direction, 0);
    if (!ahead && !behind) return {};
    if (ahead && (!behind || *ahead <= *behind)) return from + direction * *ahead;
    return from - direction * *behind;
}

struct Snapped {
    std::vector<Vec3> places;
    std::vector<std::uint8_t> missed;
};

/// By point: ends an open edge.
std::vector<std::uint8_t> openEnds(const Geometry& target) {
    std::vector<std::uint8_t> out(target.pointCount(), 0);
    const EdgeTable& edges = target.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e)
        if (edges.faceCount[e] == 1) out[edges.edges[e].a] = out[edges.edges[e].b] = 1;
    return out;
}

struct NearestRule {
    bool overHolesStay, sameSide;
};

Snapped nearest(const Geometry& in, const Geometry& target, const NearestPlace& places, const Field<float>& offset, NearestRule rule, const RunContext& run) {
    constexpr float kSameSide = 0.5f;  // cosine of 60°
    const auto normals = faceNormals(target);
    const std::vector<Vec3> own = rule.sameSide ? pointNormals(in) : std::vector<Vec3>();
    const std::vector<std::uint8_t> ends = rule.overHolesStay ? openEnds(target) : std::vector<std::uint8_t>(target.pointCount(), 0);
    const auto atOpenEdge = [&](const Place& place) {
        for (std::size_t k = 0; k < 3; ++k)
            if (place.weights[k] > 0 && !ends[place.points[k]]) return false;
        return true;
    };
    Snapped out{in.positions(), std::vector<std::uint8_t>(in.pointCount(), 0)};
    forChunks(in.pointCount(), run, [&](std::size_t, Range range) {
        Index start = 0;
        for (std::size_t i = range.begin; i < range.end; ++i) {
            if (!isFinite(in.positions()[i])) continue;
            const Place found = places.find(in.positions()[i], start);
            start = found.part;
            const bool otherSide = rule.sameSide && dot(own[i], normals[found.element]) < kSameSide;
            if (!otherSide && !atOpenEdge(found)) out.places[i] = found.position + normals[found.element] * offset[i];
        }
    });
    return out;
}

Snapped alongLines(const Geometry& in, const Geometry& target, const std::vector<Vec3>& directions, const Field<float>& offset, const RunContext& run) {
    const RayScene rays(target);
    Snapped out{in.positions(), std::vector<std::uint8_t>(in.pointCount(), 0)};
    forEach(
        in.pointCount(), run,
        [&](std::size_t i) {
            const Vec3 direction = directions.size() == 1 ? directions[0] : directions[i];
            const auto met = isFinite(in.positions()[i]) && length(direction) > 0.5f ? alongLine(rays, in.positions()[i], direction) : std::nullopt;
            out.missed[i] = !met;
            if (met) out.places[i] = *met - direction * offset[i];
        },
        512);
    return out;
}

/// The mean direction of its faces by area; up where it has none.
Vec3 upOf(const Geometry& g) {
    Vec3 sum{};
    for (Index f = 0; f < g.faceCount(); ++f) sum += areaVector(g.topology().face(f), g.positions());
    return normalized(sum, {0, 1, 0});
}

/// Laid onto the target from its middle outwards, as a cloth that does not stretch along the way: each point walks straight over the target from the place
/// nearest to the middle, as far as it is off, and keeps its height. So edges in its way bend it.
Snapped laidOver(OperatorCall& call, const Geometry& in, const Geometry& target, const NearestPlace& places, const Field<float>& offset) {
    for (Vec3 p : target.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point of the target is no finite place. Delete it first.");
    Snapped out{in.positions(), std::vector<std::uint8_t>(in.pointCount(), 0)};
    if (in.pointCount() == 0) return out;
    const SurfaceWalk surface(target);
    const Bounds bounds = boundsOf(in.positions());
    const Vec3 middle = bounds.centre(), up = upOf(in);
    const Place found = places.find(middle);
    const Walker start{found.part, {double(found.weights[0]), double(found.weights[1]), double(found.weights[2])}, {}};
    if (!surface.solid(start.triangle)) call.fail("mesh.degenerate_face", "The target has no area where the middle comes to lie. Weld it first.");
    const Vec3 normal = rounded(surface.normal(start.triangle)), across = cross(up, normal);
    const Vec3 axis = normalized(across, anyPerpendicular(up));
    const float tilt = std::atan2(length(across), dot(up, normal));
    forEach(
        in.pointCount(), call.run(),
        [&](std::size_t i) {
            if (!isFinite(in.positions()[i])) return;
            const Vec3 from = in.positions()[i] - middle, along = from - up * dot(from, up);
            Walker walker = start;
            const auto way = double(length(along));
            if (way > 0 && surface.turn(walker, fine(rotateAbout(along, axis, tilt)))) out.missed[i] = surface.go(walker, way) < way * (1 - 1e-6);
            out.places[i] = rounded(surface.position(walker)) + rounded(surface.normal(walker.triangle)) * (dot(from, up) + offset[i]);
        },
        256);
    return out;
}

bool isClosed(const Geometry& g) {
    const auto& beside = g.topology().edges().faceCount;
    return !beside.empty() && std::all_of(beside.begin(), beside.end(), [](auto count) { return count == 2; });
}

/// Moved there, as far as the settings allow.
Geometry finished(OperatorCall& call, const Geometry& in, Snapped snapped, const Field<float>& weights) {
    const auto missed = std::count(snapped.missed.begin(), snapped.missed.end(), 1);
    if (missed > 0 && call.choice("form") == "laid over")
        call.tell(NoticeLevel::info, "snap.beyond", fmt::format("{} points would lie beyond an open edge of the target and are put onto it.", missed), "form");
    else if (missed > 0)
        call.tell(NoticeLevel::info, "snap.missed", fmt::format("{} points meet nothing in their direction and stay where they are.", missed), "form");
    const double within = call.number("within");
    std::vector<float> weight(in.pointCount());
    for (std::size_t p = 0; p < weight.size(); ++p) {
        const bool far = within > 0 && double(length(snapped.places[p] - in.positions()[p])) > within;
        weight[p] = far ? 0.0f : weights[p];
    }
    Geometry out = in;
    std::vector<Vec3> moved = blendPositions(in.positions(), std::move(snapped.places), weight);
    if (call.flag("no_crossing") && isClosed(in)) moved = movedWithoutCrossing(in, moved, call.run());
    out.setPositions(std::move(moved));
    for (Element element : {Element::point, Element::corner, Element::face})
        if (in.faceCount() > 0) out.removeColumn(element, "normal");
    return out;
}

Geometry computeSnapToSurface(OperatorCall& call) {
    const Geometry& in = call.in();
    const Geometry& target = call.port(1).front();
    if (target.faceCount() == 0) call.fail("surface.none", "The target has no faces to snap to.");
    const NearestPlace places(target, NearestPlace::On::faces);
    if (places.empty()) call.fail("mesh.non_finite", "The target has no face with finite places.");
    const std::string form = call.choice("form");
    const Field<float> offset = call.each("offset", in), weights = call.weights(in, Element::point);
    std::vector<Vec3> directions;
    if (form == "along direction") {
        directions = {normalized(call.vec3("direction"), {})};
        if (!(length(directions[0]) > 0.5f)) call.fail("snap.direction", "The direction has no length. Use 0, -1, 0 for straight down.", "direction");
    } else if (form == "along normal") {
        directions = pointNormals(in);
        if (const auto* stored = in.values<Vec3>(Element::point, "normal")) directions = *stored;
    }
    if (form == "laid over") return finished(call, in, laidOver(call, in, target, places, offset), weights);
    const NearestRule rule{call.choice("at_open_edges") == "stay", call.flag("same_side")};
    Snapped snapped = directions.empty() ? nearest(in, target, places, offset, rule, call.run()) : alongLines(in, target, directions, offset, call.run());
    return finished(call, in, std::move(snapped), weights);
}

}  // namespace

OperatorSpec snapToSurfaceOperator() {
    OperatorSpec spec;
    spec.id = "snap_to_surface";
    spec.order = 470;
    spec.label = "Snap to surface";
    spec.family = Family::surface;
    spec.sentence = "Moves points onto a target surface: to the nearest place, or along a direction.";
    spec.help =
        "Along a direction the nearer meeting on either side counts; points that meet nothing stay. Laid over puts the middle onto the nearest place, and each "
        "other point as far along the surface as it is off: so a flat sheet bends over the edges in its way, without being stretched outwards. An offset keeps "
        "that distance: out along the surface's normal, or back along the direction.";
    spec.synonyms = {"project", "shrink wrap", "drop", "lay on", "stick", "conform", "ground", "bend over", "cloth"};
    spec.inputs = {{"in", "Geometry"}, {"target", "Target"}};
    spec.settings = {
        choiceSetting("form", "Form", {"nearest", "along direction", "along normal", "laid over"}, "nearest")
            .helped("Where each point goes. Laid over: as a cloth that is put down with its middle and bends over edges."),
        vec3Setting("direction", "Direction", Unit::none, {0, -1, 0})
            .helped("The line that points move along; its length does not matter.")
            .when("form", {"along direction"}),
        numberSetting("offset", "Offset", Unit::metre, 0).within(-1e6, 1e6).slider(-0.5, 0.5).each().helped("Distance that is kept from the surface."),
        numberSetting("within", "Within", Unit::metre, 0)
            .within(0, 1e6)
            .slider(0, 0.5)
            .helped("Points that would move farther stay where they are; 0: no limit."),
        choiceSetting("at_open_edges", "At open edges", {"snap", "stay"}, "snap")
            .helped("What becomes of points whose nearest place is an open edge of the target, as those over its holes.")
            .when("form", {"nearest"}),
        flagSetting("same_side", "Same side only", false)
            .helped("Points stay where the nearest place looks another way, by over 60°.")
            .when("form", {"nearest"}),
        flagSetting("no_crossing", "No crossing", false).helped("Points of a closed surface go only as far as no faces cross."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::plugged(sample::step(spec.id, {{"form", "along direction"}}, {sample::sheetAbove()}), "target", sample::ball(0.7, 12));
    spec.compute = computeSnapToSurface;
    return spec;
}

}  // namespace seedloom

// Method: own: rays of all points of a copy onto the surface (Embree).
#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "geometry/RayScene.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"
#include "operators/scatter/CopyFrame.h"
#include "operators/scatter/Movables.h"
#include "parallel/Loops.h"
#include "scatter/PointGrid.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// The part of a turn that brings `from` to `to`.
Affine leaning(Vec3 from, Vec3 to, float part) {
    const Vec3 axis = cross(from, to);
    const float sine = length(axis);
    return sine < 1e-7f ? Affine{} : turnAbout(axis / sine, float(degrees(std::atan2(double(sine), double(dot(from, to))))) * part);
}

Affine about(Vec3 pivot, Affine turn) {
    turn.move = pivot - turn.vector(pivot);
    return turn;
}

/// The surface, as seen by things that come along a direction.
class Ground {
public:
    Ground(const Geometry& surface, Vec3 direction, bool fromOutside, float reach)
        : rays_(surface), normals_(pointNormals(surface)), cornerPoint_(surface.topology().cornerPoint()), positions_(surface.positions()),
          direction_(direction), fromOutside_(fromOutside), far_(reach) {}

    /// How far the point can go until it meets the surface; less than 0 where it has gone too far already.
    std::optional<float> way(Vec3 p) const {
        const auto met = hit(p);
        return met ? std::optional(met->distance - (fromOutside_ ? far_ : 0)) : std::nullopt;
    }
    /// The surface's normal ahead of the point, on the side that it comes from.
    std::optional<Vec3> normalAhead(Vec3 p) const {
        const auto met = hit(p);
        if (!met) return {};
        Vec3 n{};
        for (std::size_t k = 0; k < 3; ++k) n += normals_[cornerPoint_[met->corners[k]]] * met->weights[k];
        n = normalized(n);
        return dot(n, direction_) > 0 ? -n : n;
    }
    const std::vector<Vec3>& positions() const { return positions_; }

private:
    std::optional<RayHit> hit(Vec3 p) const { return rays_.hit(fromOutside_ ? p - direction_ * far_ : p, direction_, 0); }
    RayScene rays_;
    std::vector<Vec3> normals_;
    const std::vector<Index>& cornerPoint_;
    const std::vector<Vec3>& positions_;
    Vec3 direction_;
    bool fromOutside_;
    float far_;
};

/// Points of the surface, found by where they lie across the direction.
class SurfacePoints {
public:
    SurfacePoints(const std::vector<Vec3>& positions, Vec3 direction, float cell)
        : direction_(direction), flat_(flattened(positions, direction)), grid_(flat_, cell) {}
    template <class Take> void around(Vec3 middle, float radius, Take&& take) const {
        grid_.within(middle - direction_ * dot(middle, direction_), radius, take);
    }

private:
    static std::vector<Vec3> flattened(std::vector<Vec3> positions, Vec3 direction) {
        for (Vec3& p : positions) p -= direction * dot(p, direction);
        return positions;
    }
    Vec3 direction_;
    std::vector<Vec3> flat_;
    PointGrid grid_;
};

/// How far a copy can go until a point of the surface meets one of its faces: the surface's peaks between the copy's points count, too.
class CopyFaces {
public:
    CopyFaces(const Geometry& in, const Ground& ground, Vec3 direction, bool fromOutside, const std::vector<float>& radius)
        : ground_(ground), direction_(direction), fromOutside_(fromOutside), points_(ground.positions(), direction, typicalReach(radius)) {
        for (const auto& shape : in.copies()->shapes) scenes_.push_back(std::make_unique<RayScene>(bakeCopies(*shape)));
    }
    std::optional<float> way(const Affine& place, Index shape, Vec3 middle, float radius) const {
        if (!(std::abs(place.determinant()) > 0)) return {};
        const Affine back = inverse(place);
        const Vec3 local = back.vector(-direction_);
        const float scale = length(local), far = radius * 4;
        std::optional<float> least;
        points_.around(middle, radius, [&](Index p) {
            // From ahead of the copy back to its near side.
            const Vec3 at = ground_.positions()[p], start = at + direction_ * (dot(middle - at, direction_) + far);
            const auto met = scenes_[shape]->firstHit(back.point(start), local / scale, 0);
            if (!met) return;
            const float way = dot(at - start, direction_) + *met / scale;
            if ((fromOutside_ || way >= 0) && (!least || way < *least)) least = way;
        });
        return least;
    }

private:
    const Ground& ground_;
    Vec3 direction_;
    bool fromOutside_;
    SurfacePoints points_;
    std::vector<std::unique_ptr<RayScene>> scenes_;
};

Geometry computeRestOn(OperatorCall& call) {
    const Geometry& in = call.in();
    const Geometry surface = bakeCopies(call.port(1).front());
    if (surface.faceCount() == 0) call.fail("surface.none", "The surface has no faces to rest on.");
    const Vec3 direction = normalized(call.vec3("direction"), {});
    if (!(length(direction) > 0.5f)) call.fail("rest.direction", "The direction has no length. Use 0, -1, 0 for straight down.", "direction");
    const bool whole = call.choice("touch") == "whole shape", fromOutside = call.choice("from") == "outside", removes = call.choice("missed") == "remove";
    const Movables things(in);
    const Field<float> sink = call.each("sink", in, things.element()), lean = call.each("lean", in, things.element()),
                       where = call.weights(in, things.element());

    // As far as anything can be from the surface, so that a start from outside is outside.
    Bounds all = boundsOf(surface.positions());
    std::vector<float> radius(things.count(), 0);
    for (std::size_t i = 0; i < things.count(); ++i) {
        const Vec3 pivot = things.pivot(i);
        things.eachPoint(i, [&](Vec3 p) { all.add(p), radius[i] = std::max(radius[i], distance(p, pivot)); });
    }
    const Ground ground(surface, direction, fromOutside, float(all.diagonal()));
    const bool copies = things.kind() == Movables::Kind::copies;
    std::optional<CopyFaces> faces;
    if (copies && whole) faces.emplace(in, ground, direction, fromOutside, radius);

    std::vector<Affine> maps(things.count());
    std::vector<std::uint8_t> met(things.count(), 1);
    forEach(
        maps.size(), call.run(),
        [&](std::size_t i) {
            if (!(where[things.row(i)] > 0.5f)) return;
            const Vec3 pivot = things.pivot(i);
            Affine map;
            if (const float part = lean[things.row(i)]; part != 0)
                if (const auto normal = ground.normalAhead(pivot)) map = about(pivot, leaning(-direction, *normal, part));
            std::optional<float> way;
            const auto shorter = [&](std::optional<float> other) {
                if (other && (!way || *other < *way)) way = other;
            };
            if (whole) things.eachPoint(i, [&](Vec3 p) { shorter(ground.way(map.point(p))); });
            else shorter(ground.way(pivot));
            if (faces) shorter(faces->way(map * in.copies()->place[i], in.copies()->shapeOf[i], pivot, radius[i]));
            met[i] = way.has_value();
            if (!way) return;
            map.move += direction * (*way + sink[things.row(i)]);
            maps[i] = map;
        },
        64);
    const auto missed = std::count(met.begin(), met.end(), 0);
    if (missed > 0)
        call.tell(NoticeLevel::info, "rest.missed",
                  fmt::format("{} of {} meet nothing in that direction and {}.", missed, met.size(), removes ? "were taken away" : "stay where they are"),
                  "missed");
    Geometry out = things.moved(maps);
    return missed > 0 && removes ? Movables(out).kept(met) : out;
}

}  // namespace

OperatorSpec restOnOperator() {
    OperatorSpec spec;
    spec.id = "rest_on";
    spec.order = 850;
    spec.label = "Rest on";
    spec.family = Family::scatter;
    spec.sentence = "Lowers or pushes copies along a direction until they touch a surface.";
    spec.help =
        "From outside, each starts far behind and stops at the first surface that any part of it meets, so that what hung in the air comes down and what was "
        "sunk in comes out. From where it is, it only goes on. "
        "Then it sinks in by a depth, and leans with the surface as far as wanted. Contact is looked for from the shape's points to the surface and from the "
        "surface's points to the shape. Without copies, connected pieces or points are moved.";
    spec.synonyms = {"drop", "ground", "lower", "land", "stick to", "push onto", "gravity", "floating", "lay"};
    spec.inputs = {{"in", "Copies"}, {"surface", "Surface"}};
    spec.settings = {
        vec3Setting("direction", "Direction", Unit::none, {0, -1, 0}).helped("Where to; its length does not matter."),
        numberSetting("sink", "Sink", Unit::metre, 0).within(-1e6, 1e6).slider(0, 0.2).each().helped("How far it goes on after it has touched."),
        numberSetting("lean", "Lean", Unit::part, 0)
            .within(0, 1)
            .slider(0, 1)
            .each()
            .helped("How far its up axis turns to the surface's normal: 0 not at all, 1 all the way."),
        choiceSetting("touch", "Touch", {"whole shape", "origin"}, "whole shape")
            .helped("What has to touch: any part of the shape, or its origin alone, which is quicker."),
        choiceSetting("from", "From", {"outside", "where it is"}, "outside").helped("Where it starts: far behind, or where it stands."),
        choiceSetting("missed", "Missed", {"keep", "remove"}, "keep").helped("What happens to those that meet nothing."),
        whereSetting(Element::point),
    };
    spec.takes = Takes::copies;
    spec.sample =
        sample::merged(sample::plugged(sample::step(spec.id, {{"lean", 0.5}},
                                                    {sample::step("transform", {{"move", {0, 0.8, 0}}},
                                                                  {sample::boxesOnHill({{"mode", "spacing"}, {"spacing", 0.22}},
                                                                                       {{"turn", {{"random", {{"range", {0, 360}}}}}}, {"align", "none"}})})}),
                                       "surface", sample::hill()),
                       sample::hill());
    spec.compute = computeRestOn;
    return spec;
}

}  // namespace seedloom

#include "operators/scatter/ScatterPlaces.h"

#include "geometry/Measures.h"
#include "geometry/Turning.h"
#include "operators/attribute/Strokes.h"
#include "parallel/Loops.h"
#include "scatter/Relax.h"
#include "scatter/Samples.h"
#include "scatter/Spacing.h"
#include "scatter/Streams.h"

#include <set>

namespace seedloom {

namespace {

constexpr double kPacked = 0.70;  // points in a square metre that are thrown at random and keep a metre apart (measured)

using On = ScatterGround::On;

/// The mask and what was painted, for each corner or point of a curve; one value where it is the same everywhere.
std::vector<float> maskOf(OperatorCall& call, const Geometry& in, Element element) {
    const Field<float> where = call.weights(in, element);
    const bool painted = hasStrokes(call);
    if (where.uniform && !painted) return {where.value};
    std::vector<float> out(in.count(element));
    const std::vector<float> strokes = painted ? paintedOver(call, in, std::vector<float>(in.pointCount(), 0)) : std::vector<float>();
    const auto& pointOf = in.topology().cornerPoint();
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = where[i] * (painted ? strokes[element == Element::corner ? pointOf[i] : i] : 1);
    return out;
}

/// mask × value, as one value where both are.
std::vector<float> times(const std::vector<float>& mask, const Field<float>& field, std::size_t count, auto&& of) {
    if (mask.size() == 1 && field.uniform) return {mask.front() * of(field.value)};
    std::vector<float> out(count);
    for (std::size_t i = 0; i < count; ++i) {
        const float m = mask.size() == 1 ? mask.front() : mask[i];
        out[i] = m > 0 ? m * of(field[i]) : 0;
    }
    return out;
}

void writeDensity(ScatteredPlaces& out, const Geometry& in, Element element, std::vector<float> density, double scale) {
    out.ground = in;
    if (density.size() == 1) density.assign(in.pointCount(), density.front()), element = Element::point;
    for (float& d : density) d = float(double(d) * scale);
    out.ground.removeColumn(element == Element::point ? Element::corner : Element::point, "density");
    out.ground.setColumn(element, "density", Column(std::move(density)));
}

void takeSamples(const ScatterGround& ground, const std::vector<Arrival>& arrivals, double scale, const RunContext& run, ScatteredPlaces& out) {
    out.places.resize(arrivals.size());
    out.hashes.resize(arrivals.size());
    out.density.resize(arrivals.size());
    forEach(arrivals.size(), run, [&](std::size_t i) {
        const ScatterGround::Sample sample = ground.at(arrivals[i]);
        out.places[i] = sample.place, out.hashes[i] = sample.hash, out.density[i] = float(double(sample.density) * scale);
    });
}

void relax(OperatorCall& call, const Geometry& in, const ScatterGround& ground, bool curves, double scale, ScatteredPlaces& out) {
    constexpr float kReach = 1.7f;  // of the distance at which points would stand in a square grid
    RelaxOptions options;
    options.rounds = call.integer("relax");
    if (options.rounds == 0 || out.places.size() < 2) return;
    const NearestPlace nearest(in, curves ? NearestPlace::On::curves : NearestPlace::On::faces);
    std::vector<float> reach(out.places.size());
    for (std::size_t i = 0; i < reach.size(); ++i) reach[i] = out.density[i] > 0 ? kReach / (curves ? out.density[i] : std::sqrt(out.density[i])) : 0;
    for (Place& place : out.places) place.part = 0;  // parts are numbered anew by the search
    options.settle = [&](Vec3 moved, const Place& before) -> std::optional<Place> {
        const Place to = nearest.find(moved, before.part);
        return ground.densityAt(to) > 0 ? std::optional(to) : std::nullopt;
    };
    relaxPlaces(out.places, reach, options, call.run());
    for (std::size_t i = 0; i < out.places.size(); ++i) out.density[i] = float(double(ground.densityAt(out.places[i])) * scale);
}

ScatteredPlaces byNumber(OperatorCall& call, const Geometry& in, bool curves, bool exact) {
    const Element element = curves ? Element::point : Element::corner;
    const std::vector<float> mask = maskOf(call, in, element);
    const auto same = [](float v) { return v; };
    const std::vector<float> density = exact ? mask : times(mask, call.each("density", in, element), in.count(element), same);
    const ScatterGround ground(in, curves ? On::curves : On::faces, density, call.number("seed"));
    ScatteredPlaces out;
    out.size = ground.size();
    const auto count = std::size_t(exact ? call.integer("count") : 0);
    const auto arrivals = exact ? ground.arrivals().first(count, call.run()) : ground.arrivals().between(0, 1, call.run());
    out.expected = exact ? double(arrivals.size()) : ground.expected();
    // In count mode the mask is a share of the whole; as points per m² it is scaled.
    const double scale = exact && ground.expected() > 0 ? double(count) / ground.expected() : 1;
    takeSamples(ground, arrivals, scale, call.run(), out);
    relax(call, in, ground, curves, scale, out);
    writeDensity(out, in, element, density, scale);
    return out;
}

/// Points are thrown in rounds, as many each as may fit, until hardly one finds room. A mask thins what has found its place.
ScatteredPlaces bySpacing(OperatorCall& call, const Geometry& in, bool curves) {
    constexpr int kMostRounds = 16;
    constexpr double kFewEnough = 0.006;  // of all points, in one round
    const Element element = curves ? Element::point : Element::corner;
    const std::vector<float> mask = maskOf(call, in, element);
    const Field<float> spacing = call.each("spacing", in, element);
    const auto packed = [&](float r) { return float(curves ? 1.0 / double(r) : kPacked / (double(r) * double(r))); };
    std::vector<float> somewhere = mask;
    for (float& m : somewhere) m = m > 0 ? 1 : 0;
    const ScatterGround ground(in, curves ? On::curves : On::faces, times(somewhere, spacing, in.count(element), packed), call.number("seed"));
    const auto spacingAt = [&](const Place& p) {
        if (spacing.uniform) return spacing.value;
        const auto& rows = curves ? p.points : p.corners;
        return spacing[rows[0]] * p.weights[0] + spacing[rows[1]] * p.weights[1] + spacing[rows[2]] * p.weights[2];
    };
    const auto maskAt = [&](const Place& p) {
        if (mask.size() == 1) return mask.front();
        const auto& rows = curves ? p.points : p.corners;
        return mask[rows[0]] * p.weights[0] + mask[rows[1]] * p.weights[1] + mask[rows[2]] * p.weights[2];
    };
    float least = spacing.value, largest = spacing.value;
    if (!spacing.uniform && !spacing.values.empty()) {
        least = *std::min_element(spacing.values.begin(), spacing.values.end());
        largest = *std::max_element(spacing.values.begin(), spacing.values.end());
    }
    ScatteredPlaces out, round;
    out.size = ground.size();
    out.expected = ground.expected();
    SpacedPoints taken(std::max(double(least), double(largest) / 16));
    for (int i = 0; i < kMostRounds; ++i) {
        // The first round decides, and goes by chance; the others fill gaps, face after face, which is quicker, and look for them side by side.
        takeSamples(ground, ground.arrivals().between(2 * i, 2 * i + 2, call.run(), i == 0 ? Arrivals::Order::time : Arrivals::Order::part), 1, call.run(),
                    round);
        std::vector<std::uint8_t> room(round.places.size(), 1);
        if (i > 0) forEach(room.size(), call.run(), [&](std::size_t k) { room[k] = taken.hasRoom(round.places[k].position, spacingAt(round.places[k])); });
        const std::size_t before = taken.count();
        for (std::size_t k = 0; k < round.places.size(); ++k) {
            if (k % 4096 == 0) call.run().poll();
            const Place& place = round.places[k];
            if (!room[k] || !taken.take(place.position, spacingAt(place))) continue;
            // Another number than the one that chose the place.
            const float share = maskAt(place);
            if (share < 1 && unitOf(mixBits(round.hashes[k] + 11)) >= double(share)) continue;
            out.places.push_back(place), out.hashes.push_back(round.hashes[k]), out.density.push_back(round.density[k] * share);
        }
        call.run().setProgress(float(i + 1) / kMostRounds);
        if (double(taken.count() - before) < kFewEnough * double(taken.count())) break;
    }
    writeDensity(out, in, element, times(mask, spacing, in.count(element), packed), 1);
    return out;
}

/// Of the same name the column of the element that says most about a place.
const std::array kInherited{Element::point, Element::corner, Element::face, Element::curve, Element::model};

std::vector<Vec3> normalsAt(const Geometry& in, const std::vector<Place>& places, bool curves) {
    std::vector<Vec3> out(places.size());
    const auto* stored = in.values<Vec3>(Element::corner, "normal");
    const auto* onPoints = in.values<Vec3>(Element::point, "normal");
    const auto mixed = [&](const Place& p, auto&& of) { return normalized(of(0) * p.weights[0] + of(1) * p.weights[1] + of(2) * p.weights[2]); };
    if (curves || (onPoints && !stored)) {
        const std::vector<Vec3> computed = onPoints ? std::vector<Vec3>() : pointNormals(in);
        const auto& normals = onPoints ? *onPoints : computed;
        forEach(out.size(), RunContext(), [&](std::size_t i) { out[i] = mixed(places[i], [&](std::size_t k) { return normals[places[i].points[k]]; }); });
        return out;
    }
    constexpr double kSmoothBelow = 32;  // degrees, as the stage draws
    std::optional<CornerNormals> computed;
    if (!stored) {
        computed.emplace(in, kSmoothBelow);
        forChunks(in.faceCount(), RunContext(), [&](std::size_t, Range faces) { computed->prepare(faces.begin, faces.end); });
    }
    forEach(out.size(), RunContext(), [&](std::size_t i) {
        out[i] = mixed(places[i], [&](std::size_t k) { return stored ? (*stored)[places[i].corners[k]] : computed->of(places[i].corners[k]); });
    });
    return out;
}

/// Where along its curve each place is, 0–1.
std::vector<float> alongAt(const Geometry& in, const std::vector<Place>& places) {
    std::vector<double> metres(in.pointCount(), 0), length(in.curveCount(), 0);
    for (std::size_t c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        for (std::size_t i = 1; i < curve.size(); ++i) metres[curve[i]] = length[c] += double(distance(in.positions()[curve[i]], in.positions()[curve[i - 1]]));
        length[c] = curveLength(in, c);
    }
    std::vector<float> out(places.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const Place& place = places[i];
        const double at = metres[place.points[0]] + double(distance(in.positions()[place.points[0]], place.position));
        out[i] = length[place.element] > 0 ? float(std::clamp(at / length[place.element], 0.0, 1.0)) : 0;
    }
    return out;
}

std::vector<Vec3> tangentsAt(const Geometry& in, const std::vector<Place>& places) {
    std::vector<Vec3> out(places.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = normalized(in.positions()[places[i].points[1]] - in.positions()[places[i].points[0]], {1, 0, 0});
    return out;
}

}  // namespace

ScatteredPlaces scatterOnGround(OperatorCall& call, const Geometry& in, bool curves) {
    const std::string mode = call.choice("mode");
    return mode == "spacing" ? bySpacing(call, in, curves) : byNumber(call, in, curves, mode == "count");
}

static void inherit(Geometry& out, const Geometry& in, const std::vector<Place>& places, const std::set<std::string_view>& but) {
    for (Element element : kInherited)
        for (const auto& [name, column] : in.table(element)) {
            if (but.count(name) > 0 || out.column(Element::point, name)) continue;
            if (element == Element::model) {
                out.setColumn(element, name, column);
                continue;
            }
            Column values = valuesAt(column, element, places);
            if (const auto* directions = values.as<Vec3>(); directions && turnsOf(name) == Turns::as_direction) {
                std::vector<Vec3> unit = *directions;
                for (Vec3& d : unit) d = normalized(d, d);
                values = Column(std::move(unit));
            }
            out.setColumn(Element::point, name, std::move(values));
        }
}

static Geometry loosePoints(const std::vector<Place>& places) {
    std::vector<Vec3> at(places.size());
    for (std::size_t i = 0; i < at.size(); ++i) at[i] = places[i].position;
    return Geometry(std::move(at));
}

Geometry surfaceAt(const Geometry& in, const std::vector<Place>& places) {
    Geometry out = loosePoints(places);
    inherit(out, in, places, {"position", "normal"});
    out.setColumn(Element::point, "normal", Column(normalsAt(in, places, false)));
    return out;
}

Geometry pointsAt(const Geometry& in, const ScatteredPlaces& found, ScatterOn on) {
    const bool curves = on == ScatterOn::curves, inside = on == ScatterOn::inside;
    Geometry out = loosePoints(found.places);
    std::set<std::string_view> but{"position", "normal", "id", "density"};
    if (inside) but.insert("uv");  // a place on the skin says nothing of one inside
    inherit(out, in, found.places, but);
    if (curves) {
        if (!out.column(Element::point, "tangent")) out.setColumn(Element::point, "tangent", Column(tangentsAt(in, found.places)));
        // What the curve says of its points can't be mixed across the seam of a closed one.
        out.setColumn(Element::point, "along", Column(alongAt(in, found.places)));
    }
    out.setColumn(Element::point, "normal", Column(inside ? std::vector<Vec3>(found.places.size(), Vec3{0, 1, 0}) : normalsAt(in, found.places, curves)));
    out.setColumn(Element::point, "id", Column(idsOf(found.hashes)));
    out.setColumn(Element::point, "density", Column(found.density));
    return out;
}

}  // namespace seedloom

#include "operators/scatter/ScatterPlaces.h"

#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "scatter/Relax.h"
#include "scatter/Spacing.h"
#include "scatter/VolumeSamples.h"

#include <numeric>

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr double kPackedInside = 0.70;  // points in a cubic metre that are thrown at random and keep a metre apart (measured)
constexpr int kMostRounds = 16;

/// Candidates with what the settings say at their places.
class Inside {
public:
    Inside(OperatorCall& call, const Geometry& in) : call_(call), in_(in), ground_(in, call.number("seed")), nearest_(in, NearestPlace::On::faces) {
        for (Element element : {Element::point, Element::corner, Element::face})
            for (const auto& [name, column] : in.table(element)) inherits_ |= name != "position" && name != "normal" && name != "uv";
    }

    const VolumeGround& ground() const { return ground_; }

    void look(double time) {
        candidates_ = ground_.until(time, call_.run());
        points_ = Geometry();
    }
    const std::vector<VolumeCandidate>& candidates() const { return candidates_; }
    Field<float> each(const char* id) { return call_.each(id, points(id), Element::point); }
    Field<float> mask() { return call_.weights(points("where"), Element::point); }

    /// The candidate's place, with the nearest face where attributes of faces are wanted. Deep inside all faces are about as far, and each search costs.
    Place placeAt(Vec3 at) const {
        Place place;
        if (inherits_) place = nearest_.find(at);
        place.position = at;
        return place;
    }
    Place placeOf(std::size_t i) const { return placeAt(candidates_[i].at); }

private:
    /// Only a source that differs from place to place needs the candidates as points, with attributes of the nearest face.
    const Geometry& points(const char* id) {
        if (points_.pointCount() == candidates_.size()) return points_;
        const Source& source = call_.source(id);
        if (std::holds_alternative<FixedSource>(source) || std::holds_alternative<ControlSource>(source)) return in_;
        ScatteredPlaces all;
        all.places.resize(candidates_.size());
        forEach(
            candidates_.size(), call_.run(), [&](std::size_t i) { all.places[i] = placeOf(i); }, 256);
        for (const VolumeCandidate& c : candidates_) all.hashes.push_back(c.hash);
        all.density.assign(candidates_.size(), 0);
        points_ = pointsAt(in_, all, ScatterOn::inside);
        return points_;
    }

    OperatorCall& call_;
    const Geometry& in_;
    VolumeGround ground_;
    NearestPlace nearest_;
    bool inherits_ = false;
    std::vector<VolumeCandidate> candidates_;
    Geometry points_;
};

void take(const Inside& inside, std::size_t i, float density, ScatteredPlaces& out) {
    out.places.emplace_back().part = Index(i);  // filled in for all at once, by `settlePlaces`
    out.hashes.push_back(inside.candidates()[i].hash);
    out.density.push_back(density);
}

void settlePlaces(const Inside& inside, const RunContext& run, ScatteredPlaces& out) {
    forEach(
        out.places.size(), run, [&](std::size_t k) { out.places[k] = inside.placeOf(out.places[k].part); }, 256);
}

/// The candidates whose time, slowed by the mask, comes first.
void byCount(OperatorCall& call, Inside& inside, ScatteredPlaces& out) {
    const auto count = std::size_t(call.integer("count"));
    call.run().require(double(count), "points");
    if (count == 0) return;
    constexpr std::size_t kNothing = 50'000;  // candidates without one that may be taken: then there is no place
    double time = double(count) / out.size * 1.05;
    for (int round = 0; round < kMostRounds; ++round) {
        inside.look(time);
        const Field<float> mask = inside.mask();
        std::vector<std::pair<double, Index>> when;
        for (Index i = 0; i < inside.candidates().size(); ++i)
            if (mask[i] > 0)
                if (const double t = inside.candidates()[i].time / double(mask[i]); t <= time) when.push_back({t, i});
        if (when.size() < count && !(when.empty() && inside.candidates().size() > kNothing) && round + 1 < kMostRounds) {
            time *= when.empty() ? 4 : std::max(1.3, 1.15 * double(count) / double(when.size()));
            continue;
        }
        std::sort(when.begin(), when.end());
        when.resize(std::min(when.size(), count));
        for (const auto& [t, i] : when) take(inside, i, float(double(count) / out.size) * mask[i], out);
        out.expected = double(when.size());
        return;
    }
}

void byDensity(Inside& inside, ScatteredPlaces& out) {
    constexpr double kFirstLook = 2000;  // candidates from which the largest density is guessed
    double time = kFirstLook / out.size;
    for (int round = 0; round < kMostRounds; ++round) {
        inside.look(time);
        const Field<float> density = inside.each("density"), mask = inside.mask();
        const auto at = [&](std::size_t i) { return double(density[i]) * double(mask[i]); };
        double most = density.uniform && mask.uniform ? at(0) : 0;
        for (std::size_t i = 0; i < inside.candidates().size(); ++i)
            if (std::isfinite(at(i))) most = std::max(most, at(i));
        if (most > time) {
            time = most * (density.uniform && mask.uniform ? 1 : 1.05);
            continue;
        }
        std::vector<std::size_t> all;
        double sum = 0;
        for (std::size_t i = 0; i < inside.candidates().size(); ++i) {
            sum += at(i);
            if (inside.candidates()[i].time <= at(i)) take(inside, i, float(at(i)), out);
        }
        // Each candidate stands for the volume that is its share.
        out.expected = density.uniform && mask.uniform ? most * out.size : sum / time;
        return;
    }
}

void bySpacing(OperatorCall& call, Inside& inside, ScatteredPlaces& out) {
    constexpr double kTries = 12;  // candidates for each that may fit
    inside.look(1000 / out.size);
    Field<float> spacing = inside.each("spacing");
    double least = double(spacing.value);
    for (float s : spacing.values) least = std::min(spacing.uniform ? double(s) : least == 0 ? double(s) : least, double(s));
    inside.look(kTries * kPackedInside / (least * least * least));
    spacing = inside.each("spacing");
    const Field<float> mask = inside.mask();
    std::vector<Vec3> at;
    for (const VolumeCandidate& c : inside.candidates()) at.push_back(c.at);
    std::vector<Index> order;
    for (Index i = 0; i < at.size(); ++i)
        if (mask[i] > 0) order.push_back(i);
    const auto kept = keptApart(at, spacing.uniform ? std::vector<float>{spacing.value} : spacing.values, order, call.run());
    for (Index i : order) {
        const bool stays = mask[i] >= 1 || double(inside.candidates()[i].hash >> 11) * 0x1p-53 < double(mask[i]);
        if (kept[i] && stays) take(inside, i, float(kPackedInside * std::pow(double(spacing[i]), -3.0)) * mask[i], out);
    }
    out.expected = double(out.places.size());
}

}  // namespace

ScatteredPlaces scatterInside(OperatorCall& call, const Geometry& in) {
    const auto& edges = in.topology().edges();
    const auto open = std::count_if(edges.faceCount.begin(), edges.faceCount.end(), [](Index n) { return n != 2; });
    if (in.faceCount() == 0 || open > 0)
        call.fail("scatter.open",
                  in.faceCount() == 0
                      ? "There are no faces here, so there is no inside. Link a closed surface."
                      : fmt::format("The surface has {} open edges, so it has no inside. Close it with Fill holes, or scatter on the surface.", open),
                  "in");
    ScatteredPlaces out;
    out.ground = in;
    Inside inside(call, in);
    out.size = inside.ground().size();
    if (!(out.size > 0) || !std::isfinite(out.size))
        call.fail("scatter.flat", "The surface encloses no volume. Link a solid, or scatter on the surface.", "in");
    const std::string mode = call.choice("mode");
    mode == "count" ? byCount(call, inside, out) : mode == "density" ? byDensity(inside, out) : bySpacing(call, inside, out);
    settlePlaces(inside, call.run(), out);
    RelaxOptions options;
    options.rounds = mode == "spacing" ? 0 : call.integer("relax");
    if (options.rounds == 0 || out.places.size() < 2) return out;
    constexpr float kReach = 1.7f;
    std::vector<float> reach(out.places.size());
    for (std::size_t i = 0; i < reach.size(); ++i) reach[i] = out.density[i] > 0 ? kReach / std::cbrt(out.density[i]) : 0;
    const InsideTest test(in);
    options.settle = [&](Vec3 moved, const Place& before) -> std::optional<Place> {
        if (!test.inside(moved)) return {};
        Place to = before;
        to.position = moved;
        return to;
    };
    relaxPlaces(out.places, reach, options, call.run());
    forEach(
        out.places.size(), call.run(), [&](std::size_t i) { out.places[i] = inside.placeAt(out.places[i].position); }, 256);
    return out;
}

}  // namespace seedloom

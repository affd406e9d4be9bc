#include "scatter/SurfaceStrokes.h"

#include "parallel/Loops.h"
#include "scatter/StrokesApart.h"

#include <algorithm>
#include <numeric>
#include <optional>

namespace seedloom {

namespace {

constexpr std::size_t kStartsAtOnce = 256;
constexpr double kBeside = 1.2;        // of the distance at which strokes end: how far new ones begin from others
constexpr double kHardlyAStep = 1e-3;  // of a step: what is left of it before a border is no point of its own

/// The direction at a place, and how long it is.
struct Found {
    FinePlace direction;
    double length;
};

float mixed(const std::vector<float>& values, const std::array<Index, 3>& points, const std::array<double, 3>& weight) {
    double out = 0;
    for (std::size_t k = 0; k < 3; ++k) out += double(values[points[k]]) * weight[k];
    return float(out);
}

class Tracer {
public:
    Tracer(const SurfaceWalk& surface, const StrokeRule& rule) : surface_(surface), rule_(rule) {}

    /// False where there is no direction.
    bool begin(Walker& walker) const {
        if (!surface_.solid(walker.triangle)) return false;
        // The nearest one says which of both signs is ahead.
        std::array<std::size_t, 3> order{0, 1, 2};
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return walker.weight[a] > walker.weight[b]; });
        for (const std::size_t k : order)
            if (surface_.turn(walker, fine(rule_.directions[surface_.points(walker.triangle)[k]]))) return aim(walker, 0);
        return false;
    }

    /// From where the walker stands, without that place.
    std::vector<Walker> sideFrom(Walker walker) const {
        std::vector<Walker> out;
        for (int i = 0; i < rule_.steps; ++i) {
            const FinePlace before = walker.heading;
            if (!aim(walker, rule_.straighten)) break;
            lookAhead(walker);
            if (i > 0 && tooTight(before, walker)) break;
            const double came = surface_.go(walker, rule_.step);
            if (came < rule_.step * kHardlyAStep) break;
            out.push_back(walker);
            if (came < rule_.step) break;
        }
        return out;
    }

private:
    /// Whether it turns so that it would come too near to itself: in a circle less wide than strokes are apart.
    bool tooTight(const FinePlace& before, const Walker& walker) const {
        if (rule_.apart.empty()) return false;
        const double apart = double(mixed(rule_.apart, surface_.points(walker.triangle), walker.weight));
        return std::acos(std::clamp(dot(before, walker.heading), -1.0, 1.0)) * apart > 2 * rule_.step;
    }
    std::optional<Found> at(const Walker& walker) const {
        Found out{{}, 0};
        for (std::size_t k = 0; k < 3; ++k) {
            const FinePlace each = fine(rule_.directions[surface_.points(walker.triangle)[k]]);
            const double share = dot(each, walker.heading) < 0 ? -walker.weight[k] : walker.weight[k];
            for (std::size_t i = 0; i < 3; ++i) out.direction[i] += each[i] * share;
            out.length += std::sqrt(dot(each, each)) * walker.weight[k];
        }
        if (!(out.length > rule_.stopUnder)) return std::nullopt;
        return out;
    }

    /// Turns it to where the field leads, but for so much of where it looks.
    bool aim(Walker& walker, double keep) const {
        const std::optional<Found> found = at(walker);
        const FinePlace before = walker.heading;
        if (!found || !surface_.turn(walker, found->direction)) return false;
        if (keep == 0) return true;
        FinePlace between{};
        for (std::size_t i = 0; i < 3; ++i) between[i] = walker.heading[i] * (1 - keep) + before[i] * keep;
        return surface_.turn(walker, between);
    }

    /// The midpoint rule: by as much as the field turns over half a step. The angle is taken along, as both places have planes of their own.
    void lookAhead(Walker& walker) const {
        Walker mid = walker;
        if (surface_.go(mid, rule_.step / 2) < rule_.step / 2) return;
        const FinePlace straight = mid.heading;
        if (!aim(mid, rule_.straighten)) return;
        const FinePlace normal = surface_.normal(mid.triangle), own = surface_.normal(walker.triangle), side = cross(own, walker.heading);
        const double along = dot(straight, mid.heading), across = dot(cross(straight, mid.heading), normal);
        FinePlace turned{};
        for (std::size_t i = 0; i < 3; ++i) turned[i] = walker.heading[i] * along + side[i] * across;
        surface_.turn(walker, turned);
    }

    const SurfaceWalk& surface_;
    const StrokeRule& rule_;
};

/// A start with the ways that lead from it.
struct Traced {
    Walker start;
    std::vector<Walker> ahead, back;
    bool any = false;
};

Traced traced(const Tracer& tracer, const StrokeRule& rule, const Walker& start) {
    Traced out{start, {}, {}};
    if (!(out.any = tracer.begin(out.start))) return out;
    out.ahead = tracer.sideFrom(out.start);
    if (!rule.bothWays) return out;
    Walker turned = out.start;
    for (double& each : turned.heading) each = -each;
    out.back = tracer.sideFrom(turned);
    return out;
}

/// Takes strokes one after another, each as far as those before let it come.
class Keeper {
public:
    Keeper(const SurfaceWalk& surface, const StrokeRule& rule)
        : surface_(surface), rule_(rule),
          apart_(rule.apart.empty() ? 1 : std::max(1e-9, double(*std::max_element(rule.apart.begin(), rule.apart.end()))), rule.otherSide) {}

    float distanceAt(const Walker& walker) const { return rule_.apart.empty() ? 0 : mixed(rule_.apart, surface_.points(walker.triangle), walker.weight); }
    bool isFree(const Walker& walker, float distance) const { return distance <= 0 || apart_.isFree(sampleOf(walker, 0), distance); }

    /// Nothing where there is no room for it.
    void take(Traced traced, Index start) {
        if (!traced.any || !isFree(traced.start, distanceAt(traced.start))) return;
        const std::size_t before = added_;
        add(sampleOf(traced.start, 0));
        const double length = keep(traced.start, traced.ahead, 1) + keep(traced.start, traced.back, -1);
        points_ += 1 + traced.ahead.size() + traced.back.size();
        if (traced.ahead.size() + traced.back.size() == 0 || length < rule_.shortest) {
            while (added_ > before) removeLast();
            return;
        }
        Stroke stroke;
        stroke.start = start;
        for (auto it = traced.back.rbegin(); it != traced.back.rend(); ++it) {
            stroke.way.push_back(*it);
            for (double& each : stroke.way.back().heading) each = -each;
        }
        stroke.way.push_back(traced.start);
        stroke.way.insert(stroke.way.end(), traced.ahead.begin(), traced.ahead.end());
        strokes_.push_back(std::move(stroke));
    }
    const std::vector<Stroke>& strokes() const { return strokes_; }
    /// Of all strokes so far, those that were left out too.
    std::size_t points() const { return points_; }
    std::vector<Stroke> takeStrokes() { return std::move(strokes_); }

private:
    StrokesApart::Sample sampleOf(const Walker& walker, double arc) const {
        return {rounded(surface_.position(walker)), rounded(surface_.normal(walker.triangle)), Index(strokes_.size()), float(arc)};
    }
    void add(const StrokesApart::Sample& sample) {
        if (!rule_.apart.empty()) apart_.add(sample), ++added_;
    }
    void removeLast() { apart_.removeLast(), --added_; }

    /// All steps are as long as the rule says but the last one.
    double lengthOf(const Walker& start, const std::vector<Walker>& side) const {
        if (side.empty()) return 0;
        const FinePlace last = minus(surface_.position(side.back()), surface_.position(side.size() > 1 ? side[side.size() - 2] : start));
        return double(side.size() - 1) * rule_.step + std::sqrt(dot(last, last));
    }
    /// Shortens a side to what has room; its length.
    double keep(const Walker& start, std::vector<Walker>& side, double sign) {
        if (!rule_.apart.empty()) cutToRoom(start, side, sign);
        return lengthOf(start, side);
    }
    void cutToRoom(const Walker& start, std::vector<Walker>& side, double sign) {
        double arc = 0;
        StrokesApart::Sample last = sampleOf(start, 0);
        for (std::size_t i = 0; i < side.size(); ++i) {
            StrokesApart::Sample next = sampleOf(side[i], 0);
            next.arc = float(sign * (arc += double(distance(last.at, next.at))));
            if (!step(last, next, distanceAt(side[i]))) {
                side.resize(i);
                return;
            }
            last = next;
        }
    }
    /// Places between are looked at as well: steps may be longer than strokes are apart.
    bool step(const StrokesApart::Sample& last, const StrokesApart::Sample& next, float apart) {
        const std::size_t before = added_;
        const int parts = apart > 0 ? std::max(1, int(std::ceil(2 * distance(last.at, next.at) / apart))) : 1;
        for (int part = 1; part <= parts; ++part) {
            const float t = float(part) / float(parts);
            const StrokesApart::Sample sample{mix(last.at, next.at, t), next.normal, next.stroke, last.arc + (next.arc - last.arc) * t};
            if (apart > 0 && !apart_.isFree(sample, apart)) {
                while (added_ > before) removeLast();
                return false;
            }
            add(sample);
        }
        return true;
    }

    const SurfaceWalk& surface_;
    const StrokeRule& rule_;
    StrokesApart apart_;
    std::size_t added_ = 0, points_ = 0;
    std::vector<Stroke> strokes_;
};

/// Places where a first stroke may begin: points and middles of triangles, those with the longest directions first.
std::vector<Walker> firstPlaces(const SurfaceWalk& surface, const StrokeRule& rule) {
    std::vector<Walker> out;
    std::vector<double> length;
    std::vector<std::uint8_t> seen(rule.directions.size());
    for (Index t = 0; t < Index(surface.triangles()); ++t) {
        if (!surface.solid(t)) continue;
        double sum = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const Index p = surface.points(t)[k];
            const double each = double(seedloom::length(rule.directions[p]));
            sum += each / 3;
            if (seen[p]) continue;
            seen[p] = 1;
            Walker& walker = out.emplace_back();
            walker.triangle = t, walker.weight = {}, walker.weight[k] = 1;
            length.push_back(each);
        }
        out.push_back({t, {1.0 / 3, 1.0 / 3, 1.0 / 3}, {}});
        length.push_back(sum);
    }
    std::vector<std::size_t> order(out.size());
    std::iota(order.begin(), order.end(), std::size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return length[a] > length[b]; });
    std::vector<Walker> sorted;
    sorted.reserve(out.size());
    for (const std::size_t i : order)
        if (length[i] > rule.stopUnder) sorted.push_back(out[i]);
    return sorted;
}

}  // namespace

std::vector<Stroke> strokesFrom(const SurfaceWalk& surface, const StrokeRule& rule, const std::vector<Walker>& starts, const RunContext& run) {
    const Tracer tracer(surface, rule);
    Keeper keeper(surface, rule);
    for (std::size_t begin = 0; begin < starts.size(); begin += kStartsAtOnce) {
        std::vector<Traced> batch(std::min(kStartsAtOnce, starts.size() - begin));
        forEach(
            batch.size(), run, [&](std::size_t i) { batch[i] = traced(tracer, rule, starts[begin + i]); }, 8);
        for (std::size_t i = 0; i < batch.size(); ++i) keeper.take(std::move(batch[i]), Index(begin + i));
        run.setProgress(float(begin) / float(starts.size()));
    }
    return keeper.takeStrokes();
}

double pointsToFill(const SurfaceWalk& surface, const StrokeRule& rule) {
    double out = 0;
    for (Index t = 0; t < Index(surface.triangles()); ++t) {
        double apart = 0;
        for (const Index p : surface.points(t)) apart += double(rule.apart[p]) / 3;
        if (apart > 0) out += surface.area(t) / (apart * std::min(rule.step, apart));
    }
    return out;
}

std::vector<Stroke> strokesEverywhere(const SurfaceWalk& surface, const StrokeRule& rule, const RunContext& run) {
    const double expected = pointsToFill(surface, rule);
    const Tracer tracer(surface, rule);
    Keeper keeper(surface, rule);
    Index tried = 0;
    const auto tryAt = [&](const Walker& walker, double room) {
        const float distance = keeper.distanceAt(walker);
        if (distance <= 0 || !keeper.isFree(walker, distance * float(room))) return;
        if (++tried % 64 == 0) run.poll();
        keeper.take(traced(tracer, rule, walker), tried);
    };
    std::size_t looked = 0;
    const auto lookBeside = [&](const Walker& on) {
        for (const double sign : {1.0, -1.0}) {
            Walker walker = on;
            const FinePlace side = cross(surface.normal(on.triangle), on.heading);
            for (std::size_t i = 0; i < 3; ++i) walker.heading[i] = side[i] * sign;
            const double away = kBeside * double(keeper.distanceAt(on));
            if (away > 0 && surface.go(walker, away) >= away) tryAt(walker, 0.99);
        }
    };
    for (const Walker& first : firstPlaces(surface, rule)) {
        tryAt(first, 1);
        for (; looked < keeper.strokes().size(); ++looked) {
            const std::vector<Walker> way = keeper.strokes()[looked].way;
            for (const Walker& on : way) lookBeside(on);
            run.poll();
            run.setProgress(float(std::min(1.0, double(keeper.points()) / expected)));
        }
    }
    return keeper.takeStrokes();
}

}  // namespace seedloom

// Method: even lengths along; smooth by centripetal Catmull-Rom (Yuksel, Schaefer & Keyser, CAD 43(7), 2011).
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr int kSplineSteps = 24;  // straight pieces that stand for one smooth span while lengths are measured

/// A curve as a fine chain of places; each knows the span of the original it lies on and how far along that span.
struct Chain {
    std::vector<Vec3> place;
    std::vector<Index> span;
    std::vector<float> part;
    std::vector<double> along;        ///< metres from the start
    std::vector<std::size_t> corner;  ///< chain index of each original point
};

/// Centripetal Catmull–Rom span between b and c. Source: Yuksel, Schaefer, Keyser, "Parameterization and Applications of
/// Catmull-Rom Curves", CAD 43(7), 2011: passes through all points without loops or cusps within a span.
Vec3 splinePlace(Vec3 a, Vec3 b, Vec3 c, Vec3 d, float t) {
    const auto knot = [](Vec3 p, Vec3 q) { return std::max(std::sqrt(distance(p, q)), 1e-6f); };
    const float t1 = knot(a, b), t2 = t1 + knot(b, c), t3 = t2 + knot(c, d), at = t1 + (t2 - t1) * t;
    const Vec3 a1 = mix(a, b, at / t1), a2 = mix(b, c, (at - t1) / (t2 - t1)), a3 = mix(c, d, (at - t2) / (t3 - t2));
    const Vec3 b1 = mix(a1, a2, at / t2), b2 = mix(a2, a3, (at - t1) / (t3 - t1));
    return mix(b1, b2, (at - t1) / (t2 - t1));
}

Chain chainOf(std::span<const Index> curve, bool closed, const std::vector<Vec3>& positions, bool smooth) {
    Chain chain;
    const std::size_t n = curve.size(), spans = closed ? n : n - 1;
    const auto at = [&](std::ptrdiff_t i) -> Vec3 {
        const auto count = static_cast<std::ptrdiff_t>(n);
        if (closed) return positions[curve[static_cast<std::size_t>((i + count) % count)]];
        // Beyond an open end the curve goes on straight.
        if (i < 0) return positions[curve[0]] * 2 - positions[curve[1]];
        if (i >= count) return positions[curve[n - 1]] * 2 - positions[curve[n - 2]];
        return positions[curve[static_cast<std::size_t>(i)]];
    };
    for (std::size_t s = 0; s < spans; ++s) {
        const auto i = static_cast<std::ptrdiff_t>(s);
        chain.corner.push_back(chain.place.size());
        const int steps = smooth ? kSplineSteps : 1;
        for (int k = 0; k < steps; ++k) {
            const float t = static_cast<float>(k) / static_cast<float>(steps);
            chain.place.push_back(k == 0 ? at(i) : splinePlace(at(i - 1), at(i), at(i + 1), at(i + 2), t));
            chain.span.push_back(static_cast<Index>(s));
            chain.part.push_back(t);
        }
    }
    chain.corner.push_back(chain.place.size());
    chain.place.push_back(closed ? at(0) : at(static_cast<std::ptrdiff_t>(n) - 1));
    chain.span.push_back(static_cast<Index>(spans - 1));
    chain.part.push_back(1);
    chain.along.assign(1, 0);
    for (std::size_t i = 1; i < chain.place.size(); ++i) chain.along.push_back(chain.along.back() + double(distance(chain.place[i - 1], chain.place[i])));
    return chain;
}

/// Distances along the chain at which points are wanted; for closed curves without the repeated end.
std::vector<double> evenPlaces(double from, double to, std::size_t intervals) {
    std::vector<double> out;
    for (std::size_t i = 0; i < intervals; ++i) out.push_back(from + (to - from) * double(i) / double(intervals));
    return out;
}

/// Shares `total` intervals among stretches by length, at least one each (largest remainders first).
std::vector<std::size_t> shareIntervals(const std::vector<double>& lengths, std::size_t total) {
    double sum = 0;
    for (double l : lengths) sum += l;
    std::vector<std::size_t> out(lengths.size(), 1);
    std::size_t used = lengths.size();
    while (used < total) {
        std::size_t best = 0;
        double bestStep = -1;
        // The stretch whose intervals are longest now gets one more: points end up as even as corners allow.
        for (std::size_t i = 0; i < lengths.size(); ++i)
            if (lengths[i] / double(out[i]) > bestStep) bestStep = lengths[i] / double(out[i]), best = i;
        const double ideal = sum > 0 ? lengths[best] / sum * double(total) : 1;
        const std::size_t more = std::max<std::size_t>(1, ideal > double(out[best]) * 2 ? std::size_t(ideal / 2) : 1);
        const std::size_t take = std::min(more, total - used);
        out[best] += take;
        used += take;
    }
    return out;
}

struct Options {
    bool bySpacing, keepCorners, smooth;
    std::size_t count;
    double spacing;
};

std::vector<double> placesFor(const Chain& chain, bool closed, const Options& options, bool& tooFew) {
    const double length = chain.along.back();
    std::vector<double> out;
    if (!options.keepCorners) {
        const std::size_t intervals =
            options.bySpacing ? std::max<std::size_t>(1, std::size_t(std::llround(length / options.spacing))) : (closed ? options.count : options.count - 1);
        out = evenPlaces(0, length, intervals);
    } else {
        std::vector<double> lengths;
        for (std::size_t i = 1; i < chain.corner.size(); ++i) lengths.push_back(chain.along[chain.corner[i]] - chain.along[chain.corner[i - 1]]);
        std::vector<std::size_t> shares;
        if (options.bySpacing) {
            for (double l : lengths) shares.push_back(std::max<std::size_t>(1, std::size_t(std::llround(l / options.spacing))));
        } else {
            const std::size_t total = closed ? options.count : options.count - 1;
            tooFew |= total < lengths.size();
            shares = shareIntervals(lengths, total);
        }
        for (std::size_t i = 0; i < lengths.size(); ++i) {
            const auto part = evenPlaces(chain.along[chain.corner[i]], chain.along[chain.corner[i + 1]], shares[i]);
            out.insert(out.end(), part.begin(), part.end());
        }
    }
    if (!closed) out.push_back(length);
    return out;
}

/// Collects the new curves with the rows and weights of their attributes.
class Resampler {
public:
    Resampler(const Geometry& in, const Options& options) : in_(in), options_(options) {}

    void addCurve(Index c, const RunContext& run) {
        const auto curve = in_.topology().curve(c);
        const bool closed = in_.topology().curveClosed(c) && curve.size() > 2;
        if (curve.size() < 2) return;
        const Chain chain = chainOf(curve, closed, in_.positions(), options_.smooth);
        const double length = chain.along.back();
        if (!std::isfinite(length)) return;
        if (options_.bySpacing) run.require(length / options_.spacing + double(curve.size()), "points");
        std::size_t piece = 0;
        for (double at : placesFor(chain, closed, options_, tooFew_)) {
            while (piece + 2 < chain.along.size() && chain.along[piece + 1] <= at) ++piece;
            addPoint(curve, chain, piece, at, length);
        }
        closed_.push_back(closed);
        curveStart_.push_back(static_cast<Index>(place_.size()));
        sourceCurve_.push_back(c);
    }

    Geometry finish() {
        const std::size_t n = place_.size();
        std::vector<Index> order(n);
        for (Index i = 0; i < n; ++i) order[i] = i;
        Geometry out(std::move(place_), Topology(n, {0}, {}, std::move(curveStart_), std::move(order), std::move(closed_)));
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position") out.setColumn(Element::point, name, mixRows(column, low_, high_, t_));
        for (const auto& [name, column] : in_.table(Element::curve)) out.setColumn(Element::curve, name, gather(column, sourceCurve_));
        out.setColumn(Element::point, "along", Column(std::move(along_)));
        std::vector<Vec3> tangents(n);
        for (std::size_t c = 0; c < out.curveCount(); ++c) {
            const auto curve = out.topology().curve(c);
            for (std::size_t i = 0; i < curve.size(); ++i) tangents[curve[i]] = curveTangent(curve, out.topology().curveClosed(c), i, out.positions());
        }
        out.setColumn(Element::point, "tangent", Column(std::move(tangents)));
        return out;
    }
    bool tooFew() const { return tooFew_; }

private:
    void addPoint(std::span<const Index> curve, const Chain& chain, std::size_t piece, double at, double length) {
        const double step = chain.along[piece + 1] - chain.along[piece];
        const float t = step > 0 ? static_cast<float>(std::clamp((at - chain.along[piece]) / step, 0.0, 1.0)) : 0;
        // Ends and corners are met exactly.
        place_.push_back(t == 0 ? chain.place[piece] : t == 1 ? chain.place[piece + 1] : mix(chain.place[piece], chain.place[piece + 1], t));
        const Index span = chain.span[piece];
        const float next = chain.span[piece + 1] == span ? chain.part[piece + 1] : 1.0f;
        low_.push_back(curve[span]);
        high_.push_back(curve[(span + 1) % curve.size()]);
        t_.push_back(chain.part[piece] + (next - chain.part[piece]) * t);
        along_.push_back(length > 0 ? static_cast<float>(at / length) : 0);
    }

    const Geometry& in_;
    const Options& options_;
    std::vector<Vec3> place_;
    std::vector<Index> low_, high_, curveStart_{0}, sourceCurve_;
    std::vector<float> t_, along_;
    std::vector<std::uint8_t> closed_;
    bool tooFew_ = false;
};

Geometry computeResample(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Resample needs a curve, and none is plugged in. Link a line, a polygon or joined points to it.");
    Options options{call.choice("mode") == "spacing", call.flag("keep_corners"), call.choice("form") == "smooth", std::size_t(call.integer("count")),
                    call.number("spacing")};
    if (!options.bySpacing) call.run().require(double(options.count) * double(in.curveCount()), "points");
    Resampler resampler(in, options);
    for (Index c = 0; c < in.curveCount(); ++c) {
        call.run().poll();
        resampler.addCurve(c, call.run());
    }
    Geometry out = resampler.finish();
    if (resampler.tooFew())
        call.tell(NoticeLevel::warning, "resample.few", "Count is smaller than the number of corners to keep; every corner was kept.", "count");
    Geometry rest = withoutCurves(in);
    return rest.pointCount() > 0 || rest.copyCount() > 0 ? combine({rest, out}) : out;
}

}  // namespace

OperatorSpec resampleOperator() {
    OperatorSpec spec;
    spec.id = "resample";
    spec.order = 160;
    spec.label = "Resample";
    spec.family = Family::curve;
    spec.sentence = "Gives curves evenly spaced points, by number or by distance.";
    spec.help =
        "Writes along (0 at the start, 1 at the end) and tangent. Smooth passes a rounded curve through the old points (centripetal "
        "Catmull–Rom). With kept corners every old point stays, and the spacing is even between them.";
    spec.takes = Takes::curves;
    spec.synonyms = {"even spacing", "even points", "divide", "refine", "more points", "spacing", "count"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        choiceSetting("mode", "Mode", {"count", "spacing"}, "count").helped("By number of points, or by their distance."),
        integerSetting("count", "Count", 16).atLeast(2).slider(2, 200).helped("Points on each curve, both ends included.").when("mode", {"count"}),
        numberSetting("spacing", "Spacing", Unit::metre, 0.1)
            .within(1e-6, 1e6)
            .slider(0.01, 1)
            .helped("Distance between points, rounded so that it divides the curve evenly.")
            .when("mode", {"spacing"}),
        flagSetting("keep_corners", "Keep corners", false).helped("Keeps every old point exactly where it is."),
        choiceSetting("form", "Form", {"straight", "smooth"}, "straight").helped("Follows the old curve, or rounds it through its points."),
    };
    spec.sample = sample::step(spec.id, {{"count", 14}, {"form", "smooth"}}, {sample::way()});
    spec.compute = computeResample;
    return spec;
}

}  // namespace seedloom

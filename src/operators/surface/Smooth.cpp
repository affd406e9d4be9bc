// Method: Laplacian, or with kept volume (Taubin, SIGGRAPH 1995).
#include "geometry/Neighbours.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

class Smoother {
public:
    Smoother(const Geometry& in, const RunContext& run) : neighbours_(pointNeighbours(in.topology())), at_(in.positions()), next_(at_.size()), run_(run) {}

    /// Each point goes by its step from where it is to the middle of its neighbours.
    void round(const std::function<float(std::size_t)>& step) {
        forEach(at_.size(), run_, [&](std::size_t p) {
            const auto beside = neighbours_[p];
            const float by = step(p);
            next_[p] = at_[p];
            if (beside.empty() || by == 0) return;
            Vec3 middle{};
            for (Index n : beside) middle += at_[n];
            next_[p] = mix(at_[p], middle * (1.0f / float(beside.size())), by);
        });
        at_.swap(next_);
    }
    std::vector<Vec3> take() { return std::move(at_); }

private:
    Rows neighbours_;
    std::vector<Vec3> at_, next_;
    const RunContext& run_;
};

Geometry computeSmooth(OperatorCall& call) {
    const Geometry& in = call.in();
    const Field<float> amount = call.each("amount", in), weights = call.weights(in, Element::point);
    const int iterations = call.integer("iterations");
    const bool keepVolume = call.flag("keep_volume");
    const auto held = call.flag("hold_open_edges") ? borderPoints(in.topology()) : std::vector<std::uint8_t>(in.pointCount(), 0);
    // Half of the way at most: further, and neighbours would leap over each other.
    const auto forward = [&](std::size_t p) { return held[p] ? 0.0f : std::clamp(amount[p], 0.0f, 1.0f) * 0.5f; };
    // Taubin, "A Signal Processing Approach to Fair Surface Design", SIGGRAPH 1995: a step back lets all that is wider than a few edges stay.
    const auto backward = [&](std::size_t p) {
        const float by = forward(p);
        return by == 0 ? 0.0f : 1 / (0.1f - 1 / by);
    };
    Smoother smoother(in, call.run());
    for (int i = 0; i < iterations; ++i) {
        call.run().poll();
        call.run().setProgress(float(i) / float(iterations));
        smoother.round(forward);
        if (keepVolume) smoother.round(backward);
    }
    std::vector<float> each(in.pointCount());
    for (std::size_t p = 0; p < each.size(); ++p) each[p] = weights[p];
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), smoother.take(), each));
    return out;
}

}  // namespace

OperatorSpec smoothOperator() {
    OperatorSpec spec;
    spec.id = "smooth";
    spec.order = 460;
    spec.label = "Smooth";
    spec.family = Family::surface;
    spec.sentence = "Evens out a surface by moving each point towards the middle of its neighbours.";
    spec.help =
        "Faces and points keep their numbers. Plain smoothing shrinks the shape; with its volume kept, every step is followed by one back that only small "
        "bumps do not survive (Taubin, 1995).";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"soften", "relax", "fair", "polish", "blur", "even out"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::part, 0.5)
            .within(0, 1)
            .slider(0, 1)
            .each()
            .helped("How far each point moves in one round; 1 is half of the way."),
        integerSetting("iterations", "Rounds", 10).within(0, 10000).slider(0, 100).helped("How often it is repeated."),
        flagSetting("keep_volume", "Keep volume", true).helped("Follows each step by one back, so that the shape does not shrink."),
        flagSetting("hold_open_edges", "Hold open edges", true).helped("Leaves points on open edges, and ends of curves, where they are."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"iterations", 8}, {"amount", 0.8}}, {sample::cells()});
    spec.compute = computeSmooth;
    return spec;
}

}  // namespace seedloom

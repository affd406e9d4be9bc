#include "operators/deform/HandShapeKernel.h"

#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Neighbours.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

/// A brush without a soft edge would tear: this part of the radius always falls off.
constexpr float kLeastSoft = 0.1f;
constexpr float kDeepest = 0.5f;    ///< of the radius, what a push goes at full strength
constexpr float kFlattest = 0.97f;  ///< of the way to the plane: all of it would lay both sides of a wall on each other
constexpr float kNearest = 0.7f;    ///< of the way to the line
constexpr int kMostSteps = 4096;
constexpr float kFacesAway = -0.2f;
constexpr float kSteepest = 1.5f;  ///< of the pressure, per softened part of the radius (of 3t² − 2t³)

/// The share that, done `steps` times, comes to `whole`.
float shareOfStep(float whole, int steps) { return 1 - std::pow(1 - whole, 1 / float(steps)); }

enum class Brushing : std::uint8_t { grab, push, pull, flatten, pinch, smooth };

Brushing brushingOf(const HandStroke& stroke) {
    constexpr std::array<const char*, 5> kNames{"grab", "push", "pull", "flatten", "pinch"};
    const auto* name = std::find(kNames.begin(), kNames.end(), stroke.mode);
    return Brushing(name - kNames.begin());
}

/// Where one image of a stroke takes a point.
class HandFlow {
public:
    HandFlow(const HandStroke& stroke, float amount, int steps) : stroke_(stroke), does_(brushingOf(stroke)), line_(lineOf(stroke), NearestPlace::On::curves) {
        const float strength = stroke.strength * amount, depth = strength * kDeepest * stroke.radius / float(steps);
        if (does_ == Brushing::push) step_ = -depth;
        if (does_ == Brushing::pull) step_ = depth;
        if (does_ == Brushing::flatten) step_ = shareOfStep(strength * kFlattest, steps);
        if (does_ == Brushing::pinch) step_ = shareOfStep(strength * kNearest, steps);
        way_ = (stroke.at.back() - stroke.at.front()) * (amount / float(steps));
        for (const Vec3& p : stroke.at) middle_ += p / float(stroke.at.size());
        for (const Vec3& n : stroke.normal) facing_ += n;
        facing_ = normalized(facing_, {});
    }

    /// How far a point goes in a step, before it is weighed; `away`: it looks the other way.
    Vec3 at(Vec3 p, int step, bool away) const {
        if (does_ == Brushing::grab) return way_ * stroke_.pressure(distance(p, stroke_.at.front() + way_ * float(step)));
        const Place place = line_.find(p);
        const float pressure = stroke_.pressure(std::sqrt(place.squaredDistance));
        if (pressure <= 0) return {};
        if (does_ == Brushing::flatten) {
            const float height = dot(p - middle_, facing_);
            // The far side of a wall only gives way to what comes down.
            return away && height < 0 ? Vec3{} : facing_ * (-height * step_ * pressure);
        }
        const Vec3 normal = normalAt(place);
        if (does_ == Brushing::pinch) {
            const Vec3 to = place.position - p;
            return (to - normal * dot(to, normal)) * (step_ * pressure);
        }
        return normal * (step_ * pressure);
    }
    float pressureAt(Vec3 p) const { return stroke_.pressure(std::sqrt(line_.find(p).squaredDistance)); }
    Vec3 facing() const { return facing_; }
    /// What the brush touches on its whole way.
    Bounds bounds() const {
        Bounds out = boundsOf(stroke_.at);
        const Vec3 rim = Vec3{1, 1, 1} * stroke_.radius;
        out.min = out.min - rim, out.max = out.max + rim;
        return out;
    }

private:
    Vec3 normalAt(const Place& place) const {
        if (stroke_.normal.empty()) return {};
        Vec3 out{};
        for (std::size_t i = 0; i < 2; ++i) out += stroke_.normal[place.points[i]] * place.weights[i];
        return normalized(out, facing_);
    }

    const HandStroke& stroke_;
    Brushing does_;
    NearestPlace line_;
    Vec3 way_{}, middle_{}, facing_{};
    float step_ = 0;
};

/// So many that no step goes further than a third of what would fold space.
int stepsOf(const StrokeImages& images, float amount) {
    const HandStroke& stroke = images.front();
    const float soft = std::max(stroke.soft, kLeastSoft) * stroke.radius, strength = stroke.strength * amount;
    const auto needed = [&](float way) { return 3 * way * kSteepest * float(images.size()) / soft; };
    float steps = 1;
    const Brushing does = brushingOf(stroke);
    if (does == Brushing::grab) steps = needed(distance(stroke.at.front(), stroke.at.back()) * amount);
    else if (does == Brushing::push || does == Brushing::pull) steps = needed(kDeepest * stroke.radius * strength);
    else if (images.size() > 1) steps = 4 * float(images.size());  // one alone is in order as it is, two may add up
    return steps < float(kMostSteps) ? std::max(1, int(std::ceil(steps))) : kMostSteps;
}

bool holds(const Bounds& bounds, Vec3 p) {
    // Written so that a place that is no number is left out.
    return p.x >= bounds.min.x && p.y >= bounds.min.y && p.z >= bounds.min.z && p.x <= bounds.max.x && p.y <= bounds.max.y && p.z <= bounds.max.z;
}

/// Points that an image may touch, in order.
std::vector<Index> touched(const HandShaped& shaped, const std::vector<HandFlow>& fields) {
    std::vector<Bounds> bounds;
    for (const HandFlow& field : fields) bounds.push_back(field.bounds());
    std::vector<Index> out;
    for (Index p = 0; p < shaped.at.size(); ++p)
        if (std::any_of(bounds.begin(), bounds.end(), [&](const Bounds& b) { return holds(b, shaped.at[p]); })) out.push_back(p);
    return out;
}

float weightOf(const HandShaped& shaped, Index p) { return shaped.base->weights.empty() ? 1 : shaped.base->weights[p]; }

void flow(HandShaped& shaped, const std::vector<HandFlow>& fields, const std::vector<Index>& points, int steps, const RunContext& run) {
    forEach(
        points.size(), run,
        [&](std::size_t i) {
            const Index p = points[i];
            const float weight = weightOf(shaped, p);
            Vec3 at = shaped.at[p];
            for (int step = 0; step < steps; ++step) {
                Vec3 by{};
                for (const HandFlow& field : fields) by += field.at(at, step, dot(field.facing(), shaped.base->normals[p]) < kFacesAway);
                at += by * weight;
            }
            if (isFinite(at)) shaped.at[p] = at;
        },
        1024);
}

/// Metres from a point to its neighbours, in the middle.
double meanEdge(const HandShaped& shaped, const std::vector<Index>& points) {
    double sum = 0;
    std::size_t count = 0;
    for (const Index p : points)
        for (const Index q : shaped.base->beside[p]) {
            const double d = double(distance(shaped.at[p], shaped.at[q]));
            if (std::isfinite(d)) sum += d, ++count;
        }
    return count > 0 ? sum / double(count) : 0;
}

/// Each round spreads by an edge's length times the root of what it goes: as many rounds as reach over a third of the radius.
/// Diffusion by the umbrella operator, as in Taubin, SIGGRAPH 1995; the variance of n rounds of weight λ is n λ e².
void smooth(HandShaped& shaped, const std::vector<HandFlow>& fields, const std::vector<Index>& points, const HandStroke& stroke, const RunContext& run) {
    constexpr double kReach = 1.0 / 3, kHalf = 0.5, kMostRounds = 400;
    std::vector<float> pressure(points.size(), 0);
    forEach(points.size(), run, [&](std::size_t i) {
        for (const HandFlow& field : fields) pressure[i] += field.pressureAt(shaped.at[points[i]]);
        pressure[i] = std::min(pressure[i], 1.0f) * weightOf(shaped, points[i]);
    });
    const double edge = meanEdge(shaped, points), reach = kReach * double(stroke.strength * shaped.base->amount * stroke.radius);
    if (!(edge > 0)) return;
    const double wanted = std::min(reach * reach / (edge * edge) / kHalf, kMostRounds), rounds = std::ceil(wanted);
    const auto step = float(kHalf * wanted / std::max(rounds, 1.0));
    std::vector<Vec3> next(points.size());
    for (int round = 0; round < int(rounds); ++round) {
        forEach(points.size(), run, [&](std::size_t i) {
            const Index p = points[i];
            const auto around = shaped.base->beside[p];
            Vec3 middle{};
            for (const Index q : around) middle += shaped.at[q];
            next[i] = around.empty() ? shaped.at[p] : mix(shaped.at[p], middle / float(around.size()), step * pressure[i]);
        });
        for (std::size_t i = 0; i < points.size(); ++i)
            if (pressure[i] > 0 && isFinite(next[i])) shaped.at[points[i]] = next[i];
    }
}

}  // namespace

HandShaped readyToShape(const Geometry& geometry, std::vector<float> weights, float amount) {
    return {std::make_shared<const HandBase>(HandBase{std::move(weights), pointNormals(geometry), pointNeighbours(geometry.topology()), amount}),
            geometry.positions()};
}

void shapeByHand(HandShaped& shaped, const StrokeImages& stroke, const RunContext& run) {
    if (stroke.empty() || stroke.front().at.empty()) return;
    StrokeImages images = stroke;
    for (HandStroke& image : images) image.soft = std::max(image.soft, kLeastSoft);
    const int steps = stepsOf(images, shaped.base->amount);
    std::vector<HandFlow> fields;
    fields.reserve(images.size());
    for (const HandStroke& image : images) fields.emplace_back(image, shaped.base->amount, steps);
    const std::vector<Index> points = touched(shaped, fields);
    const auto isUnder = [&](Index p) { return std::any_of(fields.begin(), fields.end(), [&](const HandFlow& f) { return f.pressureAt(shaped.at[p]) > 0; }); };
    if (std::none_of(points.begin(), points.end(), isUnder)) {
        ++shaped.idle;
        return;
    }
    if (brushingOf(images.front()) == Brushing::smooth) smooth(shaped, fields, points, images.front(), run);
    else flow(shaped, fields, points, steps, run);
}

}  // namespace seedloom

#include "operators/attribute/Strokes.h"

#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Neighbours.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

class Painter {
public:
    Painter(const OperatorCall& call, const Geometry& in, std::vector<float> mask) : call_(call), in_(in), normals_(pointNormals(in)), mask_(std::move(mask)) {}

    void paint(const HandStroke& stroke) {
        if (stroke.at.empty()) return;
        const NearestPlace line(lineOf(stroke), NearestPlace::On::curves);
        const Bounds bounds = boundsOf(stroke.at);
        const Vec3 low = bounds.min - Vec3{1, 1, 1} * stroke.radius, high = bounds.max + Vec3{1, 1, 1} * stroke.radius;
        const std::vector<float> before = stroke.mode == "smooth" ? mask_ : std::vector<float>();
        if (stroke.mode == "smooth" && beside_.start.empty()) beside_ = pointNeighbours(in_.topology());
        forEach(
            mask_.size(), call_.run(),
            [&](std::size_t i) {
                const Vec3 p = in_.positions()[i];
                // Written so that a place that is no number is left out.
                if (!(p.x >= low.x && p.y >= low.y && p.z >= low.z && p.x <= high.x && p.y <= high.y && p.z <= high.z)) return;
                const Place place = line.find(p);
                const float effect = stroke.strength * stroke.pressure(std::sqrt(place.squaredDistance));
                if (effect <= 0 || facesAway(stroke, place, i)) return;
                if (stroke.mode == "smooth") mask_[i] += (meanBeside(before, i) - mask_[i]) * effect;
                else mask_[i] = std::clamp(mask_[i] + (stroke.mode == "add" ? effect : -effect), 0.0f, 1.0f);
            },
            4096);
    }
    std::vector<float> take() { return std::move(mask_); }

private:
    /// The far side of a thin wall is not painted through.
    bool facesAway(const HandStroke& stroke, const Place& place, std::size_t i) const {
        if (stroke.normal.empty()) return false;
        const Vec3 n = stroke.normal[place.points[0]] * place.weights[0] + stroke.normal[place.points[1]] * place.weights[1];
        return dot(n, normals_[i]) < -0.2f;
    }
    float meanBeside(const std::vector<float>& values, std::size_t i) const {
        const auto around = beside_[i];
        float sum = values[i];
        for (Index j : around) sum += values[j];
        return sum / float(around.size() + 1);
    }

    const OperatorCall& call_;
    const Geometry& in_;
    std::vector<Vec3> normals_;
    std::vector<float> mask_;
    Rows beside_;
};

std::vector<float> painted(const OperatorCall& call, const Geometry& in, std::vector<float> mask, const std::vector<StrokeImages>& strokes) {
    if (strokes.empty()) return mask;
    Painter painter(call, in, std::move(mask));
    for (const StrokeImages& images : strokes)
        for (const HandStroke& stroke : images) painter.paint(stroke);
    return painter.take();
}

}  // namespace

std::vector<float> paintedOver(const OperatorCall& call, const Geometry& in, std::vector<float> mask) {
    const Json* more = call.unfinished("strokes");
    if (!more) return painted(call, in, std::move(mask), strokesOf(call));
    const auto before = call.withoutUnfinished<std::vector<float>>([&] { return painted(call, in, std::move(mask), strokesOf(call)); });
    return painted(call, in, *before, {strokeIn(call, *more)});
}

}  // namespace seedloom

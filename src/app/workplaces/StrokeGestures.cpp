#include "app/workplaces/StrokeGestures.h"

namespace seedloom::app {

namespace {

/// A hundredth of a millimetre: files stay readable.
double written(double v) { return std::round(v * 1e5) / 1e5; }

}  // namespace

void StrokeGesture::begin(Vec3 at, Vec3 normal) {
    node_ = session_.selection().chosen();
    if (!session_.document().shown().node(node_)) return node_.clear();
    session_.document().newGesture();
    stroke_ = newStroke();
    add(at, normal);
}

void StrokeGesture::move(Vec3 at, Vec3 normal) {
    if (!node_.empty() && double(distance(last_, at)) >= finest()) add(at, normal);
}

void StrokeGesture::add(Vec3 at, Vec3 normal) {
    placesOf(stroke_).push_back(place(at, normal));
    last_ = at;
    session_.showUnfinished({session_.rebuilds().fullId(node_), "strokes", stroke_});
}

void StrokeGesture::end() {
    if (node_.empty()) return;
    session_.showUnfinished({});
    Document& document = session_.document();
    if (const Node* node = document.shown().node(std::exchange(node_, {}))) {
        const auto written = node->settings.find("strokes");
        Json strokes = written != node->settings.end() && written->is_array() ? *written : Json::array();
        strokes.push_back(std::move(stroke_));
        document.applyShown(setSetting(document.shown(), node->id, "strokes", strokes, document.assets()));
    }
    document.endGesture();
}

Json PaintGesture::newStroke() const {
    constexpr std::array<const char*, 3> modes{"add", "remove", "smooth"};
    Json stroke{{"points", Json::array()},
                {"radius", written(brush_.radius)},
                {"strength", written(brush_.strength)},
                {"soft", written(brush_.soft)},
                {"mode", modes[std::size_t(brush_.mode)]}};
    if (!brush_.mirror.empty()) stroke["mirror"] = brush_.mirror;
    return stroke;
}

Json PaintGesture::place(Vec3 at, Vec3 normal) const {
    return {written(double(at.x)),     written(double(at.y)),     written(double(at.z)),
            written(double(normal.x)), written(double(normal.y)), written(double(normal.z))};
}

Json DrawGesture::place(Vec3 at, Vec3) const { return {written(double(at.x)), written(double(at.y)), written(double(at.z))}; }

}  // namespace seedloom::app

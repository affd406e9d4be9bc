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
    const Node* node = isWhole() ? document.shown().node(node_) : nullptr;
    node_.clear();
    if (node) {
        const auto written = node->settings.find("strokes");
        Json strokes = written != node->settings.end() && written->is_array() ? *written : Json::array();
        strokes.push_back(std::move(stroke_));
        document.applyShown(setSetting(document.shown(), node->id, "strokes", strokes, document.assets()));
    }
    document.endGesture();
}

Json PaintGesture::newStroke() const {
    Json stroke{{"points", Json::array()},
                {"radius", written(brush_.radius)},
                {"strength", written(brush_.strength)},
                {"soft", written(brush_.soft)},
                {"mode", brush_.mode}};
    if (!brush_.mirror.empty()) stroke["mirror"] = brush_.mirror;
    return stroke;
}

Json PaintGesture::place(Vec3 at, Vec3 normal) const {
    return {written(double(at.x)),     written(double(at.y)),     written(double(at.z)),
            written(double(normal.x)), written(double(normal.y)), written(double(normal.z))};
}

void GrabGesture::move(Vec3 at, Vec3 normal) {
    if (node_.empty()) return;
    Json& places = placesOf(stroke_);
    places.erase(places.begin() + 1, places.end());
    add(at, normal);
}

Json DrawGesture::place(Vec3 at, Vec3) const { return {written(double(at.x)), written(double(at.y)), written(double(at.z))}; }

}  // namespace seedloom::app

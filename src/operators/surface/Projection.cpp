// Method: plane, box, cylinder and ball projections.
#include "operators/surface/Projection.h"

#include "geometry/Measures.h"

namespace seedloom {

namespace {

/// The two directions of the picture, and the one it is looked at from, for an axis.
struct Axes {
    int u, v, across;
};
Axes axesOf(int axis) { return axis == 0 ? Axes{2, 1, 0} : axis == 1 ? Axes{0, 2, 1} : Axes{0, 1, 2}; }

/// As seen from the positive end of the axis: u to the right, v up.
Vec2 flat(Vec3 p, int axis) {
    const Axes a = axesOf(axis);
    return axis == 2 ? Vec2{p[a.u], p[a.v]} : axis == 1 ? Vec2{p[a.u], -p[a.v]} : Vec2{-p[a.u], p[a.v]};
}

}  // namespace

Vec2 Projection::at(Vec3 p, Vec3 normal) const {
    const Vec3 q = p - centre_;
    if (turns()) return around(q);
    int axis = axis_;
    if (form_ == "box")
        for (int c = 0; c < 3; ++c)
            if (std::abs(normal[c]) > std::abs(normal[axis]) * 1.0001f) axis = c;
    Vec2 place = flat({q.x / size_.x, q.y / size_.y, q.z / size_.z}, axis);
    if (form_ == "box" && normal[axis] < 0) place.x = -place.x;
    return {place.x + 0.5f, place.y + 0.5f};
}

std::vector<Vec2> Projection::atCorners(const Geometry& geometry) const {
    const Topology& t = geometry.topology();
    const auto normals = faceNormals(geometry);
    std::vector<Vec2> out(geometry.cornerCount());
    for (Index f = 0; f < geometry.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
        for (Index c = begin; c < end; ++c) out[c] = at(geometry.positions()[t.cornerPoint()[c]], normals[f]);
        if (turns()) closeSeam(geometry, out, begin, end);
    }
    return out;
}

Vec2 Projection::around(Vec3 q) const {
    const int a = (axis_ + 1) % 3, b = (axis_ + 2) % 3;
    const float angle = std::atan2(q[b], q[a]);
    const float u = angle / float(2 * kPi) + 0.5f;
    if (form_ == "cylinder") return {u, q[axis_] / size_[axis_] + 0.5f};
    return {u, float(std::asin(std::clamp(q[axis_] / std::max(length(q), 1e-30f), -1.0f, 1.0f)) / kPi) + 0.5f};
}

/// Faces over the seam get the turn that keeps them whole; at a pole the direction of the rest counts.
void Projection::closeSeam(const Geometry& geometry, std::vector<Vec2>& uv, Index begin, Index end) const {
    const auto pole = [&](Index c) {
        const Vec3 q = geometry.positions()[geometry.topology().cornerPoint()[c]] - centre_;
        return std::hypot(q[(axis_ + 1) % 3], q[(axis_ + 2) % 3]) <= 1e-5f * length(size_);
    };
    Index first = begin;
    while (first < end && pole(first)) ++first;
    if (first == end) return;
    float sum = 0, count = 0;
    for (Index c = first; c < end; ++c) {
        if (pole(c)) continue;
        uv[c].x -= std::round(uv[c].x - uv[first].x);
        sum += uv[c].x, count += 1;
    }
    for (Index c = begin; c < end; ++c)
        if (pole(c)) uv[c].x = sum / count;
}

std::vector<SettingSpec> projectionSettings(const std::vector<std::string>& forms) {
    std::vector<SettingSpec> out{
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "y").helped("Where a plane is looked at from, or what a cylinder or ball stands on."),
        flagSetting("fit", "Fit", true).helped("Centre and size follow the bounds."),
        flagSetting("even", "Even", true).helped("The largest size for all axes, so that squares stay squares.").when("fit", {"true"}),
        vec3Setting("size", "Size", Unit::metre, {1, 1, 1}).helped("What one repeat of the texture covers.").when("fit", {"false"}),
        vec3Setting("centre", "Centre", Unit::metre, {0, 0, 0}).helped("The middle of the texture.").when("fit", {"false"}),
    };
    if (!forms.empty())
        for (SettingSpec& setting : std::span(out).first(2)) setting.when("form", forms);
    return out;
}

Projection projectionOf(OperatorCall& call, const Geometry& in, const std::string& form) {
    const Bounds bounds = boundsOf(in.positions());
    Vec3 size = call.vec3("size");
    const bool automatic = call.flag("fit");
    if (automatic) {
        size = bounds.size();
        // One scale for all sides, so that squares stay squares.
        const float most = std::max({size.x, size.y, size.z, 1e-12f});
        if (call.flag("even")) size = {most, most, most};
        for (int c = 0; c < 3; ++c) size[c] = size[c] > 0 ? size[c] : most;
    }
    for (int c = 0; c < 3; ++c)
        if (!(size[c] > 0)) call.fail("setting.range", "Size must be above 0 on every axis: it is what one repeat of the texture covers.", "size");
    return {form, call.choice("axis")[0] - 'x', automatic ? bounds.centre() : call.vec3("centre"), size};
}

}  // namespace seedloom

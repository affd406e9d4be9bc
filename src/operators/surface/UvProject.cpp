// Method: plane, box, cylinder and ball projections.
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"

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

class Projector {
public:
    Projector(const Geometry& in, std::string form, int axis, Vec3 centre, Vec3 size)
        : in_(in), form_(std::move(form)), axis_(axis), centre_(centre), size_(size) {}

    std::vector<Vec2> uv() const {
        const Topology& t = in_.topology();
        const auto normals = faceNormals(in_);
        std::vector<Vec2> out(in_.cornerCount());
        for (Index f = 0; f < in_.faceCount(); ++f) {
            const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
            for (Index c = begin; c < end; ++c) out[c] = at(in_.positions()[t.cornerPoint()[c]], normals[f]);
            if (form_ == "cylinder" || form_ == "sphere") closeSeam(out, begin, end);
        }
        return out;
    }

private:
    Vec2 at(Vec3 p, Vec3 normal) const {
        const Vec3 q = p - centre_;
        if (form_ == "cylinder" || form_ == "sphere") return around(q);
        int axis = axis_;
        if (form_ == "box")
            for (int c = 0; c < 3; ++c)
                if (std::abs(normal[c]) > std::abs(normal[axis]) * 1.0001f) axis = c;
        Vec2 place = flat({q.x / size_.x, q.y / size_.y, q.z / size_.z}, axis);
        if (form_ == "box" && normal[axis] < 0) place.x = -place.x;
        return {place.x + 0.5f, place.y + 0.5f};
    }
    Vec2 around(Vec3 q) const {
        const int a = (axis_ + 1) % 3, b = (axis_ + 2) % 3;
        const float angle = std::atan2(q[b], q[a]);
        const float u = angle / float(2 * kPi) + 0.5f;
        if (form_ == "cylinder") return {u, q[axis_] / size_[axis_] + 0.5f};
        return {u, float(std::asin(std::clamp(q[axis_] / std::max(length(q), 1e-30f), -1.0f, 1.0f)) / kPi) + 0.5f};
    }
    /// Faces over the seam get the turn that keeps them whole; at a pole the direction of the rest counts.
    void closeSeam(std::vector<Vec2>& uv, Index begin, Index end) const {
        const auto pole = [&](Index c) {
            const Vec3 q = in_.positions()[in_.topology().cornerPoint()[c]] - centre_;
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
    const Geometry& in_;
    std::string form_;
    int axis_;
    Vec3 centre_, size_;
};

Geometry computeUvProject(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Project UV needs a surface, and there are no faces here.");
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
    const Vec3 centre = automatic ? bounds.centre() : call.vec3("centre");
    const Projector projector(in, call.choice("form"), call.choice("axis")[0] - 'x', centre, size);
    return withAttribute(call, in, Element::corner, "uv", Column(projector.uv()));
}

}  // namespace

OperatorSpec uvProjectOperator() {
    OperatorSpec spec;
    spec.id = "uv_project";
    spec.order = 490;
    spec.label = "Project UV";
    spec.family = Family::surface;
    spec.sentence = "Writes uv by looking at the surface from one side, from all six, or around an axis.";
    spec.help =
        "uv runs from 0 to 1 over the size. A box takes for each face the side it looks to most. Around a cylinder or a ball, faces over the seam go on beyond "
        "1, so that none is drawn backwards.";
    spec.takes = Takes::faces;
    spec.synonyms = {"texture coordinates", "planar mapping", "box mapping", "unwrap", "map"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("form", "Form", {"plane", "box", "cylinder", "sphere"}, "box").helped("How the texture is laid on."),
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "y").helped("Where a plane is looked at from, or what a cylinder or ball stands on."),
        flagSetting("fit", "Fit", true).helped("Centre and size follow the bounds."),
        flagSetting("even", "Even", true).helped("The largest size for all axes, so that squares stay squares.").when("fit", {"true"}),
        vec3Setting("size", "Size", Unit::metre, {1, 1, 1}).helped("What one repeat of the texture covers.").when("fit", {"false"}),
        vec3Setting("centre", "Centre", Unit::metre, {0, 0, 0}).helped("The middle of the texture.").when("fit", {"false"}),
        whereSetting(Element::corner),
        blendSetting(Element::corner),
    };
    spec.compute = computeUvProject;
    return spec;
}

}  // namespace seedloom

#include "scene/Camera.h"

namespace seedloom {

namespace {

/// Half of what is seen at a distance of 1, upwards.
double halfView() { return std::tan(radians(Camera::kFieldOfView / 2)); }
double aspect(PictureSize size) { return size.width / std::max(size.height, 1.0); }
double dotOf(Vec3 a, Vec3 b) { return double(a.x) * double(b.x) + double(a.y) * double(b.y) + double(a.z) * double(b.z); }

}  // namespace

Vec3 Camera::toEye() const {
    const double y = radians(yaw), p = radians(pitch);
    return {float(std::sin(y) * std::cos(p)), float(std::sin(p)), float(std::cos(y) * std::cos(p))};
}
Vec3 Camera::right() const { return {float(std::cos(radians(yaw))), 0, float(-std::sin(radians(yaw)))}; }
Vec3 Camera::up() const { return cross(toEye(), right()); }

void Camera::orbit(double dx, double dy) {
    yaw = std::fmod(yaw - dx * 0.4, 360.0);
    pitch = std::clamp(pitch + dy * 0.4, -90.0, 90.0);
}

double Camera::metresPerPixel(PictureSize size) const { return 2 * distance * halfView() / std::max(size.height, 1.0); }

void Camera::pan(double dx, double dy, PictureSize size) {
    const auto scale = float(metresPerPixel(size));
    target += right() * (float(-dx) * scale) + up() * (float(dy) * scale);
}

void Camera::zoom(double factor, PicturePlace at, PictureSize size) {
    const double before = distance;
    distance = std::clamp(distance * factor, 1e-4, 1e6);
    const double moved = (1 - distance / before) * metresPerPixel(size) * before / distance;
    target += right() * float((at.x - size.width / 2) * moved) - up() * float((at.y - size.height / 2) * moved);
}

void Camera::frame(std::span<const Vec3> places, PictureSize size, double top) {
    Bounds bounds;
    for (Vec3 p : places) bounds.add(p);
    if (bounds.empty) return;
    constexpr double kFilled = 0.8, kNearEnough = 1e-3;
    constexpr int kRounds = 40;
    const double across = bounds.diagonal(), half = across > 0 ? across / 2 : kNearEnough, high = std::max(size.height - top, size.height * 0.4);
    target = bounds.centre();
    distance = half / std::sin(radians(kFieldOfView / 2));
    if (!(across > 0)) return;
    double nearest = 0;
    for (Vec3 p : places) nearest = std::max(nearest, dotOf(p - target, toEye()));
    // Brings the middle of what is seen into the middle of the picture; returns how much of the wanted size it has. What is nearest moves most, so steps are
    // as small as it needs.
    const auto centred = [&] {
        double part = 0;
        for (int again = 0; again < 8; ++again) {
            PicturePlace low{1e30, 1e30}, far{-1e30, -1e30};
            for (Vec3 p : places) {
                const PicturePlace at = project(p, size);
                low = {std::min(low.x, at.x), std::min(low.y, at.y)};
                far = {std::max(far.x, at.x), std::max(far.y, at.y)};
            }
            part = std::max((far.x - low.x) / (kFilled * size.width), (far.y - low.y) / (kFilled * high));
            const double step = flat ? 1 : 1 - nearest / distance;
            pan((size.width / 2 - (low.x + far.x) / 2) * step, (size.height - high / 2 - (low.y + far.y) / 2) * step, size);
        }
        return part;
    };
    // What is seen shrinks as the eye goes away, but not in proportion: halved until it fits.
    double near = flat ? half * 1e-3 : nearest * 1.001 + half * 1e-3, away = (half + nearest) * 200;
    for (int round = 0; round < kRounds; ++round) {
        distance = std::sqrt(near * away);
        (centred() > 1 ? near : away) = distance;
    }
}

void Camera::lookAtSides(Vec3 extent) {
    constexpr float kFlat = 0.25f;
    yaw = extent.x >= extent.z ? 30 : 60;
    pitch = extent.y < kFlat * std::max(extent.x, extent.z) ? 34 : 18;
}

void Camera::frameTightly(const Bounds& bounds, PictureSize size, double margin) {
    if (bounds.empty) return;
    target = bounds.centre();
    const double least = std::max(bounds.diagonal() / 4, 1e-6), across = halfView() * aspect(size);
    double away = least;
    for (int i = 0; i < 8; ++i) {
        const Vec3 c = bounds.corner(i) - target;
        const double nearer = dotOf(c, toEye());
        away = std::max({away, nearer + std::abs(dotOf(c, up())) / halfView(), nearer + std::abs(dotOf(c, right())) / across});
    }
    distance = away * margin;
}

Matrix4 Camera::view() const {
    const Vec3 r = right(), u = up(), b = toEye(), e = eye();
    return {r.x, u.x, b.x, 0, r.y, u.y, b.y, 0, r.z, u.z, b.z, 0, float(-dotOf(r, e)), float(-dotOf(u, e)), float(-dotOf(b, e)), 1};
}

Matrix4 Camera::projection(PictureSize size) const {
    const double far = distance * 50;
    Matrix4 m{};
    if (flat) {
        const double half = distance * halfView();
        m[0] = float(1 / (half * aspect(size)));
        m[5] = float(1 / half);
        m[10] = float(-1 / far);
        m[15] = 1;
        return m;
    }
    const double near = distance * 0.02;
    m[0] = float(1 / (halfView() * aspect(size)));
    m[5] = float(1 / halfView());
    m[10] = float(-(far + near) / (far - near));
    m[11] = -1;
    m[14] = float(-2 * far * near / (far - near));
    return m;
}

PicturePlace Camera::project(Vec3 p, PictureSize size, bool* behind) const {
    const Vec3 d = p - target;
    // Before the eye by so much; in a flat view everything is.
    const double depth = flat ? distance : distance - dotOf(d, toEye());
    if (behind) *behind = depth <= 0;
    const double scale = 1 / (halfView() * std::max(std::abs(depth), 1e-9));
    return {(dotOf(d, right()) * scale / aspect(size) * 0.5 + 0.5) * size.width, (0.5 - dotOf(d, up()) * scale * 0.5) * size.height};
}

void Camera::lookFrom(int side) {
    static constexpr double yaws[] = {90, -90, 0, 0, 0, 180}, pitches[] = {0, 0, 90, -90, 0, 0};
    yaw = yaws[side];
    pitch = pitches[side];
}

std::optional<int> Camera::across() const {
    constexpr float kAlong = 0.99999f;
    for (int axis = 0; flat && axis < 3; ++axis)
        if (std::abs(toEye()[axis]) > kAlong) return axis;
    return {};
}

Vec3 Camera::rayStart(PicturePlace at, PictureSize size) const {
    if (!flat) return eye();
    const auto scale = float(metresPerPixel(size));
    return target + right() * (float(at.x - size.width / 2) * scale) - up() * (float(at.y - size.height / 2) * scale) + toEye() * float(distance * 40);
}

Vec3 Camera::ray(PicturePlace at, PictureSize size) const { return flat ? -toEye() : rays(size).at(at); }

PictureRays Camera::rays(PictureSize size) const {
    const auto scale = float(halfView() * 2 / std::max(size.height, 1.0));
    return {right() * scale, up() * scale, -toEye(), size};
}

}  // namespace seedloom

#include "app/stage/Camera.h"

namespace seedloom::app {

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

double Camera::metresPerPixel(QSizeF size) const { return 2 * distance * std::tan(radians(kFieldOfView / 2)) / std::max(size.height(), 1.0); }

void Camera::pan(double dx, double dy, QSizeF size) {
    const auto scale = float(metresPerPixel(size));
    target += right() * (float(-dx) * scale) + up() * (float(dy) * scale);
}

void Camera::zoom(double factor, QPointF at, QSizeF size) {
    const double before = distance;
    distance = std::clamp(distance * factor, 1e-4, 1e6);
    const double moved = (1 - distance / before) * metresPerPixel(size) * before / distance;
    target += right() * float((at.x() - size.width() / 2) * moved) - up() * float((at.y() - size.height() / 2) * moved);
}

void Camera::frame(const Bounds& bounds, QSizeF size, double top) {
    if (bounds.empty) return;
    target = bounds.centre();
    const double half = std::max(bounds.diagonal() / 2, 1e-3);
    const double high = std::max(size.height() - top, size.height() * 0.4);
    const double narrow = std::min(high / std::max(size.height(), 1.0), size.width() / std::max(size.height(), 1.0));
    distance = half / std::sin(radians(kFieldOfView / 2)) / narrow * 1.02;
    pan(0, (size.height() - high) / 2, size);
}

QMatrix4x4 Camera::view() const {
    QMatrix4x4 m;
    const Vec3 e = eye();
    const Vec3 u = up();
    m.lookAt({e.x, e.y, e.z}, {target.x, target.y, target.z}, {u.x, u.y, u.z});
    return m;
}

QMatrix4x4 Camera::projection(QSizeF size) const {
    QMatrix4x4 m;
    if (flat) {
        const double half = distance * std::tan(radians(kFieldOfView / 2)), wide = half * size.width() / std::max(size.height(), 1.0);
        m.ortho(float(-wide), float(wide), float(-half), float(half), float(-distance * 50), float(distance * 50));
        return m;
    }
    m.perspective(float(kFieldOfView), float(size.width() / std::max(size.height(), 1.0)), float(distance * 0.02), float(distance * 50));
    return m;
}

QPointF Camera::project(Vec3 p, QSizeF size, bool* behind) const {
    const QVector4D clip = projection(size) * view() * QVector4D(p.x, p.y, p.z, 1);
    if (behind) *behind = clip.w() <= 0;
    const double w = std::abs(clip.w()) > 1e-9f ? double(clip.w()) : 1e-9;
    return {(double(clip.x()) / w * 0.5 + 0.5) * size.width(), (0.5 - double(clip.y()) / w * 0.5) * size.height()};
}

void Camera::lookFrom(int side) {
    static constexpr double yaws[] = {90, -90, 0, 0, 0, 180}, pitches[] = {0, 0, 90, -90, 0, 0};
    yaw = yaws[side];
    pitch = pitches[side];
}

Vec3 Camera::rayStart(QPointF at, QSizeF size) const {
    if (!flat) return eye();
    const auto scale = float(metresPerPixel(size));
    return target + right() * (float(at.x() - size.width() / 2) * scale) - up() * (float(at.y() - size.height() / 2) * scale) + toEye() * float(distance * 40);
}

Vec3 Camera::ray(QPointF at, QSizeF size) const {
    if (flat) return toEye() * -1.0f;
    const double scale = std::tan(radians(kFieldOfView / 2)) * 2 / std::max(size.height(), 1.0);
    return normalized(right() * float((at.x() - size.width() / 2) * scale) - up() * float((at.y() - size.height() / 2) * scale) - toEye());
}

}  // namespace seedloom::app

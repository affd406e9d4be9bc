#pragma once
// The camera in the measures of the interface.
#include "scene/Camera.h"

#include <QtCore/QPointF>
#include <QtCore/QSizeF>
#include <QtGui/QMatrix4x4>

namespace seedloom::app {

class StageCamera : public Camera {
public:
    void pan(double dx, double dy, QSizeF size) { Camera::pan(dx, dy, of(size)); }
    void zoom(double factor, QPointF at, QSizeF size) { Camera::zoom(factor, of(at), of(size)); }
    void frame(std::span<const Vec3> places, QSizeF size, double top = 0) { Camera::frame(places, of(size), top); }
    QMatrix4x4 view() const { return matrixOf(Camera::view()); }
    QMatrix4x4 projection(QSizeF size) const { return matrixOf(Camera::projection(of(size))); }
    QPointF project(Vec3 p, QSizeF size, bool* behind = nullptr) const {
        const PicturePlace at = Camera::project(p, of(size), behind);
        return {at.x, at.y};
    }
    Vec3 ray(QPointF at, QSizeF size) const { return Camera::ray(of(at), of(size)); }
    Vec3 rayStart(QPointF at, QSizeF size) const { return Camera::rayStart(of(at), of(size)); }
    double metresPerPixel(QSizeF size) const { return Camera::metresPerPixel(of(size)); }
    bool operator==(const StageCamera&) const = default;

private:
    static PicturePlace of(QPointF at) { return {at.x(), at.y()}; }
    static PictureSize of(QSizeF size) { return {size.width(), size.height()}; }
    static QMatrix4x4 matrixOf(const Matrix4& byColumns) { return QMatrix4x4(byColumns.data(), 4, 4); }
};

}  // namespace seedloom::app

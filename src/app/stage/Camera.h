#pragma once
// Where the stage is looked at from: an orbit about a target.
#include "geometry/Measures.h"

#include <QtCore/QPointF>
#include <QtCore/QSizeF>
#include <QtGui/QMatrix4x4>

namespace seedloom::app {

class Camera {
public:
    double yaw = 30, pitch = 18;  ///< degrees, as for thumbnails
    double distance = 3;          ///< metres from the target
    Vec3 target{0, 0.45f, 0};
    bool flat = false;  ///< orthographic: no perspective, lengths can be compared anywhere

    static constexpr double kFieldOfView = 32;  ///< degrees, vertical

    Vec3 toEye() const;
    Vec3 right() const;
    Vec3 up() const;
    Vec3 eye() const { return target + toEye() * float(distance); }

    void orbit(double dx, double dy);
    /// Moves the target so that what is under the pointer follows it; dx and dy in pixels.
    void pan(double dx, double dy, QSizeF size);
    /// Comes nearer (factor under 1) or goes away, keeping what is under `at` where it is.
    void zoom(double factor, QPointF at, QSizeF size);
    /// Fits the bounds into the picture; `top` pixels at its upper edge are kept free for what lies over it.
    void frame(const Bounds& bounds, QSizeF size, double top = 0);

    /// Looks along an axis: 0 from +X, 1 from −X, 2 from +Y (above), 3 from −Y, 4 from +Z (the front), 5 from −Z.
    void lookFrom(int side);

    QMatrix4x4 view() const;
    QMatrix4x4 projection(QSizeF size) const;
    /// Pixel of a place; `behind` tells that it is not before the eye.
    QPointF project(Vec3 p, QSizeF size, bool* behind = nullptr) const;
    /// Direction into the scene under a pixel.
    Vec3 ray(QPointF at, QSizeF size) const;
    /// Where that ray begins: the eye, or a place beside it where the view is flat.
    Vec3 rayStart(QPointF at, QSizeF size) const;
    double metresPerPixel(QSizeF size) const;
    bool operator==(const Camera&) const = default;
};

}  // namespace seedloom::app

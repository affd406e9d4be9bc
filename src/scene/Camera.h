#pragma once
// Where a scene is looked at from: an orbit about a target. One for the stage, small pictures and traced ones.
#include "geometry/Measures.h"

#include <array>
#include <optional>
#include <span>

namespace seedloom {

/// A place in a picture, in pixels from its upper left corner.
struct PicturePlace {
    double x = 0, y = 0;
};
/// The size of a picture in pixels.
struct PictureSize {
    double width = 1, height = 1;
};
/// By columns, as OpenGL takes it.
using Matrix4 = std::array<float, 16>;

/// The directions under the pixels of one picture, for asking very often.
struct PictureRays {
    Vec3 right, up, ahead;  ///< of a pixel's size at a distance of 1; the last of length 1
    PictureSize size;
    Vec3 at(PicturePlace place) const { return normalized(right * float(place.x - size.width / 2) - up * float(place.y - size.height / 2) + ahead); }
};

class Camera {
public:
    double yaw = 30, pitch = 18;  ///< degrees: around +Y from +Z, and above the ground
    double distance = 3;          ///< metres from the target
    Vec3 target{0, 0.45f, 0};
    bool flat = false;  ///< orthographic: no perspective, lengths can be compared anywhere

    static constexpr double kFieldOfView = 32;  ///< degrees, vertical

    Vec3 toEye() const;
    Vec3 right() const;
    Vec3 up() const;
    Vec3 eye() const { return target + toEye() * float(distance); }

    /// Turns around the target; pixels that the hand moved.
    void orbit(double dx, double dy);
    /// Moves the target so that what is under the pointer follows it; dx and dy in pixels.
    void pan(double dx, double dy, PictureSize size);
    /// Comes nearer (factor under 1) or goes away, keeping what is under `at` where it is.
    void zoom(double factor, PicturePlace at, PictureSize size);
    /// Has the places fill four fifths of the picture's width or height, in its middle; `top` pixels at its upper edge are kept free for what lies over it.
    void frame(std::span<const Vec3> places, PictureSize size, double top = 0);
    /// Turns to where the longest sides of something so large are seen, flat things from further above.
    void lookAtSides(Vec3 extent);
    /// Comes as near as every corner of the bounds allows, with `margin` times the distance.
    void frameTightly(const Bounds& bounds, PictureSize size, double margin);

    /// Looks along an axis: 0 from +X, 1 from −X, 2 from +Y (above), 3 from −Y, 4 from +Z (the front), 5 from −Z.
    void lookFrom(int side);
    /// The axis that is looked along, 0–2, where the view is flat: then all that lies in a plane across it is seen in its true lengths.
    std::optional<int> across() const;

    Matrix4 view() const;
    Matrix4 projection(PictureSize size) const;
    /// Pixel of a place; `behind` tells that it is not before the eye.
    PicturePlace project(Vec3 p, PictureSize size, bool* behind = nullptr) const;
    /// Direction into the scene under a pixel, of length 1.
    Vec3 ray(PicturePlace at, PictureSize size) const;
    PictureRays rays(PictureSize size) const;
    /// Where that ray begins: the eye, or a place beside it where the view is flat.
    Vec3 rayStart(PicturePlace at, PictureSize size) const;
    /// At the target.
    double metresPerPixel(PictureSize size) const;
    bool operator==(const Camera&) const = default;
};

}  // namespace seedloom

#pragma once
// A scene for rays: faces, curves as thin rods, points that stand alone as balls, and copies in their places. Library: Embree 3.
#include "scene/DrawScene.h"

#include <memory>
#include <optional>

namespace seedloom {

class TracedScene {
public:
    /// What a ray meets first.
    struct Hit {
        float distance = 0;  ///< metres
        Vec3 normal;         ///< of length 1, towards where the ray came from
        Vec3 colour;         ///< as on a screen, 0–1
    };

    /// Memory: the tree over the faces of each shape once, and a few hundred bytes a copy. Of more than a million copies so many
    /// are shown, evenly over all of them. Throws std::bad_alloc where the library could not be started.
    explicit TracedScene(std::shared_ptr<const DrawScene> scene);
    ~TracedScene();
    TracedScene(const TracedScene&) = delete;
    TracedScene& operator=(const TracedScene&) = delete;

    /// How large a scene is in metres; of what lies in one place, a size that its numbers can tell from nothing.
    static double sizeOf(const DrawScene& scene);
    /// Radius of balls, part of that size.
    static constexpr double kBall = 0.014;

    /// The directions are unit vectors. Safe to ask from several threads.
    std::optional<Hit> hit(Vec3 from, Vec3 direction) const;
    /// Whether anything lies within so many metres.
    bool blocked(Vec3 from, Vec3 direction, float within) const;

private:
    struct Parts;
    std::unique_ptr<Parts> parts_;
};

}  // namespace seedloom

#pragma once
// A geometry's faces as a scene for rays. Library: Embree 3.
#include "geometry/Geometry.h"

#include <memory>
#include <optional>

namespace seedloom {

/// Safe to ask from several threads.
class RayScene {
public:
    /// Cost: O(faces · log faces). Copies are left out.
    explicit RayScene(const Geometry& geometry);
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    /// False where the library could not be started; then no ray meets anything.
    bool valid() const;
    /// How far along `direction` (a unit vector) the first face is, in metres, beyond `start`.
    std::optional<float> firstHit(Vec3 from, Vec3 direction, float start) const;
    /// Whether any face lies between `start` and `end` metres.
    bool blocked(Vec3 from, Vec3 direction, float start, float end) const;

private:
    struct Scene;
    std::unique_ptr<Scene> scene_;
};

}  // namespace seedloom

#pragma once
// A geometry's faces as a scene for rays. Library: Embree 3.
#include "geometry/Geometry.h"

#include <array>
#include <memory>
#include <optional>

namespace seedloom {

/// Where a ray meets a face.
struct RayHit {
    float distance = 0;
    Index face = 0;
    std::array<Index, 3> corners{};  ///< of the triangle that was met
    std::array<float, 3> weights{};  ///< of these corners; they add up to 1
};

/// Safe to ask from several threads.
class RayScene {
public:
    /// Cost: O(faces · log faces). Copies are left out. Throws std::bad_alloc rather than leave a face out.
    explicit RayScene(const Geometry& geometry);
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    /// How far along `direction` (a unit vector) the first face is, in metres, beyond `start`.
    std::optional<float> firstHit(Vec3 from, Vec3 direction, float start) const;
    std::optional<RayHit> hit(Vec3 from, Vec3 direction, float start) const;
    /// Whether any face lies between `start` and `end` metres.
    bool blocked(Vec3 from, Vec3 direction, float start, float end) const;

private:
    struct Scene;
    std::unique_ptr<Scene> scene_;
};

}  // namespace seedloom

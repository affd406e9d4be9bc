#pragma once
// Random places inside a closed surface.
#include "geometry/NearestPlace.h"
#include "parallel/RunContext.h"

#include <functional>
#include <memory>

namespace seedloom {

class RayScene;

/// Tells inside from outside by how often rays leave through the surface; three rays vote, so that one that grazes an edge does no harm.
class InsideTest {
public:
    explicit InsideTest(const Geometry& closed);
    ~InsideTest();
    bool inside(Vec3 p) const;

private:
    bool along(Vec3 p, Vec3 direction) const;
    std::unique_ptr<RayScene> scene_;
};

/// A place that would be taken at `time` where the density is 1 per m³, or at time / density.
struct VolumeCandidate {
    Vec3 at;
    double time;
    std::uint64_t hash;
};

/// Space in cubes that each get their points at a pace of their own, as parts do in Arrivals; cubes stay where they are in space when the shape changes.
class VolumeGround {
public:
    VolumeGround(const Geometry& closed, double seed);
    /// Volume in m³.
    double size() const { return size_; }
    /// All candidates inside, until the time, by their time. Throws LimitExceeded.
    std::vector<VolumeCandidate> until(double time, const RunContext& run) const;

private:
    /// Whether all of a cube is inside, or all outside; nothing where the surface may pass through it.
    std::optional<bool> wholly(Vec3 middle) const;
    const Geometry& geometry_;
    InsideTest test_;
    NearestPlace surface_;
    std::uint64_t seed_;
    double size_ = 0, cube_ = 1;
    std::array<std::int64_t, 3> low_{}, count_{};
};

}  // namespace seedloom

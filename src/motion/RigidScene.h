#pragma once
// Rigid bodies that fall, slide and come to rest. Library: Bullet, behind this plain header.
#include "geometry/Affine.h"
#include "motion/SolidMoments.h"
#include "motion/Turns.h"
#include "parallel/RunContext.h"

#include <cstdint>
#include <memory>

namespace seedloom {

/// A body in a frame of its own: the origin is its centre of gravity, the axes are those of its inertia.
struct RigidBody {
    std::vector<std::vector<Vec3>> parts;  ///< corners of convex shapes that together stand for it, m
    double mass = 1;                       ///< kg, above 0
    Triple inertia{};                      ///< kg m², about the axes, above 0
    std::vector<Triangle3> faces;          ///< stand for it instead while it is held, so that its hollows are exact; may be empty
};

/// Where a body is and how it moves: all that the next frame needs. 120 bytes.
struct BodyState {
    Triple at{};                ///< centre of gravity, m
    Turn turn{0, 0, 0, 1};      ///< of its axes
    Triple velocity{}, spin{};  ///< m/s and rad/s
    float calm = 0;             ///< seconds for which it hardly moved
    bool asleep = false;        ///< at rest until something touches it
    bool operator==(const BodyState&) const = default;
};

/// What acts during one frame.
struct FrameForces {
    Triple gravity{0, -9.81, 0};  ///< m/s²
    double seconds = 1.0 / 24;
    const std::vector<float>*friction = nullptr, *bounce = nullptr;  ///< by body; coefficients of friction and of restitution
    const std::vector<std::uint8_t>* held = nullptr;                 ///< by body: stays where it is
    const std::vector<std::uint32_t>* clump = nullptr;               ///< by body: those with the same number move as one
};

/// What contacts do to a body in a step.
struct BodyLoad {
    Triple force{}, torque{};  ///< N, and N m about its centre of gravity
};
/// By step, by body.
using StepLoads = std::vector<std::vector<BodyLoad>>;

inline constexpr std::uint32_t kGroundBody = 0xffffffffu;

/// How hard two bodies press on each other, or one on the ground: what the next frame begins with. 12 bytes.
struct BodyPress {
    std::uint32_t a = 0, b = 0;  ///< a < b; b is kGroundBody for the ground
    float force = 0;             ///< N, of all their contacts together
    bool operator==(const BodyPress&) const = default;
};

/// Two bodies that stand in each other, or one that stands in the ground.
struct BodyOverlap {
    std::uint32_t a = 0, b = 0;  ///< b is kGroundBody for the ground
    double depth = 0;            ///< m
};

/// What stays the same while bodies move: their shapes, and the ground. Immutable; several threads may use it at once. Results depend on nothing but what is
/// given: each frame starts from the states alone.
class RigidScene {
public:
    /// `ground`: triangles that never move; empty: a level floor at y = 0. Throws std::bad_alloc.
    static std::shared_ptr<const RigidScene> make(std::vector<RigidBody> bodies, const std::vector<Triangle3>& ground);
    virtual ~RigidScene() = default;

    virtual std::size_t count() const = 0;
    /// Half of the least extent of a body, m.
    virtual double halfSize(std::size_t body) const = 0;
    /// How often a frame of so many seconds is divided, so that the smallest body moves by little.
    virtual int substeps(double seconds, double gravity) const = 0;
    /// The states one frame later. A clump stays where one of its bodies is held. `presses` are those of the frame before, and of this one afterwards; without
    /// them what stands on each other gives way a little more. `loads` is filled where it is asked for. Throws Cancelled.
    virtual std::vector<BodyState> advanced(const std::vector<BodyState>& states, const FrameForces& forces, const RunContext& run,
                                            std::vector<BodyPress>* presses = nullptr, StepLoads* loads = nullptr) const = 0;
    /// Those that stand in each other by more than `part` of the smaller one's size, deepest first; what is smaller than a tenth of the middle one counts as
    /// that large.
    virtual std::vector<BodyOverlap> overlaps(const std::vector<BodyState>& states, double part) const = 0;
};

}  // namespace seedloom

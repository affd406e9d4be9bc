#pragma once
// A model as rigid bodies, and the model again with its bodies where they came to be.
#include "breaking/Pieces.h"
#include "motion/RigidScene.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// What stands for a body where it meets others.
enum class BodyShape : std::uint8_t { hull, box, parts };

struct MovingModel {
    Geometry geometry;               ///< the model at the start; bodies share no points
    std::size_t pieces = 0;          ///< bodies made of faces; those of copies come after them
    std::vector<Index> bodyOfPoint;  ///< count() for points that belong to none: they stay
    std::vector<RigidBody> bodies;
    std::vector<BodyState> start;
    std::size_t count() const { return bodies.size(); }
};

/// Bodies of the pieces of `geometry`, then of its copies, each of a density (kg/m³, above 0). Closed pieces weigh what they hold, open ones what their hull
/// does. Shapes follow each body's own geometry; those of copies are made once for each shape. Pieces that are `plain` are their hulls. Precondition: all
/// points are finite, no copy is flat. Throws Cancelled.
MovingModel movingModelOf(const Geometry& geometry, const PieceList& pieces, BodyShape shape, const std::vector<float>& density,
                          const std::vector<std::uint8_t>& plain, const RunContext& run);

/// The surfaces of its bodies at the start, in the world.
std::vector<std::vector<Triangle3>> surfacesOf(const MovingModel& model, const PieceList& pieces, const RunContext& run);

/// The same triangles as a body sees them.
std::vector<Triangle3> inFrameOf(const BodyState& body, std::vector<Triangle3> surface);

/// The model with its bodies at these places; one that is where it started is the same to the bit. Points of faces, and copies, get a `velocity`, m/s.
Geometry movedModel(const MovingModel& model, const std::vector<BodyState>& states, const RunContext& run);

/// Where a body's points go that were at the start.
Affine wayOf(const BodyState& start, const BodyState& now);

}  // namespace seedloom

#pragma once
// A model over some frames as parts that move without changing their shape.
#include "geometry/Geometry.h"
#include "geometry/Result.h"
#include "meshes/GltfPlace.h"
#include "motion/Turns.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Faces that move together.
struct MovingPart {
    std::vector<Index> faces, points;
    Vec3 centre;             ///< of its points at the first frame, m
    std::vector<Triple> at;  ///< where that is, by frame
    std::vector<Turn> turn;  ///< by frame, against the first; neighbours turn the short way
    bool moves = false;
};
struct MovingCopy {
    std::vector<GltfPlace> place;  ///< by frame
    bool moves = false;
};

class RigidMoves {
public:
    /// At the first frame; its parts are what hangs together by points, and its copies.
    /// Error: `animate.leaning` where a copy has no turn of its own.
    static Result<RigidMoves> from(Geometry first, const RunContext& run);

    /// One more frame. Errors: `animate.elements` where there are other elements, `animate.shape` where a part changes its shape. Throws Cancelled.
    /// Method: the turn of least squares between the parts' points (Kabsch, 1976).
    std::optional<Error> add(const Geometry& frame, const RunContext& run);

    const Geometry& first() const { return first_; }
    const std::vector<MovingPart>& parts() const { return parts_; }
    const std::vector<MovingCopy>& copies() const { return copies_; }
    std::size_t frames() const { return frames_; }
    bool anyMoves() const;

private:
    std::optional<Error> addCopies(const Geometry& frame);
    Geometry first_;
    std::vector<MovingPart> parts_;
    std::vector<MovingCopy> copies_;
    std::vector<Index> loose_;  ///< points of no face: they must stay
    std::size_t frames_ = 1;
};

}  // namespace seedloom

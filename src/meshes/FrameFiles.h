#pragma once
// Frames of a model as files: one for each, or one in which parts move.
#include "meshes/RigidMoves.h"

#include <filesystem>
#include <string>

namespace seedloom {

struct FrameRange {
    int from = 0, to = 0;  ///< both are part of it
};
inline constexpr int kLastFrame = 100'000;
inline constexpr int kMostFrames = 10'000;  ///< that are written at once
/// Why such frames can't be written. Code `frames.range`.
std::optional<Error> problemOf(FrameRange range);
/// Why they can't be written to such a file. Codes `frames.ending`, `frames.name`.
std::optional<Error> problemOfName(const std::string& file, bool together);

/// `name` with its last run of # replaced by the number, with as many digits at least.
std::string nameOfFrame(const std::string& name, int frame);

class FrameFiles {
public:
    /// `together`: one .glb in which pieces and copies move; else a file for each frame, with #### in the name for its number.
    FrameFiles(std::string file, bool together, double secondsPerFrame) : file_(std::move(file)), together_(together), secondsPerFrame_(secondsPerFrame) {}

    /// One frame after the other. Errors: those of RigidMoves and of writeMesh. Throws Cancelled; files that are written stay.
    std::optional<Error> add(const Geometry& geometry, int frame, const RunContext& run);
    /// After the last one.
    std::optional<Error> finish();
    const std::vector<std::string>& written() const { return written_; }
    /// Whether anything moved; true where each frame has its file.
    bool moved() const { return !together_ || (moves_ && moves_->anyMoves()); }

private:
    const std::string file_;
    const bool together_;
    const double secondsPerFrame_;
    std::optional<RigidMoves> moves_;
    std::vector<std::string> written_;
};

}  // namespace seedloom

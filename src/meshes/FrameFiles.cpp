#include "meshes/FrameFiles.h"

#include "files/FileIo.h"
#include "meshes/GltfAnimation.h"
#include "meshes/MeshFile.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

std::optional<Error> problemOf(FrameRange range) {
    if (range.from < 0 || range.to < range.from || range.to > kLastFrame)
        return Error{"frames.range", fmt::format("Frames go from 0 to {}, the first one first.", kLastFrame)};
    if (range.to - range.from >= kMostFrames)
        return Error{"frames.range", fmt::format("These are {} frames; at most {} are written at once.", range.to - range.from + 1, kMostFrames)};
    return {};
}

std::optional<Error> problemOfName(const std::string& file, bool together) {
    if (together && std::filesystem::path(file).extension() != ".glb")
        return Error{"frames.ending", fmt::format("'{}': models that move are written as .glb. For other endings write a file for each frame.", file)};
    if (!isWritable(file))
        return Error{"frames.ending",
                     fmt::format("'{}': files with this ending can't be written. Those that can are: {}.", file, fmt::join(writableEndings(), ", "))};
    if (!together && std::filesystem::path(file).filename().string().find('#') == std::string::npos)
        return Error{"frames.name", fmt::format("'{}': put #### where the frame's number goes, as name.####.obj.", file)};
    return {};
}

std::string nameOfFrame(const std::string& name, int frame) {
    const std::size_t last = name.rfind('#');
    if (last == std::string::npos) return name;
    std::size_t first = last;
    while (first > 0 && name[first - 1] == '#') --first;
    return name.substr(0, first) + fmt::format("{:0{}}", frame, last - first + 1) + name.substr(last + 1);
}

std::optional<Error> FrameFiles::add(const Geometry& geometry, int frame, const RunContext& run) {
    run.poll();
    if (!together_) {
        const std::string path = nameOfFrame(file_, frame);
        if (const auto error = writeMesh(geometry, path)) return error;
        written_.push_back(path);
        return {};
    }
    if (!moves_) {
        auto first = RigidMoves::from(geometry, run);
        if (!first) return first.error();
        moves_ = std::move(*first);
        return {};
    }
    if (auto error = moves_->add(geometry, run)) {
        error->text = fmt::format("Frame {}: {}", frame, error->text);
        return error;
    }
    return {};
}

std::optional<Error> FrameFiles::finish() {
    if (!together_ || !moves_) return {};
    if (auto error = writeFileAtomically(file_, animatedGlb(*moves_, secondsPerFrame_))) return error;
    written_.push_back(file_);
    return {};
}

}  // namespace seedloom

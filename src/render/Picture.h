#pragma once
// A picture in memory.
#include "geometry/Result.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <vector>

namespace seedloom {

struct Colour {
    std::uint8_t r = 0, g = 0, b = 0, a = 255;
    bool operator==(const Colour&) const = default;
};

struct Picture {
    int width = 0, height = 0;
    std::vector<Colour> pixels;  ///< rows from the top; transparent where nothing is
    bool operator==(const Picture&) const = default;
};

/// A PNG of it; error `file.write`.
Result<std::string> pngBytes(const Picture& picture);
/// Writes PNG, atomically. Error `file.write`.
std::optional<Error> writePng(const Picture& picture, const std::filesystem::path& path);

}  // namespace seedloom

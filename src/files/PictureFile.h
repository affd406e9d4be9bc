#pragma once
// Pictures of pixels as files: PNG (ISO/IEC 15948) with 8 or 16 bits, JPEG (ISO/IEC 10918).
#include "geometry/Result.h"

#include <array>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace seedloom {

/// Red, green, blue and opacity of a pixel, 0 to 65 535, as the file stores them (usually sRGB).
using DeepPixel = std::array<std::uint16_t, 4>;

struct PixelPicture {
    int width = 0, height = 0;
    std::vector<DeepPixel> pixels;  ///< rows from the top
    const DeepPixel& at(int x, int y) const { return pixels[std::size_t(y) * std::size_t(width) + std::size_t(x)]; }
};

/// The most pixels that are read: half a gigabyte of memory.
inline constexpr double kMostPixels = 64e6;

/// Endings that can be read, with the dot.
const std::vector<std::string>& pictureEndings();

/// By what the bytes are, whatever the file is called. Errors: `picture.format`, `picture.large`.
Result<PixelPicture> pictureFromBytes(std::string_view bytes);
/// Only its width and height, which stand at the beginning. The same errors.
Result<std::array<int, 2>> pictureSizeFromBytes(std::string_view bytes);

}  // namespace seedloom

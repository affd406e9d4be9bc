#pragma once
// Pictures as the bytes of files, made for tests.
#include "files/PictureFile.h"

namespace seedloom::test {

std::string pngBytes(const PixelPicture& picture);      ///< 8 bits of red, green, blue and opacity
std::string deepPngBytes(const PixelPicture& picture);  ///< 16 bits of grey, by the red of each pixel
std::string jpegBytes(const PixelPicture& picture);
/// Just the beginning of a PNG that would be so large.
std::string pngHeader(std::uint32_t width, std::uint32_t height);

}  // namespace seedloom::test

#include "PictureBytes.h"

#include <cstdio>
#include <cstring>

#include <jpeglib.h>
#include <png.h>
#include <zlib.h>

namespace seedloom::test {

namespace {

std::string packed(png_image& image, const void* rows) {
    png_alloc_size_t size = 0;
    png_image_write_to_memory(&image, nullptr, &size, 0, rows, 0, nullptr);
    std::string out(size, 0);
    png_image_write_to_memory(&image, out.data(), &size, 0, rows, 0, nullptr);
    out.resize(size);
    return out;
}

png_image imageOf(const PixelPicture& picture, png_uint_32 format) {
    png_image out{};
    out.version = PNG_IMAGE_VERSION;
    out.width = png_uint_32(picture.width), out.height = png_uint_32(picture.height);
    out.format = format;
    return out;
}

std::string bigEndian(std::uint32_t n) { return {char(n >> 24), char(n >> 16), char(n >> 8), char(n)}; }

std::string chunk(const std::string& name, const std::string& data) {
    const std::string body = name + data;
    return bigEndian(std::uint32_t(data.size())) + body + bigEndian(std::uint32_t(crc32(0, reinterpret_cast<const Bytef*>(body.data()), uInt(body.size()))));
}

std::string ihdr(std::uint32_t width, std::uint32_t height, char bits, char kind) {
    return "\x89PNG\r\n\x1a\n" + chunk("IHDR", bigEndian(width) + bigEndian(height) + std::string{bits, kind, 0, 0, 0});
}

}  // namespace

std::string pngBytes(const PixelPicture& picture) {
    png_image image = imageOf(picture, PNG_FORMAT_RGBA);
    std::vector<png_byte> rows;
    for (const DeepPixel& pixel : picture.pixels)
        for (std::uint16_t v : pixel) rows.push_back(png_byte(v / 257));
    return packed(image, rows.data());
}

/// By hand: the library's simple way would change the values.
std::string deepPngBytes(const PixelPicture& picture) {
    std::string rows;
    for (int y = 0; y < picture.height; ++y) {
        rows += '\0';
        for (int x = 0; x < picture.width; ++x) rows += {char(picture.at(x, y)[0] >> 8), char(picture.at(x, y)[0])};
    }
    uLongf size = compressBound(uLong(rows.size()));
    std::string data(size, 0);
    compress(reinterpret_cast<Bytef*>(data.data()), &size, reinterpret_cast<const Bytef*>(rows.data()), uLong(rows.size()));
    data.resize(size);
    return ihdr(std::uint32_t(picture.width), std::uint32_t(picture.height), 16, 0) + chunk("IDAT", data) + chunk("IEND", "");
}

std::string jpegBytes(const PixelPicture& picture) {
    jpeg_compress_struct jpeg;
    jpeg_error_mgr errors;
    jpeg.err = jpeg_std_error(&errors);
    jpeg_create_compress(&jpeg);
    unsigned char* bytes = nullptr;
    unsigned long size = 0;
    jpeg_mem_dest(&jpeg, &bytes, &size);
    jpeg.image_width = JDIMENSION(picture.width), jpeg.image_height = JDIMENSION(picture.height);
    jpeg.input_components = 3;
    jpeg.in_color_space = JCS_RGB;
    jpeg_set_defaults(&jpeg);
    jpeg_set_quality(&jpeg, 95, TRUE);
    jpeg_start_compress(&jpeg, TRUE);
    for (int y = 0; y < picture.height; ++y) {
        std::vector<unsigned char> row;
        for (int x = 0; x < picture.width; ++x)
            for (std::size_t c = 0; c < 3; ++c) row.push_back(static_cast<unsigned char>(picture.at(x, y)[c] / 257));
        unsigned char* start = row.data();
        jpeg_write_scanlines(&jpeg, &start, 1);
    }
    jpeg_finish_compress(&jpeg);
    jpeg_destroy_compress(&jpeg);
    std::string out(reinterpret_cast<char*>(bytes), size);
    std::free(bytes);
    return out;
}

std::string pngHeader(std::uint32_t width, std::uint32_t height) { return ihdr(width, height, 8, 0) + chunk("IDAT", "x"); }

}  // namespace seedloom::test

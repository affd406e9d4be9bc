// The decoders are those of libpng and libjpeg. Both leave by long jumps where a file is broken, so nothing that must be destroyed lives in the
// functions that call them.
#include "files/PictureFile.h"

#include <fmt/format.h>

#include <csetjmp>
#include <cstdio>
#include <cstring>
#include <optional>

#include <jpeglib.h>
#include <png.h>

namespace seedloom {

namespace {

/// What a decoder works on: where it reads, what it makes, and what it says at the end.
struct Decoding {
    std::string_view bytes;
    std::size_t read = 0;
    PixelPicture picture;
    std::vector<unsigned char> row;  ///< of a decoder that gives one at a time
    bool onlySize = false, large = false;
    std::jmp_buf back;
    char said[256] = "";

    bool takes(double width, double height) {
        large = width * height > kMostPixels;
        if (large || width < 1 || height < 1) return false;
        picture.width = int(width), picture.height = int(height);
        if (!onlySize) picture.pixels.resize(std::size_t(picture.width) * std::size_t(picture.height));
        return true;
    }
};

void pngFailed(png_structp png, png_const_charp text) {
    auto& decoding = *static_cast<Decoding*>(png_get_error_ptr(png));
    std::snprintf(decoding.said, sizeof decoding.said, "%s", text);
    std::longjmp(decoding.back, 1);
}
void pngWarned(png_structp, png_const_charp) {}
void pngRead(png_structp png, png_bytep to, png_size_t count) {
    auto& decoding = *static_cast<Decoding*>(png_get_io_ptr(png));
    if (decoding.bytes.size() - decoding.read < count) png_error(png, "the file ends early");
    std::memcpy(to, decoding.bytes.data() + decoding.read, count);
    decoding.read += count;
}

/// All forms of PNG as 16 bits of red, green, blue and opacity, the low byte first.
void wideForm(png_structp png, png_infop info) {
    const bool grey = (png_get_color_type(png, info) & PNG_COLOR_MASK_COLOR) == 0;
    png_set_expand_16(png);
    if (grey) png_set_gray_to_rgb(png);
    png_set_add_alpha(png, 0xffff, PNG_FILLER_AFTER);
    png_set_swap(png);
    png_set_interlace_handling(png);
    png_read_update_info(png, info);
}

bool decodePng(Decoding& decoding) {
    png_structp png = png_create_read_struct(PNG_LIBPNG_VER_STRING, &decoding, pngFailed, pngWarned);
    png_infop info = png ? png_create_info_struct(png) : nullptr;
    if (!info || setjmp(decoding.back)) {
        png_destroy_read_struct(&png, &info, nullptr);
        return false;
    }
    png_set_user_limits(png, 1'000'000, 1'000'000);
    png_set_read_fn(png, &decoding, pngRead);
    png_read_info(png, info);
    const bool taken = decoding.takes(png_get_image_width(png, info), png_get_image_height(png, info));
    if (taken && !decoding.onlySize) {
        const int height = decoding.picture.height;
        wideForm(png, info);
        const int passes = png_get_interlace_type(png, info) == PNG_INTERLACE_ADAM7 ? 7 : 1;
        for (int pass = 0; pass < passes; ++pass)
            for (int y = 0; y < height; ++y)
                png_read_row(png, reinterpret_cast<png_bytep>(&decoding.picture.pixels[std::size_t(y) * std::size_t(decoding.picture.width)]), nullptr);
    }
    png_destroy_read_struct(&png, &info, nullptr);
    return taken;
}

void jpegFailed(j_common_ptr jpeg) {
    auto& decoding = *static_cast<Decoding*>(jpeg->client_data);
    char text[JMSG_LENGTH_MAX];
    jpeg->err->format_message(jpeg, text);
    std::snprintf(decoding.said, sizeof decoding.said, "%s", text);
    std::longjmp(decoding.back, 1);
}
void jpegSaid(j_common_ptr) {}

bool decodeJpeg(Decoding& decoding) {
    jpeg_decompress_struct jpeg;
    std::memset(&jpeg, 0, sizeof jpeg);
    jpeg_error_mgr errors;
    jpeg.err = jpeg_std_error(&errors);
    errors.error_exit = jpegFailed, errors.output_message = jpegSaid;
    jpeg.client_data = &decoding;
    if (setjmp(decoding.back)) {
        jpeg_destroy_decompress(&jpeg);
        return false;
    }
    jpeg_create_decompress(&jpeg);
    jpeg_mem_src(&jpeg, reinterpret_cast<const unsigned char*>(decoding.bytes.data()), static_cast<unsigned long>(decoding.bytes.size()));
    jpeg_read_header(&jpeg, TRUE);
    jpeg.out_color_space = JCS_RGB;
    const bool taken = decoding.takes(jpeg.image_width, jpeg.image_height);
    if (taken && !decoding.onlySize) {
        jpeg_start_decompress(&jpeg);
        decoding.row.resize(std::size_t(jpeg.output_width) * 3);
        while (jpeg.output_scanline < jpeg.output_height) {
            const std::size_t begin = std::size_t(jpeg.output_scanline) * std::size_t(decoding.picture.width);
            unsigned char* row = decoding.row.data();
            jpeg_read_scanlines(&jpeg, &row, 1);
            for (std::size_t x = 0; x < std::size_t(decoding.picture.width); ++x)
                for (std::size_t c = 0; c < 4; ++c)
                    decoding.picture.pixels[begin + x][c] = static_cast<std::uint16_t>(c == 3 ? 65535 : decoding.row[x * 3 + c] * 257);
        }
        jpeg_finish_decompress(&jpeg);
    }
    jpeg_destroy_decompress(&jpeg);
    return taken;
}

/// Decodes into `decoding`; the error where that can't be done.
std::optional<Error> decode(Decoding& decoding) {
    const bool png = decoding.bytes.starts_with("\x89PNG\r\n\x1a\n"), jpeg = decoding.bytes.starts_with("\xff\xd8\xff");
    if (!png && !jpeg) return Error{"picture.format", "The file is no picture that can be read: it is neither PNG nor JPEG."};
    if (png ? decodePng(decoding) : decodeJpeg(decoding)) return {};
    if (decoding.large)
        return Error{"picture.large", fmt::format("The picture has more than {:.0f} million pixels. Make a smaller one of it.", kMostPixels / 1e6)};
    return Error{"picture.format", fmt::format("The picture is broken ({}). Save it again as PNG.", decoding.said)};
}

}  // namespace

const std::vector<std::string>& pictureEndings() {
    static const std::vector<std::string> out{".png", ".jpg", ".jpeg"};
    return out;
}

Result<PixelPicture> pictureFromBytes(std::string_view bytes) {
    Decoding decoding;
    decoding.bytes = bytes;
    if (auto error = decode(decoding)) return std::move(*error);
    return std::move(decoding.picture);
}

Result<std::array<int, 2>> pictureSizeFromBytes(std::string_view bytes) {
    Decoding decoding;
    decoding.bytes = bytes;
    decoding.onlySize = true;
    if (auto error = decode(decoding)) return std::move(*error);
    return std::array{decoding.picture.width, decoding.picture.height};
}

}  // namespace seedloom

#include "files/FileIo.h"
#include "render/Picture.h"

#include <png.h>

#include <cstring>

namespace seedloom {

Result<std::string> pngBytes(const Picture& picture) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = png_uint_32(picture.width), image.height = png_uint_32(picture.height);
    image.format = PNG_FORMAT_RGBA;
    const bool opaque = std::all_of(picture.pixels.begin(), picture.pixels.end(), [](Colour c) { return c.a == 255; });
    std::vector<png_byte> rows;
    if (opaque) {  // a quarter less to store
        image.format = PNG_FORMAT_RGB;
        for (Colour c : picture.pixels) rows.insert(rows.end(), {c.r, c.g, c.b});
    } else {
        rows.resize(picture.pixels.size() * sizeof(Colour));
        std::memcpy(rows.data(), picture.pixels.data(), rows.size());
    }
    png_alloc_size_t size = 0;
    std::string bytes;
    const bool measured = png_image_write_to_memory(&image, nullptr, &size, 0, rows.data(), 0, nullptr) != 0;
    if (measured) bytes.resize(size);
    if (!measured || !png_image_write_to_memory(&image, bytes.data(), &size, 0, rows.data(), 0, nullptr))
        return Error{"file.write", std::string("The picture could not be packed: ") + image.message};
    bytes.resize(size);
    return bytes;
}

std::optional<Error> writePng(const Picture& picture, const std::filesystem::path& path) {
    const auto bytes = pngBytes(picture);
    return bytes ? writeFileAtomically(path, *bytes) : bytes.error();
}

}  // namespace seedloom

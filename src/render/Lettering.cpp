#include "render/Lettering.h"

#include "operators/make/FontData.h"

#include <ft2build.h>
#include FT_FREETYPE_H

#include <algorithm>
#include <array>
#include <memory>

namespace seedloom {

namespace {

constexpr std::array<const char*, 3> kFaces{"regular", "semibold", "mono"};

/// The next character of UTF-8; what is none is a question mark.
char32_t nextCharacter(const std::string& text, std::size_t& at) {
    const auto byte = static_cast<unsigned char>(text[at++]);
    if (byte < 0x80) return byte;
    const int more = byte >= 0xF0 ? 3 : byte >= 0xE0 ? 2 : byte >= 0xC0 ? 1 : 0;
    char32_t out = byte & (0x3F >> more);
    for (int i = 0; i < more; ++i) {
        if (at >= text.size() || (static_cast<unsigned char>(text[at]) & 0xC0) != 0x80) return U'?';
        out = (out << 6) | (static_cast<unsigned char>(text[at++]) & 0x3F);
    }
    return more == 0 ? U'?' : out;
}

void blend(Colour& to, Colour colour, unsigned part) {
    const auto mixed = [&](std::uint8_t a, std::uint8_t b) { return std::uint8_t((a * (255 - part) + b * part + 127) / 255); };
    to = {mixed(to.r, colour.r), mixed(to.g, colour.g), mixed(to.b, colour.b), std::uint8_t(std::max<unsigned>(to.a, part))};
}

}  // namespace

struct Lettering::Fonts {
    FT_Library library = nullptr;
    std::array<FT_Face, kFaces.size()> faces{};
    Fonts() {
        if (FT_Init_FreeType(&library) != 0) return;
        for (std::size_t i = 0; i < faces.size(); ++i) {
            const std::string_view bytes = fontBytes(kFaces[i]);
            if (FT_New_Memory_Face(library, reinterpret_cast<const FT_Byte*>(bytes.data()), FT_Long(bytes.size()), 0, &faces[i]) != 0) faces[i] = nullptr;
        }
    }
    ~Fonts() {
        for (FT_Face face : faces)
            if (face) FT_Done_Face(face);
        if (library) FT_Done_FreeType(library);
    }
    /// `use` gets each character's glyph, drawn, and where its origin is, in whole pixels from the start; returns the width.
    template <class Use> int each(const std::string& text, Face which, int pixels, Use&& use) {
        FT_Face face = faces[std::size_t(which)];
        if (!face) return 0;
        FT_Set_Pixel_Sizes(face, 0, FT_UInt(pixels));
        FT_Pos x = 0;
        FT_UInt before = 0;
        for (std::size_t at = 0; at < text.size();) {
            const FT_UInt glyph = FT_Get_Char_Index(face, nextCharacter(text, at));
            FT_Vector kerning{0, 0};
            if (before && glyph && FT_HAS_KERNING(face)) FT_Get_Kerning(face, before, glyph, FT_KERNING_DEFAULT, &kerning);
            before = glyph;
            x += kerning.x;
            if (FT_Load_Glyph(face, glyph, FT_LOAD_RENDER | FT_LOAD_TARGET_LIGHT) != 0) continue;
            use(*face->glyph, int(x >> 6));
            x += face->glyph->advance.x;
        }
        return int((x + 63) >> 6);
    }
};

Lettering::Lettering() : fonts_(std::make_unique<Fonts>()) {}
Lettering::~Lettering() = default;

int Lettering::width(const std::string& text, Face face, int pixels) {
    return fonts_->each(text, face, pixels, [](const FT_GlyphSlotRec&, int) {});
}

void Lettering::write(Picture& to, int x, int y, const std::string& text, Face face, int pixels, Colour colour) {
    fonts_->each(text, face, pixels, [&](const FT_GlyphSlotRec& glyph, int at) {
        const int left = x + at + glyph.bitmap_left, top = y - glyph.bitmap_top;
        for (int row = 0; row < int(glyph.bitmap.rows); ++row)
            for (int column = 0; column < int(glyph.bitmap.width); ++column) {
                const int px = left + column, py = top + row;
                if (px < 0 || py < 0 || px >= to.width || py >= to.height) continue;
                blend(to.pixels[std::size_t(py) * std::size_t(to.width) + std::size_t(px)], colour, glyph.bitmap.buffer[row * glyph.bitmap.pitch + column]);
            }
    });
}

std::vector<std::string> Lettering::broken(const std::string& text, Face face, int pixels, int wide, int most) {
    std::vector<std::string> out;
    std::string line;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find_first_of(" \n", at), text.size());
        const std::string word = text.substr(at, end - at);
        const std::string longer = line.empty() ? word : line + " " + word;
        if (!line.empty() && width(longer, face, pixels) > wide) {
            out.push_back(line);
            line = word;
        } else {
            line = longer;
        }
        if (end < text.size() && text[end] == '\n') out.push_back(std::exchange(line, {}));
        at = end + 1;
    }
    if (!line.empty()) out.push_back(line);
    const bool cut = int(out.size()) > most;
    if (cut) out.resize(std::size_t(most));
    for (std::size_t i = 0; i < out.size(); ++i) {
        const bool dots = cut && i + 1 == out.size();
        std::string shown = dots ? out[i] + " …" : out[i];
        if (width(shown, face, pixels) <= wide) {
            out[i] = shown;
            continue;
        }
        // A word longer than the line, or dots that do not fit any more: as much as does.
        std::string whole = out[i];
        while (!whole.empty() && width(whole + "…", face, pixels) > wide) {
            while (whole.size() > 1 && (static_cast<unsigned char>(whole.back()) & 0xC0) == 0x80) whole.pop_back();
            whole.pop_back();
        }
        out[i] = whole + "…";
    }
    return out;
}

void fillRect(Picture& to, int x, int y, int width, int height, Colour colour) {
    for (int row = std::max(y, 0); row < std::min(y + height, to.height); ++row)
        for (int column = std::max(x, 0); column < std::min(x + width, to.width); ++column)
            to.pixels[std::size_t(row) * std::size_t(to.width) + std::size_t(column)] = colour;
}

void putPicture(Picture& to, const Picture& from, int x, int y) {
    for (int row = 0; row < from.height; ++row)
        for (int column = 0; column < from.width; ++column) {
            const int px = x + column, py = y + row;
            if (px < 0 || py < 0 || px >= to.width || py >= to.height) continue;
            const Colour colour = from.pixels[std::size_t(row) * std::size_t(from.width) + std::size_t(column)];
            blend(to.pixels[std::size_t(py) * std::size_t(to.width) + std::size_t(px)], colour, colour.a);
        }
}

}  // namespace seedloom

#pragma once
// Words in pictures, without a display.
#include "render/Picture.h"

#include <memory>
#include <string>

namespace seedloom {

/// Writes lines of text into pictures with one of the shipped fonts. Not to be shared between threads. Library: FreeType.
class Lettering {
public:
    Lettering();
    ~Lettering();
    Lettering(const Lettering&) = delete;
    Lettering& operator=(const Lettering&) = delete;

    enum class Face : unsigned char { regular, semibold, mono };
    /// How wide a line is, in pixels.
    int width(const std::string& text, Face face, int pixels);
    /// One line of UTF-8 with its baseline at y; parts outside of the picture are left out.
    void write(Picture& to, int x, int y, const std::string& text, Face face, int pixels, Colour colour);
    /// Broken between words into lines of at most `wide` pixels; what is longer than `most` lines ends in dots.
    std::vector<std::string> broken(const std::string& text, Face face, int pixels, int wide, int most);

private:
    struct Fonts;
    std::unique_ptr<Fonts> fonts_;
};

/// A filled rectangle, as far as it is inside of the picture.
void fillRect(Picture& to, int x, int y, int width, int height, Colour colour);
/// A picture put into another, as far as it is inside of it; see-through pixels let through what is there.
void putPicture(Picture& to, const Picture& from, int x, int y);

}  // namespace seedloom

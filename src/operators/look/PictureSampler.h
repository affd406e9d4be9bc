#pragma once
// A picture that is asked for what is at a place.
#include "files/PictureFile.h"
#include "geometry/Vec.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Red, green, blue and opacity in 0–1, as stored.
struct PictureValue {
    Vec3 colour{};
    float opacity = 1;
    /// Rec. ITU-R BT.709 weights; nothing where it is transparent.
    float brightness() const { return (0.2126f * colour.x + 0.7152f * colour.y + 0.0722f * colour.z) * opacity; }
};

class PictureSampler {
public:
    /// Squares of `step` × `step` pixels are averaged first, so that places farther apart than a pixel do not pick single ones by chance.
    /// `repeatU`, `repeatV`: whether the picture goes on beyond its sides, or holds the colour of its edge.
    PictureSampler(const PixelPicture& picture, int step, bool repeatU, bool repeatV, const RunContext& run);
    /// Between the centres of pixels; u to the right, v up, 0 to 1 over the picture. Places that are no numbers count as 0.
    PictureValue at(Vec2 uv) const;

private:
    using Pixel = std::array<float, 4>;  // colours times opacity, so that what is transparent does not colour its neighbours
    const Pixel& pixel(int x, int y) const { return pixels_[std::size_t(y) * std::size_t(width_) + std::size_t(x)]; }
    int width_, height_;
    bool repeatU_, repeatV_;
    std::vector<Pixel> pixels_;
};

}  // namespace seedloom

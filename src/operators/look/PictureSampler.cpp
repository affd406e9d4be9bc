// Method: averages over squares, then bilinear between centres, with colours weighted by their opacity (Porter and Duff 1984).
#include "operators/look/PictureSampler.h"

#include "parallel/Loops.h"

#include <cmath>

namespace seedloom {

namespace {

/// The two neighbours of a place along one side, and how near it is to the second.
struct Between {
    int first, second;
    float share;
};
Between between(float place, int count, bool repeat) {
    if (!std::isfinite(place)) place = 0;
    const double turned = repeat ? double(place) - std::floor(double(place)) : std::clamp(double(place), 0.0, 1.0);
    const double at = turned * count - 0.5, low = std::floor(at);
    const auto held = [&](int i) { return repeat ? (i + count) % count : std::clamp(i, 0, count - 1); };
    return {held(int(low)), held(int(low) + 1), float(at - low)};
}

}  // namespace

PictureSampler::PictureSampler(const PixelPicture& picture, int step, bool repeatU, bool repeatV, const RunContext& run)
    : width_((picture.width + step - 1) / step), height_((picture.height + step - 1) / step), repeatU_(repeatU), repeatV_(repeatV) {
    pixels_.resize(std::size_t(width_) * std::size_t(height_));
    forEach(pixels_.size(), run, [&](std::size_t i) {
        const int left = int(i % std::size_t(width_)) * step, top = int(i / std::size_t(width_)) * step;
        const int right = std::min(left + step, picture.width), bottom = std::min(top + step, picture.height);
        std::array<double, 4> sum{};
        for (int y = top; y < bottom; ++y)
            for (int x = left; x < right; ++x) {
                const DeepPixel& pixel = picture.at(x, y);
                const double opacity = pixel[3] / 65535.0;
                for (std::size_t c = 0; c < 3; ++c) sum[c] += pixel[c] / 65535.0 * opacity;
                sum[3] += opacity;
            }
        for (std::size_t c = 0; c < 4; ++c) pixels_[i][c] = float(sum[c] / (double(right - left) * double(bottom - top)));
    });
}

PictureValue PictureSampler::at(Vec2 uv) const {
    const Between x = between(uv.x, width_, repeatU_), y = between(1 - uv.y, height_, repeatV_);
    Pixel mixed;
    for (std::size_t c = 0; c < 4; ++c) {
        const float upper = pixel(x.first, y.first)[c] * (1 - x.share) + pixel(x.second, y.first)[c] * x.share;
        const float lower = pixel(x.first, y.second)[c] * (1 - x.share) + pixel(x.second, y.second)[c] * x.share;
        mixed[c] = upper * (1 - y.share) + lower * y.share;
    }
    const float opacity = mixed[3];
    if (!(opacity > 0)) return {{}, 0};
    return {{mixed[0] / opacity, mixed[1] / opacity, mixed[2] / opacity}, opacity};
}

}  // namespace seedloom

#include "render/RenderedPicture.h"

#include "fields/Random.h"
#include "parallel/Loops.h"
#include "render/TracedScene.h"
#include "scene/Camera.h"
#include "scene/Palette.h"

namespace seedloom {

namespace {

constexpr Vec3 kFloor{0.90f, 0.875f, 0.83f}, kSky{0.965f, 0.945f, 0.91f};

/// With room for what is drawn around lines and points.
Bounds framed(const DrawScene& scene) {
    Bounds out = scene.bounds;
    if (out.empty || (scene.looseDots == 0 && scene.lines.empty())) return out;
    const auto more = float(TracedScene::sizeOf(scene) * TracedScene::kBall);
    out.min -= Vec3{more, more, more};
    out.max += Vec3{more, more, more};
    return out;
}

class Tracer {
public:
    Tracer(const std::shared_ptr<const DrawScene>& shown, const RenderOptions& options) : options_(options), bounds_(framed(*shown)), scene_(shown) {
        placeCamera();
    }

    Picture draw(const RunContext& run) const {
        Picture out{options_.width, options_.height, std::vector<Colour>(std::size_t(options_.width) * std::size_t(options_.height))};
        forChunks(
            std::size_t(options_.height), run,
            [&](std::size_t, Range rows) {
                for (std::size_t y = rows.begin; y < rows.end; ++y) {
                    run.poll();
                    for (int x = 0; x < options_.width; ++x) out.pixels[y * std::size_t(options_.width) + std::size_t(x)] = pixel(x, int(y));
                }
            },
            4);
        return out;
    }

private:
    void placeCamera() {
        camera_.yaw = options_.yaw;
        camera_.pitch = options_.pitch;
        camera_.frameTightly(options_.framing.value_or(bounds_), size_, 1.12);
        radius_ = std::max(float(bounds_.diagonal() / 2), 1e-6f);
        eye_ = camera_.eye();
        rays_ = camera_.rays(size_);
        key_ = normalized(camera_.toEye() * 0.45f + Vec3{0, 1, 0} * 0.9f - camera_.right() * 0.75f);
        floor_ = bounds_.min.y - radius_ * 1e-4f;
    }

    /// Numbers that look random, and are the same every time.
    static float jitter(std::uint32_t x, std::uint32_t y, std::uint32_t sample, std::uint32_t which) {
        std::uint64_t h = (std::uint64_t(x) * 0x9E3779B97F4A7C15ULL) ^ (std::uint64_t(y) * 0xC2B2AE3D27D4EB4FULL) ^
                          (std::uint64_t(sample * 8 + which + 1) * 0x165667B19E3779F9ULL);
        h ^= h >> 31, h *= 0xBF58476D1CE4E5B9ULL, h ^= h >> 27, h *= 0x94D049BB133111EBULL, h ^= h >> 31;
        return float(h >> 40) / float(1 << 24);
    }

    Colour pixel(int x, int y) const {
        Vec3 sum{};
        const int side = std::max(1, int(std::sqrt(double(options_.samples))));
        for (int s = 0; s < options_.samples; ++s) {
            const auto rnd = [&](std::uint32_t which) { return jitter(std::uint32_t(x), std::uint32_t(y), std::uint32_t(s), which); };
            const float u = (float(s % side) + rnd(0)) / float(side), v = (float(s / side % side) + rnd(1)) / float(side);
            const double across = double(x) + double(u), down = double(y) + double(v);
            sum += seen(rays_.at({across, down}), float(1 - down / size_.height * 2), rnd);
        }
        sum = sum / float(options_.samples);
        const auto byte = [](float v) { return std::uint8_t(std::clamp(std::pow(std::max(v, 0.0f), 1 / 2.2f) * 255 + 0.5f, 0.0f, 255.0f)); };
        return {byte(sum.x), byte(sum.y), byte(sum.z), 255};
    }
    static Vec3 linear(Vec3 c) { return {std::pow(std::max(c.x, 0.0f), 2.2f), std::pow(std::max(c.y, 0.0f), 2.2f), std::pow(std::max(c.z, 0.0f), 2.2f)}; }

    template <class Random> Vec3 seen(Vec3 direction, float height, const Random& rnd) const {
        const Vec3 sky = linear(mix(kSky, kFloor, std::clamp(0.5f - 0.5f * height, 0.0f, 1.0f)));
        const auto met = scene_.hit(eye_, direction);
        const float down = options_.ground && direction.y < -1e-4f ? (floor_ - eye_.y) / direction.y : -1;
        if (met && (down < 0 || met->distance < down)) return lit(eye_ + direction * met->distance, met->normal, met->colour, rnd);
        if (down <= 0) return sky;
        // The floor shows only what falls on it, and fades into the background.
        const Vec3 at = eye_ + direction * down;
        const float far = std::clamp(distance(at, {camera_.target.x, floor_, camera_.target.z}) / (radius_ * 5), 0.0f, 1.0f);
        const Vec3 open = linear(kFloor), shown = lit(at, {0, 1, 0}, kFloor, rnd);
        const float shade = std::clamp(shown.y / std::max(lightOnFloor() * open.y, 1e-6f), 0.0f, 1.0f);
        return mix(sky * (0.35f + 0.65f * shade), sky, far);
    }
    float lightOnFloor() const { return 0.62f * std::max(key_.y, 0.0f) + 0.5f; }

    template <class Random> Vec3 lit(Vec3 at, Vec3 n, Vec3 colour, const Random& rnd) const {
        const float off = radius_ * 2e-4f;
        const Vec3 from = at + n * off;
        const Vec3 key = normalized(key_ + Vec3{rnd(2) - 0.5f, rnd(3) - 0.5f, rnd(4) - 0.5f} * 0.22f);
        const float facing = dot(n, key);
        const float direct = facing > 0 && !scene_.blocked(from, key, radius_ * 20) ? facing : 0;
        // One direction of the sky, more often straight up from the surface.
        const float r = std::sqrt(rnd(5)), a = float(2 * kPi) * rnd(6);
        const Vec3 u = anyPerpendicular(n), v = cross(n, u);
        const Vec3 sky = u * (r * std::cos(a)) + v * (r * std::sin(a)) + n * std::sqrt(std::max(0.0f, 1 - r * r));
        const bool open = !scene_.blocked(from, sky, radius_ * 1.2f) && !(options_.ground && sky.y < 0 && from.y - floor_ < radius_ * 0.8f * -sky.y);
        const float ambient = (open ? 1.0f : 0.28f) * (0.42f + 0.08f * n.y);
        return linear(colour) * (0.62f * 1.25f * direct + ambient + 0.02f);
    }

    const RenderOptions& options_;
    const Bounds bounds_;
    const PictureSize size_{double(options_.width), double(options_.height)};
    const TracedScene scene_;
    Camera camera_;
    PictureRays rays_;
    Vec3 eye_, key_;
    float radius_ = 1, floor_ = 0;
};

}  // namespace

Picture renderedPicture(const std::shared_ptr<const DrawScene>& scene, const RenderOptions& options, const RunContext& run) {
    return Tracer(scene, options).draw(run);
}

Picture renderedPicture(const Geometry& geometry, const RenderOptions& options, const RunContext& run) {
    return renderedPicture(drawScene(geometry, lookForPictures()), options, run);
}

}  // namespace seedloom

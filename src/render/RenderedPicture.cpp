#include "render/RenderedPicture.h"

#include "fields/Random.h"
#include "geometry/Bake.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/RayScene.h"
#include "geometry/Rows.h"
#include "geometry/ShownColours.h"
#include "operators/Polyhedra.h"
#include "operators/curve/SweepKernel.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

constexpr Vec3 kClay{0.78f, 0.72f, 0.62f}, kInk{0.14f, 0.17f, 0.21f}, kFloor{0.90f, 0.875f, 0.83f}, kSky{0.965f, 0.945f, 0.91f};
constexpr std::uint64_t kMostDrawn = 12'000'000;  // corners

/// Lines and points as something that rays can meet.
Geometry solidLines(const Geometry& g, double size) {
    std::vector<Geometry> parts{g};
    if (g.curveCount() > 0) {
        SweepOptions options;
        options.scale = {true, float(size * 0.008), {}};
        options.twist = {true, 0, {}};
        Geometry tubes = sweep(g, Geometry(), {roundProfile(8)}, options);
        tubes.setColumn(Element::face, "line", Column(std::vector<std::uint8_t>(tubes.faceCount(), 1)));
        parts.push_back(std::move(tubes));
    }
    std::vector<std::uint8_t> used(g.pointCount(), g.faceCount() == 0 && g.curveCount() == 0 ? 0 : 1);
    const Geometry ball = geodesicBall(2);
    std::size_t balls = 0;
    for (std::size_t p = 0; p < used.size() && balls < 4000; ++p) {
        if (used[p] || !isFinite(g.positions()[p])) continue;
        const auto r = float(size * 0.014);
        parts.push_back(transformed(ball, Affine{{r, 0, 0}, {0, r, 0}, {0, 0, r}, g.positions()[p]}));
        parts.back().setColumn(Element::face, "line", Column(std::vector<std::uint8_t>(ball.faceCount(), 1)));
        ++balls;
    }
    return combine(parts);
}

class Tracer {
public:
    Tracer(const Geometry& shown, const RenderOptions& options)
        : options_(options), bounds_(boundsOf(shown)), g_(solidLines(shown, std::max(bounds_.diagonal(), 1e-6))), scene_(g_) {
        normals_ = cornerNormals(g_, 34);
        colours_ = shownColours(g_, kClay);
        if (const auto* line = g_.values<std::uint8_t>(Element::face, "line")) lines_ = *line;
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
        const double yaw = radians(options_.yaw), pitch = radians(options_.pitch);
        toEye_ = {float(std::sin(yaw) * std::cos(pitch)), float(std::sin(pitch)), float(std::cos(yaw) * std::cos(pitch))};
        right_ = normalized(cross({0, 1, 0}, toEye_), {1, 0, 0});
        up_ = cross(toEye_, right_);
        const Vec3 size = bounds_.size();
        radius_ = std::max(length(size) / 2, 1e-6f);
        // As near as every corner of the bounds allows.
        constexpr float kHalfView = 0.25f;  // tangent
        const float aspect = float(options_.width) / float(options_.height);
        target_ = bounds_.centre();
        float away = 0;
        for (int i = 0; i < 8; ++i) {
            const Vec3 c = Vec3{i & 1 ? size.x : -size.x, i & 2 ? size.y : -size.y, i & 4 ? size.z : -size.z} * 0.5f;
            away = std::max(
                {away, dot(c, toEye_) + std::abs(dot(c, up_)) / kHalfView, dot(c, toEye_) + std::abs(dot(c, right_)) / (kHalfView * std::min(aspect, 4.0f))});
        }
        away = std::max(away, radius_ * 0.5f) * 1.12f;
        eye_ = target_ + toEye_ * away;
        across_ = kHalfView * aspect, upwards_ = kHalfView;
        key_ = normalized(toEye_ * 0.45f + Vec3{0, 1, 0} * 0.9f - right_ * 0.75f);
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
            const float px = ((float(x) + u) / float(options_.width) * 2 - 1) * across_, py = (1 - (float(y) + v) / float(options_.height) * 2) * upwards_;
            const Vec3 direction = normalized(right_ * px + up_ * py - toEye_);
            sum += seen(direction, py / upwards_, rnd);
        }
        sum = sum / float(options_.samples);
        const auto byte = [](float v) { return std::uint8_t(std::clamp(std::pow(std::max(v, 0.0f), 1 / 2.2f) * 255 + 0.5f, 0.0f, 255.0f)); };
        return {byte(sum.x), byte(sum.y), byte(sum.z), 255};
    }
    static Vec3 linear(Vec3 c) { return {std::pow(std::max(c.x, 0.0f), 2.2f), std::pow(std::max(c.y, 0.0f), 2.2f), std::pow(std::max(c.z, 0.0f), 2.2f)}; }

    template <class Random> Vec3 seen(Vec3 direction, float height, const Random& rnd) const {
        const Vec3 sky = linear(mix(kSky, kFloor, std::clamp(0.5f - 0.5f * height, 0.0f, 1.0f)));
        const auto met = scene_.hit(eye_, direction, 0);
        const float down = options_.ground && direction.y < -1e-4f ? (floor_ - eye_.y) / direction.y : -1;
        if (met && (down < 0 || met->distance < down)) return lit(eye_ + direction * met->distance, normalAt(*met, direction), colourAt(*met), rnd);
        if (down <= 0) return sky;
        // The floor shows only what falls on it, and fades into the background.
        const Vec3 at = eye_ + direction * down;
        const float far = std::clamp(distance(at, {target_.x, floor_, target_.z}) / (radius_ * 5), 0.0f, 1.0f);
        const Vec3 open = linear(kFloor), shown = lit(at, {0, 1, 0}, kFloor, rnd);
        const float shade = std::clamp(shown.y / std::max(lightOnFloor() * open.y, 1e-6f), 0.0f, 1.0f);
        return mix(sky * (0.35f + 0.65f * shade), sky, far);
    }
    float lightOnFloor() const { return 0.62f * std::max(key_.y, 0.0f) + 0.5f; }

    Vec3 normalAt(const RayHit& met, Vec3 direction) const {
        Vec3 n{};
        for (std::size_t k = 0; k < 3; ++k) n += normals_[met.corners[k]] * met.weights[k];
        n = normalized(n, -direction);
        return dot(n, direction) > 0 ? -n : n;
    }
    Vec3 colourAt(const RayHit& met) const {
        if (!lines_.empty() && lines_[met.face]) return kInk;
        if (!colours_) return kClay;
        Vec3 out{};
        for (std::size_t k = 0; k < 3; ++k) out += (*colours_)[met.corners[k]] * met.weights[k];
        return out;
    }
    template <class Random> Vec3 lit(Vec3 at, Vec3 n, Vec3 colour, const Random& rnd) const {
        const float off = radius_ * 2e-4f;
        const Vec3 from = at + n * off;
        const Vec3 key = normalized(key_ + Vec3{rnd(2) - 0.5f, rnd(3) - 0.5f, rnd(4) - 0.5f} * 0.22f);
        const float facing = dot(n, key);
        const float direct = facing > 0 && !scene_.blocked(from, key, 0, radius_ * 20) ? facing : 0;
        // One direction of the sky, more often straight up from the surface.
        const float r = std::sqrt(rnd(5)), a = float(2 * kPi) * rnd(6);
        const Vec3 u = anyPerpendicular(n), v = cross(n, u);
        const Vec3 sky = u * (r * std::cos(a)) + v * (r * std::sin(a)) + n * std::sqrt(std::max(0.0f, 1 - r * r));
        const bool open = !scene_.blocked(from, sky, 0, radius_ * 1.2f) && !(options_.ground && sky.y < 0 && from.y - floor_ < radius_ * 0.8f * -sky.y);
        const float ambient = (open ? 1.0f : 0.28f) * (0.42f + 0.08f * n.y);
        return linear(colour) * (0.62f * 1.25f * direct + ambient + 0.02f);
    }

    const RenderOptions& options_;
    Bounds bounds_;
    Geometry g_;
    RayScene scene_;
    std::vector<Vec3> normals_;
    std::optional<std::vector<Vec3>> colours_;
    std::vector<std::uint8_t> lines_;
    Vec3 eye_, target_, toEye_, right_, up_, key_;
    float across_ = 1, upwards_ = 1, radius_ = 1, floor_ = 0;
};

}  // namespace

Picture renderedPicture(const Geometry& geometry, const RenderOptions& options, const RunContext& run) {
    Geometry baked = bakeCopies(withFewerCopies(geometry, kMostDrawn));
    baked.setCopies(nullptr);
    return Tracer(baked, options).draw(run);
}

}  // namespace seedloom

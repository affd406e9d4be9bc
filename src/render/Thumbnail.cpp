#include "render/Thumbnail.h"

#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/ShownColours.h"
#include "geometry/Triangulate.h"

#include <limits>

namespace seedloom {

namespace {

constexpr int kSamples = 2;                    // per pixel and direction
constexpr std::uint64_t kMostDrawn = 400'000;  // corners; a picture of a few hundred pixels shows no more

/// Turns the world so that the picture's x runs right, y down, and z away from the eye, in samples.
struct Projection {
    Vec3 right, up, toEye, centre;
    float scale = 1, midX = 0, midY = 0;

    Vec3 operator()(Vec3 p) const {
        const Vec3 d = p - centre;
        return {midX + dot(d, right) * scale, midY - dot(d, up) * scale, -dot(d, toEye)};
    }
};

Projection fitted(const Geometry& geometry, const ThumbnailOptions& options) {
    const double yaw = radians(options.yaw), pitch = radians(options.pitch);
    Projection out;
    out.toEye = {float(std::sin(yaw) * std::cos(pitch)), float(std::sin(pitch)), float(std::cos(yaw) * std::cos(pitch))};
    out.right = {float(std::cos(yaw)), 0, float(-std::sin(yaw))};
    out.up = cross(out.toEye, out.right);
    Bounds flat;
    for (Vec3 p : geometry.positions())
        if (isFinite(p)) flat.add({dot(p, out.right), dot(p, out.up), dot(p, out.toEye)});
    const Vec3 mid = flat.centre(), size = flat.size();
    out.centre = out.right * mid.x + out.up * mid.y + out.toEye * mid.z;
    const float w = float(options.width * kSamples), h = float(options.height * kSamples), margin = 0.86f;
    const float across = std::max({size.x / (w * margin), size.y / (h * margin), 1e-20f});
    out.scale = flat.empty ? 1 : 1 / across;
    out.midX = w / 2;
    out.midY = h / 2;
    return out;
}

class Canvas {
public:
    Canvas(int width, int height)
        : width_(width), height_(height), colour_(std::size_t(width) * std::size_t(height), Colour{0, 0, 0, 0}),
          depth_(colour_.size(), std::numeric_limits<float>::max()) {}

    void put(int x, int y, float z, Colour c) {
        if (x < 0 || y < 0 || x >= width_ || y >= height_) return;
        const std::size_t at = std::size_t(y) * std::size_t(width_) + std::size_t(x);
        if (z > depth_[at]) return;
        depth_[at] = z;
        colour_[at] = c;
    }

    void triangle(Vec3 a, Vec3 b, Vec3 c, Colour colour) {
        const float area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
        if (!(std::abs(area) > 1e-12f)) return;
        const auto low = [](float v) { return int(std::floor(std::clamp(v, -1e6f, 1e6f))); };
        const int x0 = std::max(0, low(std::min({a.x, b.x, c.x}))), x1 = std::min(width_ - 1, low(std::max({a.x, b.x, c.x})) + 1);
        const int y0 = std::max(0, low(std::min({a.y, b.y, c.y}))), y1 = std::min(height_ - 1, low(std::max({a.y, b.y, c.y})) + 1);
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const float px = float(x) + 0.5f, py = float(y) + 0.5f;
                const float u = ((b.x - px) * (c.y - py) - (b.y - py) * (c.x - px)) / area;
                const float v = ((c.x - px) * (a.y - py) - (c.y - py) * (a.x - px)) / area;
                const float w = 1 - u - v;
                if (u >= 0 && v >= 0 && w >= 0) put(x, y, u * a.z + v * b.z + w * c.z, colour);
            }
    }

    void dot(Vec3 at, float radius, Colour colour) {
        const int r = int(radius) + 1;
        for (int y = -r; y <= r; ++y)
            for (int x = -r; x <= r; ++x)
                if (float(x * x + y * y) <= radius * radius) put(int(at.x) + x, int(at.y) + y, at.z, colour);
    }

    void line(Vec3 a, Vec3 b, Colour colour) {
        const float steps = std::min(std::max({std::abs(b.x - a.x), std::abs(b.y - a.y), 1.0f}), 8192.0f);
        for (float i = 0; i <= steps; ++i) dot(mix(a, b, i / steps), 1.3f, colour);
    }

    /// Averages the samples of each pixel.
    Picture reduced() const {
        Picture out{width_ / kSamples, height_ / kSamples, {}};
        for (int y = 0; y < out.height; ++y)
            for (int x = 0; x < out.width; ++x) {
                int r = 0, g = 0, b = 0, hits = 0;
                for (int s = 0; s < kSamples * kSamples; ++s) {
                    const Colour c = colour_[std::size_t(y * kSamples + s / kSamples) * std::size_t(width_) + std::size_t(x * kSamples + s % kSamples)];
                    if (c.a) r += c.r, g += c.g, b += c.b, ++hits;
                }
                if (hits == 0) out.pixels.push_back({0, 0, 0, 0});
                else
                    out.pixels.push_back(
                        {std::uint8_t(r / hits), std::uint8_t(g / hits), std::uint8_t(b / hits), std::uint8_t(255 * hits / (kSamples * kSamples))});
            }
        return out;
    }

private:
    int width_, height_;
    std::vector<Colour> colour_;
    std::vector<float> depth_;
};

Colour lit(Colour base, Vec3 normal, const Projection& view) {
    // Light from over the left shoulder; backs are a little darker, so that open shells read as such.
    const Vec3 light = normalized(view.toEye * 0.75f + view.up * 0.75f - view.right * 0.55f);
    const float facing = dot(normal, view.toEye);
    const float shade = std::clamp(0.42f + 0.62f * std::max(0.0f, dot(facing < 0 ? -normal : normal, light)), 0.0f, 1.12f) * (facing < 0 ? 0.72f : 1.0f);
    const auto part = [&](std::uint8_t v) { return std::uint8_t(std::clamp(float(v) * shade, 0.0f, 255.0f)); };
    return {part(base.r), part(base.g), part(base.b), base.a};
}

void drawFaces(const Geometry& g, const Projection& view, const ThumbnailOptions& options, const RunContext& run, Canvas& canvas) {
    const Triangles triangles = triangulate(g);
    const auto normals = cornerNormals(g, 40);
    const auto materials = materialColours(g, Element::face, {float(options.surface.r) / 255, float(options.surface.g) / 255, float(options.surface.b) / 255});
    const auto byte = [](float v) { return std::uint8_t(std::clamp(v, 0.0f, 1.0f) * 255); };
    const auto base = [&](Index face) {
        return materials ? Colour{byte((*materials)[face].x), byte((*materials)[face].y), byte((*materials)[face].z), 255} : options.surface;
    };
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        if (t % 4096 == 0) run.poll();
        Vec3 place[3], normal{};
        bool usable = true;
        for (std::size_t i = 0; i < 3; ++i) {
            const Index c = triangles.corners[t * 3 + i];
            const Vec3 p = g.positions()[g.topology().cornerPoint()[c]];
            usable &= isFinite(p);
            place[i] = view(p);
            normal += normals[c];
        }
        if (usable) canvas.triangle(place[0], place[1], place[2], lit(base(triangles.faceOf[t]), normalized(normal), view));
    }
}

void drawCurvesAndPoints(const Geometry& g, const Projection& view, const ThumbnailOptions& options, Canvas& canvas) {
    std::vector<std::uint8_t> used(g.pointCount(), 0);
    for (Index p : g.topology().cornerPoint()) used[p] = 1;
    for (std::size_t c = 0; c < g.curveCount(); ++c) {
        const auto curve = g.topology().curve(c);
        for (Index p : curve) used[p] = curve.size() <= 12 ? used[p] : 1;
        for (std::size_t i = 0; i < curve.size(); ++i) {
            if (i + 1 == curve.size() && !g.topology().curveClosed(c)) break;
            const Vec3 a = g.positions()[curve[i]], b = g.positions()[curve[(i + 1) % curve.size()]];
            if (isFinite(a) && isFinite(b)) canvas.line(view(a), view(b), options.line);
        }
    }
    for (std::size_t p = 0; p < used.size(); ++p)
        if (!used[p] && isFinite(g.positions()[p])) canvas.dot(view(g.positions()[p]), 3.2f, options.line);
}

}  // namespace

Picture thumbnail(const Geometry& geometry, const ThumbnailOptions& options, const RunContext& run) {
    const Geometry baked = bakeCopies(withFewerCopies(geometry, kMostDrawn));
    Canvas canvas(options.width * kSamples, options.height * kSamples);
    const Projection view = fitted(baked, options);
    drawFaces(baked, view, options, run, canvas);
    drawCurvesAndPoints(baked, view, options, canvas);
    return canvas.reduced();
}

}  // namespace seedloom

#include "render/Thumbnail.h"

#include "scene/Camera.h"

#include <limits>

namespace seedloom {

namespace {

constexpr int kSamples = 2;                  // per pixel and direction
constexpr std::size_t kMostDrawn = 400'000;  // corners, lines and dots of copies; a picture of a few hundred pixels shows no more

constexpr std::size_t kFlatAbove = 20'000;  // faces; each is about a pixel then

/// Where a part of the scene stands, and what colour its copy gives it.
struct Stand {
    const Affine* place = nullptr;                        ///< none: where it is
    const std::array<std::uint8_t, 4>* colour = nullptr;  ///< as in DrawCopies
    Vec3 point(Vec3 p) const { return place ? place->point(p) : p; }
    Vec3 normal(Vec3 n) const { return place ? place->normal(n) : n; }
    Vec3 tinted(Vec3 c) const {
        if (!colour) return c;
        return mix(c, Vec3{float((*colour)[0]), float((*colour)[1]), float((*colour)[2])} / 255, float((*colour)[3]) / 255);
    }
};

std::size_t costOf(const DrawScene& shape) { return shape.triangles.size() + shape.lines.size() + shape.looseDots; }

template <class Do> void forCopies(const DrawScene& scene, Do what) {
    for (const DrawCopies& copies : scene.copies) {
        if (copies.shape->bounds.empty) continue;
        for (std::size_t i = 0; i < copies.rows.size(); ++i)
            what(*copies.shape, Stand{&scene.geometry.copies()->place[copies.rows[i]], copies.colours.empty() ? nullptr : &copies.colours[i]});
    }
}

/// Turns the world so that the picture's x runs right, y down, and z away from the eye, in samples.
struct Projection {
    Vec3 right, up, toEye, centre;
    float scale = 1, midX = 0, midY = 0;

    Vec3 operator()(Vec3 p) const {
        const Vec3 d = p - centre;
        return {midX + dot(d, right) * scale, midY - dot(d, up) * scale, -dot(d, toEye)};
    }
};

Projection fitted(const DrawScene& scene, const ThumbnailOptions& options) {
    Camera camera;
    camera.yaw = options.yaw;
    camera.pitch = options.pitch;
    Projection out;
    out.toEye = camera.toEye();
    out.right = camera.right();
    out.up = camera.up();
    Bounds seen;
    const auto add = [&](Vec3 p) {
        if (isFinite(p)) seen.add({dot(p, out.right), dot(p, out.up), dot(p, out.toEye)});
    };
    const auto addAll = [&](const DrawScene& part, const Stand& stand) {
        for (const DrawScene::Vertex& v : part.vertices) add(stand.point(v.position));
        for (const DrawScene::Vertex& v : part.lines) add(stand.point(v.position));
        for (std::size_t i = 0; i < part.looseDots; ++i) add(stand.point(part.dots[i].position));
    };
    addAll(scene, {});
    std::size_t all = 0;
    for (const DrawCopies& copies : scene.copies) all += costOf(*copies.shape) * copies.rows.size();
    forCopies(scene, [&](const DrawScene& shape, const Stand& stand) {
        if (all <= kMostDrawn) return addAll(shape, stand);
        for (int i = 0; i < 8; ++i) add(stand.point(shape.bounds.corner(i)));
    });
    const Vec3 mid = seen.centre(), size = seen.size();
    out.centre = out.right * mid.x + out.up * mid.y + out.toEye * mid.z;
    const float w = float(options.width * kSamples), h = float(options.height * kSamples), margin = 0.86f;
    // What lies in one place far away must not be enlarged to the last bits of its numbers.
    const float across = std::max({size.x / (w * margin), size.y / (h * margin), 1e-7f * length(mid), 1e-20f});
    out.scale = seen.empty ? 1 : 1 / across;
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

    /// Whether it may cover the middle of a sample; most of a fine model's triangles lie between them.
    static bool covers(const Vec3 (&at)[3]) {
        const auto [left, right] = std::minmax({at[0].x, at[1].x, at[2].x});
        const auto [top, foot] = std::minmax({at[0].y, at[1].y, at[2].y});
        return std::ceil(left - 0.5f) <= std::floor(right - 0.5f) && std::ceil(top - 0.5f) <= std::floor(foot - 0.5f);
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

Colour lit(Vec3 base, Vec3 normal, const Projection& view) {
    // Light from over the left shoulder; backs are a little darker, so that open shells read as such.
    const Vec3 light = normalized(view.toEye * 0.75f + view.up * 0.75f - view.right * 0.55f);
    const float facing = dot(normal, view.toEye);
    const float shade = std::clamp(0.42f + 0.62f * std::max(0.0f, dot(facing < 0 ? -normal : normal, light)), 0.0f, 1.12f) * (facing < 0 ? 0.72f : 1.0f);
    const auto part = [&](float v) { return std::uint8_t(std::clamp(v * shade, 0.0f, 1.0f) * 255); };
    return {part(base.x), part(base.y), part(base.z), 255};
}

void drawFaces(const DrawScene& part, const Stand& stand, const Projection& view, const RunContext& run, Canvas& canvas) {
    for (std::size_t t = 0; t + 2 < part.triangles.size(); t += 3) {
        if (t % 12288 == 0) run.poll();
        Vec3 place[3];
        bool usable = true;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vec3 p = stand.point(part.vertices[part.triangles[t + i]].position);
            usable &= isFinite(p);
            place[i] = view(p);
        }
        if (!usable || !Canvas::covers(place)) continue;
        Vec3 normal{}, colour{};
        for (std::size_t i = 0; i < 3; ++i) {
            const DrawScene::Vertex& v = part.vertices[part.triangles[t + i]];
            normal += v.normal;
            colour += v.colour / 3;
        }
        canvas.triangle(place[0], place[1], place[2], lit(stand.tinted(colour), stand.normal(normalized(normal)), view));
    }
}

void drawLinesAndDots(const DrawScene& part, const Stand& stand, const Projection& view, Colour ink, Canvas& canvas) {
    for (std::size_t i = 0; i + 1 < part.lines.size(); i += 2) {
        const Vec3 a = stand.point(part.lines[i].position), b = stand.point(part.lines[i + 1].position);
        if (isFinite(a) && isFinite(b)) canvas.line(view(a), view(b), ink);
    }
    for (std::size_t i = 0; i < part.looseDots; ++i)
        if (const Vec3 p = stand.point(part.dots[i].position); isFinite(p)) canvas.dot(view(p), 3.2f, ink);
}

/// Copies, each with its faces, or as one sample where it is no larger than that. Only so many of the former are drawn, evenly over all of them.
class CopyPainter {
public:
    CopyPainter(const Projection& view, Colour ink, const RunContext& run, Canvas& canvas) : view_(view), ink_(ink), run_(run), canvas_(canvas) {}

    void paint(const DrawScene& scene) {
        std::size_t all = 0;
        forCopies(scene, [&](const DrawScene& shape, const Stand& stand) { all += isTiny(shape, stand) ? 0 : costOf(shape); });
        const double part = all > kMostDrawn ? double(kMostDrawn) / double(all) : 1;
        double due = 0;
        forCopies(scene, [&](const DrawScene& shape, const Stand& stand) {
            if (isTiny(shape, stand)) return dot(shape, stand);
            if ((due += part) < 1) return;
            due -= 1;
            drawFaces(shape, stand, view_, run_, canvas_);
            drawLinesAndDots(shape, stand, view_, ink_, canvas_);
        });
    }

private:
    bool isTiny(const DrawScene& shape, const Stand& stand) const {
        const Affine& place = *stand.place;
        const float stretch = std::max({length(place.x), length(place.y), length(place.z)});
        return float(shape.bounds.diagonal()) * stretch * view_.scale < 1.5f;
    }
    void dot(const DrawScene& shape, const Stand& stand) {
        const Vec3 at = stand.point(shape.bounds.centre());
        if (!isFinite(at)) return;
        const Vec3 p = view_(at);
        const bool faces = !shape.vertices.empty();
        const Colour colour = faces ? lit(stand.tinted(shape.vertices.front().colour), normalized(view_.toEye + view_.up), view_) : ink_;
        canvas_.put(int(std::floor(p.x)), int(std::floor(p.y)), p.z, colour);
    }

    const Projection& view_;
    const Colour ink_;
    const RunContext& run_;
    Canvas& canvas_;
};

}  // namespace

Picture thumbnail(const DrawScene& scene, const ThumbnailOptions& options, const RunContext& run) {
    run.poll();
    Canvas canvas(options.width * kSamples, options.height * kSamples);
    const Projection view = fitted(scene, options);
    drawFaces(scene, {}, view, run, canvas);
    drawLinesAndDots(scene, {}, view, options.line, canvas);
    CopyPainter(view, options.line, run, canvas).paint(scene);
    return canvas.reduced();
}

Picture thumbnail(const Geometry& geometry, const ThumbnailOptions& options, const RunContext& run) {
    run.poll();
    SceneLook look = lookForPictures();
    look.flat = geometry.faceCount() > kFlatAbove;
    return thumbnail(*drawScene(geometry, look), options, run);
}

}  // namespace seedloom

#include "operators/surface/CornerPatch.h"

#include <array>
#include <optional>

namespace seedloom {

namespace {

struct Ball {
    Vec3 centre;
    float radius;
};

/// The ball through the border, by least squares; nothing where no ball fits to a fiftieth of its radius.
std::optional<Ball> ballThrough(const std::vector<Vec3>& border) {
    // |p|² = 2 c·p + (r² − |c|²), solved for c and the bracket, about the border's middle.
    Vec3 middle{};
    for (Vec3 p : border) middle += p * (1.0f / float(border.size()));
    std::array<std::array<double, 5>, 4> m{};
    for (Vec3 at : border) {
        const Vec3 p = at - middle;
        const std::array<double, 4> row{2.0 * double(p.x), 2.0 * double(p.y), 2.0 * double(p.z), 1};
        for (std::size_t i = 0; i < 4; ++i) {
            for (std::size_t j = 0; j < 4; ++j) m[i][j] += row[i] * row[j];
            m[i][4] += row[i] * double(dot(p, p));
        }
    }
    const double scale = m[0][0] + m[1][1] + m[2][2];
    for (std::size_t i = 0; i < 4; ++i) {
        std::size_t best = i;
        for (std::size_t r = i + 1; r < 4; ++r)
            if (std::abs(m[r][i]) > std::abs(m[best][i])) best = r;
        std::swap(m[i], m[best]);
        if (std::abs(m[i][i]) < 1e-9 * scale) return {};
        for (std::size_t r = 0; r < 4; ++r) {
            if (r == i) continue;
            const double f = m[r][i] / m[i][i];
            for (std::size_t c = i; c < 5; ++c) m[r][c] -= f * m[i][c];
        }
    }
    const Vec3 c{float(m[0][4] / m[0][0]), float(m[1][4] / m[1][1]), float(m[2][4] / m[2][2])};
    const double square = m[3][4] / m[3][3] + double(dot(c, c));
    if (!(square > 0) || !isFinite(c)) return {};
    const Ball ball{middle + c, float(std::sqrt(square))};
    for (Vec3 p : border)
        if (std::abs(distance(p, ball.centre) - ball.radius) > 0.02f * ball.radius) return {};
    return ball;
}

}  // namespace

CornerPatch cornerPatch(const std::vector<Vec3>& border, Vec3 apex, int rings) {
    CornerPatch out;
    Vec3 mean{};
    for (Vec3 p : border) mean += p * (1.0f / float(border.size()));
    const auto ball = ballThrough(border);
    if (ball) {
        // The pole on the side of the border, or of the old corner where the border runs around the middle of the ball.
        Vec3 pole = mean - ball->centre;
        if (length(pole) < 0.05f * ball->radius) pole = apex - ball->centre;
        pole = normalized(pole);
        out.middle = ball->centre + pole * ball->radius;
        for (int r = 1; r < rings; ++r) {
            std::vector<Vec3>& ring = out.rings.emplace_back();
            const float t = float(r) / float(rings);
            for (Vec3 p : border) {
                const Vec3 from = normalized(p - ball->centre, pole);
                const Vec3 axis = normalized(cross(from, pole), {});
                const float angle = std::acos(std::clamp(dot(from, pole), -1.0f, 1.0f));
                ring.push_back(ball->centre + rotateAbout(from, axis, angle * t) * ball->radius);
            }
        }
        return out;
    }
    out.middle = mix(mean, apex, 0.5f);
    for (int r = 1; r < rings; ++r) {
        std::vector<Vec3>& ring = out.rings.emplace_back();
        const float t = float(r) / float(rings);
        for (Vec3 p : border) ring.push_back(p * ((1 - t) * (1 - t)) + mix(p, out.middle, 0.6f) * (2 * t * (1 - t)) + out.middle * (t * t));
    }
    return out;
}

}  // namespace seedloom

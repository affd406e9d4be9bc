#include "operators/curve/CurvePath.h"

namespace seedloom {

CurvePath::CurvePath(const Geometry& geometry, std::size_t c, Vec3 up, bool level) {
    const CurveFrames frames = framesOf(geometry, c, up);
    const auto curve = geometry.topology().curve(c);
    closed_ = geometry.topology().curveClosed(c) && curve.size() > 2;
    for (std::size_t i = 0; i < curve.size() + (closed_ ? 1 : 0); ++i) {
        const std::size_t k = i % curve.size();
        Vec3 upHere = frames.up[k];
        if (level) upHere = normalized(up - frames.tangent[k] * dot(up, frames.tangent[k]), upHere);
        at_.push_back(geometry.positions()[curve[k]]), tangent_.push_back(frames.tangent[k]), up_.push_back(upHere);
        metres_.push_back(i == 0 ? 0 : metres_.back() + distance(at_[i], at_[i - 1]));
    }
}

std::size_t CurvePath::spanAt(float x) const {
    const auto i = std::size_t(std::upper_bound(metres_.begin(), metres_.end(), x) - metres_.begin());
    return std::clamp<std::size_t>(i, 1, metres_.size() - 1);
}

Vec3 CurvePath::place(float x, float y, float z) const {
    const std::size_t i = spanAt(x);
    const float span = metres_[i] - metres_[i - 1], t = span > 0 ? (x - metres_[i - 1]) / span : 0, held = std::clamp(t, 0.0f, 1.0f);
    const Vec3 tangent = normalized(mix(tangent_[i - 1], tangent_[i], held), tangent_[i]);
    const Vec3 up = normalized(mix(up_[i - 1], up_[i], held), up_[i]);
    return at_[i - 1] + (at_[i] - at_[i - 1]) * t + up * y + cross(tangent, up) * z;
}

Vec3 CurvePath::up(float x) const {
    const std::size_t i = spanAt(x);
    const float span = metres_[i] - metres_[i - 1], t = std::clamp(span > 0 ? (x - metres_[i - 1]) / span : 0, 0.0f, 1.0f);
    return normalized(mix(up_[i - 1], up_[i], t), up_[i]);
}

std::optional<float> CurvePath::stepFrom(float from, float reach) const {
    if (reach <= 0) return from;
    const float around = closed_ ? length() : 0;
    const Vec3 start = place(closed_ && from >= around ? from - around : from);
    float along = from;
    for (int lap = from >= around && closed_ ? 1 : 0; lap < (closed_ ? 2 : 1); ++lap) {
        const float base = float(lap) * around;
        for (std::size_t i = spanAt(along - base); i < metres_.size(); ++i) {
            const float end = base + metres_[i];
            if (distance(at_[i], start) < reach) {
                along = end;
                continue;
            }
            // Where the span leaves the ball around the start.
            const Vec3 a = place(along - base), way = at_[i] - a, off = a - start;
            const double A = double(dot(way, way)), B = double(dot(way, off)), C = double(dot(off, off)) - double(reach) * double(reach);
            const double t = A > 0 ? (-B + std::sqrt(std::max(B * B - A * C, 0.0))) / A : 0;
            return along + float(std::clamp(t, 0.0, 1.0)) * (end - along);
        }
    }
    return {};
}

}  // namespace seedloom

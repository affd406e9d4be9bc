#pragma once
#include "operators/curve/CurveFrames.h"

#include <optional>

namespace seedloom {

/// Places and directions anywhere along a curve.
class CurvePath {
public:
    /// `up` leads at the start, or, where `level` holds, everywhere.
    CurvePath(const Geometry& geometry, std::size_t curve, Vec3 up, bool level);
    /// Metres, once around where it is closed.
    float length() const { return metres_.back(); }
    bool closed() const { return closed_; }
    /// `x` metres along, `y` up and `z` to the side; beyond the ends it goes on straight.
    Vec3 place(float x, float y = 0, float z = 0) const;
    Vec3 up(float x) const;
    /// Metres along to the first place beyond `from` that is `reach` metres from `from`'s place as the crow flies; nothing where the curve ends before. A
    /// closed curve goes on once around.
    std::optional<float> stepFrom(float from, float reach) const;

private:
    std::size_t spanAt(float x) const;
    std::vector<Vec3> at_, tangent_, up_;
    std::vector<float> metres_;
    bool closed_ = false;
};

}  // namespace seedloom

#pragma once
// Where a picture lies on a surface: looked at from a side, from all six, or around an axis.
#include "operators/OperatorCall.h"

namespace seedloom {

/// uv from places: 0 to 1 over the size around the centre.
class Projection {
public:
    /// `form`: plane, box, cylinder or sphere; `axis`: 0 x, 1 y, 2 z; `size` above 0 on every axis.
    Projection(std::string form, int axis, Vec3 centre, Vec3 size) : form_(std::move(form)), axis_(axis), centre_(centre), size_(size) {}

    /// One place. A box takes the side that `normal` looks to most, its own axis where that is zero.
    Vec2 at(Vec3 place, Vec3 normal) const;
    /// At all corners; around an axis, faces over the seam go on beyond 1, so that none is drawn backwards.
    std::vector<Vec2> atCorners(const Geometry& geometry) const;

private:
    Vec2 around(Vec3 q) const;
    void closeSeam(const Geometry& geometry, std::vector<Vec2>& uv, Index begin, Index end) const;
    bool turns() const { return form_ == "cylinder" || form_ == "sphere"; }
    std::string form_;
    int axis_;
    Vec3 centre_, size_;
};

/// Axis, fit, even, size and centre: where it looks from, and what it covers. They show where `form` is one of `forms`; empty: always.
std::vector<SettingSpec> projectionSettings(const std::vector<std::string>& forms = {});
/// As those settings say. Fails with `setting.range` where a size is not above 0.
Projection projectionOf(OperatorCall& call, const Geometry& in, const std::string& form);

}  // namespace seedloom

#pragma once
// What deformers share that run along one axis of the geometry's bounds.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"

namespace seedloom {

/// The stretch of an axis on which a deformer acts, in metres.
struct AxisStretch {
    int axis = 1;
    double low = 0, high = 0;
    Vec3 centre;  ///< of the bounds
    double length() const { return high - low; }
    /// 0 at low, 1 at high, held outside; 0 where there is no length.
    double partOf(Vec3 p) const { return length() > 0 ? std::clamp((double(p[axis]) - low) / length(), 0.0, 1.0) : 0; }
};

/// From the settings `axis`, `start` and `end` (parts of the bounds); fails where end does not lie beyond start.
AxisStretch axisStretch(const OperatorCall& call, const Geometry& in);
/// These three settings.
std::vector<SettingSpec> axisSettings(std::string axisHelp);

/// Every point goes to `to(p)`, weighted by `where` and `blend`; stored directions (`normal`, `tangent`, `side`, `up`) of points and
/// corners are turned by `turn(p, v)`, by the same weight.
Geometry deformed(OperatorCall& call, const Geometry& in, const std::function<Vec3(Vec3)>& to, const std::function<Vec3(Vec3, Vec3)>& turn);

}  // namespace seedloom

#include "fields/Ramp.h"

#include <algorithm>

namespace seedloom {

Ramp::Ramp(std::vector<RampKnot> knots) : knots_(std::move(knots)), slope_(knots_.size(), 0.0) {
    std::stable_sort(knots_.begin(), knots_.end(), [](const RampKnot& a, const RampKnot& b) { return a.x < b.x; });
    for (std::size_t i = 1; i + 1 < knots_.size(); ++i) {
        if (knots_[i - 1].shape != RampShape::smooth || knots_[i].shape != RampShape::smooth) continue;
        const double before = knots_[i].x - knots_[i - 1].x, after = knots_[i + 1].x - knots_[i].x;
        if (before <= 0 || after <= 0) continue;
        const double in = (knots_[i].y - knots_[i - 1].y) / before, out = (knots_[i + 1].y - knots_[i].y) / after;
        if (in * out <= 0) continue;
        const double w1 = 2 * after + before, w2 = after + 2 * before;
        slope_[i] = (w1 + w2) / (w1 / in + w2 / out);
    }
}

double Ramp::at(double x) const {
    if (knots_.empty()) return 0;
    if (!(x > knots_.front().x)) return knots_.front().y;
    if (x >= knots_.back().x) return knots_.back().y;
    const auto next = std::upper_bound(knots_.begin(), knots_.end(), x, [](double v, const RampKnot& k) { return v < k.x; });
    const RampKnot &a = *(next - 1), &b = *next;
    const double width = b.x - a.x, t = width > 0 ? (x - a.x) / width : 1;
    switch (a.shape) {
        case RampShape::step: return a.y;
        case RampShape::straight: return a.y + (b.y - a.y) * t;
        case RampShape::smooth: break;
    }
    const std::size_t i = static_cast<std::size_t>(next - knots_.begin());
    const double t2 = t * t, t3 = t2 * t;
    return a.y * (2 * t3 - 3 * t2 + 1) + slope_[i - 1] * width * (t3 - 2 * t2 + t) + b.y * (3 * t2 - 2 * t3) + slope_[i] * width * (t3 - t2);
}

}  // namespace seedloom

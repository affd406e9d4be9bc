#include "scatter/Samples.h"

#include "parallel/Loops.h"
#include "scatter/Streams.h"

#include <bit>

namespace seedloom {

ScatterGround::ScatterGround(const Geometry& geometry, On on, std::vector<float> density, double seed)
    : geometry_(geometry), on_(on), density_(std::move(density)), seed_(mixBits(std::bit_cast<std::uint64_t>(seed == 0 ? 0.0 : seed) + 1)) {
    for (float& d : density_)
        if (!(d > 0) || !std::isfinite(d)) d = 0;
    on == On::faces ? addFaces() : addCurves();
    std::vector<double> rates(parts_.size());
    std::vector<std::uint32_t> keys(parts_.size());
    for (std::size_t p = 0; p < parts_.size(); ++p) {
        const Part& part = parts_[p];
        const double size = measure(part);
        const double mean = on == On::faces ? (double(densityOf(part, 0)) + double(densityOf(part, 1)) + double(densityOf(part, 2))) / 3
                                            : (double(densityOf(part, 0)) + double(densityOf(part, 1))) / 2;
        if (std::isfinite(size)) size_ += size;
        rates[p] = size * mean;  // exact for a density that is linear over the part
        keys[p] = part.key;
    }
    arrivals_.emplace(std::move(rates), std::move(keys), std::uint32_t(seed_));
}

/// Parts of one face or curve have keys of their own; with ids, room for 64 parts each.
Index ScatterGround::keyOf(Element element, Index row, Index local) const {
    const auto* ids = geometry_.values<std::int32_t>(element, "id");
    return ids ? std::uint32_t((*ids)[row]) * 64u + local : Index(parts_.size());
}

void ScatterGround::addFaces() {
    const Triangles triangles = triangulate(geometry_);
    const auto& pointOf = geometry_.topology().cornerPoint();
    parts_.reserve(triangles.count());
    for (Index t = 0, local = 0; t < triangles.count(); ++t) {
        local = t > 0 && triangles.faceOf[t] == triangles.faceOf[t - 1] ? local + 1 : 0;
        const std::array<Index, 3> corners{triangles.corners[t * 3], triangles.corners[t * 3 + 1], triangles.corners[t * 3 + 2]};
        parts_.push_back(
            {{pointOf[corners[0]], pointOf[corners[1]], pointOf[corners[2]]}, corners, triangles.faceOf[t], keyOf(Element::face, triangles.faceOf[t], local)});
    }
}

void ScatterGround::addCurves() {
    const Topology& t = geometry_.topology();
    for (Index c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        for (Index i = 0; i + (t.curveClosed(c) ? 0 : 1) < curve.size(); ++i) {
            const Index a = curve[i], b = curve[(i + 1) % curve.size()];
            parts_.push_back({{a, b, b}, {a, b, b}, c, keyOf(Element::curve, c, i)});
        }
    }
}

double ScatterGround::measure(const Part& part) const {
    const auto& at = geometry_.positions();
    const Vec3 a = at[part.points[0]], b = at[part.points[1]], c = at[part.points[2]];
    return on_ == On::faces ? 0.5 * double(length(cross(b - a, c - a))) : double(distance(a, b));
}

float ScatterGround::densityOf(const Part& part, const std::array<float, 3>& weights) const {
    if (density_.size() == 1) return density_.front();
    return densityOf(part, 0) * weights[0] + densityOf(part, 1) * weights[1] + densityOf(part, 2) * weights[2];
}

/// Where the density differs over the part, places are drawn until one is taken: as likely as its density is beside the largest. The first is one of an even
/// sequence.
std::array<float, 3> ScatterGround::within(const Part& part, Index number, std::uint64_t hash) const {
    constexpr int kTries = 64;
    const float most = std::max({densityOf(part, 0), densityOf(part, 1), densityOf(part, 2)});
    const bool even = density_.size() == 1 || most == std::min({densityOf(part, 0), densityOf(part, 1), densityOf(part, 2)});
    const auto placeOf = [&](double u, double v) -> std::array<float, 3> {
        if (on_ == On::curves) return {float(1 - u), float(u), 0};
        const double s = std::sqrt(u);  // even over the area (Turk, 1990)
        return {float(1 - s), float(s * (1 - v)), float(s * v)};
    };
    const auto [u, v] = evenlyInSquare(number, std::uint32_t(mixThree(seed_, part.key, 7)));
    std::array<float, 3> weights = placeOf(u, v);
    for (int i = 0; !even && i < kTries; ++i) {
        hash = mixBits(hash + 1);
        if (unitOf(hash) * double(most) < double(densityOf(part, weights))) break;
        const std::uint64_t x = mixBits(hash + 2), y = mixBits(hash + 3);
        weights = placeOf(unitOf(x), unitOf(y));
    }
    return weights;
}

ScatterGround::Sample ScatterGround::at(const Arrival& arrival) const {
    const Part& part = parts_[arrival.part];
    Sample out;
    out.hash = mixThree(seed_, part.key, arrival.number);
    out.place.weights = within(part, arrival.number, out.hash);
    out.place.points = part.points;
    out.place.corners = on_ == On::faces ? part.corners : std::array<Index, 3>{};
    out.place.element = part.element;
    out.place.part = arrival.part;
    const auto& at = geometry_.positions();
    out.place.position = at[part.points[0]] * out.place.weights[0] + at[part.points[1]] * out.place.weights[1] + at[part.points[2]] * out.place.weights[2];
    out.density = densityOf(part, out.place.weights);
    return out;
}

float ScatterGround::densityAt(const Place& place) const {
    if (density_.size() == 1) return density_.front();
    const auto& rows = on_ == On::faces ? place.corners : place.points;
    return density_[rows[0]] * place.weights[0] + density_[rows[1]] * place.weights[1] + density_[rows[2]] * place.weights[2];
}

}  // namespace seedloom

#include "surface/SurfaceDistance.h"

#include "geometry/Neighbours.h"
#include "geometry/Triangulate.h"

#include <queue>

namespace seedloom {

namespace {

/// The way to c over the triangle, from distances at a and b.
double across(Vec3 a, Vec3 b, Vec3 c, double da, double db) {
    const double ab = double(distance(a, b)), ac = double(distance(a, c)), bc = double(distance(b, c));
    const double edges = std::min(da + ac, db + bc);
    if (!(ab > 0)) return edges;
    // a at the origin, b on the x axis, c above it; the start below, where its distances to a and b meet.
    const double cx = (ac * ac - bc * bc + ab * ab) / (2 * ab), cy = std::sqrt(std::max(0.0, ac * ac - cx * cx));
    const double sx = (da * da - db * db + ab * ab) / (2 * ab), square = da * da - sx * sx;
    if (!(square >= 0)) return edges;
    const double sy = -std::sqrt(square);
    if (!(cy - sy > 0)) return edges;
    const double crossing = sx + (cx - sx) * (-sy) / (cy - sy);
    return crossing >= 0 && crossing <= ab ? std::hypot(cx - sx, cy - sy) : edges;
}

class Spread {
public:
    Spread(const Geometry& g, std::vector<float> start)
        : g_(g), triangles_(triangulate(g)), beside_(pointNeighbours(g.topology())), ofPoint_(cornersAtPoints(g, triangles_)), far_(std::move(start)),
          done_(g.pointCount(), 0) {}

    std::vector<float> run(const RunContext& context) {
        for (Index p = 0; p < far_.size(); ++p)
            if (std::isfinite(far_[p])) open_.push({far_[p], p});
        std::size_t polled = 0;
        while (!open_.empty()) {
            if (++polled % 4096 == 0) context.poll();
            const auto [distance, p] = open_.top();
            open_.pop();
            if (done_[p]) continue;
            done_[p] = 1;
            for (Index q : beside_[p]) offer(q, double(far_[p]) + double(seedloom::distance(at(p), at(q))));
            for (Index corner : ofPoint_[p]) overTriangle(corner / 3, p);
        }
        return std::move(far_);
    }

private:
    void offer(Index p, double distance) {
        if (done_[p] || !(distance < double(far_[p]))) return;
        far_[p] = static_cast<float>(distance);
        open_.push({far_[p], p});
    }
    void overTriangle(Index t, Index fresh) {
        for (std::size_t k = 0; k < 3; ++k) {
            const Index other = pointOf(t, k);
            if (other == fresh || !done_[other]) continue;
            for (std::size_t m = 0; m < 3; ++m)
                if (const Index c = pointOf(t, m); c != fresh && c != other)
                    offer(c, across(at(fresh), at(other), at(c), double(far_[fresh]), double(far_[other])));
        }
    }

    Vec3 at(Index p) const { return g_.positions()[p]; }
    Index pointOf(Index t, std::size_t k) const { return g_.topology().cornerPoint()[triangles_.corners[3 * t + k]]; }

    const Geometry& g_;
    Triangles triangles_;
    Rows beside_, ofPoint_;
    std::vector<float> far_;
    std::vector<std::uint8_t> done_;
    std::priority_queue<std::pair<float, Index>, std::vector<std::pair<float, Index>>, std::greater<>> open_;
};

}  // namespace

std::vector<float> surfaceDistance(const Geometry& geometry, std::vector<float> start, const RunContext& run) {
    return Spread(geometry, std::move(start)).run(run);
}

}  // namespace seedloom

#include "breaking/CellSeeds.h"

#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "scatter/Streams.h"
#include "scatter/VolumeSamples.h"

#include <bit>
#include <limits>
#include <optional>
#include <unordered_map>

namespace seedloom {

namespace {

constexpr int kMostTries = 200;  ///< for one place inside
constexpr int kCandidates = 8;
constexpr std::size_t kGathering = 3;  ///< places that clusters gather around
constexpr double kPull = 0.92;         ///< part of the way to such a place, at most

/// Finds the nearest of places that come one after the other.
class GrowingGrid {
public:
    explicit GrowingGrid(double cell) : cell_(cell) {}
    void add(Vec3 p) {
        cells_[keyOf(cellAt(p))].push_back(p);
        if (++count_ > 8 * cells_.size()) refine();
    }
    /// Squared distance; infinite where there is none yet.
    double nearest(Vec3 p) const {
        double best = std::numeric_limits<double>::infinity();
        const auto middle = cellAt(p);
        for (std::int64_t ring = 0; count_ > 0; ++ring) {
            for (std::int64_t x = -ring; x <= ring; ++x)
                for (std::int64_t y = -ring; y <= ring; ++y)
                    for (std::int64_t z = -ring; z <= ring; ++z) {
                        if (std::max({std::abs(x), std::abs(y), std::abs(z)}) != ring) continue;
                        const auto found = cells_.find(keyOf({middle[0] + x, middle[1] + y, middle[2] + z}));
                        if (found == cells_.end()) continue;
                        for (Vec3 q : found->second) best = std::min(best, double(dot(p - q, p - q)));
                    }
            if (best <= double(ring) * double(ring) * cell_ * cell_) break;
        }
        return best;
    }

private:
    using Cell = std::array<std::int64_t, 3>;
    Cell cellAt(Vec3 p) const {
        Cell out;
        for (int c = 0; c < 3; ++c) out[std::size_t(c)] = std::int64_t(std::floor(double(p[c]) / cell_));
        return out;
    }
    static std::uint64_t keyOf(const Cell& c) { return mixThree(std::uint64_t(c[0]), std::uint64_t(c[1]), std::uint64_t(c[2])); }
    void refine() {
        std::vector<Vec3> all;
        for (const auto& [key, list] : cells_) all.insert(all.end(), list.begin(), list.end());
        cells_.clear();
        cell_ /= 2;
        for (Vec3 p : all) cells_[keyOf(cellAt(p))].push_back(p);
    }
    double cell_;
    std::size_t count_ = 0;
    std::unordered_map<std::uint64_t, std::vector<Vec3>> cells_;
};

class SeedMaker {
public:
    SeedMaker(const Geometry& solid, double seed, bool onFaces)
        : solid_(solid), bounds_(boundsOf(solid.positions())), seed_(mixBits(std::bit_cast<std::uint64_t>(seed == 0 ? 0.0 : seed) + 11)), thin_(onFaces) {
        if (!onFaces) test_.emplace(solid);
    }

    std::vector<Vec3> make(std::size_t count, double cluster, const RunContext& run) {
        for (std::size_t i = 0; i < kGathering; ++i) centres_.push_back(placeInside(mixThree(seed_, 1, i)));
        GrowingGrid grid(std::max(bounds_.diagonal() / 4, 1e-30));
        std::vector<Vec3> out;
        const int candidates = 1 + int(std::lround((kCandidates - 1) * (1 - cluster)));
        for (std::size_t i = 0; i < count; ++i) {
            if (i % 64 == 0) run.poll();
            Vec3 best{};
            double farthest = -1;
            for (int k = 0; k < candidates; ++k) {
                const std::uint64_t stream = mixThree(seed_, 2 + std::uint64_t(k), i);
                const Vec3 p = gathered(placeInside(stream), cluster, stream);
                const double far = candidates == 1 ? 0 : grid.nearest(p);
                if (far > farthest) farthest = far, best = p;
            }
            if (!isFinite(best)) best = solid_.positions().front();  // out of the range of numbers
            out.push_back(best);
            if (candidates > 1) grid.add(best);
        }
        return out;
    }

private:
    static double chance(std::uint64_t stream, std::uint64_t i) { return unitOf(mixThree(stream, i, 0)); }

    Vec3 placeInside(std::uint64_t stream) {
        for (int i = 0; !thin_ && i < kMostTries; ++i) {
            Vec3 p;
            for (int c = 0; c < 3; ++c) p[c] = float(double(bounds_.min[c]) + double(bounds_.size()[c]) * chance(stream, std::uint64_t(3 * i + c)));
            if (test_->inside(p)) return p;
        }
        thin_ = true;
        return onSurface(stream);
    }
    Vec3 onSurface(std::uint64_t stream) {
        if (areas_.empty()) {
            triangles_ = triangulate(solid_);
            double sum = 0;
            for (std::size_t t = 0; t < triangles_.count(); ++t) areas_.push_back(sum += double(length(cross(at(t, 1) - at(t, 0), at(t, 2) - at(t, 0)))));
        }
        if (areas_.empty()) return solid_.positions().front();  // faces of two corners
        const double wanted = chance(stream, 1000) * areas_.back();
        const auto t = std::min(std::size_t(std::upper_bound(areas_.begin(), areas_.end(), wanted) - areas_.begin()), areas_.size() - 1);
        double u = chance(stream, 1001), v = chance(stream, 1002);
        if (u + v > 1) u = 1 - u, v = 1 - v;
        return at(t, 0) * float(1 - u - v) + at(t, 1) * float(u) + at(t, 2) * float(v);
    }
    Vec3 at(std::size_t triangle, std::size_t k) const { return solid_.positions()[solid_.topology().cornerPoint()[triangles_.corners[3 * triangle + k]]]; }
    Vec3 gathered(Vec3 p, double cluster, std::uint64_t stream) const {
        if (!(cluster > 0)) return p;
        Vec3 centre = centres_.front();
        for (Vec3 c : centres_)
            if (distance(c, p) < distance(centre, p)) centre = c;
        const Vec3 nearer = mix(p, centre, float(cluster * kPull * std::sqrt(chance(stream, 2000))));
        return thin_ || test_->inside(nearer) ? nearer : p;
    }

    const Geometry& solid_;
    Bounds bounds_;
    std::optional<InsideTest> test_;
    std::uint64_t seed_;
    bool thin_;
    Triangles triangles_;
    std::vector<double> areas_;
    std::vector<Vec3> centres_;
};

}  // namespace

std::vector<Vec3> cellSeeds(const Geometry& solid, std::size_t count, double seed, double cluster, const RunContext& run) {
    return SeedMaker(solid, seed, false).make(count, cluster, run);
}

std::vector<Vec3> cellSeedsOn(const Geometry& surface, std::size_t count, double seed, double cluster, const RunContext& run) {
    return SeedMaker(surface, seed, true).make(count, cluster, run);
}

}  // namespace seedloom

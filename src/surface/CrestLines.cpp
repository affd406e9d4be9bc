#include "surface/CrestLines.h"

#include "geometry/Blur.h"
#include "geometry/Neighbours.h"
#include "geometry/Triangulate.h"
#include "surface/Curvature.h"

#include <unordered_map>

namespace seedloom {

namespace {

/// What is known at points of how the surface bends in the direction that counts.
struct Bends {
    std::vector<float> curvature;  ///< over 0 on a ridge
    std::vector<float> other;      ///< the size of the other principal curvature
    std::vector<Vec3> direction;   ///< unit length, without sign; nothing where both curvatures are equal
    std::vector<float> change;     ///< of the curvature in that direction
};

void evenOut(std::vector<float>& values, const Rows& beside, int rounds, const RunContext& run) {
    blur(
        values, beside, rounds, run, [](float other, float) { return other; }, [](std::size_t, float, float mixed) { return mixed; });
}

Bends bendsOf(const Geometry& surface, bool valleys, int evened, const RunContext& run) {
    Bends out;
    const std::vector<Curvature> both = curvatureOf(surface, run);
    out.direction = principalDirectionsOf(surface, !valleys, run);
    out.curvature.resize(both.size()), out.other.resize(both.size()), out.change.resize(both.size());
    for (std::size_t p = 0; p < both.size(); ++p) {
        out.curvature[p] = valleys ? -both[p].smallest : both[p].largest;
        out.other[p] = std::abs(valleys ? both[p].largest : both[p].smallest);
        out.direction[p] = normalized(out.direction[p], {});
    }
    const Rows beside = pointNeighbours(surface.topology());
    evenOut(out.curvature, beside, evened, run);
    evenOut(out.other, beside, evened, run);
    const std::vector<Vec3> gradient = gradientOf(surface, out.curvature, run);
    for (std::size_t p = 0; p < out.change.size(); ++p) out.change[p] = dot(gradient[p], out.direction[p]);
    return out;
}

class Finder {
public:
    Finder(const Geometry& surface, const Bends& bends) : at_(surface.positions()), bends_(bends) {}

    /// The point where a ridge crosses an edge, or kNone.
    Index on(Index a, Index b) {
        if (a > b) std::swap(a, b);
        const auto [it, isNew] = made_.try_emplace(std::uint64_t(a) << 32 | b, kNone);
        if (!isNew) return it->second;
        const Vec3 way = at_[b] - at_[a], ta = bends_.direction[a];
        // Both ends' directions to one side.
        const float turned = dot(ta, bends_.direction[b]) < 0 ? -1.0f : 1.0f;
        const Vec3 tb = bends_.direction[b] * turned;
        const float ea = bends_.change[a], eb = bends_.change[b] * turned;
        if (!isRidge(a) || !isRidge(b) || !(ea * eb <= 0) || ea == eb) return kNone;
        // A maximum, not a minimum: up towards it from at least one of both ends.
        if (!(ea * dot(way, ta) > 0) && !(eb * dot(way, tb) < 0)) return kNone;
        const float t = std::clamp(ea / (ea - eb), 1e-6f, 1 - 1e-6f);
        out_.points.push_back({a, b, t, bends_.curvature[a] * (1 - t) + bends_.curvature[b] * t});
        return it->second = Index(out_.points.size() - 1);
    }
    void join(Index a, Index b) { out_.stretches.push_back({a, b}); }
    CrestLines take() { return std::move(out_); }

private:
    bool isRidge(Index p) const { return std::isfinite(bends_.change[p]) && bends_.curvature[p] > bends_.other[p]; }

    const std::vector<Vec3>& at_;
    const Bends& bends_;
    std::unordered_map<std::uint64_t, Index> made_;
    CrestLines out_;
};

}  // namespace

CrestLines crestLines(const Geometry& surface, bool valleys, int evened, const RunContext& run) {
    const Bends bends = bendsOf(surface, valleys, evened, run);
    Finder finder(surface, bends);
    const Triangles triangles = triangulate(surface);
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        if (t % 16384 == 0) run.poll();
        std::array<Index, 3> p{}, found{};
        for (std::size_t k = 0; k < 3; ++k) p[k] = surface.topology().cornerPoint()[triangles.corners[3 * t + k]];
        std::size_t count = 0;
        for (std::size_t k = 0; k < 3; ++k)
            if (const Index one = finder.on(p[k], p[(k + 1) % 3]); one != kNone) found[count++] = one;
        // Where three meet, a line ends on another one.
        for (std::size_t k = 1; k < count; ++k) finder.join(found[k - 1], found[k]);
    }
    return finder.take();
}

}  // namespace seedloom

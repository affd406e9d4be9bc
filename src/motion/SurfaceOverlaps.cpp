#include "motion/SurfaceOverlaps.h"

#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "parallel/Loops.h"
#include "surface/WindingTree.h"

#include <memory>
#include <numeric>

namespace seedloom {

namespace {

constexpr double kClosed = 1e-3;           // of the area: what the faces of a closed surface may sum up to, as vectors
constexpr std::size_t kMostPlaces = 4000;  // of one body that are looked at for a pair

Geometry meshOf(const std::vector<Triangle3>& surface) {
    std::vector<Vec3> at;
    for (const Triangle3& triangle : surface) at.insert(at.end(), triangle.begin(), triangle.end());
    std::vector<Index> start(surface.size() + 1), corners(at.size());
    for (std::size_t f = 0; f < start.size(); ++f) start[f] = Index(3 * f);
    std::iota(corners.begin(), corners.end(), Index(0));
    const std::size_t points = at.size();
    return Geometry(std::move(at), Topology(points, std::move(start), std::move(corners), {0}, {}, {}));
}

bool isClosed(const std::vector<Triangle3>& surface) {
    Vec3 sum;
    double area = 0;
    for (const auto& [a, b, c] : surface) {
        const Vec3 each = cross(b - a, c - a);
        sum += each, area += double(length(each));
    }
    return !surface.empty() && double(length(sum)) < kClosed * area;
}

/// A body's surface at the start, to be asked for places inside of it.
class Inside {
public:
    explicit Inside(const std::vector<Triangle3>& surface)
        : mesh_(meshOf(surface)), bounds_(boundsOf(mesh_.positions())), around_(mesh_, triangulate(mesh_)), nearest_(mesh_, NearestPlace::On::faces),
          closed_(isClosed(surface)) {}
    bool closed() const { return closed_ && !nearest_.empty(); }
    /// Whether a place lies deeper than that. What is quickest to say comes first: most places are far outside, or where both lie on each other.
    bool deeper(Vec3 place, double than) const {
        const auto within = float(than);
        for (int axis = 0; axis < 3; ++axis)
            if (!(place[axis] > bounds_.min[axis] + within && place[axis] < bounds_.max[axis] - within)) return false;
        return double(nearest_.find(place).squaredDistance) > than * than && around_.at(place) > 0.5;
    }

private:
    Geometry mesh_;
    Bounds bounds_;
    WindingTree around_;
    NearestPlace nearest_;
    bool closed_;
};

/// The surfaces of those bodies that some pair asks for.
class Judge {
public:
    Judge(std::vector<std::vector<Triangle3>> surfaces, const std::vector<BodyOverlap>& pairs, const std::vector<BodyState>& start,
          const std::vector<BodyState>& now, const RunContext& run)
        : surfaces_(std::move(surfaces)), start_(start), now_(now), inside_(surfaces_.size()) {
        std::vector<std::uint8_t> asked(surfaces_.size());
        for (const BodyOverlap& pair : pairs) asked[pair.a] = asked[pair.b] = 1;
        forEach(
            asked.size(), run,
            [&](std::size_t body) {
                if (asked[body]) inside_[body] = std::make_unique<Inside>(surfaces_[body]);
            },
            1);
    }

    bool reaches(const BodyOverlap& pair, double deep) const {
        const Inside &a = *inside_[pair.a], &b = *inside_[pair.b];
        return !a.closed() || !b.closed() || reachesInto(pair.a, pair.b, deep) || reachesInto(pair.b, pair.a, deep);
    }

private:
    bool reachesInto(std::uint32_t one, std::uint32_t other, double deep) const {
        const Affine map = inverse(wayOf(start_[other], now_[other])) * wayOf(start_[one], now_[one]);
        const std::vector<Triangle3>& surface = surfaces_[one];
        const std::size_t every = surface.size() / kMostPlaces + 1;
        for (std::size_t t = 0; t < surface.size(); t += every) {
            const auto& [a, b, c] = surface[t];
            for (const Vec3 place : {a, b, c, (a + b + c) / 3})
                if (inside_[other]->deeper(map.point(place), deep)) return true;
        }
        return false;
    }

    std::vector<std::vector<Triangle3>> surfaces_;
    const std::vector<BodyState>&start_, &now_;
    std::vector<std::unique_ptr<Inside>> inside_;
};

}  // namespace

SurfaceOverlaps bySurface(const MovingModel& model, const PieceList& pieces, const RigidScene& scene, const std::vector<BodyOverlap>& told,
                          const std::vector<BodyState>& states, double part, const RunContext& run) {
    std::vector<BodyOverlap> pairs;
    std::copy_if(told.begin(), told.end(), std::back_inserter(pairs), [](const BodyOverlap& pair) { return pair.b != kGroundBody; });
    std::vector<std::uint8_t> reach(pairs.size());
    if (!pairs.empty()) {
        const Judge judge(surfacesOf(model, pieces, run), pairs, model.start, states, run);
        forEach(
            pairs.size(), run,
            [&](std::size_t i) { reach[i] = judge.reaches(pairs[i], part * 2 * std::min(scene.halfSize(pairs[i].a), scene.halfSize(pairs[i].b))); }, 4);
    }
    SurfaceOverlaps out;
    std::size_t next = 0;
    for (const BodyOverlap& pair : told) (pair.b == kGroundBody || reach[next++] ? out.real : out.standIns).push_back(pair);
    return out;
}

}  // namespace seedloom

#include "motion/SurfaceOverlaps.h"

#include "geometry/NearestPlace.h"
#include "surface/WindingTree.h"

#include <map>
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
        : mesh_(meshOf(surface)), around_(mesh_, triangulate(mesh_)), nearest_(mesh_, NearestPlace::On::faces), closed_(isClosed(surface)) {}
    bool closed() const { return closed_ && !nearest_.empty(); }
    /// Whether a place lies deeper than that.
    bool deeper(Vec3 place, double than) const { return around_.at(place) > 0.5 && double(nearest_.find(place).squaredDistance) > than * than; }

private:
    Geometry mesh_;
    WindingTree around_;
    NearestPlace nearest_;
    bool closed_;
};

class Judge {
public:
    Judge(std::vector<std::vector<Triangle3>> surfaces, const std::vector<BodyState>& start, const std::vector<BodyState>& now)
        : surfaces_(std::move(surfaces)), start_(start), now_(now) {}

    bool reaches(const BodyOverlap& pair, double deep) {
        const Inside &a = insideOf(pair.a), &b = insideOf(pair.b);
        return !a.closed() || !b.closed() || reachesInto(pair.a, pair.b, b, deep) || reachesInto(pair.b, pair.a, a, deep);
    }

private:
    const Inside& insideOf(std::uint32_t body) { return inside_.try_emplace(body, surfaces_[body]).first->second; }
    bool reachesInto(std::uint32_t one, std::uint32_t other, const Inside& inside, double deep) const {
        const Affine map = inverse(wayOf(start_[other], now_[other])) * wayOf(start_[one], now_[one]);
        const std::vector<Triangle3>& surface = surfaces_[one];
        const std::size_t every = surface.size() / kMostPlaces + 1;
        for (std::size_t t = 0; t < surface.size(); t += every) {
            const auto& [a, b, c] = surface[t];
            for (const Vec3 place : {a, b, c, (a + b + c) / 3})
                if (inside.deeper(map.point(place), deep)) return true;
        }
        return false;
    }

    std::vector<std::vector<Triangle3>> surfaces_;
    const std::vector<BodyState>&start_, &now_;
    std::map<std::uint32_t, Inside> inside_;
};

}  // namespace

SurfaceOverlaps bySurface(const MovingModel& model, const PieceList& pieces, const RigidScene& scene, const std::vector<BodyOverlap>& told,
                          const std::vector<BodyState>& states, double part, const RunContext& run) {
    SurfaceOverlaps out;
    const bool any = std::any_of(told.begin(), told.end(), [](const BodyOverlap& pair) { return pair.b != kGroundBody; });
    Judge judge(any ? surfacesOf(model, pieces, run) : std::vector<std::vector<Triangle3>>(), model.start, states);
    for (const BodyOverlap& pair : told) {
        run.poll();
        const bool real = pair.b == kGroundBody || judge.reaches(pair, part * 2 * std::min(scene.halfSize(pair.a), scene.halfSize(pair.b)));
        (real ? out.real : out.standIns).push_back(pair);
    }
    return out;
}

}  // namespace seedloom

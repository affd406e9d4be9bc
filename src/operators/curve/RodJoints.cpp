#include "operators/curve/RodJoints.h"

#include "geometry/MixPlan.h"
#include "surface/ConvexHull.h"

namespace seedloom {

namespace {

/// One end of a rod.
struct RodEnd {
    Index edge;
    bool far;         ///< at the edge's second point
    Vec3 direction;   ///< away from the point
    Index first = 0;  ///< of its ring
};

class JointBuilder {
public:
    JointBuilder(const Geometry& in, const std::vector<std::array<Index, 2>>& edges, const Field<float>& radius, int sides)
        : in_(in), edges_(edges), radius_(radius), sides_(static_cast<Index>(sides)), ends_(in.pointCount()), ringOf_(edges.size()) {
        for (Index e = 0; e < edges.size(); ++e) {
            const Vec3 along = normalized(place(edges[e][1]) - place(edges[e][0]));
            ends_[edges[e][0]].push_back({e, false, along});
            ends_[edges[e][1]].push_back({e, true, -along});
        }
    }

    Geometry build(const RunContext& run, JointReport* report) {
        for (Index p = 0; p < ends_.size(); ++p) {
            if (p % 256 == 0) run.poll();
            if (ends_[p].empty()) continue;
            addRings(p);
            if (ends_[p].size() > 1 && joinRings(p)) continue;
            report->crowded += ends_[p].size() > 1;
            for (const RodEnd& end : ends_[p]) addCap(end);
        }
        for (Index e = 0; e < edges_.size(); ++e)
            for (Index i = 0; i < sides_; ++i) {
                const Index next = (i + 1) % sides_;
                face({ringOf_[e][0] + i, ringOf_[e][0] + next, ringOf_[e][1] + next, ringOf_[e][1] + i});
            }
        Geometry out(std::move(positions_), Topology(points_.size(), std::move(faceStart_), std::move(cornerPoint_), {0}, {}, {}));
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position" && name != "normal") out.setColumn(Element::point, name, points_.apply(column));
        for (const auto& [name, column] : in_.table(Element::model)) out.setColumn(Element::model, name, column);
        return out;
    }

private:
    Vec3 place(Index p) const { return in_.positions()[p]; }
    void face(std::initializer_list<Index> points) {
        cornerPoint_.insert(cornerPoint_.end(), points);
        faceStart_.push_back(static_cast<Index>(cornerPoint_.size()));
    }
    /// How far from the point the rings lie: each in front of all the others' discs.
    float standOff(Index p) const {
        const float r = radius_[p];
        float out = ends_[p].size() == 1 ? 0 : 0.2f * r;
        for (std::size_t i = 0; i < ends_[p].size(); ++i)
            for (std::size_t j = i + 1; j < ends_[p].size(); ++j) {
                const float c = std::clamp(dot(ends_[p][i].direction, ends_[p][j].direction), -1.0f, 1.0f);
                out = std::max(out, 1.02f * r * std::sqrt((1 + c) / std::max(1 - c, 1e-6f)) + 0.02f * r);
            }
        return out;
    }
    void addRings(Index p) {
        const float wanted = standOff(p);
        for (RodEnd& end : ends_[p]) {
            const auto [a, b] = edges_[end.edge];
            const float off = std::min(wanted, 0.45f * distance(place(a), place(b)));
            const Vec3 t = normalized(place(b) - place(a)), u = anyPerpendicular(t), v = cross(t, u), centre = place(p) + end.direction * off;
            end.first = points_.size();
            ringOf_[end.edge][end.far] = end.first;
            for (Index i = 0; i < sides_; ++i) {
                const double angle = 2 * kPi * i / sides_;
                positions_.push_back(centre + (u * float(std::cos(angle)) + v * float(std::sin(angle))) * radius_[p]);
                points_.add(p);
            }
        }
    }
    bool joinRings(Index p) {
        const Index first = ends_[p].front().first;
        const std::vector<Vec3> around(positions_.begin() + first, positions_.end());
        const auto hull = convexHull(around);
        std::size_t discs = 0;
        for (const auto& t : hull) discs += t[0] / sides_ == t[1] / sides_ && t[0] / sides_ == t[2] / sides_;
        // Every ring must be a whole face of the hull, or it is hidden by the others.
        if (hull.size() != 2 * around.size() - 4 || discs != ends_[p].size() * (sides_ - 2)) return false;
        for (const auto& t : hull)
            if (t[0] / sides_ != t[1] / sides_ || t[0] / sides_ != t[2] / sides_) face({first + t[0], first + t[1], first + t[2]});
        return true;
    }
    void addCap(const RodEnd& end) {
        for (Index i = 0; i < sides_; ++i) cornerPoint_.push_back(end.first + (end.far ? i : sides_ - 1 - i));
        faceStart_.push_back(static_cast<Index>(cornerPoint_.size()));
    }

    const Geometry& in_;
    const std::vector<std::array<Index, 2>>& edges_;
    const Field<float>& radius_;
    Index sides_;
    std::vector<std::vector<RodEnd>> ends_;
    std::vector<std::array<Index, 2>> ringOf_;
    std::vector<Vec3> positions_;
    RowMix points_;
    std::vector<Index> faceStart_{0}, cornerPoint_;
};

}  // namespace

Geometry weldedRods(const Geometry& in, const std::vector<std::array<Index, 2>>& edges, const Field<float>& radius, int sides, const RunContext& run,
                    JointReport* report) {
    return JointBuilder(in, edges, radius, sides).build(run, report);
}

}  // namespace seedloom

#include "surface/FlatTriangles.h"

#include "geometry/Checkup.h"
#include "geometry/Rows.h"
#include "surface/NearCrossings.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace seedloom {

namespace {

/// A point that a side of a face gets, and where between its ends.
struct NewCorner {
    Index point;
    float part;  ///< of the way from the corner that the side begins at
};

/// The corners at which each side begins, two by two, of edges of two faces.
std::vector<std::array<Index, 2>> sidesOfEdges(const Topology& t) {
    std::vector<std::array<Index, 2>> out(t.edges().edges.size(), {kNone, kNone});
    for (Index c = 0; c < t.cornerCount(); ++c) {
        auto& sides = out[t.edges().cornerEdge[c]];
        (sides[0] == kNone ? sides[0] : sides[1]) = c;
    }
    return out;
}

class FlatRemover {
public:
    FlatRemover(const Geometry& in, const PlaceSet& held) : in_(in), held_(held), t_(in.topology()), touched_(in.faceCount(), 0), gone_(in.faceCount(), 0) {}

    bool find() {
        std::vector<std::array<Index, 2>> sides;
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (t_.face(f).size() != 3 || !hasNoArea(t_.face(f), in_.positions())) continue;
            if (sides.empty()) sides = sidesOfEdges(t_);
            give(f, sides);
        }
        return !given_.empty();
    }

    Geometry result() const {
        RowPlan plan;
        plan.points.resize(in_.pointCount());
        std::iota(plan.points.begin(), plan.points.end(), Index{0});
        std::vector<Index> from, to;
        std::vector<float> part;
        const auto add = [&](Index point, Index a, Index b, float t) {
            plan.addCorner(point, a);
            from.push_back(a), to.push_back(b), part.push_back(t);
        };
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (gone_[f]) continue;
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) {
                add(t_.cornerPoint()[c], c, c, 0);
                if (const auto more = given_.find(c); more != given_.end()) add(more->second.point, c, after(c), more->second.part);
            }
            plan.endFace(f);
        }
        Geometry out = takeRows(in_, std::move(plan));
        for (const auto& [name, column] : in_.table(Element::corner)) out.setColumn(Element::corner, name, mixRows(column, from, to, part));
        return out;
    }

    PlaceSet places() const {
        PlaceSet out;
        for (const auto& [corner, given] : given_) out.insert(placeKey(in_.positions()[given.point]));
        return out;
    }

private:
    Index after(Index c) const {
        const Index f = t_.faceOfCorner()[c];
        return c + 1 == t_.faceStart()[f + 1] ? t_.faceStart()[f] : c + 1;
    }
    Vec3 at(Index corner) const { return in_.positions()[t_.cornerPoint()[corner]]; }

    void give(Index f, const std::vector<std::array<Index, 2>>& sides) {
        Index longest = t_.faceStart()[f];
        const auto length = [&](Index c) { return seedloom::length(at(c) - at(after(c))); };
        for (Index c = longest + 1; c < t_.faceStart()[f + 1]; ++c)
            if (length(c) > length(longest)) longest = c;
        const Index edge = t_.edges().cornerEdge[longest], point = t_.cornerPoint()[after(after(longest))];
        const auto [one, two] = sides[edge];
        if (t_.edges().faceCount[edge] != 2 || t_.edges().balance[edge] != 0) return;
        const Index side = one == longest ? two : one, behind = t_.faceOfCorner()[side];
        const auto ring = t_.face(behind);
        if (held_.contains(placeKey(in_.positions()[point]))) return;
        // One at a time of what is beside each other: those that are left are looked at again.
        if (touched_[f] || touched_[behind] || std::find(ring.begin(), ring.end(), point) != ring.end()) return;
        touched_[f] = touched_[behind] = gone_[f] = 1;
        const float whole = length(side);
        given_[side] = {point, whole > 0 ? std::clamp(seedloom::length(in_.positions()[point] - at(side)) / whole, 0.0f, 1.0f) : 0.0f};
    }

    const Geometry& in_;
    const PlaceSet& held_;
    const Topology& t_;
    std::vector<std::uint8_t> touched_, gone_;
    std::map<Index, NewCorner> given_;  ///< by the corner that the side begins at
};

}  // namespace

Geometry withoutFlatTriangles(const Geometry& surface, const RunContext& run) {
    constexpr int kRounds = 8;
    Geometry out = surface;
    PlaceSet held;
    for (int round = 0; round < kRounds; ++round) {
        FlatRemover remover(out, held);
        if (!remover.find()) break;
        Geometry next = remover.result();
        const PlaceSet crossing = crossingNear(next, remover.places(), run);
        if (crossing.empty()) out = std::move(next);
        held.insert(crossing.begin(), crossing.end());
    }
    return out;
}

}  // namespace seedloom

#include "surface/Orient.h"

#include "geometry/Measures.h"
#include "surface/HollowVolume.h"

#include <deque>

namespace seedloom {

namespace {

/// Faces on both sides of each edge that exactly two faces use, with whether they run the same way along it (they should not).
struct Side {
    Index face;
    bool sameWay;
};

class Orienter {
public:
    explicit Orienter(const Geometry& in) : in_(in), t_(in.topology()), turned_(in.faceCount(), 0), group_(in.faceCount(), kNone) { findNeighbours(); }

    std::vector<std::uint8_t> run(const RunContext& run, OpenParts openParts) {
        for (Index f = 0; f < in_.faceCount(); ++f) {
            if (group_[f] != kNone) continue;
            run.poll();
            spreadFrom(f);
        }
        faceOutward(openParts);
        return std::move(turned_);
    }
    bool oneSided() const { return oneSided_; }

private:
    void findNeighbours() {
        const EdgeTable& edges = t_.edges();
        struct Use {
            Index face = kNone;
            bool forward = false;
        };
        std::vector<std::array<Use, 2>> uses(edges.edges.size());
        std::vector<std::uint8_t> count(edges.edges.size(), 0);
        neighbours_.resize(in_.faceCount());
        for (Index c = 0; c < t_.cornerCount(); ++c) {
            const Index e = edges.cornerEdge[c];
            if (edges.faceCount[e] != 2) continue;
            uses[e][count[e]++] = {t_.faceOfCorner()[c], t_.cornerPoint()[c] == edges.edges[e].a};
        }
        for (std::size_t e = 0; e < uses.size(); ++e) {
            const auto& [a, b] = uses[e];
            if (count[e] != 2 || a.face == b.face) continue;
            neighbours_[a.face].push_back({b.face, a.forward == b.forward});
            neighbours_[b.face].push_back({a.face, a.forward == b.forward});
        }
    }
    void spreadFrom(Index first) {
        std::deque<Index> waiting{first};
        group_[first] = groups_;
        while (!waiting.empty()) {
            const Index f = waiting.front();
            waiting.pop_front();
            for (const Side& side : neighbours_[f]) {
                const auto turn = std::uint8_t(turned_[f] ^ std::uint8_t(side.sameWay));
                if (group_[side.face] == kNone) {
                    group_[side.face] = groups_;
                    turned_[side.face] = turn;
                    waiting.push_back(side.face);
                } else if (turned_[side.face] != turn) {
                    oneSided_ = true;
                }
            }
        }
        ++groups_;
    }
    struct Group {
        double volume = 0;            ///< times 3, about the middle of all
        double same = 0, turned = 0;  ///< area of faces that stay or are turned
        HollowVolume hollow;
        bool open = false;
        bool looksInward(OpenParts parts) const {
            if (!open) return volume < 0;
            return parts == OpenParts::outOfHollow && !hollow.isSheet() ? hollow.volume() < 0 : turned > same;
        }
    };
    void faceOutward(OpenParts openParts) {
        std::vector<Group> groups(groups_);
        const Vec3 middle = boundsOf(in_.positions()).centre();
        for (Index f = 0; f < in_.faceCount(); ++f) {
            const Vec3 area = areaVector(t_.face(f), in_.positions()) * (turned_[f] ? -1.0f : 1.0f), at = centreOf(t_.face(f), in_.positions()) - middle;
            Group& group = groups[group_[f]];
            (turned_[f] ? group.turned : group.same) += double(length(area));
            group.volume += double(dot(area, at));
            group.hollow.add(fine(area), fine(at));
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) group.open |= t_.edges().faceCount[t_.edges().cornerEdge[c]] != 2;
        }
        std::vector<std::uint8_t> turns(groups_);
        for (Index g = 0; g < groups_; ++g) turns[g] = groups[g].looksInward(openParts);
        for (Index f = 0; f < in_.faceCount(); ++f) turned_[f] ^= turns[group_[f]];
    }
    const Geometry& in_;
    const Topology& t_;
    std::vector<std::vector<Side>> neighbours_;
    std::vector<std::uint8_t> turned_;
    std::vector<Index> group_;
    Index groups_ = 0;
    bool oneSided_ = false;
};

}  // namespace

std::vector<std::uint8_t> facesToTurn(const Geometry& geometry, const RunContext& run, bool* oneSided, OpenParts open) {
    Orienter orienter(geometry);
    auto out = orienter.run(run, open);
    if (oneSided) *oneSided = orienter.oneSided();
    return out;
}

}  // namespace seedloom

#include "surface/Orient.h"

#include "geometry/Measures.h"

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

    std::vector<std::uint8_t> run(const RunContext& run) {
        for (Index f = 0; f < in_.faceCount(); ++f) {
            if (group_[f] != kNone) continue;
            run.poll();
            spreadFrom(f);
        }
        faceOutward();
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
    /// Closed groups get a positive volume; open ones keep the way that most of their area already looked.
    void faceOutward() {
        std::vector<double> volume(groups_), same(groups_), turned(groups_);
        std::vector<std::uint8_t> open(groups_, 0);
        const Vec3 middle = boundsOf(in_.positions()).centre();
        for (Index f = 0; f < in_.faceCount(); ++f) {
            const Vec3 area = areaVector(t_.face(f), in_.positions());
            const Index g = group_[f];
            (turned_[f] ? turned : same)[g] += double(length(area));
            volume[g] += double(dot(area, centreOf(t_.face(f), in_.positions()) - middle)) * (turned_[f] ? -1 : 1);
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) open[g] |= t_.edges().faceCount[t_.edges().cornerEdge[c]] != 2;
        }
        for (Index f = 0; f < in_.faceCount(); ++f) {
            const Index g = group_[f];
            turned_[f] ^= std::uint8_t(open[g] ? turned[g] > same[g] : volume[g] < 0);
        }
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

std::vector<std::uint8_t> facesToTurn(const Geometry& geometry, const RunContext& run, bool* oneSided) {
    Orienter orienter(geometry);
    auto out = orienter.run(run);
    if (oneSided) *oneSided = orienter.oneSided();
    return out;
}

}  // namespace seedloom

#include "operators/Polyhedra.h"

#include <unordered_map>

namespace seedloom {

namespace {

/// Divides each face of the icosahedron into frequency² triangles and lifts the points onto the ball.
class Geodesic {
public:
    explicit Geodesic(Index frequency) : f_(frequency), base_(unitSolid(4)) {
        points_ = base_.positions();
        for (std::size_t face = 0; face < base_.faceCount(); ++face) addFace(base_.topology().face(face));
    }
    Geometry finish() {
        const std::size_t count = points_.size();
        return Geometry(std::move(points_), Topology(count, std::move(start_), std::move(corners_), {0}, {}, {}));
    }

private:
    void addFace(std::span<const Index> face) {
        std::vector<Index> row, below;
        for (Index j = 0; j <= f_; ++j) {  // rows from the first edge to the third point
            row.clear();
            for (Index i = 0; i + j <= f_; ++i) row.push_back(point(face, {f_ - i - j, i, j}));
            for (Index i = 0; j > 0 && i < row.size(); ++i) {
                addTriangle(below[i], below[i + 1], row[i]);
                if (i + 1 < row.size()) addTriangle(below[i + 1], row[i + 1], row[i]);
            }
            below = row;
        }
    }
    /// Points on corners and edges belong to several faces: each is made once.
    Index point(std::span<const Index> face, std::array<Index, 3> weight) {
        std::array<std::pair<Index, Index>, 3> of;  // base point, weight
        std::size_t used = 0;
        for (std::size_t k = 0; k < 3; ++k)
            if (weight[k] > 0) of[used++] = {face[k], weight[k]};
        if (used == 1) return of[0].first;
        if (used == 3) return make(face, weight);
        if (of[0].first > of[1].first) std::swap(of[0], of[1]);
        const std::uint64_t key = (std::uint64_t(of[0].first) * 16 + of[1].first) * (std::uint64_t(f_) + 1) + of[0].second;
        const auto [it, isNew] = onEdge_.try_emplace(key, 0);
        // In one order from both faces, so that rounding is the same.
        if (isNew) it->second = make(std::array{of[0].first, of[1].first, of[0].first}, {of[0].second, of[1].second, 0});
        return it->second;
    }
    Index make(std::span<const Index> base, std::array<Index, 3> weight) {
        Vec3 sum{};
        for (std::size_t k = 0; k < 3; ++k) sum += base_.positions()[base[k]] * float(weight[k]);
        points_.push_back(normalized(sum));
        return Index(points_.size() - 1);
    }
    void addTriangle(Index a, Index b, Index c) {
        corners_.insert(corners_.end(), {a, b, c});
        start_.push_back(Index(corners_.size()));
    }
    Index f_;
    const Geometry& base_;
    std::vector<Vec3> points_;
    std::vector<Index> start_{0}, corners_;
    std::unordered_map<std::uint64_t, Index> onEdge_;
};

}  // namespace

Geometry geodesicBall(int frequency) { return Geodesic(Index(frequency)).finish(); }

}  // namespace seedloom

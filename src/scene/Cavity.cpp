#include "scene/Cavity.h"

#include "geometry/Measures.h"

#include <cmath>
#include <span>

namespace seedloom {

namespace {

constexpr double kReach = 0.03;  ///< of the whole's size: what bends as much as a ball of that radius is fully an edge

/// Means over the neighbours of each point.
class NeighbourMeans {
public:
    explicit NeighbourMeans(std::size_t points) : sum_(points, 0), count_(points, 0) {}
    void add(Index point, float value) { sum_[point] += value, ++count_[point]; }
    float mean(Index point) const { return count_[point] ? sum_[point] / float(count_[point]) : 0; }

private:
    std::vector<float> sum_;
    std::vector<std::uint32_t> count_;
};

std::vector<float> bendOfPoints(const Geometry& geometry, float reach) {
    const auto& edges = geometry.topology().edges().edges;
    const std::vector<Vec3>&at = geometry.positions(), normals = pointNormals(geometry);
    NeighbourMeans slopes(at.size());
    for (const auto& e : edges) {
        const Vec3 way = at[e.b] - at[e.a];
        const float far = dot(way, way);
        if (!(far > 0) || !std::isfinite(far)) continue;
        // Neighbours below the tangent plane: an edge.
        slopes.add(e.a, -dot(way, normals[e.a]) / far);
        slopes.add(e.b, dot(way, normals[e.b]) / far);
    }
    std::vector<float> bent(at.size());
    for (Index p = 0; p < bent.size(); ++p) bent[p] = std::tanh(2 * slopes.mean(p) * reach);
    NeighbourMeans around(at.size());
    for (const auto& e : edges) around.add(e.a, bent[e.b]), around.add(e.b, bent[e.a]);
    for (Index p = 0; p < bent.size(); ++p) {
        const float even = (bent[p] + around.mean(p)) / 2;
        bent[p] = std::isfinite(even) ? even : 0;
    }
    return bent;
}

float longestSide(std::span<const Index> face, const std::vector<Vec3>& at) {
    float out = 0;
    for (std::size_t k = 0; k < face.size(); ++k) out = std::max(out, distance(at[face[k]], at[face[(k + 1) % face.size()]]));
    return out;
}

}  // namespace

std::vector<float> cavityOf(const Geometry& geometry) {
    const Topology& t = geometry.topology();
    const auto reach = float(boundsOf(geometry.positions()).diagonal() * kReach);
    const std::vector<float> bent = bendOfPoints(geometry, reach);
    std::vector<float> out(geometry.cornerCount(), 0);
    for (Index f = 0; f < geometry.faceCount(); ++f) {
        const float side = longestSide(t.face(f), geometry.positions()), share = side > reach ? reach / side : 1;
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) out[c] = bent[t.cornerPoint()[c]] * share * share;
    }
    return out;
}

}  // namespace seedloom

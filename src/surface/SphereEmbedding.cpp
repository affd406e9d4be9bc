#include "surface/SphereEmbedding.h"

#include "geometry/Measures.h"
#include "parallel/Loops.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <complex>

namespace seedloom {

namespace {

/// Neighbours of each point by edges, in no special order.
Rows neighboursOf(const Topology& t) {
    Rows out;
    out.start.assign(t.pointCount() + 1, 0);
    for (const auto& e : t.edges().edges) ++out.start[e.a + 1], ++out.start[e.b + 1];
    for (std::size_t p = 0; p < t.pointCount(); ++p) out.start[p + 1] += out.start[p];
    out.values.resize(out.start.back());
    std::vector<Index> at(out.start.begin(), out.start.end() - 1);
    for (const auto& e : t.edges().edges) out.values[at[e.a]++] = e.b, out.values[at[e.b]++] = e.a;
    return out;
}

/// The points around one, in order; empty where they make no ring.
std::vector<Index> ringAround(const Topology& t, Index point) {
    std::map<Index, Index> next;
    for (Index c : t.cornersOfPoint()[point]) {
        const Index f = t.faceOfCorner()[c], begin = t.faceStart()[f], size = t.faceStart()[f + 1] - begin, k = c - begin;
        if (!next.emplace(t.cornerPoint()[begin + (k + 1) % size], t.cornerPoint()[begin + (k + 2) % size]).second) return {};
    }
    std::vector<Index> out;
    for (Index at = next.begin()->first; out.size() < next.size();) {
        out.push_back(at);
        const auto it = next.find(at);
        if (it == next.end()) return {};
        at = it->second;
    }
    return out;
}

bool likeABall(const Geometry& g) {
    const Topology& t = g.topology();
    for (std::size_t f = 0; f < t.faceCount(); ++f)
        if (t.face(f).size() != 3) return false;
    const EdgeTable& edges = t.edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e)
        if (edges.faceCount[e] != 2 || edges.balance[e] != 0) return false;
    return t.faceCount() >= 4 && t.connection().parts == 1 && long(t.pointCount()) - long(edges.edges.size()) + long(t.faceCount()) == 2;
}

/// Flat places for all points but `pole`, whose ring lies on the unit circle.
std::vector<std::complex<double>> flatPlaces(const Rows& neighbours, std::size_t points, Index pole, const std::vector<Index>& ring) {
    std::vector<std::complex<double>> out(points);
    std::vector<int> row(points, -1);
    std::vector<std::uint8_t> fixed(points, 0);
    fixed[pole] = 1;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        // The way round that lets faces look outwards once the plane is put onto the ball with the pole on top.
        out[ring[i]] = std::polar(1.0, 2 * kPi * double(i) / double(ring.size()));
        fixed[ring[i]] = 1;
    }
    int free = 0;
    for (std::size_t p = 0; p < points; ++p)
        if (!fixed[p]) row[p] = free++;
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::MatrixXd right = Eigen::MatrixXd::Zero(free, 2);
    for (std::size_t p = 0; p < points; ++p) {
        if (row[p] < 0) continue;
        entries.emplace_back(row[p], row[p], double(neighbours[p].size()));
        for (Index q : neighbours[p]) {
            if (row[q] >= 0) entries.emplace_back(row[p], row[q], -1.0);
            else right(row[p], 0) += out[q].real(), right(row[p], 1) += out[q].imag();
        }
    }
    Eigen::SparseMatrix<double> matrix(free, free);
    matrix.setFromTriplets(entries.begin(), entries.end());
    const Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver(matrix);
    const Eigen::MatrixXd solved = solver.solve(right);
    for (std::size_t p = 0; p < points; ++p)
        if (row[p] >= 0) out[p] = {solved(row[p], 0), solved(row[p], 1)};
    return out;
}

/// From the plane onto the ball, the scale such that as many points lie on each half.
std::vector<Vec3> ontoBall(std::vector<std::complex<double>> flat, Index pole) {
    std::vector<std::pair<double, Index>> bySize;
    std::complex<double> middle{};
    for (Index p = 0; p < flat.size(); ++p)
        if (p != pole) middle += flat[p] / double(flat.size() - 1);
    std::vector<double> sizes;
    for (Index p = 0; p < flat.size(); ++p)
        if (p != pole) flat[p] -= middle, sizes.push_back(std::abs(flat[p]));
    std::nth_element(sizes.begin(), sizes.begin() + std::ptrdiff_t(sizes.size() / 2), sizes.end());
    const double scale = 1 / std::max(sizes[sizes.size() / 2], 1e-300);
    std::vector<Vec3> out(flat.size());
    for (Index p = 0; p < flat.size(); ++p) {
        if (p == pole) {
            out[p] = {0, 0, 1};
            continue;
        }
        const double x = flat[p].real() * scale, y = flat[p].imag() * scale, s = x * x + y * y;
        out[p] = {float(2 * x / (1 + s)), float(2 * y / (1 + s)), float((s - 1) / (s + 1))};
    }
    return out;
}

double outwardness(const std::vector<Vec3>& at, Index a, Index b, Index c) { return double(dot(at[a], cross(at[b], at[c]))); }

/// Steps towards the middle of the neighbours, taken where no face around turns over. Points are done in two halves by number, so that the result does
/// not depend on threads: within a half all look at the places before.
void evenOut(const Geometry& g, const Rows& neighbours, std::vector<Vec3>& at, int rounds, const RunContext& run) {
    const Topology& t = g.topology();
    const Rows& corners = t.cornersOfPoint();
    std::vector<std::uint8_t> colour(t.pointCount(), 0);
    // Points that are done at the same time must not be neighbours: a greedy colouring.
    std::uint8_t colours = 1;
    for (Index p = 0; p < t.pointCount(); ++p) {
        std::uint64_t used = 0;
        for (Index q : neighbours[p])
            if (q < p && colour[q] < 64) used |= std::uint64_t(1) << colour[q];
        std::uint8_t c = 0;
        while (c < 63 && (used >> c & 1)) ++c;
        colour[p] = c;
        colours = std::max<std::uint8_t>(colours, std::uint8_t(c + 1));
    }
    std::vector<std::vector<Index>> byColour(colours);
    for (Index p = 0; p < t.pointCount(); ++p) byColour[colour[p]].push_back(p);
    for (int round = 0; round < rounds; ++round)
        for (const auto& members : byColour)
            forEach(members.size(), run, [&](std::size_t i) {
                const Index p = members[i];
                Vec3 middle{};
                float weights = 0;
                for (Index c : corners[p]) {
                    const Index f = t.faceOfCorner()[c], begin = t.faceStart()[f];
                    const Vec3 a = at[t.cornerPoint()[begin]], b = at[t.cornerPoint()[begin + 1]], d = at[t.cornerPoint()[begin + 2]];
                    // Large faces pull more, so that areas become alike.
                    const float area = length(cross(b - a, d - a)) + 1e-12f;
                    middle += (a + b + d) * area, weights += 3 * area;
                }
                const Vec3 before = at[p], wanted = normalized(middle / weights, before);
                for (float step : {1.0f, 0.4f, 0.1f}) {
                    at[p] = normalized(mix(before, wanted, step), before);
                    bool folds = false;
                    for (Index c : corners[p]) {
                        const Index begin = t.faceStart()[t.faceOfCorner()[c]];
                        folds |= outwardness(at, t.cornerPoint()[begin], t.cornerPoint()[begin + 1], t.cornerPoint()[begin + 2]) <= 0;
                    }
                    if (!folds) return;
                }
                at[p] = before;
            }, 1024);
}

/// The turn that brings the places nearest to where the points look from the middle (Kabsch, 1976).
void turnToShape(const Geometry& g, std::vector<Vec3>& at) {
    const Vec3 middle = boundsOf(g.positions()).centre();
    Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
    for (std::size_t p = 0; p < at.size(); ++p) {
        const Vec3 to = normalized(g.positions()[p] - middle, {});
        sum += Eigen::Vector3d(double(at[p].x), double(at[p].y), double(at[p].z)) * Eigen::RowVector3d(double(to.x), double(to.y), double(to.z));
    }
    const Eigen::JacobiSVD<Eigen::Matrix3d> svd(sum, Eigen::ComputeFullU | Eigen::ComputeFullV);
    Eigen::Matrix3d fix = Eigen::Matrix3d::Identity();
    fix(2, 2) = (svd.matrixV() * svd.matrixU().transpose()).determinant() < 0 ? -1 : 1;
    const Eigen::Matrix3d turn = svd.matrixV() * fix * svd.matrixU().transpose();
    for (Vec3& p : at) {
        const Eigen::Vector3d q = turn * Eigen::Vector3d(double(p.x), double(p.y), double(p.z));
        p = {float(q.x()), float(q.y()), float(q.z())};
    }
}

}  // namespace

std::size_t foldedFaces(const Geometry& g, const std::vector<Vec3>& places, Vec3 middle) {
    std::size_t out = 0;
    for (std::size_t f = 0; f < g.faceCount(); ++f) {
        const auto face = g.topology().face(f);
        if (face.size() < 3) continue;
        out += dot(areaVector(face, places), centreOf(face, places) - middle) <= 0;
    }
    return out;
}

std::optional<std::vector<Vec3>> sphereEmbedding(const Geometry& g, int rounds, const RunContext& run) {
    if (!likeABall(g)) return {};
    const Rows neighbours = neighboursOf(g.topology());
    // The pole: a point of the usual number of neighbours, far from the middle, where the surface is least curled up.
    Index pole = 0;
    const Vec3 middle = boundsOf(g.positions()).centre();
    float farthest = -1;
    for (Index p = 0; p < g.pointCount(); ++p)
        if (neighbours[p].size() >= 5 || g.pointCount() < 12)
            if (const float d = distance(g.positions()[p], middle); d > farthest) farthest = d, pole = p;
    const std::vector<Index> ring = ringAround(g.topology(), pole);
    if (ring.size() < 3) return {};
    run.poll();
    std::vector<Vec3> at = ontoBall(flatPlaces(neighbours, g.pointCount(), pole, ring), pole);
    run.poll();
    evenOut(g, neighbours, at, rounds, run);
    turnToShape(g, at);
    return at;
}

}  // namespace seedloom

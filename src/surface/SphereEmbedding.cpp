#include "surface/SphereEmbedding.h"

#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "surface/TriangleMesh.h"

#include <Eigen/Dense>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <complex>

namespace seedloom {

namespace {

using Place3 = Eigen::Vector3d;

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
std::vector<std::complex<double>> flatPlaces(const Geometry& g, const Rows& neighbours, Index pole, const std::vector<Index>& ring) {
    const std::size_t points = g.pointCount();
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
std::vector<Place3> ontoBall(std::vector<std::complex<double>> flat, Index pole) {
    std::complex<double> middle{};
    for (Index p = 0; p < flat.size(); ++p)
        if (p != pole) middle += flat[p] / double(flat.size() - 1);
    std::vector<double> sizes;
    for (Index p = 0; p < flat.size(); ++p)
        if (p != pole) flat[p] -= middle, sizes.push_back(std::abs(flat[p]));
    std::nth_element(sizes.begin(), sizes.begin() + std::ptrdiff_t(sizes.size() / 2), sizes.end());
    const double scale = 1 / std::max(sizes[sizes.size() / 2], 1e-300);
    std::vector<Place3> out(flat.size());
    for (Index p = 0; p < flat.size(); ++p) {
        if (p == pole) {
            out[p] = {0, 0, 1};
            continue;
        }
        const double x = flat[p].real() * scale, y = flat[p].imag() * scale, s = x * x + y * y;
        out[p] = {2 * x / (1 + s), 2 * y / (1 + s), (s - 1) / (s + 1)};
    }
    return out;
}

/// Above 0 where a triangle looks outwards; from differences, so that small ones far from the origin are told right.
double outwardness(const std::vector<Place3>& at, Index a, Index b, Index c) { return (at[b] - at[a]).cross(at[c] - at[a]).dot(at[a]); }

/// Steps towards the middle of the neighbours, taken where no face around turns over. Points are done in two halves by number, so that the result does
/// not depend on threads: within a half all look at the places before.
void evenOut(const Geometry& g, const Rows& neighbours, std::vector<Place3>& at, int rounds, const RunContext& run) {
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
            forEach(
                members.size(), run,
                [&](std::size_t i) {
                    const Index p = members[i];
                    Place3 middle = Place3::Zero();
                    double weights = 0;
                    for (Index c : corners[p]) {
                        const Index f = t.faceOfCorner()[c], begin = t.faceStart()[f];
                        const Place3 &a = at[t.cornerPoint()[begin]], &b = at[t.cornerPoint()[begin + 1]], &d = at[t.cornerPoint()[begin + 2]];
                        // Large faces pull more, so that areas become alike.
                        const double area = (b - a).cross(d - a).norm() + 1e-30;
                        middle += (a + b + d) * area, weights += 3 * area;
                    }
                    const Place3 before = at[p], wanted = (middle / weights).normalized();
                    for (double step : {1.0, 0.4, 0.1}) {
                        at[p] = (before + (wanted - before) * step).normalized();
                        bool folds = false;
                        for (Index c : corners[p]) {
                            const Index begin = t.faceStart()[t.faceOfCorner()[c]];
                            folds |= outwardness(at, t.cornerPoint()[begin], t.cornerPoint()[begin + 1], t.cornerPoint()[begin + 2]) <= 0;
                        }
                        if (!folds) return;
                    }
                    at[p] = before;
                },
                1024);
}

/// The turn that brings the places nearest to where the points look from the middle (Kabsch, 1976).
std::vector<Vec3> turnedToShape(const Geometry& g, const std::vector<Place3>& at) {
    const Vec3 middle = boundsOf(g.positions()).centre();
    Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
    for (std::size_t p = 0; p < at.size(); ++p) {
        const Vec3 to = normalized(g.positions()[p] - middle, {});
        sum += at[p] * Eigen::RowVector3d(double(to.x), double(to.y), double(to.z));
    }
    const Eigen::JacobiSVD<Eigen::Matrix3d> svd(sum, Eigen::ComputeFullU | Eigen::ComputeFullV);
    Eigen::Matrix3d fix = Eigen::Matrix3d::Identity();
    fix(2, 2) = (svd.matrixV() * svd.matrixU().transpose()).determinant() < 0 ? -1 : 1;
    const Eigen::Matrix3d turn = svd.matrixV() * fix * svd.matrixU().transpose();
    std::vector<Vec3> out(at.size());
    for (std::size_t p = 0; p < at.size(); ++p) {
        const Place3 q = turn * at[p];
        out[p] = {float(q.x()), float(q.y()), float(q.z())};
    }
    return out;
}

/// A point that was drawn into another, and what the mesh was before.
struct Removal {
    Index point, into;
    std::size_t mark;
};

/// Draws short edges together until few points are left, shortest first in steps of length.
std::vector<Removal> collapsedToFew(TriangleMesh& mesh, const RunContext& run) {
    constexpr std::size_t kFew = 24;
    mesh.noteCollapses();
    std::vector<Removal> out;
    std::size_t alive = mesh.points();
    double total = 0, count = 0;
    for (Index h = 0; h < mesh.halfEdges(); ++h) total += double(distance(mesh.place[mesh.from(h)], mesh.place[mesh.to(h)])), count += 1;
    std::vector<Index> ring;
    for (double limit = total / std::max(count, 1.0) * 0.7; alive > kFew;) {
        const std::size_t before = alive;
        bool longer = false;
        for (Index h = 0; h < mesh.halfEdges() && alive > kFew; ++h) {
            if (h % 4096 == 0) run.poll();
            if (!mesh.alive(h)) continue;
            const Index a = mesh.from(h), b = mesh.to(h);
            if (double(distance(mesh.place[a], mesh.place[b])) > limit) {
                longer = true;
                continue;
            }
            // Points with many neighbours stay rare, so that a place for each is found when it comes back.
            mesh.around(a, ring);
            const std::size_t ofA = ring.size();
            mesh.around(b, ring);
            if (ofA + ring.size() > 16 || !mesh.canCollapse(h)) continue;
            out.push_back({b, a, mesh.mark()});
            mesh.collapse(h);
            --alive;
        }
        if (alive == before && !longer) break;
        limit *= 1.3;
    }
    return out;
}

std::optional<std::vector<Place3>> embeddedFew(const Geometry& g, const RunContext& run) {
    const Rows neighbours = neighboursOf(g.topology());
    Index pole = 0;
    for (Index p = 0; p < g.pointCount(); ++p)
        if (neighbours[p].size() > neighbours[pole].size()) pole = p;
    const std::vector<Index> ring = ringAround(g.topology(), pole);
    if (ring.size() < 3) return {};
    std::vector<Place3> at = ontoBall(flatPlaces(g, neighbours, pole, ring), pole);
    evenOut(g, neighbours, at, 200, run);
    return at;
}

/// The least outwardness of the triangles between a place and its ring.
double leastAround(const std::vector<Place3>& at, const std::vector<Index>& ring, const Place3& p) {
    double out = 1e300;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Place3 &a = at[ring[i]], &b = at[ring[(i + 1) % ring.size()]];
        out = std::min(out, (a - p).cross(b - p).dot(p));
    }
    return out;
}

/// A place inside of the ring from which all of it is seen: its middle, or nearer and nearer to the point that it comes back from.
Place3 placeInside(const std::vector<Place3>& at, const std::vector<Index>& ring, Index from) {
    Place3 middle = Place3::Zero();
    for (Index p : ring) middle += at[p];
    const std::size_t k = std::size_t(std::find(ring.begin(), ring.end(), from) - ring.begin());
    const Place3 &before = at[ring[(k + ring.size() - 1) % ring.size()]], &after = at[ring[(k + 1) % ring.size()]], &start = at[from];
    // Into the wedge at that point, also where it is wider than straight.
    const Place3 one = (after - start).normalized(), two = (before - start).normalized();
    Place3 bisector = one + two;
    if (one.cross(two).dot(start) < 0) bisector = -bisector;
    if (bisector.norm() < 1e-9) bisector = start.cross(one);
    const double reach = std::min((after - start).norm(), (before - start).norm());
    Place3 best = start;
    double most = -1e300;
    const auto consider = [&](const Place3& p) {
        const double least = leastAround(at, ring, p.normalized());
        if (least > most) most = least, best = p.normalized();
    };
    for (double t : {1.0, 0.7, 0.4, 0.2, 0.08, 0.02}) {
        consider(start + (middle.normalized() - start) * t);
        consider(start + bisector.normalized() * (reach * t * 0.5));
        if (most > 0 && t < 0.5) break;
    }
    return best;
}

void relaxOne(const TriangleMesh& mesh, std::vector<Place3>& at, Index p, std::vector<Index>& half, std::vector<Index>& ring) {
    mesh.around(p, half);
    ring.clear();
    for (Index h : half) ring.push_back(mesh.to(h));
    Place3 middle = Place3::Zero();
    double weights = 0;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Place3 &a = at[ring[i]], &b = at[ring[(i + 1) % ring.size()]];
        const double area = (a - at[p]).cross(b - at[p]).norm() + 1e-30;
        middle += (at[p] + a + b) * area, weights += 3 * area;
    }
    const Place3 wanted = (middle / weights).normalized(), before = at[p];
    const double now = leastAround(at, ring, before);
    for (double step : {1.0, 0.4, 0.1}) {
        const Place3 next = (before + (wanted - before) * step).normalized();
        if (const double least = leastAround(at, ring, next); least > 0 || (now <= 0 && least > now)) return void(at[p] = next);
    }
}

/// Points come back in the reverse order, each into the middle of its ring; whenever there are a third more of them, all are evened out.
void bringBack(TriangleMesh& mesh, const std::vector<Removal>& removed, std::vector<Place3>& at, const RunContext& run) {
    std::vector<Index> half, ring;
    std::size_t count = at.size() - removed.size(), evened = count;
    for (std::size_t i = removed.size(); i-- > 0;) {
        mesh.takeBack(removed[i].mark);
        const Index p = removed[i].point;
        mesh.around(p, half);
        ring.clear();
        for (Index h : half) ring.push_back(mesh.to(h));
        at[p] = placeInside(at, ring, removed[i].into);
        if (++count * 3 < evened * 4 && i > 0) continue;
        evened = count;
        constexpr int kRounds = 6;
        for (int round = 0; round < kRounds; ++round) {
            run.poll();
            for (Index q = 0; q < at.size(); ++q)
                if (mesh.pointAlive(q)) relaxOne(mesh, at, q, half, ring);
        }
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
    TriangleMesh mesh(g);
    const std::vector<Removal> removed = collapsedToFew(mesh, run);
    std::vector<Index> left;
    const Geometry few = mesh.compact(&left);
    const auto base = embeddedFew(few, run);
    if (!base) return {};
    std::vector<Place3> at(g.pointCount(), Place3::Zero());
    for (std::size_t i = 0; i < left.size(); ++i) at[left[i]] = (*base)[i];
    bringBack(mesh, removed, at, run);
    evenOut(g, neighboursOf(g.topology()), at, rounds, run);
    return turnedToShape(g, at);
}

}  // namespace seedloom

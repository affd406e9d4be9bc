#include "surface/SphereEmbedding.h"

#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "surface/TriangleMesh.h"

#include <Eigen/Dense>

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

bool likeABall(const Geometry& g) {
    const Topology& t = g.topology();
    for (std::size_t f = 0; f < t.faceCount(); ++f)
        if (t.face(f).size() != 3) return false;
    const EdgeTable& edges = t.edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e)
        if (edges.faceCount[e] != 2 || edges.balance[e] != 0) return false;
    return t.faceCount() >= 4 && t.connection().parts == 1 && long(t.pointCount()) - long(edges.edges.size()) + long(t.faceCount()) == 2;
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
                    const auto least = [&] {
                        double out = 1e300;
                        for (Index c : corners[p]) {
                            const Index begin = t.faceStart()[t.faceOfCorner()[c]];
                            out = std::min(out, outwardness(at, t.cornerPoint()[begin], t.cornerPoint()[begin + 1], t.cornerPoint()[begin + 2]));
                        }
                        return out;
                    };
                    const double now = least();
                    for (double step : {1.0, 0.4, 0.1, 0.02}) {
                        at[p] = (before + (wanted - before) * step).normalized();
                        // What is folded may only unfold.
                        if (const double next = least(); next > 0 || (now <= 0 && next > now)) return;
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

/// Draws edges together until four or five points are left, shortest first in steps of length: an edge that may be drawn together is always there (Steinitz).
std::vector<Removal> collapsedToFew(TriangleMesh& mesh, const RunContext& run) {
    constexpr std::size_t kFew = 4;
    std::size_t mostNeighbours = 16;
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
            if (ofA + ring.size() > mostNeighbours || !mesh.canCollapse(h)) continue;
            out.push_back({b, a, mesh.mark()});
            mesh.collapse(h);
            --alive;
        }
        if (alive == before && !longer) {
            if (mostNeighbours > mesh.points()) break;
            mostNeighbours *= 2;
        }
        limit *= 1.3;
    }
    return out;
}

/// Places for the few points that no edge can be drawn together of: two poles with three others around (TriangleMesh leaves no point with three neighbours
/// beside one with four), or a tetrahedron.
std::optional<std::vector<Place3>> embeddedFew(const Geometry& g) {
    const Rows& corners = g.topology().cornersOfPoint();
    std::vector<Index> poles, others;
    for (Index p = 0; p < g.pointCount(); ++p) (corners[p].size() == 3 && poles.size() < 2 ? poles : others).push_back(p);
    if (g.pointCount() < 4 || g.pointCount() > 5 || poles.size() != 2) return {};
    std::vector<Place3> at(g.pointCount());
    const bool five = others.size() == 3;
    at[poles[0]] = five ? Place3(0, 0, 1) : Place3(1, 1, 1).normalized();
    at[poles[1]] = five ? Place3(0, 0, -1) : Place3(1, -1, -1).normalized();
    for (std::size_t i = 0; i < others.size(); ++i) {
        const double turn = 2 * kPi * double(i) / 3;
        at[others[i]] = five ? Place3(std::cos(turn), std::sin(turn), 0) : Place3(-1, i == 0 ? 1 : -1, i == 0 ? -1 : 1).normalized();
    }
    const auto face = g.topology().face(0);
    if (outwardness(at, face[0], face[1], face[2]) < 0) std::swap(at[poles[0]], at[poles[1]]);
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
    const auto flat = [&](const Place3& to) { return Place3(to - start * to.dot(start)).normalized(); };
    const Place3 one = flat(after - start), two = flat(before - start);
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
    // All of the ring was seen from the point it comes back from, so there is a place near enough to that.
    constexpr double kNearest = 1e-9;
    for (double t = 1; t > kNearest && !(most > 0 && t < 0.5); t *= 0.6) {
        consider(start + (middle.normalized() - start) * t);
        consider(start + bisector.normalized() * (reach * t * 0.5));
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
    const auto base = embeddedFew(few);
    if (!base) return {};
    std::vector<Place3> at(g.pointCount(), Place3::Zero());
    for (std::size_t i = 0; i < left.size(); ++i) at[left[i]] = (*base)[i];
    bringBack(mesh, removed, at, run);
    evenOut(g, neighboursOf(g.topology()), at, rounds, run);
    return turnedToShape(g, at);
}

}  // namespace seedloom

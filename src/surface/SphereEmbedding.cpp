#include "surface/SphereEmbedding.h"

#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "surface/TriangleMesh.h"

#include <Eigen/Dense>

#include <limits>

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

/// What pulls and pushes one point: the sides of its faces that lie opposite to it.
struct Side {
    Place3 a, b, across;  ///< its ends, and their cross product
    double length;        ///< squared
};
using Sides = std::vector<Side>;
Side sideBetween(const Place3& a, const Place3& b) { return {a, b, a.cross(b), (b - a).squaredNorm()}; }

/// The squares of the edges of a side's face.
double edgesOf(const Side& side, const Place3& p) { return (side.a - p).squaredNorm() + (side.b - p).squaredNorm() + side.length; }

/// How badly the faces between a point and those sides are shaped and sized: the squares of their edges' lengths, times 1 and the square of how many times
/// smaller than `target` they are. It grows without end towards a face without area, so that none turns over on the way down; faces of one size and with
/// three equal edges have the least. No number where a face looks inwards.
double strain(const Sides& sides, const Place3& p, double target) {
    double out = 0;
    for (const Side& side : sides) {
        const double size = side.across.dot(p);
        if (!(size > 0)) return std::numeric_limits<double>::quiet_NaN();
        out += edgesOf(side, p) * (1 + target * target / (size * size));
    }
    return out;
}

/// One Newton step down that, in the plane that touches the ball, as far as it leads down. What is folded stays as it is.
Place3 eased(const Sides& sides, const Place3& p, double target) {
    const Place3 one = p.unitOrthogonal(), two = p.cross(one);
    double now = 0, slopeOne = 0, slopeTwo = 0, bendOne = 0, bendTwo = 0, bendBoth = 0;
    for (const Side& side : sides) {
        const double size = side.across.dot(p), small = target * target / (size * size), edges = edgesOf(side, p);
        if (!(size > 0)) return p;
        now += edges * (1 + small);
        const Place3 pull = (2 * p - side.a - side.b) * (2 + 2 * small) - side.across * (2 * edges * small / size);
        slopeOne += pull.dot(one), slopeTwo += pull.dot(two);
        const double flatOne = side.across.dot(one), flatTwo = side.across.dot(two), steep = 6 * edges * small / (size * size);
        bendOne += 4 * (1 + small) + flatOne * flatOne * steep;
        bendTwo += 4 * (1 + small) + flatTwo * flatTwo * steep;
        bendBoth += flatOne * flatTwo * steep;
    }
    const double whole = bendOne * bendTwo - bendBoth * bendBoth;
    const Place3 step = (one * (bendTwo * slopeOne - bendBoth * slopeTwo) + two * (bendOne * slopeTwo - bendBoth * slopeOne)) / whole;
    for (double part = 1; part > 1e-3; part *= 0.35) {
        const Place3 next = (p - step * part).normalized();
        if (strain(sides, next, target) < now) return next;
    }
    return p;
}

/// Twice the area of a face of that many on the ball.
double sizeOfOne(std::size_t faces) { return 8 * kPi / double(faces); }

/// Points in groups without neighbours in one group, so that those of a group can be moved at the same time: a greedy colouring.
std::vector<std::vector<Index>> groupsApart(const Rows& neighbours, std::size_t points) {
    std::vector<std::uint8_t> colour(points, 0);
    std::vector<std::vector<Index>> out;
    for (Index p = 0; p < points; ++p) {
        std::uint64_t used = 0;
        for (Index q : neighbours[p])
            if (q < p && colour[q] < 64) used |= std::uint64_t(1) << colour[q];
        std::uint8_t c = 0;
        while (c < 63 && (used >> c & 1)) ++c;
        colour[p] = c;
        if (out.size() <= c) out.resize(std::size_t(c) + 1);
        out[c].push_back(p);
    }
    return out;
}

void evenOut(const Geometry& g, const Rows& neighbours, std::vector<Place3>& at, int rounds, const RunContext& run) {
    const Topology& t = g.topology();
    const auto groups = groupsApart(neighbours, t.pointCount());
    for (int round = 0; round < rounds; ++round)
        for (const auto& members : groups)
            forEach(
                members.size(), run,
                [&](std::size_t i) {
                    thread_local Sides sides;
                    sides.clear();
                    for (Index c : t.cornersOfPoint()[members[i]]) {
                        const Index begin = t.faceStart()[t.faceOfCorner()[c]], k = c - begin;
                        sides.push_back(sideBetween(at[t.cornerPoint()[begin + (k + 1) % 3]], at[t.cornerPoint()[begin + (k + 2) % 3]]));
                    }
                    at[members[i]] = eased(sides, at[members[i]], sizeOfOne(t.faceCount()));
                },
                256);
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
    int pass;
};

/// Draws edges together until four or five points are left, shortest first in steps of length: an edge that may be drawn together is always there (Steinitz).
/// What is drawn together in one pass lies apart, so that points come back all over the ball and nowhere many at once.
std::vector<Removal> collapsedToFew(TriangleMesh& mesh, const RunContext& run) {
    constexpr std::size_t kFew = 4;
    std::size_t mostNeighbours = 16;
    mesh.noteCollapses();
    std::vector<Removal> out;
    std::size_t alive = mesh.points();
    double total = 0, count = 0;
    for (Index h = 0; h < mesh.halfEdges(); ++h) total += double(distance(mesh.place[mesh.from(h)], mesh.place[mesh.to(h)])), count += 1;
    std::vector<Index> ring;
    std::vector<int> touched(mesh.points(), -1);  // in which pass
    int pass = 0;
    for (double limit = total / std::max(count, 1.0) * 0.7; alive > kFew; ++pass) {
        const std::size_t before = alive;
        bool longer = false;
        for (Index h = 0; h < mesh.halfEdges() && alive > kFew; ++h) {
            if (h % 4096 == 0) run.poll();
            if (!mesh.alive(h)) continue;
            const Index a = mesh.from(h), b = mesh.to(h);
            if (touched[a] == pass || touched[b] == pass) continue;
            if (double(distance(mesh.place[a], mesh.place[b])) > limit) {
                longer = true;
                continue;
            }
            // Points with many neighbours stay rare, so that a place for each is found when it comes back.
            mesh.around(a, ring);
            const std::size_t ofA = ring.size();
            mesh.around(b, ring);
            if (ofA + ring.size() > mostNeighbours || !mesh.canCollapse(h)) continue;
            for (Index side : ring) touched[mesh.to(side)] = pass;
            out.push_back({b, a, mesh.mark(), pass});
            mesh.collapse(h);
            --alive;
        }
        if (alive == before && !longer) {
            if (mostNeighbours > mesh.points()) break;
            mostNeighbours *= 2;
        }
        if ((before - alive) * 10 < before) limit *= 1.3;
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

/// The middle of all places from which the whole ring is seen: half of the ball around the point it comes back from, cut by the plane of each side. All of
/// the ring was seen from that point, so something is always left.
Place3 placeInside(const std::vector<Place3>& at, const std::vector<Index>& ring, Index from) {
    const Place3 start = at[from], one = start.unitOrthogonal(), two = start.cross(one);
    constexpr double kAlmostHalf = 1e-3;
    std::vector<Place3> kernel, cut;
    for (int k = 0; k < 4; ++k) kernel.push_back(start * kAlmostHalf + one * (k == 0 || k == 3 ? 1 : -1) + two * (k < 2 ? 1 : -1));
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Place3 side = at[ring[i]].cross(at[ring[(i + 1) % ring.size()]]);
        cut.clear();
        for (std::size_t k = 0; k < kernel.size(); ++k) {
            const Place3 &a = kernel[k], &b = kernel[(k + 1) % kernel.size()];
            const double da = side.dot(a), db = side.dot(b);
            if (da >= 0) cut.push_back(a);
            if ((da > 0 && db < 0) || (da < 0 && db > 0)) cut.push_back((a * db - b * da) * (db > da ? 1 : -1));
        }
        for (Place3& p : cut) p.normalize();
        kernel.swap(cut);
    }
    Place3 middle = Place3::Zero();
    for (const Place3& p : kernel) middle += p;
    return kernel.empty() ? start : middle.normalized();
}

/// Lets points come back, and all make room for each other.
class Return {
public:
    Return(TriangleMesh& mesh, std::vector<Place3>& at, std::size_t alive) : mesh_(mesh), at_(at), alive_(alive) {}

    /// In the reverse order, each to where its ring is seen from. Those of one pass ease their surroundings; whenever there are a third more points, all do.
    void run(const std::vector<Removal>& removed, const RunContext& run) {
        std::size_t evened = alive_;
        std::vector<Index> moved;
        for (std::size_t i = removed.size(); i-- > 0;) {
            comeBack(removed[i], moved);
            if (i > 0 && removed[i - 1].pass == removed[i].pass) continue;
            run.poll();
            const bool all = i == 0 || alive_ * 3 >= evened * 4;
            if (all) evened = alive_;
            if (all) moved = alivePoints();
            // While there are few points, rounds are cheap, and what is even then stays so.
            const int rounds = all ? int(std::clamp<std::size_t>(25'000 / alive_, 4, 40)) : 4;
            for (int round = 0; round < rounds; ++round)
                for (Index p : moved) ease(p);
            moved.clear();
        }
    }

private:
    void comeBack(const Removal& removed, std::vector<Index>& moved) {
        mesh_.takeBack(removed.mark);
        lookAround(removed.point);
        at_[removed.point] = placeInside(at_, ring_, removed.into);
        ++alive_;
        const std::size_t first = moved.size();
        moved.push_back(removed.point);
        moved.insert(moved.end(), ring_.begin(), ring_.end());
        // It and its neighbours make room for each other before the next comes.
        for (std::size_t k = first; k < moved.size(); ++k) ease(moved[k]);
    }
    void lookAround(Index p) {
        mesh_.around(p, half_);
        ring_.clear(), sides_.clear();
        for (Index h : half_) ring_.push_back(mesh_.to(h));
        for (std::size_t i = 0; i < ring_.size(); ++i) sides_.push_back(sideBetween(at_[ring_[i]], at_[ring_[(i + 1) % ring_.size()]]));
    }
    void ease(Index p) {
        lookAround(p);
        at_[p] = eased(sides_, at_[p], sizeOfOne(2 * alive_));
    }
    std::vector<Index> alivePoints() const {
        std::vector<Index> out;
        for (Index p = 0; p < at_.size(); ++p)
            if (mesh_.pointAlive(p)) out.push_back(p);
        return out;
    }

    TriangleMesh& mesh_;
    std::vector<Place3>& at_;
    std::size_t alive_;
    std::vector<Index> half_, ring_;
    Sides sides_;
};

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
    Return(mesh, at, left.size()).run(removed, run);
    evenOut(g, neighboursOf(g.topology()), at, rounds, run);
    return turnedToShape(g, at);
}

}  // namespace seedloom

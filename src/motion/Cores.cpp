#include "motion/Cores.h"

#include <BulletCollision/CollisionShapes/btConvexPolyhedron.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

constexpr int kMostRounds = 40;
constexpr btScalar kExact = 1e-7;        // of the squared distance
constexpr btScalar kSharpest = 3;        // a core's corner lies at most so many times its depth inside
constexpr btScalar kDegenerate = 1e-14;  // of the cube of a simplex's size

/// The point that lies `depth` inside of all planes through a corner, as nearly as there is one.
btVector3 insideOf(const btVector3& corner, const std::vector<btVector3>& normals, btScalar depth) {
    btMatrix3x3 sums(0, 0, 0, 0, 0, 0, 0, 0, 0);
    btVector3 sum(0, 0, 0);
    for (const btVector3& n : normals) {
        for (int row = 0; row < 3; ++row) sums[row] += n * n[row];
        sum += n;
    }
    // Where faces lie in a plane, or an edge is straight, the shortest way that does it.
    for (int row = 0; row < 3; ++row) sums[row][row] += btScalar(1e-6);
    btVector3 way = sums.inverse() * sum;
    if (!(way.length2() < kSharpest * kSharpest)) way *= kSharpest / way.length();
    return corner - way * depth;
}

int farthest(const btVector3* points, std::size_t count, const btVector3& direction) {
    int out = 0;
    btScalar most = points[0].dot(direction);
    for (std::size_t i = 1; i < count; ++i)
        if (const btScalar at = points[i].dot(direction); at > most) most = at, out = int(i);
    return out;
}

/// A few points of the difference of two shapes.
struct Simplex {
    struct Corner {
        btVector3 at;
        int a, b;
    };
    Corner corner[4];
    int count = 0;

    bool has(int a, int b) const {
        return std::any_of(corner, corner + count, [&](const Corner& c) { return c.a == a && c.b == b; });
    }
    void keep(int i) { corner[0] = corner[i], count = 1; }
    void keep(int i, int j) {
        const Corner first = corner[i], second = corner[j];
        corner[0] = first, corner[1] = second, count = 2;
    }
    void keep(int i, int j, int k) {
        const Corner first = corner[i], second = corner[j], third = corner[k];
        corner[0] = first, corner[1] = second, corner[2] = third, count = 3;
    }
};

btVector3 nearestOfEdge(Simplex& s) {
    const btVector3 way = s.corner[1].at - s.corner[0].at;
    const btScalar along = -s.corner[0].at.dot(way), length2 = way.length2();
    if (along <= 0) return s.keep(0), s.corner[0].at;
    if (along >= length2) return s.keep(1), s.corner[0].at;
    return s.corner[0].at + way * (along / length2);
}

btVector3 nearestOfFace(Simplex& s) {
    const btVector3 &a = s.corner[0].at, &b = s.corner[1].at, &c = s.corner[2].at;
    const btVector3 ab = b - a, ac = c - a;
    const btScalar d1 = -ab.dot(a), d2 = -ac.dot(a);
    if (d1 <= 0 && d2 <= 0) return s.keep(0), s.corner[0].at;
    const btScalar d3 = -ab.dot(b), d4 = -ac.dot(b);
    if (d3 >= 0 && d4 <= d3) return s.keep(1), s.corner[0].at;
    const btScalar vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) {
        const btVector3 out = a + ab * (d1 / (d1 - d3));
        return s.keep(0, 1), out;
    }
    const btScalar d5 = -ab.dot(c), d6 = -ac.dot(c);
    if (d6 >= 0 && d5 <= d6) return s.keep(2), s.corner[0].at;
    const btScalar vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) {
        const btVector3 out = a + ac * (d2 / (d2 - d6));
        return s.keep(0, 2), out;
    }
    const btScalar va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const btVector3 out = b + (c - b) * ((d4 - d3) / (d4 - d3 + d5 - d6));
        return s.keep(1, 2), out;
    }
    // Projected on the plane itself: weights of a flat triangle cancel.
    const btVector3 normal = ab.cross(ac);
    const btScalar length2 = normal.length2();
    return length2 > 0 ? normal * (a.dot(normal) / length2) : a;
}

/// Nothing where the origin is inside.
bool nearestOfSolid(Simplex& s, btVector3& nearest) {
    constexpr int kFaces[4][4] = {{0, 1, 2, 3}, {0, 2, 3, 1}, {0, 3, 1, 2}, {1, 3, 2, 0}};
    Simplex best;
    btScalar least = BT_LARGE_FLOAT;
    btScalar size = 0;
    for (int i = 1; i < 4; ++i) size = std::max(size, (s.corner[i].at - s.corner[0].at).length2());
    const btScalar flat = kDegenerate * size * std::sqrt(size);
    for (const auto& face : kFaces) {
        const btVector3& a = s.corner[face[0]].at;
        const btVector3 normal = (s.corner[face[1]].at - a).cross(s.corner[face[2]].at - a);
        const btScalar origin = -a.dot(normal), other = (s.corner[face[3]].at - a).dot(normal);
        // The other side of a face; of a flat simplex any.
        if (std::abs(other) > flat && origin * other >= 0) continue;
        Simplex one = s;
        one.keep(face[0], face[1], face[2]);
        const btVector3 at = nearestOfFace(one);
        if (at.length2() < least) least = at.length2(), best = one, nearest = at;
    }
    if (least == BT_LARGE_FLOAT) return false;
    s = best;
    return true;
}

/// Keeps those corners that the nearest point lies between; false where the origin is inside.
bool reduce(Simplex& s, btVector3& nearest) {
    switch (s.count) {
        case 1: nearest = s.corner[0].at; return true;
        case 2: nearest = nearestOfEdge(s); return true;
        case 3: nearest = nearestOfFace(s); return true;
        default: return nearestOfSolid(s, nearest);
    }
}

/// How much of each corner the nearest point has.
void weights(const Simplex& s, const btVector3& nearest, btScalar* out) {
    const btVector3& a = s.corner[0].at;
    out[0] = 1;
    if (s.count == 2) {
        const btVector3 way = s.corner[1].at - a;
        const btScalar length2 = way.length2();
        out[1] = length2 > 0 ? (nearest - a).dot(way) / length2 : 0;
    } else if (s.count == 3) {
        const btVector3 ab = s.corner[1].at - a, ac = s.corner[2].at - a, to = nearest - a, normal = ab.cross(ac);
        const btScalar length2 = normal.length2();
        out[1] = length2 > 0 ? to.cross(ac).dot(normal) / length2 : 0;
        out[2] = length2 > 0 ? ab.cross(to).dot(normal) / length2 : 0;
    }
    for (int i = 1; i < s.count; ++i) out[0] -= out[i];
}

btVector3 nearestOn(const btVector3* b, const Simplex& s, const btVector3& nearest) {
    btScalar share[4];
    weights(s, nearest, share);
    btVector3 out(0, 0, 0);
    for (int i = 0; i < s.count; ++i) out += b[s.corner[i].b] * share[i];
    return out;
}

}  // namespace

CoredHull::CoredHull(const std::vector<btVector3>& corners, btScalar margin, btScalar depth) {
    for (const btVector3& corner : corners) addPoint(corner, false);
    setMargin(margin);
    recalcLocalAabb();
    // Faces meet as faces, with all their contacts at once: nothing has to be known of the steps before.
    initializePolyhedralFeatures();
    const btConvexPolyhedron* faces = getConvexPolyhedron();
    if (!faces || faces->m_vertices.size() == 0) {
        corners_ = core_ = corners;
        return;
    }
    std::vector<std::vector<btVector3>> normals(std::size_t(faces->m_vertices.size()));
    for (int f = 0; f < faces->m_faces.size(); ++f)
        for (int c = 0; c < faces->m_faces[f].m_indices.size(); ++c) {
            const btScalar* plane = faces->m_faces[f].m_plane;
            normals[std::size_t(faces->m_faces[f].m_indices[c])].emplace_back(plane[0], plane[1], plane[2]);
        }
    for (std::size_t i = 0; i < normals.size(); ++i) {
        if (normals[i].empty()) continue;
        corners_.push_back(faces->m_vertices[int(i)]);
        core_.push_back(insideOf(corners_.back(), normals[i], depth));
        deepest_ = std::max(deepest_, (core_.back() - corners_.back()).length());
    }
}

Nearness nearnessOf(const std::vector<btVector3>& a, const btTransform& aInB, const btVector3* b, std::size_t countB, btScalar reach, NearestCorners& nearest,
                    Between& between) {
    const auto cornerOf = [&](int i, int j) { return Simplex::Corner{aInB(a[std::size_t(i)]) - b[j], i, j}; };
    Simplex simplex;
    if (nearest.count == 0) nearest.count = 1, nearest.a[0] = nearest.b[0] = 0;
    for (int i = 0; i < nearest.count; ++i) simplex.corner[simplex.count++] = cornerOf(nearest.a[i], nearest.b[i]);
    const auto remember = [&] {
        nearest.count = simplex.count;
        for (int i = 0; i < simplex.count; ++i) nearest.a[i] = simplex.corner[i].a, nearest.b[i] = simplex.corner[i].b;
    };
    btVector3 at;
    if (!reduce(simplex, at)) return nearest.count = 0, Nearness::overlapping;
    for (int round = 0; round < kMostRounds; ++round) {
        const btScalar distance2 = at.length2();
        if (!(distance2 > SIMD_EPSILON * SIMD_EPSILON)) return nearest.count = 0, Nearness::overlapping;
        const Simplex::Corner next = cornerOf(farthest(a.data(), a.size(), -at * aInB.getBasis()), farthest(b, countB, at));
        const btScalar shown = next.at.dot(at);
        if (shown > 0 && shown * shown > reach * reach * distance2) {
            remember();
            return Nearness::apart;
        }
        if (distance2 - shown <= kExact * distance2 || simplex.has(next.a, next.b)) break;
        Simplex grown = simplex;
        grown.corner[grown.count++] = next;
        btVector3 nearer;
        if (!reduce(grown, nearer)) return nearest.count = 0, Nearness::overlapping;
        if (!(nearer.length2() < distance2)) break;
        simplex = grown, at = nearer;
    }
    remember();
    between = {at, nearestOn(b, simplex, at)};
    return Nearness::near;
}

btVector3 nearestInTriangle(const btVector3* triangle, const btVector3& point) {
    Simplex s;
    for (int i = 0; i < 3; ++i) s.corner[i] = {triangle[i] - point, i, 0};
    s.count = 3;
    return nearestOfFace(s) + point;
}

}  // namespace seedloom

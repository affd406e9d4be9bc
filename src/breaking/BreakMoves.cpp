#include "breaking/BreakMoves.h"

#include "breaking/RingFrame.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/PartTaker.h"
#include "parallel/Loops.h"

#include <cmath>

namespace seedloom {

namespace {

constexpr float kOnePlane = 2e-4f;   ///< between unit normals: faces of the skin that look so alike are one plane
constexpr float kDamped = 4;         ///< amounts from the skin at which places move in full
constexpr float kRoom = 0.3f;        ///< part of its distance from the skin that a place keeps
constexpr double kLeastTurn = 0.1;   ///< cosine of the angle by which a face may tilt
constexpr double kLeastArea = 0.02;  ///< part of its area that a face keeps
constexpr float kLeastSide = 0.15f;  ///< part of its length that a side keeps
constexpr float kShortest = 8e-6f;   ///< of the whole's size: sides get no shorter than this, or what they are
constexpr float kSame = 0.99f;       ///< part of a side's length that counts as all of it
constexpr double kSpike = -0.95;     ///< cosine between sides of an outline that goes back along itself

Geometry skinOf(const Geometry& pieces, const BreakMesh& mesh) {
    PartTaker taker(pieces);
    for (Index f = 0; f < pieces.faceCount(); ++f)
        if (!mesh.isInside(f)) taker.addFace(f);
    return taker.take();
}

/// The ways that a place on the skin is free to go: all in a plane, one along a crease, or none.
class SkinWays {
public:
    void addPlane(Vec3 n) {
        if (count_ > 0 && length(cross(n, first_)) < kOnePlane) return;
        if (count_ == 0) first_ = n, count_ = 1;
        else if (count_ == 1) along_ = normalized(cross(first_, n), {}), count_ = 2;
        else if (std::abs(dot(n, along_)) > kOnePlane) count_ = 3;
    }
    bool onSkin() const { return count_ > 0; }
    Vec3 of(Vec3 move) const {
        if (count_ == 0) return move;
        if (count_ == 1) return move - first_ * dot(first_, move);
        return count_ == 2 ? along_ * dot(along_, move) : Vec3{};
    }

private:
    int count_ = 0;
    Vec3 first_, along_;
};

/// Whether two stretches cross in their insides.
bool cross2(const std::array<double, 2>& a, const std::array<double, 2>& b, const std::array<double, 2>& c, const std::array<double, 2>& d) {
    const auto turn = [](const auto& p, const auto& q, const auto& r) { return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]); };
    return (turn(a, b, c) > 0) != (turn(a, b, d) > 0) && (turn(c, d, a) > 0) != (turn(c, d, b) > 0);
}

class RingCheck {
public:
    RingCheck(const SkinRing& ring, const std::vector<Vec3>& moves) : ring_(ring) {
        std::vector<RingFrame::Place> before;
        for (Vec3 p : ring.corners) before.push_back({double(p.x), double(p.y), double(p.z)});
        const RingFrame frame(before);
        for (const auto& p : before) was_.push_back(frame.flat(p));
        for (std::size_t k = 0; k < before.size(); ++k) {
            if (ring.places[k] != kNoPlace)
                for (int c = 0; c < 3; ++c) before[k][std::size_t(c)] += double(moves[ring.places[k]][c]);
            flat_.push_back(frame.flat(before[k]));
        }
    }
    template <class Blame> void look(Blame&& blame) const {
        const std::size_t n = flat_.size();
        if (areaOf(flat_) < kLeastArea * areaOf(was_))
            for (Index p : ring_.places)
                if (p != kNoPlace) blame(p);
        for (std::size_t i = 0; i < n; ++i) {
            if (!movable(i)) continue;
            const auto &a = flat_[i], &b = flat_[(i + 1) % n];
            // What is pointed already may stay so.
            if (const double turn = turnAfter(flat_, i); turn < kSpike && turn < turnAfter(was_, i)) blameBoth(i, (i + 1) % n, blame);
            for (std::size_t j = 0; j < n; ++j) {
                if (j == i || (j + 1) % n == i || (i + 1) % n == j || !boxesMeet(i, j)) continue;
                if (cross2(a, b, flat_[j], flat_[(j + 1) % n])) blameBoth(i, j, blame);
            }
        }
    }

private:
    /// Negative where it is turned over.
    static double areaOf(const std::vector<std::array<double, 2>>& ring) {
        double sum = 0;
        for (std::size_t k = 0; k < ring.size(); ++k) {
            const auto &a = ring[k], &b = ring[(k + 1) % ring.size()];
            sum += (a[0] * b[1] - a[1] * b[0]) / 2;
        }
        return sum;
    }
    /// Cosine between a side and the next.
    static double turnAfter(const std::vector<std::array<double, 2>>& ring, std::size_t side) {
        const std::size_t n = ring.size();
        const auto &a = ring[side], &b = ring[(side + 1) % n], &c = ring[(side + 2) % n];
        const double x = b[0] - a[0], y = b[1] - a[1], u = c[0] - b[0], v = c[1] - b[1];
        return (x * u + y * v) / std::max(std::hypot(x, y) * std::hypot(u, v), 1e-300);
    }
    bool movable(std::size_t side) const { return ring_.places[side] != kNoPlace || ring_.places[(side + 1) % flat_.size()] != kNoPlace; }
    bool boxesMeet(std::size_t i, std::size_t j) const {
        const std::size_t n = flat_.size();
        for (std::size_t c = 0; c < 2; ++c) {
            const auto [low, high] = std::minmax({flat_[i][c], flat_[(i + 1) % n][c]});
            if (std::max(flat_[j][c], flat_[(j + 1) % n][c]) < low || std::min(flat_[j][c], flat_[(j + 1) % n][c]) > high) return false;
        }
        return true;
    }
    template <class Blame> void blameBoth(std::size_t i, std::size_t j, Blame&& blame) const {
        const std::size_t n = flat_.size();
        for (std::size_t k : {i, (i + 1) % n, j, (j + 1) % n})
            if (ring_.places[k] != kNoPlace) blame(ring_.places[k]);
    }
    const SkinRing& ring_;
    std::vector<std::array<double, 2>> was_, flat_;
};

}  // namespace

std::vector<SkinRing> skinRings(const Geometry& pieces, const BreakMesh& mesh) {
    std::vector<SkinRing> out;
    for (Index f = 0; f < pieces.faceCount(); ++f) {
        if (mesh.isInside(f)) continue;
        const auto face = pieces.topology().face(f);
        SkinRing ring{f, {}, {}};
        bool broken = false;
        for (std::size_t k = 0; k < face.size(); ++k) {
            const Index place = mesh.placeOf(face[k]), next = mesh.placeOf(face[(k + 1) % face.size()]);
            ring.corners.push_back(pieces.positions()[face[k]]);
            ring.places.push_back(place);
            broken |= place != kNoPlace;
            if (place == kNoPlace || next == kNoPlace) continue;
            for (Index p : mesh.along(place, next)) ring.corners.push_back(mesh.places()[p]), ring.places.push_back(p);
        }
        if (broken) out.push_back(std::move(ring));
    }
    return out;
}

std::vector<Vec3> wantedMoves(const Geometry& pieces, const BreakMesh& mesh, const std::vector<SkinRing>& rings, const std::vector<float>& amount,
                              const Roughness& rough, const RunContext& run) {
    const std::vector<Vec3>& at = mesh.places();
    const std::vector<Vec3> noise = unevenPlaces(at, {1, rough.size, rough.seed});
    std::vector<SkinWays> ways(at.size());
    for (const SkinRing& ring : rings) {
        const Vec3 n = normalized(areaVector(pieces.topology().face(ring.face), pieces.positions()), {});
        for (Index p : ring.places)
            if (p != kNoPlace) ways[p].addPlane(n);
    }
    const Geometry skin = skinOf(pieces, mesh);
    const NearestPlace nearest(skin, NearestPlace::On::faces);
    const auto facing = [&](const Place& place) { return normalized(areaVector(skin.topology().face(place.element), skin.positions()), {}); };
    std::vector<Vec3> out(at.size());
    forEach(
        at.size(), run,
        [&](std::size_t i) {
            const Vec3 full = (noise[i] - at[i]) * amount[i];
            if (ways[i].onSkin() || nearest.empty()) return void(out[i] = ways[i].of(full));
            const Place on = nearest.find(at[i]);
            const float far = std::sqrt(on.squaredDistance);
            const Vec3 n = facing(on);
            const float share = std::clamp(far / std::max(kDamped * amount[i], 1e-30f), 0.0f, 1.0f);
            Vec3 move = full - n * (dot(n, full) * (1 - share));
            // Beside an edge of the skin, another face of it may be in the way.
            for (int tries = 0; tries < 6 && length(move) > 0; ++tries, move = move * 0.5f) {
                const Vec3 there = at[i] + move;
                const Place by = nearest.find(there, on.part);
                if (by.squaredDistance >= kRoom * kRoom * on.squaredDistance && dot(there - by.position, facing(by)) <= 0) return void(out[i] = move);
            }
        },
        256);
    return out;
}

std::vector<std::uint8_t> tooFar(const BreakMesh& mesh, const std::vector<SkinRing>& skin, const std::vector<Vec3>& moves, const RunContext& run) {
    std::vector<std::uint8_t> out(moves.size(), 0);
    const std::vector<Vec3>& at = mesh.places();
    const float shortest = kShortest * float(boundsOf(at).diagonal());
    for (const BreakMesh::Cut& cut : mesh.cuts()) {
        for (const auto& t : cut.triangles) {
            const auto normal = [&](auto&& place) { return cross(place(t[1]) - place(t[0]), place(t[2]) - place(t[0])); };
            const Vec3 before = normal([&](Index p) { return at[p]; }), after = normal([&](Index p) { return at[p] + moves[p]; });
            const double was = double(length(before)), is = double(length(after));
            bool fits = was == 0 || (double(dot(before, after)) >= kLeastTurn * was * is && is >= kLeastArea * was);
            for (std::size_t k = 0; k < 3; ++k) {
                const Index a = t[k], b = t[(k + 1) % 3];
                const float side = distance(at[a], at[b]);
                fits = fits && distance(at[a] + moves[a], at[b] + moves[b]) >= std::max(kLeastSide * side, std::min(side * kSame, shortest));
            }
            if (fits) continue;
            for (Index p : t) out[p] = 1;
        }
    }
    run.poll();
    for (const SkinRing& ring : skin) RingCheck(ring, moves).look([&](Index p) { out[p] = 1; });
    return out;
}

}  // namespace seedloom

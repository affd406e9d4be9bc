#include "surface/EvenRemesh.h"

#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"
#include "surface/FaultyFaces.h"
#include "surface/TriangleMesh.h"

namespace seedloom {

namespace {

constexpr int kMostPasses = 200;

class EvenRemesher {
public:
    EvenRemesher(const Geometry& in, const EvenRemeshOptions& options, const RunContext& run)
        : in_(in), options_(options), run_(run), mesh_(in), surface_(in, NearestPlace::On::faces) {
        for (Index p = 0; p < mesh_.points(); ++p) mesh_.length[p] = options.edgeLength[mesh_.pointOf[p]];
        held_.assign(mesh_.points(), 0);
        if (!options.held.empty())
            for (Index p = 0; p < mesh_.points(); ++p) held_[p] = options.held[mesh_.pointOf[p]];
        turnFlat();
        keepLines();
        near_.assign(mesh_.points(), 0);
    }

    Geometry run() {
        for (int round = 0; round < options_.rounds; ++round) {
            run_.setProgress(float(round) / float(options_.rounds));
            splitLong();
            collapseShort();
            turnForValence();
            relax();
        }
        joinDoubled();
        turnFlat();
        return withAttributes();
    }

private:
    /// Points of one edge in the very same place, as relaxing along a line can leave them, become one.
    void joinDoubled() {
        for (Index h = 0; h < mesh_.halfEdges(); ++h)
            if (mesh_.alive(h) && mesh_.place[mesh_.from(h)] == mesh_.place[mesh_.to(h)] && mesh_.canCollapse(h)) mesh_.collapse(h);
    }
    /// Faces whose corners all lie on one straight line that stays can't be mended by moving points: their longest edge is turned. Nothing moves by it.
    void turnFlat() {
        constexpr float kFlat = 1e-5f;  // height over the longest side
        constexpr int kPasses = 4;      // a turned edge may leave another flat face
        bool any = true;
        for (int pass = 0; pass < kPasses && any; ++pass) {
            any = false;
            for (Index f = 0; f < mesh_.halfEdges(); f += 3) {
                if (f % 4096 == 0) run_.poll();
                if (!mesh_.alive(f)) continue;
                Index longest = f;
                for (Index h : {f + 1, f + 2})
                    if (lengthOf(h) > lengthOf(longest)) longest = h;
                const Vec3 a = mesh_.place[mesh_.from(f)], b = mesh_.place[mesh_.to(f)], c = mesh_.place[mesh_.from(f + 2)];
                const float base = lengthOf(longest);
                if (length(cross(b - a, c - a)) <= kFlat * base * base && !holds(longest) && mesh_.flip(longest)) any = true;
            }
        }
    }
    /// Open edges and sharp ones stay as lines; a point with other than two of them stays where it is.
    void keepLines() {
        const float least = float(std::cos(radians(options_.keepOverDegrees))) - 1e-6f;
        for (Index h = 0; h < mesh_.halfEdges(); ++h) {
            const Index g = mesh_.twin(h);
            if (g == kNone) {
                mesh_.kept[h] = 1;
            } else if (options_.keepOverDegrees < 180 && dot(normalOf(h), normalOf(g)) < least) {
                mesh_.kept[h] = mesh_.kept[g] = 1;
            }
        }
        corner_.assign(mesh_.points(), 0);
        std::vector<Index> ring;
        for (Index p = 0; p < mesh_.points(); ++p) {
            if (!mesh_.pointAlive(p)) continue;
            corner_[p] = held_[p];
            const auto lines = keptAt(p, ring);
            if (lines.size() > 2 || lines.size() == 1) corner_[p] = 1;
            if (lines.size() != 2) continue;
            const Vec3 a = normalized(mesh_.place[lines[0]] - mesh_.place[p], {}), b = normalized(mesh_.place[lines[1]] - mesh_.place[p], {});
            if (dot(a, b) > -0.7f) corner_[p] = 1;
        }
    }
    Vec3 normalOf(Index h) const {
        const Index f = h - h % 3;
        const auto &a = mesh_.place[mesh_.from(f)], &b = mesh_.place[mesh_.from(f + 1)], &c = mesh_.place[mesh_.from(f + 2)];
        return normalized(cross(b - a, c - a), {});
    }
    /// The other ends of kept lines at a point.
    std::vector<Index> keptAt(Index p, std::vector<Index>& ring) const {
        std::vector<Index> out;
        mesh_.around(p, ring);
        for (Index h : ring)
            if (mesh_.kept[h]) out.push_back(mesh_.to(h));
        const Index last = mesh_.prev(ring.back());
        if (mesh_.twin(last) == kNone && mesh_.kept[last]) out.push_back(mesh_.from(last));
        return out;
    }
    bool onLine(Index p) {
        mesh_.around(p, ring_);
        for (Index h : ring_)
            if (mesh_.kept[h] || mesh_.kept[mesh_.prev(h)]) {
                if (mesh_.kept[h]) return true;
                if (mesh_.twin(mesh_.prev(h)) == kNone) return true;
            }
        return false;
    }
    float wanted(Index h) const { return (mesh_.length[mesh_.from(h)] + mesh_.length[mesh_.to(h)]) * 0.5f; }
    float lengthOf(Index h) const { return distance(mesh_.place[mesh_.from(h)], mesh_.place[mesh_.to(h)]); }

    bool holds(Index h) const { return held_[mesh_.from(h)] && held_[mesh_.to(h)]; }
    /// Of its triangle, for what is wanted there: so the longest of all can always be split. Beside a longer one that is held nothing is, as it would go on for
    /// ever.
    bool longestOf(Index h) const {
        const auto timesWanted = [&](Index e) { return lengthOf(e) / wanted(e); };
        const float times = timesWanted(h) * 1.0001f;
        return times >= timesWanted(TriangleMesh::next(h)) && times >= timesWanted(TriangleMesh::prev(h));
    }
    void splitLong() {
        for (int pass = 0; pass < kMostPasses; ++pass) {
            bool any = false;
            const std::size_t count = mesh_.halfEdges();
            run_.require(double(count), "corners");
            for (Index h = 0; h < count; ++h) {
                if (h % 4096 == 0) run_.poll();
                if (!mesh_.alive(h) || (mesh_.twin(h) != kNone && mesh_.twin(h) < h)) continue;
                if (!(lengthOf(h) > wanted(h) * (4.0f / 3.0f)) || holds(h)) continue;
                // The longest of both triangles only: halving others would make ever thinner ones (Rivara, 1984).
                if (!longestOf(h) || (mesh_.twin(h) != kNone && !longestOf(mesh_.twin(h)))) continue;
                any = true;
                mesh_.split(h);
                near_.push_back(near_[mesh_.from(h)]);
                corner_.push_back(0);
                held_.push_back(0);
            }
            if (!any) break;
        }
    }

    void collapseShort() {
        for (Index h = 0; h < mesh_.halfEdges(); ++h) {
            if (h % 4096 == 0) run_.poll();
            if (!mesh_.alive(h) || !(lengthOf(h) < wanted(h) * 0.8f)) continue;
            collapseOne(h);
        }
    }
    void collapseOne(Index h) {
        // Into the end that has to stay, if one has to.
        Index a = mesh_.from(h), b = mesh_.to(h);
        const bool lineA = onLine(a), lineB = onLine(b);
        if (corner_[b] && corner_[a]) return;
        if (lineA && lineB && !mesh_.kept[h]) return;
        const bool towardsB = corner_[b] || (lineB && !lineA);
        if (towardsB) {
            if (mesh_.twin(h) == kNone) return;
            h = mesh_.twin(h);
            std::swap(a, b);
        }
        const bool middle = !corner_[a] && lineA == lineB;
        const Vec3 to = middle ? (mesh_.place[a] + mesh_.place[b]) * 0.5f : mesh_.place[a];
        if (makesLong(a, b, to) || turnsFaces(a, b, to) || turnsFaces(b, a, to) || !mesh_.canCollapse(h)) return;
        mesh_.collapse(h);
        mesh_.place[a] = to;
    }
    bool makesLong(Index a, Index b, Vec3 to) {
        for (Index p : {a, b}) {
            mesh_.around(p, ring_);
            for (Index h : ring_)
                if (distance(mesh_.place[mesh_.to(h)], to) > wanted(h) * (4.0f / 3.0f)) return true;
        }
        return false;
    }
    /// Whether a face at `p`, but for those with `other`, would look another way with `p` there.
    bool turnsFaces(Index p, Index other, Vec3 to) {
        mesh_.around(p, ring_);
        for (Index h : ring_) {
            const Index x = mesh_.to(h), y = mesh_.from(mesh_.prev(h));
            if (x == other || y == other) continue;
            const Vec3 before = cross(mesh_.place[x] - mesh_.place[p], mesh_.place[y] - mesh_.place[p]),
                       after = cross(mesh_.place[x] - to, mesh_.place[y] - to);
            if (dot(before, after) <= 0.2f * length(before) * length(after)) return true;
        }
        return false;
    }

    int valence(Index p) {
        mesh_.around(p, ring_);
        return int(ring_.size()) + (mesh_.twin(mesh_.prev(ring_.back())) == kNone);
    }
    int ideal(Index p) { return mesh_.border(p) ? 4 : 6; }
    void turnForValence() {
        for (Index h = 0; h < mesh_.halfEdges(); ++h) {
            if (h % 4096 == 0) run_.poll();
            const Index g = mesh_.alive(h) ? mesh_.twin(h) : kNone;
            if (g == kNone || g < h || mesh_.kept[h] || holds(h)) continue;
            const Index a = mesh_.from(h), b = mesh_.to(h), c = mesh_.from(mesh_.prev(h)), d = mesh_.from(mesh_.prev(g));
            const auto off = [](int v) { return v * v; };
            const int va = valence(a) - ideal(a), vb = valence(b) - ideal(b), vc = valence(c) - ideal(c), vd = valence(d) - ideal(d);
            if (off(va - 1) + off(vb - 1) + off(vc + 1) + off(vd + 1) >= off(va) + off(vb) + off(vc) + off(vd)) continue;
            if (folds(a, b, c, d)) continue;
            mesh_.flip(h);
        }
    }
    /// Whether the two triangles over c–d would not look the way that those over a–b do.
    bool folds(Index a, Index b, Index c, Index d) const {
        const auto& at = mesh_.place;
        const Vec3 n = cross(at[b] - at[a], at[c] - at[a]) + cross(at[a] - at[b], at[d] - at[b]);
        const Vec3 one = cross(at[d] - at[c], at[b] - at[c]), two = cross(at[c] - at[d], at[a] - at[d]);
        const float size = length(n);
        return dot(one, n) <= 0.3f * length(one) * size || dot(two, n) <= 0.3f * length(two) * size;
    }

    /// Each point goes sideways towards the middle of its neighbours, and back onto the surface.
    void relax() {
        std::vector<Vec3> to = mesh_.place;
        forChunks(
            mesh_.points(), run_,
            [&](std::size_t, Range range) {
                std::vector<Index> ring;
                for (std::size_t i = range.begin; i < range.end; ++i) {
                    const auto p = Index(i);
                    if (!mesh_.pointAlive(p) || corner_[p]) continue;
                    const auto lines = keptAt(p, ring);
                    if (lines.size() == 2) {
                        const Vec3 along = normalized(mesh_.place[lines[1]] - mesh_.place[lines[0]], {}),
                                   middle = (mesh_.place[lines[0]] + mesh_.place[lines[1]]) * 0.5f;
                        to[p] += along * (0.5f * dot(middle - mesh_.place[p], along));
                        continue;
                    }
                    if (!lines.empty()) continue;
                    Vec3 middle{}, normal{};
                    float weights = 0;
                    for (Index h : ring) {
                        const Vec3 a = mesh_.place[p], b = mesh_.place[mesh_.to(h)], c = mesh_.place[mesh_.from(mesh_.prev(h))];
                        const Vec3 n = cross(b - a, c - a);
                        const float area = length(n);
                        middle += (a + b + c) * area, weights += 3 * area;
                        normal += n;
                    }
                    if (!(weights > 0)) continue;
                    normal = normalized(normal, {});
                    const Vec3 by = middle / weights - mesh_.place[p];
                    const Place found = surface_.find(mesh_.place[p] + by - normal * dot(by, normal), near_[p]);
                    near_[p] = found.part;
                    // Not through a thin wall to its other side.
                    const auto& at = in_.positions();
                    const Vec3 there = cross(at[found.points[1]] - at[found.points[0]], at[found.points[2]] - at[found.points[0]]);
                    if (dot(there, normal) > 0) to[p] = found.position;
                }
            },
            2048);
        // All at once, where no face turns over for it: checked one by one, in order.
        for (Index p = 0; p < mesh_.points(); ++p)
            if (mesh_.pointAlive(p) && !(to[p] == mesh_.place[p]) && !turnsFaces(p, kNone, to[p])) mesh_.place[p] = to[p];
    }

    Geometry withAttributes() {
        Geometry out = mesh_.compact();
        const auto placesFor = [&](const std::vector<Vec3>& at) {
            std::vector<Place> places(at.size());
            forChunks(
                at.size(), run_,
                [&](std::size_t, Range range) {
                    Index start = 0;
                    for (std::size_t i = range.begin; i < range.end; ++i) {
                        places[i] = surface_.find(at[i], start);
                        start = places[i].part;
                    }
                },
                2048);
            return places;
        };
        const auto carry = [&](Element element, const std::vector<Place>& places) {
            for (const auto& [name, column] : in_.table(element))
                if (name != "position" && name != "normal") out.setColumn(element, name, valuesAt(column, element, places));
        };
        if (in_.table(Element::point).size() > 1) carry(Element::point, placesFor(out.positions()));
        if (!in_.table(Element::face).empty()) carry(Element::face, placesFor(faceCentres(out)));
        if (!in_.table(Element::corner).empty()) {
            // A little inside of its face each corner is on the right side of the texture's seams.
            const auto centres = faceCentres(out);
            std::vector<Vec3> at(out.cornerCount());
            for (std::size_t c = 0; c < at.size(); ++c) at[c] = mix(out.positions()[out.topology().cornerPoint()[c]], centres[c / 3], 0.02f);
            carry(Element::corner, placesFor(at));
        }
        for (const auto& [name, column] : in_.table(Element::model)) out.setColumn(Element::model, name, column);
        return out;
    }

    const Geometry& in_;
    const EvenRemeshOptions& options_;
    const RunContext& run_;
    TriangleMesh mesh_;
    NearestPlace surface_;
    std::vector<std::uint8_t> corner_, held_;
    std::vector<Index> near_, ring_;
};

}  // namespace

EvenlyRemeshed evenRemesh(const Geometry& triangles, const EvenRemeshOptions& options, const RunContext& run) {
    constexpr int kMostTries = 8, kHalved = 1;
    constexpr float kAround = 1.5f;  // edges
    EvenRemeshOptions local = options;
    float around = kAround;
    for (int attempt = 0; attempt < kMostTries; ++attempt) {
        Geometry out = EvenRemesher(triangles, local, run).run();
        const std::vector<Index> faulty = faultyFaces(out, run);
        if (faulty.empty()) return {std::move(out), EvenlyRemeshed::Crossing::none};
        if (attempt == 0 && !crossingsOf(triangles, run).faces.empty()) return {std::move(out), EvenlyRemeshed::Crossing::asBefore};
        const std::vector<float> far = squaredDistancesTo(out, faulty, triangles.positions());
        local.held.resize(far.size(), 0);
        for (Index p = 0; p < far.size(); ++p) {
            const float reach = around * options.edgeLength[p];
            if (far[p] >= reach * reach) continue;
            if (attempt < kHalved) local.edgeLength[p] /= 2;
            else local.held[p] = 1;
        }
        if (attempt >= kHalved) around *= 1.5f;
    }
    return {triangles, EvenlyRemeshed::Crossing::notMended};
}

}  // namespace seedloom

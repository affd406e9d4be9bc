#include "breaking/RoughBreaks.h"

#include "breaking/BreakMesh.h"
#include "breaking/BreakMoves.h"
#include "breaking/PieceCrossings.h"
#include "geometry/MixPlan.h"

#include <map>

namespace seedloom {

namespace {

constexpr int kRounds = 40;          ///< of halving the moves of places that went too far
constexpr int kLastHalving = 8;      ///< from here on they do not move at all
constexpr int kCrossingRounds = 12;  ///< of looking for pieces that cross themselves

/// The pieces with the faces of the mesh in the place of their inside faces.
class RoughWriter {
public:
    RoughWriter(const Geometry& pieces, const BreakMesh& mesh) : in_(pieces), mesh_(mesh) {}

    /// `placeOf`: by new point, its place, or kNoPlace. `source`: by new face, what it was.
    Geometry write(std::vector<Index>& placeOf, std::vector<Index>& source) {
        number_.assign(in_.pointCount(), kNoPlace);
        for (Index f = 0; f < in_.faceCount(); ++f) {
            if (!mesh_.isInside(f)) writeSkin(f);
            else writeInside(f);
        }
        std::vector<Index> number = number_;
        plan_.addCurvesAndLoosePoints(in_, number);
        placeOf_.resize(plan_.points.size(), kNoPlace);
        placeOf = placeOf_;
        source = plan_.faces;
        return takeMixed(in_, std::move(plan_));
    }

private:
    Index old(Index point) {
        if (number_[point] == kNoPlace) number_[point] = plan_.points.add(point), placeOf_.push_back(mesh_.placeOf(point));
        return number_[point];
    }
    /// The number of the point that is added next.
    Index fresh(Index place) { return placeOf_.push_back(place), plan_.points.size(); }
    /// A point on the edge between two points, once for all faces there.
    Index between(Index a, Index b, float t, Index place) {
        const auto [it, isNew] = onEdge_.try_emplace({std::min(a, b), std::max(a, b), place}, plan_.points.size());
        if (isNew) fresh(place), plan_.points.add(a, b, t);
        return it->second;
    }
    void writeSkin(Index f) {
        const auto face = in_.topology().face(f);
        for (Index k = 0; k < face.size(); ++k) {
            const Index next = k + 1 == face.size() ? 0 : k + 1;
            plan_.corners.add(in_.topology().faceStart()[f] + k);
            plan_.cornerPoint.push_back(old(face[k]));
            const Index place = mesh_.placeOf(face[k]), to = mesh_.placeOf(face[next]);
            if (place == kNoPlace || to == kNoPlace) continue;
            const std::vector<Index> more = mesh_.along(place, to);
            for (std::size_t i = 0; i < more.size(); ++i) {
                const float t = float(i + 1) / float(more.size() + 1);
                plan_.corners.add(in_.topology().faceStart()[f] + k, in_.topology().faceStart()[f] + next, t);
                plan_.cornerPoint.push_back(between(face[k], face[next], t, more[i]));
            }
        }
        plan_.endFace(f);
    }
    void writeInside(Index f) {
        const BreakMesh::Use& use = mesh_.useOf(f);
        const BreakMesh::Cut& cut = mesh_.cuts()[use.cut];
        const auto face = in_.topology().face(f);
        const auto count = Index(face.size());
        // How each place of the cut is made of the face's corners, and its point.
        struct Made {
            std::array<Index, 3> corners;
            std::array<float, 3> weights;
            Index point;
        };
        std::map<Index, Made> made;
        const auto mix = [](RowMix& rows, const Made& m, auto&& row) {
            for (std::size_t k = 0; k < 3; ++k)
                if (m.weights[k] > 0) rows.part(row(m.corners[k]), m.weights[k]);
            rows.close();
        };
        for (Index k = 0; k < count; ++k) {
            const Index own = use.order.corner(k, count), next = use.order.corner((k + 1) % count, count);
            made[cut.ring[k]] = {{own, own, own}, {1, 0, 0}, old(face[own])};
            const std::vector<Index> more = mesh_.along(cut.ring[k], cut.ring[(k + 1) % count]);
            for (std::size_t i = 0; i < more.size(); ++i) {
                const float t = float(i + 1) / float(more.size() + 1);
                made[more[i]] = {{own, next, own}, {1 - t, t, 0}, between(face[own], face[next], t, more[i])};
            }
        }
        for (Index i = 0; i < cut.inner.size(); ++i) {
            const auto& [corners, weights] = cut.inner[i];
            Made m{{use.order.corner(corners[0], count), use.order.corner(corners[1], count), use.order.corner(corners[2], count)},
                   weights,
                   fresh(cut.firstInner + i)};
            mix(plan_.points, m, [&](Index c) { return face[c]; });
            made[cut.firstInner + i] = m;
        }
        for (const auto& t : cut.triangles) {
            for (std::size_t k = 0; k < 3; ++k) {
                const Made& m = made.at(t[use.order.turned ? (3 - k) % 3 : k]);
                mix(plan_.corners, m, [&](Index c) { return in_.topology().faceStart()[f] + c; });
                plan_.cornerPoint.push_back(m.point);
            }
            plan_.endFace(f);
        }
    }

    const Geometry& in_;
    const BreakMesh& mesh_;
    MixPlan plan_;
    std::vector<Index> number_, placeOf_;
    std::map<std::array<Index, 3>, Index> onEdge_;
};

std::vector<float> amountOfPlaces(const Geometry& pieces, const BreakMesh& mesh, const std::vector<float>& amount) {
    std::vector<float> out(mesh.places().size(), 0);
    for (Index p = 0; p < pieces.pointCount(); ++p)
        if (const Index place = mesh.placeOf(p); place != kNoPlace) out[place] = std::max(out[place], amount[p]);
    for (const BreakMesh::Cut& cut : mesh.cuts()) {
        for (std::size_t k = 0; k < cut.ring.size(); ++k) {
            const Index from = cut.ring[k], to = cut.ring[(k + 1) % cut.ring.size()];
            const std::vector<Index> more = mesh.along(from, to);
            for (std::size_t i = 0; i < more.size(); ++i) out[more[i]] = out[from] + (out[to] - out[from]) * float(i + 1) / float(more.size() + 1);
        }
        for (std::size_t i = 0; i < cut.inner.size(); ++i) {
            float sum = 0;
            for (std::size_t k = 0; k < 3; ++k) sum += out[cut.ring[cut.inner[i].corners[k]]] * cut.inner[i].weights[k];
            out[cut.firstInner + i] = sum;
        }
    }
    return out;
}

class Moves {
public:
    explicit Moves(std::vector<Vec3> wanted) : now_(std::move(wanted)), halvings_(now_.size(), 0) {}
    const std::vector<Vec3>& now() const { return now_; }
    /// Whether any of these moved at all.
    bool hold(const std::vector<std::uint8_t>& which) {
        bool any = false;
        for (std::size_t i = 0; i < which.size(); ++i) {
            if (!which[i] || now_[i] == Vec3{}) continue;
            any = true;
            now_[i] = ++halvings_[i] < kLastHalving ? now_[i] * 0.5f : Vec3{};
        }
        return any;
    }
    std::size_t held() const {
        return std::size_t(std::count_if(halvings_.begin(), halvings_.end(), [](std::uint8_t h) { return h > 0; }));
    }

private:
    std::vector<Vec3> now_;
    std::vector<std::uint8_t> halvings_;
};

/// Edges of the faces that crossing ones came from.
void addEdges(const Geometry& pieces, const BreakMesh& mesh, const std::vector<Index>& faces, BreakMesh::Edges& to) {
    for (Index f : faces) {
        const auto face = pieces.topology().face(f);
        for (std::size_t k = 0; k < face.size(); ++k) {
            const Index a = mesh.placeOf(face[k]), b = mesh.placeOf(face[(k + 1) % face.size()]);
            if (a != kNoPlace && b != kNoPlace) to.insert({std::min(a, b), std::max(a, b)});
        }
    }
}

/// `left`: faces that cross others although nothing of them moves.
RoughBreaks roughened(const Geometry& pieces, const std::vector<std::int32_t>& piece, const BreakMesh& mesh, const std::vector<float>& amount,
                      const Roughness& rough, const RunContext& run, std::vector<Index>& left) {
    const std::vector<SkinRing> skin = skinRings(pieces, mesh);
    Moves moves(wantedMoves(pieces, mesh, skin, amountOfPlaces(pieces, mesh, amount), rough, run));
    std::vector<Index> placeOf, source;
    RoughBreaks out;
    out.geometry = RoughWriter(pieces, mesh).write(placeOf, source);
    const std::vector<Vec3> before = out.geometry.positions();
    std::vector<std::int32_t> pieceOfFace;
    for (Index f : source) pieceOfFace.push_back(piece[f]);
    const Topology& t = out.geometry.topology();
    const std::size_t pieceCount = std::size_t(*std::max_element(piece.begin(), piece.end())) + 1;
    std::vector<std::uint8_t> asked(pieceCount, 1);
    std::vector<std::vector<Index>> found(pieceCount);
    for (int round = 0; round < kCrossingRounds; ++round) {
        for (int turn = 0; turn < kRounds && moves.hold(tooFar(mesh, skin, moves.now(), run)); ++turn) run.poll();
        run.setProgress(0.3f + 0.6f * float(round) / kCrossingRounds);
        std::vector<Vec3> at = before;
        for (std::size_t i = 0; i < at.size(); ++i)
            if (placeOf[i] != kNoPlace) at[i] = mesh.places()[placeOf[i]] + moves.now()[placeOf[i]];
        // Pieces that are as they were need not be looked at again.
        if (round > 0) std::fill(asked.begin(), asked.end(), 0);
        for (Index f = 0; round > 0 && f < t.faceCount(); ++f)
            for (Index p : t.face(f)) asked[std::size_t(pieceOfFace[f])] |= at[p] != out.geometry.positions()[p];
        out.geometry.setPositions(std::move(at));
        for (std::size_t p = 0; p < pieceCount; ++p)
            if (asked[p]) found[p].clear();
        for (Index f : crossingFaces(out.geometry, pieceOfFace, asked, run)) found[std::size_t(pieceOfFace[f])].push_back(f);
        std::vector<std::uint8_t> crossing(mesh.places().size(), 0);
        for (const auto& faces : found)
            for (Index f : faces)
                for (Index p : t.face(f))
                    if (placeOf[p] != kNoPlace) crossing[placeOf[p]] = 1;
        if (!moves.hold(crossing)) break;
    }
    for (const auto& faces : found)
        for (Index f : faces) left.push_back(source[f]);
    out.held = moves.held();
    return out;
}

}  // namespace

RoughBreaks roughenBreaks(const Geometry& pieces, const std::vector<std::int32_t>& piece, const std::vector<float>& amount, const Roughness& rough,
                          double detail, const RunContext& run) {
    constexpr int kMostTries = 4;
    BreakMesh::Edges whole;
    for (int tries = 1;; ++tries) {
        const BreakMesh mesh(pieces, detail, run, whole);
        run.setProgress(0.2f);
        std::vector<Index> left;
        RoughBreaks out = roughened(pieces, piece, mesh, amount, rough, run, left);
        out.crossing = left.size();
        if (left.empty() || tries == kMostTries) return out;
        // Places that were put onto an edge are rounded: a face of many corners beside it may be cut into triangles otherwise then.
        addEdges(pieces, mesh, left, whole);
    }
}

}  // namespace seedloom

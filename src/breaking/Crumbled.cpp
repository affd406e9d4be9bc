#include "breaking/Crumbled.h"

#include "breaking/PieceCrossings.h"
#include "breaking/Pieces.h"
#include "breaking/RoughWalls.h"
#include "breaking/TwinFaces.h"
#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "scatter/Streams.h"

#include <cmath>
#include <unordered_set>

namespace seedloom {

namespace {

constexpr double kCrumbSliver = 0.02;  ///< part of a crumb's volume
constexpr double kShortest = 2e-6;     ///< part of the whole's size: what is shorter turns over when it is rounded
constexpr double kSmallest = 1e-4;     ///< part of the whole's size: crumbs of a smaller radius would be made of roundings
constexpr int kMostRounds = 12;

double ballOf(double radius) { return 4.0 / 3 * M_PI * radius * radius * radius; }

std::vector<double> volumesOf(const Geometry& pieces) {
    std::vector<double> out;
    for (const PieceMeasure& m : measurePieces(pieces, piecesIn(pieces))) out.push_back(m.size);
    return out;
}

struct FindPlace {
    std::size_t operator()(Vec3 p) const { return std::size_t(placeBits(p)); }
};

/// Looks for what crumbs did wrong, and marks those who did.
class CrumbFaults {
public:
    CrumbFaults(const Geometry& solid, const std::vector<Crumb>& crumbs, const RunContext& run)
        : run_(run), crumbs_(crumbs), rest_(Index(crumbs.size())), hadTwin_(haveTwins(solid)), shortest_(boundsOf(solid.positions()).diagonal() * kShortest),
          known_(solid.positions().begin(), solid.positions().end()) {}

    /// Whether there are any.
    bool mark(const Crumbled& made, const std::vector<double>& volume, std::vector<std::uint8_t>& gone) const {
        const Geometry& g = made.pieces.geometry;
        const Topology& t = g.topology();
        const auto& piece = *g.values<std::int32_t>(Element::face, "piece");
        const std::vector<Index> blamed = blamedAt(made);
        bool any = false;
        const auto blame = [&](Index crumb) {
            if (crumb != rest_) gone[crumb] = 1, any = true;
        };
        const std::vector<std::uint8_t> twins = haveTwins(g);
        for (Index f = 0; f < g.faceCount(); ++f) {
            const PieceFace& from = made.pieces.faces[f];
            const auto p = std::size_t(piece[f]);
            const Index own = made.pieces.cellOfPiece[p];
            const bool lone = !twins[f] && (from.inside || hadTwin_[from.source]);
            const auto face = t.face(f);
            for (std::size_t k = 0; k < face.size(); ++k) {
                const Index a = face[k], b = face[(k + 1) % face.size()], crumb = smaller(blamed[a], blamed[b]);
                if (crumb == rest_) continue;
                const double radius = crumbs_[crumb].radius;
                const Vec3 at = g.positions()[a], to = g.positions()[b];
                const bool isShort = double(distance(at, to)) < shortest_ && !(known_.count(at) && known_.count(to));
                if (lone || isShort || volume[p] < kCrumbSliver * ballOf(radius)) blame(own == rest_ ? crumb : own);
            }
        }
        return any || markTouching(made, blamed, gone);
    }

private:
    /// The same for pieces that are open, or touch or cross themselves; this takes longest, and so comes last.
    bool markTouching(const Crumbled& made, const std::vector<Index>& blamed, std::vector<std::uint8_t>& gone) const {
        const Geometry& g = made.pieces.geometry;
        const auto& piece = *g.values<std::int32_t>(Element::face, "piece");
        std::vector<std::uint8_t> cut(made.pieces.cellOfPiece.size(), 0);
        for (Index f = 0; f < g.faceCount(); ++f) cut[std::size_t(piece[f])] |= made.pieces.faces[f].inside;
        bool any = false;
        const auto blamePoint = [&](Index p) {
            if (blamed[p] != rest_) gone[blamed[p]] = 1, any = true;
        };
        for (Index p : touchingPoints(g.topology())) blamePoint(p);
        const EdgeTable& edges = g.topology().edges();
        for (std::size_t e = 0; e < edges.edges.size(); ++e)
            if (edges.faceCount[e] != 2 || edges.balance[e] != 0) blamePoint(edges.edges[e].a), blamePoint(edges.edges[e].b);
        for (Index f : crossingFaces(g, piece, cut, run_)) {
            Index crumb = made.pieces.cellOfPiece[std::size_t(piece[f])];
            if (crumb == rest_)
                for (Index q : g.topology().face(f)) crumb = smaller(crumb, blamed[q]);
            if (crumb != rest_) gone[crumb] = 1, any = true;
        }
        return any;
    }

    Index smaller(Index a, Index b) const {
        if (a == rest_ || b == rest_) return std::min(a, b);
        return crumbs_[b].radius < crumbs_[a].radius ? b : a;
    }
    /// By point, the smallest crumb whose walls come there.
    std::vector<Index> blamedAt(const Crumbled& made) const {
        const Topology& t = made.pieces.geometry.topology();
        std::vector<Index> out(made.pieces.geometry.pointCount(), rest_);
        for (Index f = 0; f < t.faceCount(); ++f) {
            const PieceFace& face = made.pieces.faces[f];
            if (!face.inside) continue;
            for (Index cell : made.walls.cells[face.source])
                for (Index p : t.face(f)) out[p] = smaller(out[p], cell);
        }
        return out;
    }

    const RunContext& run_;
    const std::vector<Crumb>& crumbs_;
    Index rest_;
    std::vector<std::uint8_t> hadTwin_;
    double shortest_;
    std::unordered_set<Vec3, FindPlace> known_;
};

/// What of a body belongs to no crumb: its largest part stays what it was, small ones are crumbs.
void tellRest(Crumbled& made, const std::vector<double>& volume, const std::vector<Crumb>& crumbs, std::size_t bodies) {
    double largest = 0;
    for (const Crumb& c : crumbs) largest = std::max(largest, c.radius);
    made.largestOfBody.assign(bodies, kNoCell);
    made.crumb.assign(volume.size(), 1);
    for (Index p = 0; p < volume.size(); ++p) {
        if (made.pieces.cellOfPiece[p] != crumbs.size()) continue;
        made.crumb[p] = volume[p] < ballOf(largest);
        Index& most = made.largestOfBody[made.body[p]];
        if (most == kNoCell || volume[p] > volume[most]) most = p;
    }
    for (Index p : made.largestOfBody)
        if (p != kNoCell) made.crumb[p] = 0;
}

}  // namespace

Crumbled crumbled(const Geometry& solid, const std::vector<Crumb>& crumbs, const RunContext& run) {
    const Bounds bounds = boundsOf(solid.positions());
    const auto rest = Index(crumbs.size());
    BodyCuts cuts(
        solid, [rest](Vec3) { return rest; }, run);
    const CrumbFaults faults(solid, crumbs, run);
    std::vector<std::uint8_t> gone(crumbs.size(), 0);
    for (std::size_t i = 0; i < gone.size(); ++i) gone[i] = crumbs[i].radius < kSmallest * bounds.diagonal();
    FlatWalls cells = crumbsLeft(crumbCells(crumbs, bounds, run), gone);
    Crumbled out;
    for (int round = 0;; ++round) {
        out.walls = wallFaces(cells, bounds, {}, run);
        cuts.cut(out.walls);
        out.pieces = cuts.pieces();
        out.body = cuts.bodyOfPiece();
        const std::vector<double> volume = volumesOf(out.pieces.geometry);
        out.sound = !faults.mark(out, volume, gone);
        if (out.sound || round == kMostRounds) {
            tellRest(out, volume, crumbs, out.body.empty() ? 0 : out.body.back() + 1);
            return out;
        }
        cells = crumbsLeft(cells, gone);
    }
}

}  // namespace seedloom

#pragma once
// Faces that were cut where they meet: what they are made of now, and how that hangs together.
#include "geometry/Groups.h"
#include "geometry/MixPlan.h"
#include "surface/Arrangement.h"

#include <optional>
#include <span>
#include <unordered_map>

namespace seedloom {

/// A whole triangle of the input, or a piece of one.
struct TrianglePiece {
    std::array<Index, 3> points;  ///< from the input's point count on: new ones
    Index triangle;
    std::array<std::array<float, 3>, 3> weights;  ///< of the triangle's corners at each of the points
};

/// A place where surfaces run: one triangle's piece, or those of several triangles in one plane.
struct Panel {
    TrianglePiece piece;                              ///< of the first source
    std::vector<std::pair<TrianglePiece, int>> more;  ///< further ones, and whether they look to the same side (1) or the other (−1)
};

/// A piece that goes into a result, as it is or turned over.
struct KeptPiece {
    TrianglePiece piece;
    bool turned = false;
};

struct RingCorner {
    Index point;
    const TrianglePiece* piece;  ///< that has the side from here to the next corner
    std::size_t corner;          ///< of the piece
    std::size_t kept;            ///< its number in the list
};

class ArrangedFaces {
public:
    /// An edge at which more or fewer than two panels meet, or two that may not be one patch.
    struct Edge {
        Index a, b;  ///< a < b
        std::vector<Index> panels;
    };

    /// `pairs`: as arrange() takes them. `kind`, by triangle: only panels of one kind make a patch; empty: all may. Places that the cuts made are
    /// joined with others within `joined` metres (0: that rounding put onto others), where it is given; what has no corners left then goes.
    ArrangedFaces(const Geometry& in, const Triangles& triangles, const TrianglePairs& pairs, const std::vector<std::uint8_t>& kind,
                  std::optional<double> joined, const RunContext& run);

    const std::vector<Panel>& panels() const { return panels_; }
    std::size_t cutTriangles() const;
    /// Panels from this one on are pieces of cut triangles.
    Index firstCut() const { return firstCut_; }
    /// One more than the number of the last point, new ones included.
    std::size_t pointCount() const { return in_.pointCount() + arrangement_.newPoints.size(); }
    Vec3 place(Index p) const { return p < in_.pointCount() ? in_.positions()[p] : rounded(arrangement_.newPoints[p - in_.pointCount()]); }
    /// The corners of a panel's first piece as they were cut, before any place was rounded or joined with another.
    std::array<FinePlace, 3> finePlaces(Index panel) const;
    Index pointAt(Index triangleCorner) const { return in_.topology().cornerPoint()[triangles_.corners[triangleCorner]]; }
    /// Panels that go on into each other, with nothing else at their common edge, have the same patch: the number of its first panel.
    Index patchOf(Index panel) const { return patch_[panel]; }
    /// In order of their ends.
    const std::vector<Edge>& edges() const { return edges_; }

    /// The kept pieces of one face, which point into `kept`: the face itself where nothing cut it, one polygon where they are in one plane and have one
    /// outline that rounding leaves no doubt of, else each for itself.
    std::vector<std::vector<RingCorner>> polygons(Index face, const std::vector<KeptPiece>& kept) const;
    /// The same, but cut faces stay in their pieces: other triangles of a polygon are other places.
    std::vector<std::vector<RingCorner>> triangles(Index face, const std::vector<KeptPiece>& kept) const;
    /// A row of the input's points (or corners) mixed for a corner of a piece.
    void addMixed(RowMix& rows, const TrianglePiece& piece, std::size_t corner, bool points) const;

    /// The point that one of the input stands for, or was joined with.
    Index standing(Index p) const;

private:
    void joinPlaces(double distance);
    void makePanels();
    void joinPanels(const std::vector<std::uint8_t>& kind);
    void eachWholeEdge(const std::function<void(Index, Index, std::uint64_t)>& meet, const std::function<void(Index, std::uint64_t)>& lone) const;
    std::vector<RingCorner> wholeFace(Index face, const std::vector<KeptPiece>& kept) const;
    bool flat(Index face) const;
    bool clearlyTurned(const std::vector<RingCorner>& ring) const;

    const Geometry& in_;
    const Triangles& triangles_;
    Arrangement arrangement_;
    std::unordered_map<Index, Index> sameAs_;
    std::vector<Panel> panels_;
    std::vector<Index> panelOf_, patch_;  ///< panel of whole triangles; patch of panels
    Index firstCut_ = 0;
    std::vector<Index> facetOf_;  ///< of panels from the first cut on
    std::vector<Edge> edges_;
};

}  // namespace seedloom

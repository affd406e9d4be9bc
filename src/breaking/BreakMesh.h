#pragma once
// Broken faces in fine triangles, the same on both sides of a break.
#include "breaking/RingOrder.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <array>
#include <map>
#include <set>

namespace seedloom {

inline constexpr Index kNoPlace = ~Index{0};

/// Faces with the tag `inside`, cut into triangles with sides of about one length. Points at the same place, bit for bit, are one *place*, whichever pieces
/// they belong to, and faces with the same places are cut once for all of them.
class BreakMesh {
public:
    /// An edge by the places of its ends, the smaller number first.
    using Edges = std::set<std::pair<Index, Index>>;
    /// `detail`: length of the sides in metres; `whole`: edges that nothing is put onto. Throws LimitExceeded.
    BreakMesh(const Geometry& pieces, double detail, const RunContext& run, const Edges& whole = {});

    const std::vector<Vec3>& places() const { return places_; }
    /// kNoPlace for points of the old skin alone.
    Index placeOf(Index point) const { return placeOfPoint_[point]; }
    /// Places along an edge from one place to another; empty where nothing was put onto it.
    std::vector<Index> along(Index from, Index to) const;

    /// A place as a mix of a face's corners.
    struct Mix {
        std::array<Index, 3> corners;  ///< of the ring
        std::array<float, 3> weights;
    };
    /// All faces with the same places.
    struct Cut {
        std::vector<Index> ring;                      ///< places of the corners
        Index firstInner = 0;                         ///< places from here on lie inside of it
        std::vector<Mix> inner;                       ///< and what they are a mix of
        std::vector<std::array<Index, 3>> triangles;  ///< places, anticlockwise as the ring
    };
    const std::vector<Cut>& cuts() const { return cuts_; }
    /// How a face is cut; its ring may begin at another corner and run the other way.
    struct Use {
        Index cut = kNoPlace;  ///< kNoPlace: not an inside face
        RingOrder order;       ///< of the face's corners in the ring
    };
    const Use& useOf(Index face) const { return uses_[face]; }
    bool isInside(Index face) const { return uses_[face].cut != kNoPlace; }

private:
    void numberPlaces(const Geometry& pieces, const std::vector<std::uint8_t>& inside);
    void findCuts(const Geometry& pieces, const std::vector<std::uint8_t>& inside);
    void divideEdges(double detail, const Edges& whole);
    void mesh(Cut& cut, std::vector<Vec3>& inner, double detail) const;

    std::vector<Vec3> places_;
    std::vector<Index> placeOfPoint_;
    std::map<std::pair<Index, Index>, std::pair<Index, Index>> divided_;  ///< by the ends of an edge: its first place and how many
    std::vector<Cut> cuts_;
    std::vector<Use> uses_;
};

}  // namespace seedloom

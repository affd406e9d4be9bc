#pragma once
// Which sides of patches bound the same part of space.
#include "geometry/Groups.h"
#include "surface/ArrangedFaces.h"

#include <map>
#include <optional>

namespace seedloom {

class PatchSides {
public:
    /// `wall`, by triangle: 0 for the skin of a solid, whose front is outside.
    PatchSides(const ArrangedFaces& arranged, const Geometry& in, const std::vector<std::uint8_t>& wall, double size, const RunContext& run);

    /// A number that all sides of one surface around a part of space have in common.
    Index shellOf(Index patch, bool front) const { return shell_[2 * patch + (front ? 1 : 0)]; }
    bool outside(Index shell) const { return outside_[shell] != 0; }
    /// One side of a panel.
    struct Side {
        Index panel;
        bool front;
        bool operator==(const Side&) const = default;
    };
    /// The side that bounds the same part of space beside an edge of many panels; nothing where the edge has none such.
    std::optional<Side> across(Index a, Index b, Side side) const;

private:
    struct Link {
        Index a, b;
        double weight;
    };
    void addLinks(const ArrangedFaces::Edge& edge);
    void join(std::vector<Link> links);

    const ArrangedFaces& arranged_;
    const Geometry& in_;
    const std::vector<std::uint8_t>& wall_;
    double rounding_;  ///< metres that a place may be off
    std::vector<Link> links_;
    std::map<std::pair<Index, Index>, std::vector<std::array<Side, 2>>> wedges_;  ///< at edges of more than two panels
    std::vector<Index> shell_;
    std::vector<std::uint8_t> outside_;
};

}  // namespace seedloom

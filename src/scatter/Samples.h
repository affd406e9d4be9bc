#pragma once
// Random places on the faces or along the curves of a geometry.
#include "geometry/NearestPlace.h"
#include "geometry/Triangulate.h"
#include "parallel/RunContext.h"
#include "scatter/Arrivals.h"

namespace seedloom {

/// Where points may lie: triangles of faces, or stretches of curves. Parts are told apart by `id` of their face or curve where there is one, else by their
/// order, so that changes elsewhere do not reshuffle them.
class ScatterGround {
public:
    enum class On : std::uint8_t { faces, curves };
    /// `density`: for each corner of faces or each point of curves, per m² or per m; one value stands for all. Negative values and values that are no numbers
    /// are 0.
    ScatterGround(const Geometry& geometry, On on, std::vector<float> density, double seed);

    double size() const { return size_; }                      ///< area in m², or length in m
    double expected() const { return arrivals_->expected(); }  ///< points that the density asks for
    const Arrivals& arrivals() const { return *arrivals_; }

    struct Sample {
        Place place;
        std::uint64_t hash;  ///< tells it apart from all others
        float density;       ///< at the place
    };
    Sample at(const Arrival& arrival) const;
    /// The density at a place on this ground.
    float densityAt(const Place& place) const;
    /// The number of the part that `Place::part` of a NearestPlace over the same geometry is; they are in the same order.
    std::size_t parts() const { return parts_.size(); }

private:
    struct Part {
        std::array<Index, 3> points, corners;  ///< of a stretch: two points twice; corners are where densities stand
        Index element, key;
    };
    void addFaces();
    void addCurves();
    Index keyOf(Element element, Index row, Index local) const;
    float densityOf(const Part& part, int k) const { return density_.size() == 1 ? density_.front() : density_[part.corners[std::size_t(k)]]; }
    float densityOf(const Part& part, const std::array<float, 3>& weights) const;
    double measure(const Part& part) const;
    std::array<float, 3> within(const Part& part, Index number, std::uint64_t hash) const;

    const Geometry& geometry_;
    On on_;
    std::vector<float> density_;
    std::vector<Part> parts_;
    std::uint64_t seed_;
    double size_ = 0;
    std::optional<Arrivals> arrivals_;
};

}  // namespace seedloom

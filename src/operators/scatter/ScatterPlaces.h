#pragma once
// What the ways of scattering give the operator, and what makes points with attributes of it.
#include "geometry/NearestPlace.h"
#include "operators/OperatorCall.h"

namespace seedloom {

struct ScatteredPlaces {
    std::vector<Place> places;
    std::vector<std::uint64_t> hashes;
    std::vector<float> density;  ///< points per m², m or m³ around each
    double size = 0;             ///< m², m or m³ that points may lie on
    double expected = 0;         ///< points that the settings ask for, before chance
    Geometry ground;             ///< the input, with the density written on it
};

/// On faces or along curves.
ScatteredPlaces scatterOnGround(OperatorCall& call, const Geometry& in, bool curves);
/// Inside a closed surface; a place's element is the nearest face.
ScatteredPlaces scatterInside(OperatorCall& call, const Geometry& in);

/// Points at places on faces, with all attributes that the surface has there and its normal.
Geometry surfaceAt(const Geometry& in, const std::vector<Place>& places);

enum class ScatterOn : std::uint8_t { faces, curves, inside };
/// Attributes of the elements that the places lie on, mixed as they lie; `id` and `density` are new, and so is `normal`: the surface's or the curve's, up
/// inside of a solid.
Geometry pointsAt(const Geometry& in, const ScatteredPlaces& found, ScatterOn on);

}  // namespace seedloom

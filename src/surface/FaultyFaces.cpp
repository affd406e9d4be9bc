#include "surface/FaultyFaces.h"

#include "geometry/Checkup.h"
#include "geometry/NearestPlace.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"

namespace seedloom {

std::vector<Index> faultyFaces(const Geometry& geometry, const RunContext& run) {
    std::vector<Index> out = crossingsOf(geometry, run).faces;
    for (Index f = 0; f < geometry.faceCount(); ++f)
        if (hasNoArea(geometry.topology().face(f), geometry.positions())) out.push_back(f);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::vector<float> squaredDistancesTo(const Geometry& geometry, const std::vector<Index>& faces, const std::vector<Vec3>& places) {
    std::vector<Vec3> at;
    for (Index f : faces)
        for (Index p : geometry.topology().face(f)) at.push_back(geometry.positions()[p]);
    const Geometry corners(std::move(at));
    const NearestPlace nearest(corners, NearestPlace::On::points);
    std::vector<float> out(places.size());
    for (std::size_t p = 0; p < out.size(); ++p) out[p] = nearest.find(places[p]).squaredDistance;
    return out;
}

}  // namespace seedloom

#pragma once
// Collects what a reader finds, and makes a geometry of it once all numbers are known to be good.
#include "geometry/Geometry.h"
#include "geometry/Result.h"

#include <fmt/format.h>

#include <limits>

namespace seedloom {

struct MeshBuilder {
    std::vector<Vec3> positions;
    std::vector<Index> faceStart{0}, cornerPoint, curveStart{0}, curvePoint;
    std::vector<std::uint8_t> curveClosed;
    std::vector<Vec2> cornerUv;
    std::vector<Vec3> cornerNormal;
    bool hasUv = false, hasNormal = false;

    void endFace() { faceStart.push_back(static_cast<Index>(cornerPoint.size())); }

    Result<Geometry> finish() {
        if (positions.size() > std::numeric_limits<Index>::max() / 2 || cornerPoint.size() > std::numeric_limits<Index>::max() / 2)
            return Error{"mesh.format", "The file holds more points or corners than can be numbered."};
        const std::size_t points = positions.size();
        Topology topology(points, std::move(faceStart), std::move(cornerPoint), std::move(curveStart), std::move(curvePoint), std::move(curveClosed));
        if (const char* wrong = topology.problem(); *wrong) return Error{"mesh.format", fmt::format("The file is damaged: {}.", wrong)};
        Geometry out(std::move(positions), std::move(topology));
        if (hasUv) out.setColumn(Element::corner, "uv", Column(std::move(cornerUv)));
        if (hasNormal) out.setColumn(Element::corner, "normal", Column(std::move(cornerNormal)));
        return out;
    }
};

}  // namespace seedloom

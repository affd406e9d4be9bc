#include "breaking/PieceCrossings.h"

#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"

namespace seedloom {

std::vector<Index> crossingFaces(const Geometry& g, const std::vector<std::int32_t>& piece, const std::vector<std::uint8_t>& asked, const RunContext& run) {
    std::vector<std::vector<Index>> members(asked.size()), crossing(asked.size());
    for (Index f = 0; f < g.faceCount(); ++f)
        if (asked[std::size_t(piece[f])]) members[std::size_t(piece[f])].push_back(f);
    forEach(
        members.size(), run,
        [&](std::size_t p) {
            if (members[p].empty()) return;
            std::vector<Index> start{0}, points;
            for (Index f : members[p]) {
                const auto face = g.topology().face(f);
                points.insert(points.end(), face.begin(), face.end());
                start.push_back(Index(points.size()));
            }
            std::vector<Index> own = points;
            std::sort(own.begin(), own.end());
            own.erase(std::unique(own.begin(), own.end()), own.end());
            std::vector<Vec3> at;
            for (Index q : own) at.push_back(g.positions()[q]);
            for (Index& q : points) q = Index(std::lower_bound(own.begin(), own.end(), q) - own.begin());
            crossing[p] = crossingsOfAll(Geometry(std::move(at), Topology(own.size(), std::move(start), std::move(points), {0}, {}, {}))).faces;
            for (Index& f : crossing[p]) f = members[p][f];
        },
        4);
    std::vector<Index> out;
    for (const auto& list : crossing) out.insert(out.end(), list.begin(), list.end());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace seedloom

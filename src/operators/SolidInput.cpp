#include "operators/SolidInput.h"

#include <fmt/format.h>

namespace seedloom {

void needSolid(const OperatorCall& call, const Geometry& g, const std::string& name, const std::string& code) {
    for (Vec3 p : g.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", fmt::format("{}: a point is no finite place. Delete it first.", name));
    const EdgeTable& edges = g.topology().edges();
    std::vector<Index> open, mixed;
    for (Index e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] % 2 != 0) open.push_back(e);
        else if (edges.balance[e] != 0) mixed.push_back(e);
    }
    const auto where = [&](const std::vector<Index>& list) {
        const Vec3 at = (g.positions()[edges.edges[list.front()].a] + g.positions()[edges.edges[list.front()].b]) * 0.5f;
        std::vector<Index> points;
        for (Index e : list) points.push_back(edges.edges[e].a), points.push_back(edges.edges[e].b);
        std::sort(points.begin(), points.end());
        points.erase(std::unique(points.begin(), points.end()), points.end());
        call.offer(showFix("Show where", Element::point, std::move(points)));
        return fmt::format("({:.3g}, {:.3g}, {:.3g}) m", at.x, at.y, at.z);
    };
    if (!open.empty()) {
        const std::string at = where(open);
        call.offer(insertFix("Fill the holes before it", "fill_holes"));
        call.offer(insertFix("Give it a wall before it", "thicken"));
        call.fail(code + ".open", fmt::format("{} is not closed: it has {} open edges, one of them at {}. Weld it, fill its holes or give it a wall first.",
                                              name, open.size(), at));
    }
    if (!mixed.empty()) {
        const std::string at = where(mixed);
        call.offer(insertFix("Make its winding consistent before it", "orient"));
        call.fail(code + ".winding",
                  fmt::format("{}: faces are turned against each other at {} edges, one of them at {}. Put Make winding consistent before this.", name,
                              mixed.size(), at));
    }
}

}  // namespace seedloom

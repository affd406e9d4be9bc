#include "surface/PartPairs.h"

#include <map>
#include <numeric>

namespace seedloom {

namespace {

struct Part {
    std::vector<Index> members;
    Box bounds;
};

void pairsOf(const std::vector<Box>& boxes, const Part& a, const Part& b, TrianglePairs& out) {
    // Only what lies where both do: mostly a small part.
    const auto near = [&](const Part& part, const Box& box) {
        std::vector<Index> list;
        for (Index t : part.members)
            if (boxes[t].meets(box)) list.push_back(t);
        return list;
    };
    BoxTree::pairs(BoxTree(boxes, near(a, b.bounds)), BoxTree(boxes, near(b, a.bounds)), [&](Index t, Index u) { out.push_back({t, u}); });
}

}  // namespace

TrianglePairs partPairs(const Geometry& geometry, const Triangles& triangles, const std::vector<Index>& part, const RunContext& run) {
    const auto boxes = boxesOf(geometry, triangles);
    std::map<Index, Part> byPart;
    for (Index t = 0; t < boxes.size(); ++t) {
        const auto [it, isNew] = byPart.try_emplace(part[t], Part{{}, boxes[t]});
        it->second.members.push_back(t);
        it->second.bounds.add(boxes[t]);
    }
    std::vector<const Part*> parts;
    std::vector<Box> bounds;
    for (const auto& [number, each] : byPart) parts.push_back(&each), bounds.push_back(each.bounds);
    const BoxTree tree(bounds);
    TrianglePairs out;
    for (Index i = 0; i < parts.size(); ++i) {
        run.poll();
        std::vector<Index> others;
        tree.meeting(bounds[i], [&](Index j) {
            if (j > i) others.push_back(j);
        });
        std::sort(others.begin(), others.end());
        for (Index j : others) pairsOf(boxes, *parts[i], *parts[j], out);
    }
    return out;
}

}  // namespace seedloom

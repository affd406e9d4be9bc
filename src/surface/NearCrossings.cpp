#include "surface/NearCrossings.h"

#include "geometry/BoxTree.h"
#include "geometry/Measures.h"
#include "geometry/PartTaker.h"
#include "geometry/SelfIntersections.h"

#include <algorithm>

namespace seedloom {

PlaceSet crossingNear(const Geometry& surface, const PlaceSet& changed, const RunContext& run) {
    const Topology& t = surface.topology();
    std::vector<Box> boxes(surface.faceCount());
    std::vector<Index> touched;
    for (Index f = 0; f < t.faceCount(); ++f) {
        Bounds bounds;
        for (Index p : t.face(f)) bounds.add(surface.positions()[p]);
        boxes[f] = {bounds.min, bounds.max};
        if (std::any_of(t.face(f).begin(), t.face(f).end(), [&](Index p) { return changed.contains(placeKey(surface.positions()[p])); })) touched.push_back(f);
    }
    std::set<Index> near;
    const BoxTree tree(boxes);
    for (Index f : touched) tree.meeting(boxes[f], [&](Index other) { near.insert(other); });
    PartTaker taker(surface);
    for (Index f : near) taker.addFace(f);
    const Geometry around = taker.take();
    PlaceSet out;
    for (Index f : crossingsOfAll(around, run).faces)
        for (Index p : around.topology().face(f)) out.insert(placeKey(around.positions()[p]));
    return out;
}

}  // namespace seedloom

// Method: own: rings cut by a plane, the cut filled by nested rings.
#include "surface/PlaneCut.h"
#include "geometry/Fans.h"
#include "geometry/Measures.h"
#include "geometry/PartTaker.h"
#include "operators/OperatorCall.h"
#include "surface/FaultyFaces.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

double awayFrom(const CutPlane& plane, Vec3 p) {
    double out = 0;
    for (int c = 0; c < 3; ++c) out += (double(p[c]) - double(plane.origin[c])) * double(plane.normal[c]);
    return out;
}

/// Faces at the cut that cross each other or have no area, as rounding can turn slivers at the plane through their neighbours, and points and edges in
/// which parts only touch, as where a plane meets a saddle in its very middle. Looked at are the faces with a point within `near` of the plane, and all that
/// have a point in common with them.
std::size_t faultsAtCut(const Geometry& part, const CutPlane& plane, double near, const RunContext& run) {
    const Topology& t = part.topology();
    std::vector<std::uint8_t> at(part.pointCount(), 0);
    for (Index p = 0; p < at.size(); ++p) at[p] = std::abs(awayFrom(plane, part.positions()[p])) <= near;
    const std::vector<std::uint8_t> onPlane = at;
    const auto touches = [&](Index f) { return std::any_of(t.face(f).begin(), t.face(f).end(), [&](Index p) { return at[p] != 0; }); };
    std::vector<std::uint8_t> cut(part.faceCount());
    for (Index f = 0; f < part.faceCount(); ++f) cut[f] = touches(f);
    for (Index f = 0; f < part.faceCount(); ++f)
        if (cut[f])
            for (Index p : t.face(f)) at[p] = 1;
    std::size_t touching = 0;
    if (part.faceCount() > 0) {
        Fans fans(t);
        for (Index p = 0; p < at.size(); ++p) touching += onPlane[p] && fans.at(p) > 1;
    }
    PartTaker taker(part);
    for (Index f = 0; f < part.faceCount(); ++f)
        if (touches(f)) taker.addFace(f);
    if (taker.faceCount() == 0) return touching;
    const Geometry around = taker.take();
    const auto& sharing = around.topology().edges().faceCount;
    const auto crowded = std::count_if(sharing.begin(), sharing.end(), [](auto count) { return count > 2; });
    return touching + std::size_t(crowded) + faultyFaces(around, run).size();
}

struct CutParts {
    std::vector<Geometry> parts;
    std::size_t openRings = 0, faults = 0;
};

CutParts cutAt(OperatorCall& call, const CutPlane& plane, double near) {
    const Geometry& in = call.in();
    const std::string keep = call.choice("keep");
    const bool fill = call.flag("fill");
    CutParts out;
    const CutPlane below{plane.origin, -plane.normal};
    if (keep != "below") out.parts.push_back(cutByPlane(in, plane, fill, &out.openRings));
    if (keep != "above") out.parts.push_back(cutByPlane(in, below, fill, &out.openRings));
    for (const Geometry& part : out.parts) out.faults += faultsAtCut(part, plane, near, call.run());
    return out;
}

/// Where a cut leaves faults the plane is moved by a few millionths of the size, which nobody sees, until it leaves none, or the fewest.
CutParts cutSoundly(OperatorCall& call, const CutPlane& plane) {
    constexpr double kStep = 3e-6;
    const double size = boundsOf(call.in().positions()).diagonal();
    CutParts best = cutAt(call, plane, kStep * size);
    for (const int steps : {1, -1, 2, -2, 3, -3}) {
        if (best.faults == 0) break;
        call.run().poll();
        const CutPlane moved{plane.origin + plane.normal * float(steps * kStep * size), plane.normal};
        CutParts next = cutAt(call, moved, kStep * size);
        if (next.faults < best.faults) best = std::move(next);
    }
    return best;
}

Geometry computePlaneCut(OperatorCall& call) {
    const Vec3 normal = normalized(call.vec3("normal"), {});
    if (!(length(normal) > 0.5f)) call.fail("plane_cut.normal", "The plane has no direction. Give Normal a length, such as 0, 1, 0 for a level cut.", "normal");
    CutParts cut = cutSoundly(call, {call.vec3("origin"), normal});
    if (cut.openRings > 0)
        call.tell(NoticeLevel::warning, "plane_cut.open",
                  "The cut could not be closed everywhere: the surface is open where the plane meets it. Fill its holes first.", "fill");
    // Copies are no part of either side, and would be there twice.
    if (cut.parts.size() == 2) cut.parts[1].setCopies(nullptr);
    return cut.parts.size() == 1 ? cut.parts.front() : combine(cut.parts);
}

}  // namespace

OperatorSpec planeCutOperator() {
    OperatorSpec spec;
    spec.id = "plane_cut";
    spec.order = 370;
    spec.label = "Plane cut";
    spec.family = Family::surface;
    spec.sentence = "Cuts surfaces and curves along a plane, keeps one side or both, and closes the cut.";
    spec.help =
        "New points lie on the plane (moved by a few millionths of the size where rounding would make faces cross) and are shared; attributes are mixed along "
        "the edges that were cut. A closed solid stays closed: the cut is filled, holes "
        "in it included, by faces with the tag cut. Both sides have points of their own. Draw a line across the view to cut as if through the eye: what lies "
        "to the "
        "left of the way the hand goes is above.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"slice", "clip", "section", "saw", "trim", "halve", "split"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        vec3Setting("origin", "Origin", Unit::metre, {0, 0, 0}).helped("A place on the plane.").drawnAcross(),
        vec3Setting("normal", "Normal", Unit::none, {0, 1, 0}).helped("The direction that the plane faces; its length does not matter."),
        choiceSetting("keep", "Keep", {"above", "below", "both"}, "above").helped("Above is the side that the normal points to."),
        flagSetting("fill", "Close the cut", true).helped("Fills the cut with faces."),
    };
    spec.sample = sample::step(spec.id, {{"normal", {0.4, -1, 0.3}}, {"origin", {0, 0.1, 0}}}, {sample::box()});
    spec.compute = computePlaneCut;
    return spec;
}

}  // namespace seedloom

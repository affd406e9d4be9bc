// Method: own: rings cut by a plane, the cut filled by nested rings.
#include "surface/PlaneCut.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computePlaneCut(OperatorCall& call) {
    const Geometry& in = call.in();
    const Vec3 normal = normalized(call.vec3("normal"), {});
    if (!(length(normal) > 0.5f)) call.fail("plane_cut.normal", "The plane has no direction. Give Normal a length, such as 0, 1, 0 for a level cut.", "normal");
    const Vec3 origin = call.vec3("origin");
    const std::string keep = call.choice("keep");
    const bool fill = call.flag("fill");
    std::vector<Geometry> parts;
    std::size_t openRings = 0;
    if (keep != "below") parts.push_back(cutByPlane(in, {origin, normal}, fill, &openRings));
    if (keep != "above") parts.push_back(cutByPlane(in, {origin, -normal}, fill, &openRings));
    if (openRings > 0)
        call.tell(NoticeLevel::warning, "plane_cut.open",
                  "The cut could not be closed everywhere: the surface is open where the plane meets it. Fill its holes first.", "fill");
    // Copies are no part of either side, and would be there twice.
    if (parts.size() == 2) parts[1].setCopies(nullptr);
    return parts.size() == 1 ? parts.front() : combine(parts);
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
        "New points lie on the plane and are shared; attributes are mixed along the edges that were cut. A closed solid stays closed: the cut is filled, holes "
        "in it included, by faces with the tag cut. Both sides have points of their own.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"slice", "clip", "section", "saw", "trim", "halve", "split"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        vec3Setting("origin", "Origin", Unit::metre, {0, 0, 0}).helped("A place on the plane."),
        vec3Setting("normal", "Normal", Unit::none, {0, 1, 0}).helped("The direction that the plane faces; its length does not matter."),
        choiceSetting("keep", "Keep", {"above", "below", "both"}, "above").helped("Above is the side that the normal points to."),
        flagSetting("fill", "Close the cut", true).helped("Fills the cut with faces."),
    };
    spec.sample = sample::step(spec.id, {{"normal", {0.4, -1, 0.3}}, {"origin", {0, 0.1, 0}}}, {sample::box()});
    spec.compute = computePlaneCut;
    return spec;
}

}  // namespace seedloom

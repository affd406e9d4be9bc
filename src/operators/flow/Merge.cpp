// Method: own: tables joined, with zeros for what one lacks.
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeMerge(OperatorCall& call) {
    double corners = 0;
    for (const Geometry& part : call.port(0)) corners += double(part.cornerCount() + part.pointCount());
    call.run().require(corners, "points and corners");
    return combine(call.port(0));
}

}  // namespace

OperatorSpec mergeOperator() {
    OperatorSpec spec;
    spec.id = "merge";
    spec.order = 870;
    spec.label = "Merge";
    spec.family = Family::flow;
    spec.sentence = "Puts several geometries into one, in the order of their links.";
    spec.help = "Nothing is welded or cut. An attribute that one of them lacks is 0 there.";
    spec.synonyms = {"combine", "join", "collect", "add together", "append"};
    spec.inputs = {{"in", "Parts", true}};
    spec.sample = sample::step(spec.id, Json::object(), {sample::cells(), sample::step("transform", {{"move", {1.2, 0.5, 0}}}, {sample::ball(0.5, 10)})});
    spec.compute = computeMerge;
    return spec;
}

}  // namespace seedloom

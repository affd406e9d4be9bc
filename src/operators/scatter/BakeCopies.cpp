// Method: own: shapes' tables repeated under each place.
#include "geometry/Bake.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeBakeCopies(OperatorCall& call) {
    const Geometry& in = call.in();
    if (!in.copies()) return in;
    const ElementCounts counts = bakedCounts(in);
    call.run().require(double(counts.points), "points");
    call.run().require(double(counts.corners), "corners");
    return bakeCopies(in);
}

}  // namespace

OperatorSpec bakeCopiesOperator() {
    OperatorSpec spec;
    spec.id = "bake_copies";
    spec.order = 860;
    spec.label = "Bake copies";
    spec.family = Family::scatter;
    spec.sentence = "Turns copies into faces of their own.";
    spec.help =
        "What comes after can then change each of them. Attributes of a copy go to its faces where the shape has none of that name. Without copies nothing "
        "changes.";
    spec.synonyms = {"make real", "expand", "to mesh", "make unique", "flatten", "dissolve"};
    spec.inputs = {{"in", "Copies"}};
    spec.takes = Takes::copies;
    spec.sample = sample::merged(sample::step("extrude", {{"of", "each face"}, {"distance", 0.03}, {"inset", 0.02}},
                                              {sample::step(spec.id, Json::object(), {sample::boxesOnHill({{"mode", "spacing"}, {"spacing", 0.22}})})}),
                                 sample::hill());
    spec.compute = computeBakeCopies;
    return spec;
}

}  // namespace seedloom

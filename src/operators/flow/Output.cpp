// Method: own.
#include "operators/OperatorCall.h"

namespace seedloom {

OperatorSpec outputOperator() {
    OperatorSpec spec;
    spec.id = "output";
    spec.order = 950;
    spec.label = "Output";
    spec.family = Family::flow;
    spec.sentence = "Marks what the loom gives: the geometry that is built, exported and published.";
    spec.help = "A loom has one output. It changes nothing.";
    spec.synonyms = {"result", "end", "export", "final"};
    spec.inputs = {{"in", "Result"}};
    spec.compute = [](OperatorCall& call) { return call.in(); };
    return spec;
}

}  // namespace seedloom

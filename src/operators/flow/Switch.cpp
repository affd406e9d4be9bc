// Method: own.
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeSwitch(OperatorCall& call) {
    const auto& inputs = call.port(0);
    const int choice = call.integer("choice");
    if (choice < 0 || choice >= static_cast<int>(inputs.size()))
        call.fail("switch.choice", fmt::format("Choice is {}, and there are {} inputs, counted from 0.", choice, inputs.size()), "choice");
    return inputs[static_cast<std::size_t>(choice)];
}

}  // namespace

OperatorSpec switchOperator() {
    OperatorSpec spec;
    spec.id = "switch";
    spec.order = 890;
    spec.label = "Switch";
    spec.family = Family::flow;
    spec.sentence = "Passes one of several inputs on.";
    spec.help = "Inputs are counted from 0 in the order of their links; true and false pick the second and the first.";
    spec.synonyms = {"choose", "select", "if", "either or", "toggle", "option"};
    spec.inputs = {{"in", "Inputs", true}};
    spec.settings = {integerSetting("choice", "Choice", 0).slider(0, 7).helped("Which input passes, counted from 0.")};
    spec.compute = computeSwitch;
    return spec;
}

}  // namespace seedloom

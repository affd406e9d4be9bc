#include "operators/Sample.h"

namespace seedloom::sample {

SampleStep step(std::string op, Json settings, std::vector<SampleStep> from) {
    SampleStep out{std::move(op), std::move(settings), {}, {}};
    for (SampleStep& input : from) out.inputs.push_back({"", std::move(input)});
    return out;
}

SampleStep plugged(SampleStep step, std::string port, SampleStep from) {
    step.inputs.push_back({std::move(port), std::move(from)});
    return step;
}

SampleStep around(std::string op, Json settings, SampleStep inside, SampleStep from) {
    SampleStep out = step(std::move(op), std::move(settings), {std::move(from)});
    out.inside.push_back(std::move(inside));
    return out;
}

SampleStep part() { return {}; }

SampleStep box() { return step("box"); }
SampleStep cells() { return step("box", {{"cells", {3, 3, 3}}}); }
SampleStep column() { return step("box", {{"size", {0.3, 1.4, 0.3}}, {"cells", {3, 24, 3}}}); }
SampleStep ball(double radius, int frequency) { return step("geodesic_sphere", {{"radius", radius}, {"frequency", frequency}}); }
SampleStep hill() { return ball(0.7, 10); }
SampleStep sheetAbove() { return step("transform", {{"move", {0, 1.2, 0}}}, {step("grid", {{"size", {1.4, 1.4}}, {"cells", {24, 24}}})}); }
SampleStep profile() { return step("point_list", {{"points", {{0.3, 0, 0}, {0.12, 0.5, 0}, {0.26, 0.8, 0}, {0.2, 0.9, 0}}}}); }
SampleStep way() { return step("point_list", {{"points", {{-0.8, 0, 0.3}, {-0.3, 0.25, -0.3}, {0.3, 0, 0.3}, {0.8, 0.3, -0.1}}}, {"join", "open curve"}}); }
SampleStep zigzag() { return step("point_list", {{"points", {{-0.8, 0, 0.4}, {-0.3, 0, -0.4}, {0.3, 0, 0.4}, {0.8, 0, -0.4}}}, {"join", "open curve"}}); }
SampleStep smoothWay(int count) { return step("resample", {{"count", count}, {"form", "smooth"}}, {way()}); }

SampleStep merged(SampleStep a, SampleStep b) { return step("merge", Json::object(), {std::move(a), std::move(b)}); }

SampleStep dotted(SampleStep points, SampleStep ground) {
    return merged(plugged(step("place_copies", {{"align", "none"}}, {std::move(points)}), "shapes", ball(0.03, 3)), std::move(ground));
}

SampleStep boxesOnHill(Json points, Json settings) {
    points["where"] = {{"formula", "normal.y > 0.1"}};
    return plugged(step("place_copies", std::move(settings), {step("scatter", std::move(points), {hill()})}), "shapes",
                   step("box", {{"size", {0.16, 0.1, 0.16}}}));
}

}  // namespace seedloom::sample

// Every operator of the modelling families at three sizes, so that the growth of its cost can be read off. The size is a number of triangles or
// of points of curves that go in, or that a maker gives.
#include "Operators.h"
#include "Alone.h"
#include "operators/Polyhedra.h"

#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

constexpr std::int64_t kSmall = 10'000, kMiddle = 40'000, kLarge = 160'000;

int root(std::int64_t n) { return int(std::lround(std::sqrt(double(n)))); }
Geometry ball(std::int64_t triangles) { return geodesicBall(int(std::lround(std::sqrt(double(triangles) / 20)))); }
Geometry uvSheet(std::int64_t faces) { return runAlone("grid", {{"size", {2, 2}}, {"cells", {root(faces), root(faces)}}}, {}); }

/// A hundred wavy lines with `points` points in all.
Geometry lines(std::int64_t points) {
    std::vector<Geometry> all;
    for (int i = 0; i < 100; ++i)
        all.push_back(runAlone("transform", {{"move", {0, 0, 0.1 * i}}}, {runAlone("line", {{"length", 10}, {"points", points / 100}}, {})}));
    return runAlone("noise_displace", {{"amount", 0.2}, {"along", "axis mask"}}, {runAlone("merge", Json::object(), std::move(all))});
}
/// Hexagons beside each other, with `points` points in all.
Geometry rings(std::int64_t points) {
    return runAlone("feature_curves", {{"by", "open edges"}}, {runAlone("separate", {{"by", "each face"}}, {uvSheet(points / 4)})});
}

/// What a maker is told, to make about so much.
Json makerSettings(const std::string& op, std::int64_t n) {
    const int side = root(n);
    if (op == "line" || op == "resample") return {{"points", n}};
    if (op == "polygon") return {{"sides", n}};
    if (op == "spiral") return {{"turns", 20}, {"points_per_turn", n / 20}};
    if (op == "grid") return {{"cells", {side, side}}};
    if (op == "box") return {{"cells", {side / 2, side / 2, side / 2}}};
    if (op == "cylinder" || op == "sphere") return {{"sides", side}, {"rings", side}};
    if (op == "geodesic_sphere") return {{"frequency", int(std::lround(std::sqrt(double(n) / 20)))}};
    if (op == "torus") return {{"sides", side}, {"tube_sides", side}};
    if (op == "text") return {{"text", std::string(std::size_t(n / 40), 'a')}};
    return Json::object();
}

/// Settings that make an operator do its work; sizes are relative to the edges of what goes in.
Json workSettings(const std::string& op, std::int64_t n) {
    const double edge = 2.4 / std::sqrt(double(n) / 20);
    static const std::map<std::string, Json> fixed{{"plane_cut", {{"normal", {1, 0.3, 0.1}}}},
                                                   {"delete", {{"where", {{"formula", "index % 2 == 0"}}}}},
                                                   {"separate", {{"by", "each face"}}},
                                                   {"dual", {{"form", "faces"}}},
                                                   {"bend", {{"angle", 90}}},
                                                   {"twist", {{"angle", 90}}},
                                                   {"taper", {{"scale_end", 0.5}}},
                                                   {"fit", {{"size", {1, 2, 3}}}},
                                                   {"fill_holes", Json::object()},
                                                   {"cut_curve", {{"mode", "length"}, {"length", 0.05}}},
                                                   {"join_curves", {{"by", "in order"}}},
                                                   {"offset_curve", {{"distance", 0.01}}},
                                                   {"sweep", {{"form", "tube"}, {"width", 0.02}}},
                                                   {"cage", {{"points", {4, 4, 4}}, {"offsets", {{0.1, 0, 0}}}}},
                                                   {"move_points", {{"by", {{"formula", "position * 0.1"}}}}},
                                                   {"noise_displace", {{"amount", 0.1}}}};
    if (op == "extrude") return {{"distance", edge}, {"inset", edge / 10}};
    if (op == "bevel") return {{"width", edge / 20}, {"angle_over", 0}};
    if (op == "thicken") return {{"thickness", edge}};
    if (op == "remesh") return {{"edge_length", edge}, {"iterations", 3}};
    if (op == "voxel_remesh") return {{"voxel", edge}};
    if (op == "simplify") return {{"target", n / 10}};
    if (op == "edge_rods") return {{"radius", edge / 10}, {"sides", 4}};
    if (op == "spread_points") return {{"distance", edge / 2}, {"rounds", 4}};
    if (op == "resample") return {{"count", n / 100}};
    const auto it = fixed.find(op);
    return it == fixed.end() ? Json::object() : it->second;
}

Geometry inputOf(const OperatorSpec& spec, std::int64_t n) {
    if (spec.id == "fill_curve" || spec.id == "offset_curve" || spec.id == "round_corners") return rings(n);
    if (spec.id == "feature_curves" || spec.id == "edge_rods") return ball(n);
    if (spec.family == Family::curve) return lines(n);
    if (spec.id == "fill_holes") return runAlone("delete", {{"where", {{"formula", "index % 20 == 0"}}}}, {ball(n)});
    if (spec.id == "stretch_to_curve" || spec.id == "drape_by_uv") return uvSheet(n);
    return ball(n);
}

void measure(benchmark::State& state, const std::string& op) {
    const std::int64_t n = state.range(0);
    const OperatorSpec& spec = *findOperator(op);
    const bool makes = spec.family == Family::make;
    const Json settings = makes ? makerSettings(op, n) : workSettings(op, n);
    OperatorInput input;
    input.ports.resize(spec.inputs.size());
    if (!makes && !input.ports.empty()) input.ports[0] = {inputOf(spec, n)};
    for (std::size_t p = 1; p < input.ports.size(); ++p) {
        const std::string& id = spec.inputs[p].id;
        if (id == "curve") input.ports[p] = {lines(1000)};
        else if (id == "profile") input.ports[p] = {runAlone("polygon", Json::object(), {})};
        else if (id == "cutters") input.ports[p] = {runAlone("transform", {{"move", {0.7, 0.2, 0.1}}}, {ball(n)})};
        else if (id == "target") input.ports[p] = {op == "drape_by_uv" ? uvSheet(n) : ball(n / 4)};
    }
    const auto whole = operatorFor(op, settings);
    const auto sources = std::make_shared<SettingSources>();
    for (const SettingSpec& s : whole->settings) sources->emplace(s.id, *sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback));
    input.settings = sources;
    for (auto _ : state) {
        const OperatorOutcome out = runOperator(*whole, input, RunContext());
        if (out.failed) return state.SkipWithError(out.notices.back().text.c_str());
        benchmark::DoNotOptimize(out.geometry);
    }
    state.SetComplexityN(n);
}

/// What is measured elsewhere, has no size, or only passes on.
bool leftOut(const OperatorSpec& spec) {
    static const std::set<std::string> out{"solid", "point_list", "drawn_curve", "input_geometry", "import_mesh", "surface_strokes"};
    const bool family = spec.family == Family::make || spec.family == Family::curve || spec.family == Family::surface || spec.family == Family::deform;
    return !family || out.count(spec.id) > 0;
}

}  // namespace

void registerOperators() {
    for (const OperatorSpec& spec : catalogue()) {
        if (leftOut(spec)) continue;
        benchmark::RegisterBenchmark(("operator/" + spec.id).c_str(), measure, spec.id)
            ->Arg(kSmall)
            ->Arg(kMiddle)
            ->Arg(kLarge)
            ->Complexity()
            ->Unit(benchmark::kMillisecond)
            ->MinTime(0.2);
    }
}

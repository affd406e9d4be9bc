#include "render/OperatorSample.h"

#include "graph/NodeSpec.h"
#include "graph/Rebuild.h"
#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

/// A small loom around one operator: what goes into it, and settings that show what it does.
class SampleLoom {
public:
    std::string add(const char* kind, Json settings = Json::object(), const std::string& from = {}) {
        Node node;
        node.op = kind;
        node.id = loom_.freeNodeId(kind);
        node.settings = std::move(settings);
        if (node.op == kAsset) assets_ = assetSteps(), node.settings[kAsset] = "post.loom";
        else if (isContainer(kind)) node.graph = containerSteps(kind);
        const std::string id = node.id;
        loom_.nodes.push_back(std::move(node));
        if (!from.empty()) link(from, id);
        return id;
    }
    void link(const std::string& from, const std::string& to, const std::string& in = {}) { loom_.links.push_back({from, "", to, in, Json::object()}); }
    Geometry result(const std::string& at) {
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom_);
        request.targets = {at};
        request.assets = assets_;
        Memo memo(1 << 24);
        const RebuildResult made = rebuild(request, memo);
        const Geometry* shown = made.geometry(at);
        return shown ? *shown : Geometry();
    }

private:
    static InnerGraph containerSteps(const std::string& kind) {
        Loom inner = *newInnerGraph();
        Node step;
        step.id = "step";
        step.op = kind == "repeat" ? "transform" : "extrude";
        step.settings = kind == "repeat" ? Json{{"scale", {0.9, 1.12, 0.9}}, {"rotate", {0, 20, 0}}} : Json{{"distance", 0.12}, {"inset", 0.06}};
        inner.nodes.push_back(step);
        inner.links = {{"part", "", "step", "", Json::object()}, {"step", "", "result", "", Json::object()}};
        return InnerGraph(std::move(inner));
    }
    /// What another loom could be: a turned post.
    static Assets assetSteps() {
        SampleLoom inner;
        const std::string turned =
            inner.add("revolve", {{"sides", 32}},
                      inner.add("point_list", {{"points", {{0, 0, 0}, {0.4, 0, 0}, {0.3, 0.15, 0}, {0.14, 0.3, 0}, {0.2, 0.7, 0}, {0.34, 0.85, 0}, {0, 1, 0}}},
                                               {"join", "open curve"}}));
        inner.loom_.output = inner.add("output", Json::object(), turned);
        return std::make_shared<const AssetTable>(AssetTable{{{"post.loom", Inside{std::make_shared<const Loom>(std::move(inner.loom_)), nullptr, {}}}}});
    }
    Loom loom_;
    Assets assets_;
};

const Json kProfile{{"points", {{0.3, 0, 0}, {0.12, 0.5, 0}, {0.26, 0.8, 0}, {0.2, 0.9, 0}}}};
const Json kWay{{"points", {{-0.8, 0, 0.3}, {-0.3, 0.25, -0.3}, {0.3, 0, 0.3}, {0.8, 0.3, -0.1}}}, {"join", "open curve"}};
const Json kZigzag{{"points", {{-0.8, 0, 0.4}, {-0.3, 0, -0.4}, {0.3, 0, 0.4}, {0.8, 0, -0.4}}}, {"join", "open curve"}};

/// Points as small balls, on what they lie on.
std::string dotted(SampleLoom& loom, const std::string& points, const std::string& ground) {
    const std::string balls = loom.add("place_copies", {{"align", "none"}}, points);
    loom.link(loom.add("geodesic_sphere", {{"radius", 0.03}, {"frequency", 3}}), balls, "shapes");
    const std::string all = loom.add("merge", Json::object(), balls);
    if (!ground.empty()) loom.link(ground, all);
    return all;
}

const Json kThree{{{"name", "cork"}, {"color", {0.78, 0.6, 0.38}}},
                  {{"name", "lead"}, {"color", {0.42, 0.47, 0.5}}},
                  {{"name", "red"}, {"color", {0.72, 0.3, 0.22}}}};

/// Small things on a hill, for what works on copies.
std::string copiesOnHill(SampleLoom& loom, const std::string& hill, const Json& points, const Json& settings) {
    Json where = points;
    where["where"] = {{"formula", "normal.y > 0.1"}};
    const std::string copies = loom.add("place_copies", settings, loom.add("scatter", where, hill));
    loom.link(loom.add("box", {{"size", {0.16, 0.1, 0.16}}}), copies, "shapes");
    return copies;
}

Geometry scatterSample(const std::string& op) {
    SampleLoom loom;
    const std::string hill = loom.add("geodesic_sphere", {{"radius", 0.7}, {"frequency", 10}});
    if (op == "scatter") return loom.result(dotted(loom, loom.add(op.c_str(), {{"mode", "spacing"}, {"spacing", 0.13}}, hill), hill));
    if (op == "points_from") {
        const std::string box = loom.add("box", {{"cells", {2, 2, 2}}});
        return loom.result(dotted(loom, loom.add(op.c_str(), {{"of", "face centres"}}, box), box));
    }
    if (op == "beads") {
        const std::string way = loom.add("resample", {{"count", 60}, {"form", "smooth"}}, loom.add("point_list", kWay));
        const std::string beads = loom.add(op.c_str(), {{"pattern", "A B"}, {"stretch_to_fit", true}}, way);
        loom.link(loom.add("box", {{"size", {0.22, 0.12, 0.12}}}), beads, "beads");
        loom.link(loom.add("sphere", {{"radius", 0.09}}), beads, "beads");
        return loom.result(beads);
    }
    const std::string copies = copiesOnHill(loom, hill, op == "thin_out" ? Json{{"count", 600}} : Json{{"mode", "spacing"}, {"spacing", 0.22}},
                                            {{"turn", {{"random", {{"range", {0, 360}}}}}}, {"align", op == "rest_on" ? "none" : "normal"}});
    std::string shown = copies;
    if (op == "place_copies") shown = copies;
    else if (op == "random_transform") shown = loom.add(op.c_str(), {{"move", {0.05, 0.05, 0.05}}, {"turn", {40, 180, 40}}, {"size", {0.4, 1.6}}}, copies);
    else if (op == "thin_out") shown = loom.add(op.c_str(), {{"by", "bounds"}}, copies);
    else if (op == "material") shown = loom.add(op.c_str(), {{"slots", kThree}}, copies);
    else if (op == "bake_copies")
        shown = loom.add("extrude", {{"of", "each face"}, {"distance", 0.03}, {"inset", 0.02}}, loom.add(op.c_str(), Json::object(), copies));
    if (op == "rest_on") {
        shown = loom.add(op.c_str(), {{"lean", 0.5}}, loom.add("transform", {{"move", {0, 0.8, 0}}}, copies));
        loom.link(hill, shown, "surface");
    }
    const std::string all = loom.add("merge", Json::object(), shown);
    loom.link(hill, all);
    return loom.result(all);
}

/// Settings that show an operator better than its defaults.
Json settingsFor(const std::string& op) {
    static const std::map<std::string, Json> settings{
        {"noise_displace", {{"amount", 0.25}, {"size", 0.6}}},
        {"transform", {{"rotate", {0, 25, 20}}, {"scale", {1, 1.4, 0.7}}}},
        {"subdivide", {{"levels", 2}}},
        {"resample", {{"count", 14}, {"form", "smooth"}}},
        {"extrude", {{"of", "each face"}, {"distance", 0.2}, {"inset", 0.06}}},
        {"bevel", {{"width", 0.14}, {"segments", 5}}},
        {"thicken", {{"thickness", 0.08}}},
        {"boolean", {{"form", "subtract"}}},
        {"sweep", {{"form", "tube"}, {"width", 0.16}, {"columns", 16}}},
        {"edge_rods", {{"radius", 0.035}, {"welded", true}}},
        {"round_corners", {{"radius", 0.3}, {"segments", 8}}},
        {"offset_curve", {{"form", "outline"}, {"distance", 0.1}}},
        {"cut_curve", {{"mode", "count"}, {"count", 5}, {"gap", 0.12}}},
        {"bend", {{"axis", "y"}, {"angle", 80}}},
        {"twist", {{"angle", 120}}},
        {"taper", {{"scale_end", 0.3}}},
        {"plane_cut", {{"normal", {0.4, -1, 0.3}}, {"origin", {0, 0.6, 0}}}},
        {"mirror", {{"offset", -0.6}}},
        {"simplify", {{"target", 120}}},
        {"remesh", {{"edge_length", 0.16}, {"iterations", 5}}},
        {"voxel_remesh", {{"voxel", 0.06}}},
        {"spread_points", {{"distance", 0.3}, {"rounds", 60}}},
        {"cage", {{"offsets", {{0, 0, 0}, {0, 0, 0}, {0.3, 0.3, 0}, {0, 0.6, 0}, {0, 0, 0}, {0, 0, 0}, {0, -0.2, 0.2}, {0, 0.2, 0}}}}},
        {"morph_to_sphere", {{"amount", 0.75}}},
        {"snap_to_surface", {{"form", "along direction"}}},
        {"separate", {{"by", "each face"}}},
        {"delete", {{"where", {{"formula", "position.x > 0.1 && position.y > 0.5"}}}}},
        {"feature_curves", {{"angle", 20}}},
        {"text", {{"text", "Gull"}}},
        {"drawn_curve", {{"strokes", {{{-0.6, 0, 0}, {-0.3, 0, -0.3}, {0, 0, 0.1}, {0.3, 0, -0.2}, {0.6, 0, 0.2}}}}}},
        {"spiral", {{"turns", 4}}},
        {"tag", {{"where", {{"formula", "position.y > 0.5"}}}}},
        {"colour", {{"attribute", "height"}}},
        {"uv_unwrap", {{"number_charts", true}, {"most_stretch", 1.08}}},
        {"flip", Json::object()},
        {"smooth", {{"iterations", 8}, {"amount", 0.8}}},
        {"fit", {{"size", {1.2, 0.5, 0.8}}}},
        {"repeat", {{"times", 4}}},
        {"profile_scale", {{"ramp", {{"knots", {{0, 1.2, "smooth"}, {0.5, 0.5, "smooth"}, {1, 1}}}}}}}};
    const auto it = settings.find(op);
    return it == settings.end() ? Json::object() : it->second;
}

std::string firstInput(SampleLoom& loom, const std::string& op, const OperatorSpec& spec) {
    if (op == "fill_curve") return loom.add("polygon", {{"sides", 7}});
    if (op == "round_corners" || op == "offset_curve" || op == "cut_curve" || op == "join_curves") return loom.add("point_list", kZigzag);
    if (op == "sweep" || op == "curve_directions" || op == "resample" || op == "smooth_curve") return loom.add("point_list", kWay);
    if (spec.takes == Takes::curves) return loom.add("point_list", kProfile);
    if (op == "simplify" || op == "remesh" || op == "dual" || op == "morph_to_sphere")
        return loom.add("geodesic_sphere", {{"radius", 0.6}, {"frequency", op == "dual" ? 4 : 10}});
    if (op == "bend" || op == "twist" || op == "taper" || op == "stretch_to_curve" || op == "profile_scale")
        return loom.add("box", {{"size", {op == "stretch_to_curve" ? 1.4 : 0.3, op == "stretch_to_curve" ? 0.2 : 1.4, 0.3}},
                                {"cells", {op == "stretch_to_curve" ? 24 : 3, op == "stretch_to_curve" ? 2 : 24, 3}}});
    if (op == "spread_points") return loom.add("grid", {{"size", {0.8, 0.8}}, {"cells", {8, 8}}});
    if (op == "fill_holes") return loom.add("cylinder", {{"top", false}, {"sides", 24}});
    if (op == "extrude" || op == "each_piece" || op == "edge_rods") return loom.add("box", {{"cells", {2, 2, 2}}});
    if (op == "bevel" || op == "subdivide" || op == "boolean" || op == "plane_cut" || op == "repeat") return loom.add("box");
    if (op == "snap_to_surface" || op == "drape_by_uv")
        return loom.add("transform", {{"move", {0, 1.2, 0}}}, loom.add("grid", {{"size", {1.4, 1.4}}, {"cells", {24, 24}}}));
    if (op == "uv_unwrap") return loom.add("torus");
    if (op == "colour") return loom.add("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, loom.add("sphere", {{"radius", 0.6}}));
    return loom.add("box", {{"cells", {3, 3, 3}}});
}

}  // namespace

Geometry operatorSample(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    if (!spec || op == "import_mesh" || op == "inner_input") return {};
    if (spec->family == Family::scatter || op == "material") return scatterSample(op);
    SampleLoom loom;
    const std::string input = spec->inputs.empty() ? std::string() : firstInput(loom, op, *spec);
    const std::string shown = loom.add(op.c_str(), settingsFor(op), input);
    if (op == "boolean")
        loom.link(loom.add("transform", {{"move", {0.4, 0.7, 0.4}}}, loom.add("geodesic_sphere", {{"radius", 0.55}, {"frequency", 8}})), shown, "cutters");
    if (op == "merge") loom.link(loom.add("transform", {{"move", {1.2, 0.5, 0}}}, loom.add("geodesic_sphere", {{"radius", 0.5}})), shown);
    if (op == "stretch_to_curve") loom.link(loom.add("resample", {{"count", 40}, {"form", "smooth"}}, loom.add("point_list", kWay)), shown, "curve");
    if (spec->input("target") && op != "fit") {
        const std::string hill = loom.add("geodesic_sphere", {{"radius", 0.7}, {"frequency", 12}});
        loom.link(op == "drape_by_uv" ? loom.add("uv_project", {{"form", "plane"}}, loom.add("grid", {{"size", {1.6, 1.6}}, {"cells", {10, 10}}})) : hill,
                  shown, "target");
    }
    if (spec->input("source")) loom.link(loom.add("sphere"), shown, "source");
    if (spec->input("from") && spec->inputs.size() > 1) loom.link(loom.add("point_list"), shown, "from");
    if (op == "uv_unwrap") return loom.result(loom.add("colour", {{"attribute", "chart"}}, shown));
    return loom.result(shown);
}

}  // namespace seedloom

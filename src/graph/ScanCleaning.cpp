#include "graph/ScanCleaning.h"

#include "graph/EditChain.h"

namespace seedloom {

namespace {

constexpr double kFinest = 0.5, kCoarsest = 8;  ///< times the edge length that is set: where the control ends

class Strand {
public:
    Strand(const Loom& loom, const Assets& assets, const std::string& node) : chain_(loom), assets_(assets), last_(node) {}

    void set(const std::string& node, const std::string& setting, const Json& value) { chain_.then(setSetting(chain_.loom(), node, setting, value, assets_)); }
    std::string then(const std::string& op, const std::map<std::string, Json>& settings) {
        std::string id;
        chain_.then(addNodeAfter(chain_.loom(), op, last_, &id));
        for (const auto& [setting, value] : settings) set(id, setting, value);
        return last_ = id;
    }
    EditChain& chain() { return chain_; }

private:
    EditChain chain_;
    const Assets& assets_;
    std::string last_;
};

Control lengthControl(double edge) {
    Control out;
    out.id = "edge_length";
    out.label = "Edge length";
    out.fallback = edge;
    out.min = kFinest * edge, out.max = kCoarsest * edge;
    out.unit = "m";
    out.help = "Of the even triangles that the scan is cleaned to.";
    return out;
}

}  // namespace

Edit scanCleaned(const Loom& loom, const Assets& assets, const std::string& node, const NoticeFix& fix, std::string* made) {
    if (!loom.node(node) || !fix.value.is_object()) return {};
    const double edge = fix.value.value("edge_length", 0.0);
    const std::string holes = fix.value.value("holes", "wrap");
    Strand strand(loom, assets, node);
    for (const auto& [setting, value] : fix.settings) strand.set(node, setting, value);
    std::string closed;
    if (holes == "wrap") closed = strand.then("voxel_remesh", {{"smooth", 2}, {"sign", fix.value.value("inside_by", "auto")}});
    if (holes == "patch") closed = strand.then("fill_holes", {{"form", "fan"}});
    const std::string even = strand.then("remesh", {{"edge_length", edge}, {"keep_edges_over", 180}});
    EditChain& chain = strand.chain();
    chain.then(makeControl(chain.loom(), {}, even, "edge_length", lengthControl(edge)));
    const Node* with = chain.loom().node(even);
    const std::string control = with && with->settings.contains("edge_length") ? with->settings.at("edge_length").value("control", "") : std::string();
    // Cells a little smaller than the triangles, so that those and not the cells say how fine it is.
    if (holes == "wrap") strand.set(closed, "voxel", {{"formula", "0.9 * ctl." + control}});
    const std::string snapped =
        strand.then("snap_to_surface",
                    {{"within", {{"formula", "2 * ctl." + control}}}, {"at_open_edges", "stay"}, {"same_side", true}, {"no_crossing", true}});
    chain.then(addLink(chain.loom(), {node, "", snapped, "target", Json::object()}, assets));
    const std::string mirrored = strand.then("mirror", {{"cut", true}});
    chain.then(setSkipped(chain.loom(), {mirrored}, true));
    if (made) *made = snapped;
    return chain.finish(fix.label);
}

}  // namespace seedloom

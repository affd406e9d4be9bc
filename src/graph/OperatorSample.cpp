#include "graph/OperatorSample.h"

#include "graph/NodeSpec.h"
#include "graph/Rebuild.h"
#include "operators/Catalogue.h"
#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

constexpr const char* kSampleFile = "sample.loom";

/// The steps of a sample as a graph.
class SampleGraph {
public:
    /// The node that the step became.
    std::string add(const SampleStep& step) {
        Node node;
        node.op = step.op;
        node.id = loom.freeNodeId(step.op);
        node.settings = step.settings;
        if (!step.inside.empty() && node.op == kAsset) takeAsset(step.inside.front(), node);
        else if (!step.inside.empty()) node.graph = containing(step.inside.front());
        const std::string id = node.id;
        loom.nodes.push_back(std::move(node));
        for (const SampleInput& input : step.inputs) {
            const std::string from = input.step.op.empty() ? whatComesIn_ : add(input.step);
            loom.links.push_back({from, "", id, input.port, Json::object()});
        }
        return id;
    }

    Loom loom;
    Assets assets;

private:
    static InnerGraph containing(const SampleStep& last) {
        SampleGraph inner;
        inner.loom = *newInnerGraph();
        inner.whatComesIn_ = inner.loom.nodes.front().id;
        inner.loom.links.clear();
        const std::string shown = inner.add(last);
        inner.loom.links.push_back({shown, "", inner.loom.output, "", Json::object()});
        return InnerGraph(std::move(inner.loom));
    }
    void takeAsset(const SampleStep& last, Node& node) {
        SampleGraph other;
        other.loom.output = other.add(sample::step("output", Json::object(), {last}));
        node.settings[kAsset] = kSampleFile;
        assets = std::make_shared<const AssetTable>(AssetTable{{{kSampleFile, Inside{std::make_shared<const Loom>(std::move(other.loom)), nullptr, {}}}}});
    }

    std::string whatComesIn_;  ///< the node of it, inside of a container
};

}  // namespace

Geometry operatorSample(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    if (!spec) return {};
    SampleGraph graph;
    const std::string shown = graph.add(sampleOf(*spec));
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(std::move(graph.loom));
    request.targets = {shown};
    request.assets = graph.assets;
    Memo memo(std::size_t(1) << 24);
    const RebuildResult made = rebuild(request, memo);
    const Geometry* geometry = made.geometry(shown);
    return geometry && !made.nodes.at(shown).outcome->failed ? *geometry : Geometry();
}

}  // namespace seedloom

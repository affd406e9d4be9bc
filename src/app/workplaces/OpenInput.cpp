#include "app/workplaces/OpenInput.h"

#include "geometry/Checkup.h"

#include <algorithm>

namespace seedloom::app {

namespace {

bool failedForOpenness(const NodeOutcome& outcome) {
    return outcome.failed &&
           std::any_of(outcome.notices.begin(), outcome.notices.end(), [](const Notice& n) { return n.code == "boolean.open" || n.code == "boolean.winding"; });
}

ElementMarks openEdges(const Geometry& geometry) {
    ElementMarks out;
    const EdgeTable& table = geometry.topology().edges();  // known already: the node that failed has looked at it
    for (std::size_t e = 0; e < table.edges.size() && out.edges.size() < kMostFindingRows; ++e)
        if (table.faceCount[e] % 2 != 0 || table.balance[e] != 0) out.edges.push_back({table.edges[e].a, table.edges[e].b});
    return out;
}

}  // namespace

std::optional<OpenInput> openInputOf(const Loom& loom, const std::string& node, const RebuildService& rebuilds) {
    const auto outcome = rebuilds.outcome(node);
    if (!outcome || !failedForOpenness(*outcome)) return {};
    for (const Link& link : loom.links) {
        const auto given = link.to == node ? rebuilds.outcome(link.from) : nullptr;
        if (!given) continue;
        OpenInput out{link.from, outputOf(loom, link), {}};
        out.marks = openEdges(given->output(out.output));
        if (!out.marks.empty()) return out;
    }
    return {};
}

}  // namespace seedloom::app

#pragma once
// Geometry and operators for measuring, without graph or memo around them.
#include "fields/Evaluate.h"
#include "graph/Rebuild.h"
#include "operators/Catalogue.h"
#include "operators/OperatorCall.h"

#include <sys/resource.h>

#include <cstdio>
#include <cstdlib>

namespace seedloom {

/// The most memory that the process has held so far, in MB: of one benchmark where it is run by itself.
inline double peakMegabytes() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return double(usage.ru_maxrss) / 1024;
}

inline Geometry built(const char* op, Json settings) {
    Loom loom;
    Node node;
    node.id = "n";
    node.op = op;
    node.settings = std::move(settings);
    loom.nodes.push_back(std::move(node));
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(std::move(loom));
    Memo memo;
    return *rebuild(request, memo).geometry("n");
}

/// One operator on its own, without graph or memo.
inline Geometry runAlone(const char* op, const Json& settings, std::vector<Geometry> in) {
    const auto spec = operatorFor(op, settings);
    OperatorInput input;
    input.ports.resize(spec->inputs.size());
    if (!input.ports.empty()) input.ports[0] = std::move(in);
    const auto sources = std::make_shared<SettingSources>();
    for (const SettingSpec& s : spec->settings) sources->emplace(s.id, *sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback));
    input.settings = sources;
    const OperatorOutcome out = runOperator(*spec, input, RunContext());
    // What failed is quick, and no measure of anything.
    if (out.failed) std::fprintf(stderr, "%s: %s\n", op, out.notices.empty() ? "failed" : out.notices.back().text.c_str()), std::abort();
    return out.geometry;
}

inline Geometry gridOf(int cells) { return built("grid", {{"cells", {cells, cells}}}); }

inline Geometry ballOf(std::size_t points) {
    const int rings = int(std::sqrt(double(points) / 2));
    return runAlone("sphere", {{"sides", rings * 2}, {"rings", rings}}, {});
}

}  // namespace seedloom

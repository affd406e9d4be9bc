#include "support/Run.h"

namespace seedloom::test {

OperatorInput inputFor(const OperatorSpec& spec, const Json& settings, std::vector<Geometry> in) {
    OperatorInput input;
    input.ports.resize(spec.inputs.size());
    if (!input.ports.empty()) input.ports[0] = std::move(in);
    const auto sources = std::make_shared<SettingSources>();
    for (const SettingSpec& s : spec.settings) {
        auto source = sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback);
        sources->emplace(s.id, source ? *source : Source(FixedSource{nullptr}));
    }
    for (const auto& [id, value] : settings.items())
        if (!spec.setting(id)) QTest::qFail(("no setting '" + id + "' in " + spec.id).c_str(), __FILE__, __LINE__);
    input.settings = sources;
    return input;
}

OperatorOutcome runOp(const char* op, const Json& settings, std::vector<Geometry> in, Limits limits) {
    const auto spec = operatorFor(op, settings);
    const OperatorInput input = inputFor(*spec, settings, std::move(in));
    return runOperator(*spec, input, RunContext(nullptr, limits));
}

Geometry made(const char* op, const Json& settings, std::vector<Geometry> in) {
    OperatorOutcome out = runOp(op, settings, std::move(in));
    if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
    return out.geometry;
}

std::string lastCode(const OperatorOutcome& out) { return out.notices.empty() ? std::string() : out.notices.back().code; }

OperatorOutcome runPorts(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings, Limits limits) {
    const auto spec = operatorFor(op, settings);
    OperatorInput input = inputFor(*spec, settings, {});
    ports.resize(spec->inputs.size());
    input.ports = std::move(ports);
    return runOperator(*spec, input, RunContext(nullptr, limits));
}

Geometry madeOf(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings) {
    OperatorOutcome out = runPorts(op, std::move(ports), settings);
    if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
    return out.geometry;
}

RebuildRequest requestOf(const Loom& loom, double frame, FrameCache& frames) {
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(loom);
    request.frame = frame;
    request.time = frame * request.secondsPerFrame;
    request.frames = &frames;
    return request;
}

long euler(const Geometry& g) { return long(g.pointCount()) - long(g.topology().edges().edges.size()) + long(g.faceCount()); }

}  // namespace seedloom::test

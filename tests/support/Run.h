#pragma once
// Runs single operators in tests.
#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "graph/Rebuild.h"
#include "operators/Catalogue.h"
#include "operators/OperatorCall.h"

#include <QtTest/QtTest>

namespace seedloom::test {

inline OperatorInput inputFor(const OperatorSpec& spec, const Json& settings, std::vector<Geometry> in) {
    OperatorInput input;
    input.ports.resize(spec.inputs.size());
    if (!input.ports.empty()) input.ports[0] = std::move(in);
    const auto sources = std::make_shared<SettingSources>();
    for (const SettingSpec& s : spec.settings) {
        auto source = sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback);
        sources->emplace(s.id, source ? *source : Source(FixedSource{nullptr}));
    }
    input.settings = sources;
    return input;
}

inline OperatorOutcome runOp(const char* op, const Json& settings = Json::object(), std::vector<Geometry> in = {}, Limits limits = {}) {
    const auto spec = operatorFor(op, settings);
    const OperatorInput input = inputFor(*spec, settings, std::move(in));
    return runOperator(*spec, input, RunContext(nullptr, limits));
}

/// The geometry; fails the test where the operator failed.
inline Geometry made(const char* op, const Json& settings = Json::object(), std::vector<Geometry> in = {}) {
    OperatorOutcome out = runOp(op, settings, std::move(in));
    if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
    return out.geometry;
}

inline std::string lastCode(const OperatorOutcome& out) { return out.notices.empty() ? std::string() : out.notices.back().code; }

/// The same for operators with several inputs, each with what is linked to it.
inline OperatorOutcome runPorts(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings = Json::object(), Limits limits = {}) {
    const auto spec = operatorFor(op, settings);
    OperatorInput input = inputFor(*spec, settings, {});
    ports.resize(spec->inputs.size());
    input.ports = std::move(ports);
    return runOperator(*spec, input, RunContext(nullptr, limits));
}

inline Geometry madeOf(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings = Json::object()) {
    OperatorOutcome out = runPorts(op, std::move(ports), settings);
    if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
    return out.geometry;
}

/// points − edges + faces.
inline long euler(const Geometry& g) { return long(g.pointCount()) - long(g.topology().edges().edges.size()) + long(g.faceCount()); }

inline bool near(double a, double b, double tolerance) { return std::abs(a - b) <= tolerance; }

}  // namespace seedloom::test

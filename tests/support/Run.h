#pragma once
// Runs single operators in tests.
#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "graph/Rebuild.h"
#include "operators/Catalogue.h"
#include "operators/OperatorCall.h"

#include <QtTest/QtTest>

namespace seedloom::test {

OperatorInput inputFor(const OperatorSpec& spec, const Json& settings, std::vector<Geometry> in);
OperatorOutcome runOp(const char* op, const Json& settings = Json::object(), std::vector<Geometry> in = {}, Limits limits = {});
/// The geometry; fails the test where the operator failed.
Geometry made(const char* op, const Json& settings = Json::object(), std::vector<Geometry> in = {});
/// The code of the last notice; empty where there is none.
std::string lastCode(const OperatorOutcome& out);

/// The same for operators with several inputs, each with what is linked to it.
OperatorOutcome runPorts(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings = Json::object(), Limits limits = {});
Geometry madeOf(const char* op, std::vector<std::vector<Geometry>> ports, const Json& settings = Json::object());

/// For a frame of a loom, with frames kept there.
RebuildRequest requestOf(const Loom& loom, double frame, FrameCache& frames);

/// points − edges + faces.
long euler(const Geometry& g);

inline bool near(double a, double b, double tolerance) { return std::abs(a - b) <= tolerance; }

}  // namespace seedloom::test

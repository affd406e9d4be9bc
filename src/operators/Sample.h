#pragma once
// The sample of a declaration: a small model that shows what the operator does. It is data, so that a declaration needs no graph.
#include "fields/Source.h"

#include <string>
#include <vector>

namespace seedloom {

struct SampleInput;

/// One step of a sample, and what goes into it.
struct SampleStep {
    std::string op;  ///< its kind; empty, inside of a container: what comes into that
    Json settings = Json::object();
    std::vector<SampleInput> inputs;
    std::vector<SampleStep> inside;  ///< of a container: one step, which ends the chain of those that it holds
};

struct SampleInput {
    std::string port;  ///< empty: the first
    SampleStep step;
};

/// Steps that samples share.
namespace sample {

/// A step whose first port is fed by `from`.
SampleStep step(std::string op, Json settings = Json::object(), std::vector<SampleStep> from = {});
/// `step` with one more input.
SampleStep plugged(SampleStep step, std::string port, SampleStep from);
/// A container around `inside`, with `from` at its first port.
SampleStep around(std::string op, Json settings, SampleStep inside, SampleStep from);
/// Inside of a container: what comes into it.
SampleStep part();

SampleStep box();
/// A box of 3 × 3 × 3 cells.
SampleStep cells();
/// Tall, of many cells, for what bends it.
SampleStep column();
SampleStep ball(double radius = 0.6, int frequency = 10);
/// A ball that small things stand on.
SampleStep hill();
/// A flat sheet over the ground.
SampleStep sheetAbove();
SampleStep profile();
SampleStep way();
SampleStep zigzag();
/// The way as a smooth curve of so many points.
SampleStep smoothWay(int count);

/// Both as one model.
SampleStep merged(SampleStep a, SampleStep b);
/// Points as small balls, on what they lie on.
SampleStep dotted(SampleStep points, SampleStep ground);
/// Small boxes on the hill: `points` says how they are scattered, `settings` how they stand.
SampleStep boxesOnHill(Json points, Json settings = {{"turn", {{"random", {{"range", {0, 360}}}}}}, {"align", "normal"}});

}  // namespace sample

}  // namespace seedloom

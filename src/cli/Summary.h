#pragma once
// What the command line tells about a geometry.
#include "fields/Source.h"
#include "geometry/Checkup.h"
#include "graph/Rebuild.h"

namespace seedloom {

/// Counts, bounds, attributes, checkup and digest as in the contract (docs/command-line.md). Counts are of the baked geometry.
/// Figures whose cost grows faster than the geometry (faces that cross, overlaps of copies) are null where they would take long, and `not_counted` names
/// them, unless `everything` is asked for. Throws Cancelled.
Json summaryOf(const Geometry& geometry, bool everything, const RunContext& run);
Json noticesJson(const std::vector<Notice>& notices);
/// The same for people, several lines.
std::string summaryText(const Json& summary);
/// What keeps a checkup from being a closed, sound solid, in plain words; empty where nothing does.
std::vector<std::string> soundnessFindings(const Json& checkup);

Json operatorsJson(std::string_view onlyId);
std::string operatorsText(std::string_view onlyId);

}  // namespace seedloom

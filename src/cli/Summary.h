#pragma once
// What the command line tells about a geometry.
#include "fields/Source.h"
#include "geometry/Checkup.h"
#include "graph/Rebuild.h"

namespace seedloom {

/// Counts, bounds, attributes, checkup and digest as in the contract (docs/command-line.md). Counts are of the baked geometry.
Json summaryOf(const Geometry& geometry);
Json noticesJson(const std::vector<Notice>& notices);
/// The same for people, several lines.
std::string summaryText(const Json& summary);
/// What keeps a checkup from being a closed, sound solid, in plain words; empty where nothing does.
std::vector<std::string> soundnessFindings(const Json& checkup);

Json operatorsJson(std::string_view onlyId);
std::string operatorsText(std::string_view onlyId);

}  // namespace seedloom

#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// For each point the share of the directions above its surface that are free, 0–1: rays in a pattern that favours the normal as
/// light does (cosine), turned by another angle at each point. Faces farther than `reach` metres do not count (0: any distance).
/// `rays` is 1–4096. Points without faces get 1.
std::vector<float> opennessOf(const Geometry& geometry, int rays, double reach, const RunContext& run);

/// How far it is from each point straight inwards to the next face, in metres; 0 where there is none.
std::vector<float> pointThickness(const Geometry& geometry, const RunContext& run);

}  // namespace seedloom

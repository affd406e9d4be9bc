#pragma once
// The operators that hold a graph of their own. They are declared here; graph/Container.cpp runs what is inside.
#include "operators/OperatorCall.h"

namespace seedloom {

inline constexpr const char* kEachPiece = "each_piece";
inline constexpr const char* kRepeat = "repeat";
inline constexpr const char* kTimeStep = "time_step";
inline constexpr const char* kNest = "nest";
inline constexpr const char* kAsset = "asset";
inline constexpr const char* kInnerInput = "inner_input";
inline constexpr const char* kInputGeometry = "input_geometry";

/// How each_piece takes a geometry apart.
struct Parts {
    std::vector<Geometry> parts;
    Geometry rest;  ///< what belongs to no part and goes through as it is
};

/// The parts by the settings `by`, `tag` and `where` of the call, in the order of their first elements. Fails as an operator does.
Parts partsOf(OperatorCall& call);
/// Puts parts together again: each face without a number gets the number of its part as `piece`; points are welded where the settings say so.
Geometry joinedParts(const OperatorCall& call, std::vector<Geometry> parts, const Geometry& rest);

}  // namespace seedloom

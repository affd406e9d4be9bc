#pragma once
// Looking through variations by what they are like.
#include "vary/VaryRow.h"

namespace seedloom {

/// What the words of a condition stand for: faces, triangles, points, size_x, size_y, size_z, volume, closed, ok, ms, n, and numbers of controls by their id.
/// A control that has one of those names hides it.
std::map<std::string, double> factsOf(const VaryRow& row);
/// One of them; nothing for an unknown word.
std::optional<double> factOf(const VaryRow& row, const std::string& word);

/// Whether a formula over factsOf() holds, such as `faces < 20000 && closed`; controls can be read as ctl.ID as well. Errors: those of conditionHolds().
Result<bool> rowMeets(const std::string& condition, const VaryRow& row);

/// The places of the rows in the order of a fact, rows that are missing last; equal ones stay as they were. An unknown word changes nothing.
std::vector<std::size_t> orderedBy(const std::string& word, bool largestFirst, const std::vector<const VaryRow*>& rows);

}  // namespace seedloom

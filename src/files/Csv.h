#pragma once
// Comma-separated values (RFC 4180).
#include "geometry/Result.h"

#include <string>
#include <vector>

namespace seedloom {

/// Rows with their quotes undone; empty lines are left out. Error `csv.quote` for a quote that is not closed, with its line.
Result<std::vector<std::vector<std::string>>> csvRows(const std::string& text);
/// A cell as it must be written.
std::string csvCell(const std::string& text);

}  // namespace seedloom

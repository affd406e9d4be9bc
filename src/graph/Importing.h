#pragma once
#include "graph/Loom.h"

namespace seedloom {

/// A new loom that imports mesh files, named after the first: a node for each, merged where there are several, and an output.
Loom loomImporting(const std::vector<std::string>& files);

}  // namespace seedloom

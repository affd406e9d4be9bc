#pragma once
// Paths in a loom that start from its folder.
#include "graph/Loom.h"

#include <filesystem>

namespace seedloom {

/// The loom as it must be written in folder `to` so that its files are found where they were found from `from`: relative paths in settings of the type
/// file, those inside of containers included. Absolute paths stay. Both folders must be absolute.
Loom withPathsMoved(Loom loom, const std::filesystem::path& from, const std::filesystem::path& to);

}  // namespace seedloom

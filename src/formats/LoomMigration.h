#pragma once
#include "fields/Source.h"
#include "geometry/Result.h"

#include <optional>

namespace seedloom {

/// Brings a document of an older format up to the newest, one step a format. A later format is an error (`loom.version`).
std::optional<Error> migrateLoom(Json& document);

}  // namespace seedloom

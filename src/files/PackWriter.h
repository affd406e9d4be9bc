#pragma once
#include "geometry/Result.h"

#include <map>
#include <string>

namespace seedloom {

/// The bytes of a pack with these files, by their paths inside of it: a zip file (PKWARE APPNOTE 6.3; library: libzip). The same files give the same
/// bytes, whenever they are packed. Error `pack.write` says what the library said.
Result<std::string> packedBytes(const std::map<std::string, std::string>& files);

}  // namespace seedloom

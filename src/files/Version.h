#pragma once

namespace seedloom {

/// Of the program; that of the project in CMakeLists.txt.
inline constexpr const char* kVersion = "0.1.0";

}  // namespace seedloom

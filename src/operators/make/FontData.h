#pragma once
#include <string_view>

namespace seedloom {

/// The bytes of a shipped font file: regular, medium, semibold, bold (Inter), mono (JetBrains Mono); regular for any other name. Both are under the
/// SIL Open Font License (see resources/licences).
std::string_view fontBytes(std::string_view name);

}  // namespace seedloom

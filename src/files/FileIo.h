#pragma once
// Reading whole files, and writing them so that a failure leaves the old file as it was.
#include "geometry/Result.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace seedloom {

/// The most that is read of one file.
inline constexpr std::size_t kMostFileBytes = std::size_t(4) << 30;

/// The bytes of a file; errors `file.read`. Larger than `most` bytes is an error, too.
Result<std::string> readFile(const std::filesystem::path& path, std::size_t most = kMostFileBytes);
/// What is said of a file of more than `most` bytes.
Error tooLarge(const std::filesystem::path& path, std::size_t most);

/// Writes beside the file, flushes to disk, then renames over it. With `keepLast`, what was there is kept as "NAME~".
/// Errors `file.write` say what the system said.
std::optional<Error> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes, bool keepLast = false);

}  // namespace seedloom

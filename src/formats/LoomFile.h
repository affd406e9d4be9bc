#pragma once
// Reading and writing `.loom` documents.
#include "files/FileSource.h"
#include "graph/Assets.h"

#include <filesystem>

namespace seedloom {

inline constexpr int kLoomFormat = 1;

/// Reads a document; errors name line and column, or the place inside (code `loom.syntax`, `loom.structure`, `loom.version`).
/// Links to nowhere, unknown operators and rings are no errors here: such documents open and show what is wrong.
Result<Loom> loomFromText(std::string_view text);
/// The same document always gives the same text; one setting a line.
std::string loomToText(const Loom& loom);

Result<Loom> readLoom(const std::filesystem::path& path, const FileSource& files = *diskFiles());
/// Atomic; keeps the last good copy as "NAME~".
std::optional<Error> writeLoom(const Loom& loom, const std::filesystem::path& path);

struct LoomProblem {
    std::string node;  ///< may be empty
    std::string code, text;
};
/// What would keep the document from building: unknown operators, settings, controls and choices, links to nowhere, rings.
/// What its asset nodes stand for is looked up in `assets`.
std::vector<LoomProblem> loomProblems(const Loom& loom, const Assets& assets);
/// The loom as it is to be written: its asset nodes note the name and version of what they stand for, for readers and for telling what changed since.
Loom withAssetsNoted(Loom loom, const Assets& assets);

}  // namespace seedloom

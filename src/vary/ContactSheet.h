#pragma once
// All variations of a run on one page.
#include "render/Picture.h"
#include "vary/VaryFolder.h"

namespace seedloom {

inline constexpr std::size_t kMostOnSheet = 400;

/// The small pictures with what differs between them, eight in a row; the first kMostOnSheet, and it says how many more there are.
Picture contactPicture(const Loom& loom, const VaryFolder& folder, const std::vector<VaryRow>& rows);
/// A page for a browser with all of them, for light and dark screens; it shows the pictures that lie in the folder.
std::string contactHtml(const Loom& loom, const std::vector<VaryRow>& rows);

/// Writes index.csv, contact.html and contact.png of these rows into the folder. Errors `file.write`.
std::optional<Error> writeSummaries(const Loom& loom, const VaryFolder& folder, const std::vector<VaryRow>& rows);

/// "1.27 m · seed 441": the values of those controls that are not the same in all rows.
std::string differingText(const Loom& loom, const std::vector<VaryRow>& rows, const VaryRow& row);

}  // namespace seedloom

#pragma once
#include "graph/Edit.h"

namespace seedloom {

/// How hard a layout is to read: threads that run over cards, threads that cross, and how far they run up and down.
struct TidyCost {
    std::size_t overCards = 0, crossings = 0, climbed = 0;
};
/// Counted on the threads as the weave draws them: level in the row of their start, upright in the gap before their end.
TidyCost tidyCost(const Loom& loom);

/// Lays all nodes out: columns by how far they are from the end of their strand's feed, strands in rows with the fewest crossings that a
/// local search finds. Strands keep their order where nothing is gained by changing it, so a small change of the graph moves little;
/// laying out what is laid out changes nothing. Threads over seven columns or more that end in another row are cut into named ends; none is joined. Notes move
/// with the node that stood nearest. Method: longest-path layering and repeated re-insertion of strands, after Sugiyama et al. (1981). Cost: O(rounds · strands
/// · links²) for the search, which is kept to small steps above 200 links.
Edit tidy(const Loom& loom);

}  // namespace seedloom

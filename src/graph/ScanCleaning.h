#pragma once
#include "graph/Edit.h"
#include "operators/Notice.h"

namespace seedloom {

/// A node that imports a scan made clean, as one step: its settings as `fix` says, and behind it a strand of nodes that closes the holes, covers all with even
/// triangles, puts them back onto the scan, and (skipped, for who wants it) mirrors one half. How long edges are is a control. The last node of
/// the strand that is not skipped is returned through `made`. `fix.value`: see cleanFix.
Edit scanCleaned(const Loom& loom, const Assets& assets, const std::string& node, const NoticeFix& fix, std::string* made);

}  // namespace seedloom

#pragma once
// The changes that notices offer, as edits.
#include "graph/Edit.h"
#include "operators/Notice.h"

namespace seedloom {

/// What a fix does to a node, as one step. A node that it adds or inserts is returned through `made`. Empty where it does not fit any more, and for fixes
/// that only show or ask something.
Edit fixed(const Loom& loom, const Assets& assets, const std::string& node, const NoticeFix& fix, std::string* made);

/// Whose elements a fix shows that only shows some.
std::string nodeShownBy(const Loom& loom, const std::string& node, const NoticeFix& fix);

}  // namespace seedloom

#pragma once
// Where an attribute comes from: which nodes on the way made it or changed it.
#include "graph/Loom.h"
#include "graph/Memo.h"

#include <functional>

namespace seedloom {

enum class OriginKind : unsigned char {
    made,     ///< nothing that came in had it
    changed,  ///< it came in with other values
    spread,   ///< taken along to new or fewer elements
};

struct Origin {
    std::string node;
    OriginKind kind;
    bool operator==(const Origin&) const = default;
};

/// The nodes that made, changed or spread `attribute` of `node`'s result, in the loom's order of nodes. `outcomeOf` gives results as
/// they are now; nodes without one are left out. Of several inputs the first that has the attribute counts as where it comes from.
/// Cost: O(nodes upstream + bytes of the columns that are not shared).
std::vector<Origin> originsOf(const Loom& loom, const std::string& node, const std::string& attribute,
                              const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf);

/// The nodes that made or changed (moved) one point or face of `node`'s result, from the node that made it on, in the loom's order of
/// nodes. Elements are followed upstream as differences match them (geometry/Difference); a node whose inputs lack the element made it.
/// Nothing for other kinds of elements, and for rows that do not exist. Cost: O(points + corners) for each node on the way.
std::vector<Origin> elementOriginsOf(const Loom& loom, const std::string& node, Element element, Index row,
                                     const std::function<std::shared_ptr<const NodeOutcome>(const std::string&)>& outcomeOf);

}  // namespace seedloom

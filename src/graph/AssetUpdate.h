#pragma once
// What asset nodes stand for, and having them stand for another version: what changes in what they ask for, and what of their values can be kept.
#include "graph/Edit.h"

namespace seedloom {

/// One asset node of a document, wherever it stands.
struct AssetUse {
    std::vector<std::string> path;  ///< of containers around
    std::string node;
    std::string file;  ///< as written in its settings
    std::string name, version;
    bool operator==(const AssetUse&) const = default;
};
/// In the order of nodes; those inside of assets are not the document's. Name and version are those that its file tells; where that can't be read, those
/// that the document was saved with.
std::vector<AssetUse> assetUses(const Loom& loom, const Assets& assets);

/// How what an asset asks for differs between two versions of it.
struct ControlDifference {
    enum class Kind : unsigned char { added, removed, changed };
    Kind kind = Kind::changed;
    std::string label;
    std::vector<std::string> texts;  ///< what is another, as "Default: 0.9 → 1.1"
    bool operator==(const ControlDifference&) const = default;
};
/// Of controls and inputs, in the order of the newer one, what was removed last. A control is the same where its id is.
std::vector<ControlDifference> controlDifferences(const Loom& before, const Loom& after);

/// A value that a node can't keep as it is.
struct LostValue {
    std::string node, label, text;  ///< text: what becomes of it
};

/// These nodes stand for what `file` (as it is to be written) holds. Values of controls stay, are fitted to what they take now, or go; threads into inputs
/// that are no more go. One step to undo; its label names the asset. `lost` is given what could not stay as it was.
Edit updateAssets(const Loom& loom, const std::vector<AssetUse>& uses, const std::string& file, const Loom& asset, const Assets& assets,
                  std::vector<LostValue>* lost = nullptr);

}  // namespace seedloom

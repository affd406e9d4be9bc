#pragma once
// The looms that asset nodes stand for. They lie in files of their own, so no document holds them: whoever needs one looks it up here, and
// history, journal and comparison see only what a person edited.
#include "files/FileSource.h"
#include "geometry/Digest.h"
#include "graph/Loom.h"

#include <map>
#include <memory>
#include <string>

namespace seedloom {

struct AssetTable;
/// A snapshot of all assets of one document; null where it has none. The same pointer means that nothing changed.
using Assets = std::shared_ptr<const AssetTable>;

/// The graph that a node stands for, with the assets that this graph uses in turn.
struct Inside {
    std::shared_ptr<const Loom> loom;  ///< null where there is none
    Assets assets;
    std::string problem;  ///< why an asset's loom can't be had
    Files files;          ///< where its files come from, if not from where the document's do: the pack that it is in
    Digest filesDigest;   ///< of what is in that pack
    explicit operator bool() const { return loom != nullptr; }
    const Loom* operator->() const { return loom.get(); }
};

/// By the path as it is written in the asset node's settings: all nodes of a document start from one folder.
struct AssetTable {
    std::map<std::string, Inside> byFile;
};

/// A container's own graph, or an asset's loom; nothing for all other nodes.
Inside insideOf(const Node& node, const Assets& assets);

}  // namespace seedloom

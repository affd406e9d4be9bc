#pragma once
// What a node declares: its operator's declaration, and for a container the ports and settings that its inner graph adds.
#include "graph/Assets.h"
#include "operators/Catalogue.h"

namespace seedloom {

/// True for each_piece, repeat, time_step, nest and asset.
bool isContainer(std::string_view op);
/// True where the graph inside belongs to this document, and can be looked into and edited: a container, but no asset.
bool canBeEntered(const Node& node);
/// nullptr for an unknown operator. A container has an input for each inner input (in the order of their first use, those that it always has first),
/// and a setting for each control of its inner graph;
/// an asset, which is looked up in `assets`, has an input for each `input_geometry` of its loom, those inside of its containers included.
std::shared_ptr<const OperatorSpec> specOf(const Node& node, const Assets& assets);
/// The port that an inner input stands for: its setting `name`, `in` where that is empty.
std::string innerPortOf(const Node& innerInput);
/// The path that an asset's settings name, from the folder of its loom on; empty where they name none.
std::string assetFileOf(const Json& settings);
/// What an input geometry is called: its setting `name`, else that setting's default.
std::string pluggedNameOf(const Node& inputGeometry);
/// The names of the geometry that an asset of this loom asks for, those asked for in its nests as well; each once, in the order of nodes.
std::vector<std::string> pluggedNamesIn(const Loom& loom);
/// What a new container holds: an input that goes straight to the output.
InnerGraph newInnerGraph();

}  // namespace seedloom

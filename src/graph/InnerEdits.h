#pragma once
// Edits inside of containers, and folding nodes into nests.
#include "graph/Edit.h"

namespace seedloom {

/// The loom inside the containers of `path`, from the outside in; the root where the path is empty. nullptr where there is no such container.
const Loom* loomAt(const Loom& root, const std::vector<std::string>& path);
/// As much of the path as leads into containers.
std::vector<std::string> validPath(const Loom& root, std::vector<std::string> path);

/// An edit of the loom at `path` as an edit of the root, with the same label. Empty where it does not fit.
Edit lifted(const Loom& root, const std::vector<std::string>& path, const Edit& inner);

/// Why nodes can't be folded, or nothing: an output among them, more than one result that leaves them, or a way out of them and in again.
std::optional<Error> foldProblem(const Loom& loom, const std::vector<std::string>& nodes);
/// Puts the nodes into a nest in the place of the leftmost; what comes in from outside becomes its inputs. The result stays the same to the bit.
/// Empty where foldProblem() says so.
Edit foldIntoNest(const Loom& loom, const std::vector<std::string>& nodes, std::string* id);
/// Why a node can't be unfolded, or nothing: it is no nest, or a setting of it takes its value from attributes, which is one value for a nest but would
/// be one for each element where it is read.
std::optional<Error> unfoldProblem(const Loom& loom, const std::string& nest);
/// Puts the nodes and notes of a nest in its place, each setting of the nest written where it was read; a skipped nest gives skipped nodes. The ids of the
/// nodes are returned. Empty where unfoldProblem() says so.
Edit unfoldNest(const Loom& loom, const std::string& nest, std::vector<std::string>* ids);

}  // namespace seedloom

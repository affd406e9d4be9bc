#pragma once
// What is told of a node while a graph runs.
#include "fields/Evaluate.h"
#include "graph/Memo.h"

#include <atomic>

namespace seedloom {

enum class NodeState : unsigned char { waiting, rebuilding, fresh, failed, skipped };
std::string_view stateName(NodeState state);

struct NodeReport {
    NodeState state = NodeState::waiting;
    std::shared_ptr<const NodeOutcome> outcome;  ///< set when done
    StepKey key;
    double ms = 0;  ///< spent now; 0 where it came from the memo
    bool remembered = false;
    std::shared_ptr<const std::atomic<float>> progress;  ///< 0–1 while it is rebuilt and says so; 0 where it does not
    std::vector<std::uint8_t> frames;                    ///< of a step with state: for each frame up to the last one asked for, whether it is kept
    int keeps = -1;                                      ///< the one that is its result, whatever the frame is all around; below 0: none is
    std::shared_ptr<const SurroundingWords> words;       ///< inside of containers: what they give to formulas
};

/// A container that is looked into, from the outside in, and which of its parts (or turns) at each level; those that do not exist mean the last.
struct Watch {
    std::vector<std::string> path;
    std::vector<int> parts;
    bool operator==(const Watch&) const = default;
};

}  // namespace seedloom

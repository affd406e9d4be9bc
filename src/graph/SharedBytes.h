#pragma once
// Counts the memory of results of which many share their parts: each part once, for as long as one of them uses it.
#include "graph/NodeOutcome.h"

#include <unordered_map>

namespace seedloom {

/// The parts of one result, each address once, and what it holds that nothing shares.
struct HeldParts {
    std::vector<std::pair<const void*, std::size_t>> parts;
    std::size_t own = 0;
    std::size_t whole() const;
};
HeldParts partsOf(const NodeOutcome& outcome);

/// Not thread-safe.
class SharedBytes {
public:
    void add(const HeldParts& held);
    void remove(const HeldParts& held);
    std::size_t bytes() const { return bytes_; }

private:
    struct Part {
        std::size_t bytes, users;
    };
    std::unordered_map<const void*, Part> parts_;
    std::size_t bytes_ = 0;
};

}  // namespace seedloom

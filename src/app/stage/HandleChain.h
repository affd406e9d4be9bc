#pragma once
#include <cstddef>

namespace seedloom::app {

/// Handles in a row that are the points of a line: others can be put in between, and taken out.
struct HandleChain {
    std::size_t first = 0, count = 0;
    bool closed = false;  ///< the last goes on to the first
    std::size_t sides() const { return count < 2 ? 0 : count - (closed && count > 2 ? 0 : 1); }
};

}  // namespace seedloom::app

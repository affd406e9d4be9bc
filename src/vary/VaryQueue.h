#pragma once
// Which variation is made next: what somebody looks at first, then what lies nearest to that.
#include <cstddef>
#include <mutex>
#include <optional>
#include <set>
#include <vector>

namespace seedloom {

/// Thread-safe.
class VaryQueue {
public:
    /// Nothing waits but these.
    void fill(const std::vector<std::size_t>& waiting);
    /// What is looked at, most wanted first.
    void look(std::vector<std::size_t> seen);
    std::optional<std::size_t> take();

private:
    std::mutex mutex_;
    std::set<std::size_t> waiting_;
    std::vector<std::size_t> seen_;
};

}  // namespace seedloom

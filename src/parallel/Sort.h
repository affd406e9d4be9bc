#pragma once
#include "parallel/Loops.h"

#include <vector>

namespace seedloom {

/// Sorts by <, which must tell every two items apart: then the order is the same for any number of threads. Method: parts sorted by themselves, then merged
/// two by two. Cost: O(n log n), and room for the list once more.
template <class T> void sortInParallel(std::vector<T>& list, const RunContext& run) {
    constexpr std::size_t kPart = 32768;
    const std::size_t parts = chunkCount(list.size(), kPart), size = detail::sizeOfChunk(kPart);
    const auto at = [&](std::vector<T>& in, std::size_t part) { return in.begin() + std::ptrdiff_t(std::min(part * size, list.size())); };
    forEach(
        parts, run, [&](std::size_t p) { std::sort(at(list, p), at(list, p + 1)); }, 1);
    if (parts < 2) return;
    std::vector<T> merged(list.size());
    for (std::size_t width = 1; width < parts; width *= 2) {
        forEach((parts + 2 * width - 1) / (2 * width), run,
                [&](std::size_t i) {
                    const std::size_t first = 2 * width * i;
                    std::merge(at(list, first), at(list, first + width), at(list, first + width), at(list, first + 2 * width), at(merged, first));
                },
                1);
        list.swap(merged);
    }
}

}  // namespace seedloom

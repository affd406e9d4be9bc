#pragma once
// Values that move towards those beside them.
#include "geometry/Topology.h"
#include "parallel/Loops.h"

#include <vector>

namespace seedloom {

/// Each round takes half of the own value and half of the mean of those beside it: it settles and never swings (umbrella operator, as in Taubin, SIGGRAPH 1995,
/// on values instead of places). `seen(other, own)` is what counts of one beside; `settle(i, own, mixed)` what the value becomes. Values with nothing beside
/// them stay. Throws Cancelled.
template <class T, class Seen, class Settle>
void blur(std::vector<T>& values, const Rows& beside, int rounds, const RunContext& run, Seen&& seen, Settle&& settle) {
    std::vector<T> next(values.size());
    for (int r = 0; r < rounds; ++r) {
        forEach(values.size(), run, [&](std::size_t i) {
            const auto around = beside[i];
            next[i] = values[i];
            if (around.empty()) return;
            T sum{};
            for (const Index j : around) sum = sum + seen(values[j], values[i]);
            next[i] = settle(i, values[i], values[i] * 0.5f + sum * (0.5f / float(around.size())));
        });
        values.swap(next);
    }
}

}  // namespace seedloom

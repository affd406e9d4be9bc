#include "operators/curve/Chains.h"

namespace seedloom {

std::vector<Chain> chainsOf(const std::vector<std::array<Index, 2>>& stretches, std::size_t points) {
    std::vector<Index> start(points + 1, 0);
    for (const auto& s : stretches)
        for (Index p : s) ++start[p + 1];
    for (std::size_t p = 0; p < points; ++p) start[p + 1] += start[p];
    std::vector<Index> at(start.begin(), start.end() - 1), list(start.back());
    for (Index s = 0; s < stretches.size(); ++s)
        for (Index p : stretches[s]) list[at[p]++] = s;
    const auto meet = [&](Index p) { return start[p + 1] - start[p]; };
    std::vector<std::uint8_t> gone(stretches.size(), 0);
    std::vector<Chain> out;
    const auto follow = [&](Index first, Index from) {
        Chain chain;
        chain.points.push_back(from);
        Index s = first, here = from;
        while (true) {
            gone[s] = 1;
            here = stretches[s][0] == here ? stretches[s][1] : stretches[s][0];
            if (here == from && meet(from) == 2) {
                chain.closed = true;
                break;
            }
            chain.points.push_back(here);
            if (meet(here) != 2) break;
            const Index a = list[start[here]], b = list[start[here] + 1];
            s = gone[a] ? b : a;
            if (gone[s]) break;
        }
        out.push_back(std::move(chain));
    };
    for (Index s = 0; s < stretches.size(); ++s)
        for (int end = 0; end < 2; ++end)
            if (!gone[s] && meet(stretches[s][end]) != 2) follow(s, stretches[s][end]);
    for (Index s = 0; s < stretches.size(); ++s)
        if (!gone[s]) follow(s, stretches[s][0]);
    return out;
}

}  // namespace seedloom

#include "motion/Glue.h"

#include "motion/BondLoads.h"
#include "parallel/Loops.h"

#include <algorithm>
#include <map>
#include <numeric>

namespace seedloom {

namespace {

constexpr int kMostRounds = 12;
constexpr double kWithTheWorst = 0.9;  // of the most overloaded one: what breaks at once with it
constexpr double kAnyhow = 3;          // times what it holds: breaks at once, whatever others take over

/// A clump's bodies and what still holds between them.
struct Bonded {
    std::vector<std::uint32_t> bodies;
    std::vector<std::size_t> bonds;
};

std::vector<Bonded> bondedOf(std::size_t bodies, const Glue& glue, const BondsLeft& left) {
    const auto number = clumpNumbers(bodies, glue, left);
    std::map<std::uint32_t, Bonded> all;
    for (std::size_t b = 0; b < glue.bonds.size(); ++b)
        if (left[b]) all[number[glue.bonds[b].a]].bonds.push_back(b);
    for (std::uint32_t body = 0; body < bodies; ++body)
        if (const auto at = all.find(number[body]); at != all.end()) at->second.bodies.push_back(body);
    std::vector<Bonded> out;
    for (auto& [first, one] : all) out.push_back(std::move(one));
    return out;
}

bool nothingActs(const std::vector<BodyLoad>& loads, const std::vector<std::uint32_t>& bodies) {
    return std::all_of(bodies.begin(), bodies.end(), [&](std::uint32_t b) { return loads[b].force == Triple{} && loads[b].torque == Triple{}; });
}

/// By bond of the clump: the worst of all steps, of what it holds.
std::vector<double> strains(const Glue& glue, const Bonded& one, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& start,
                            const std::vector<BodyState>& now, const FrameLoads& loads, const std::vector<std::uint8_t>& held) {
    std::vector<double> out(one.bonds.size());
    const bool rooted = std::any_of(one.bodies.begin(), one.bodies.end(), [&](std::uint32_t b) { return held[b] != 0; });
    std::vector<const std::vector<BodyLoad>*> steps;
    for (const auto& step : loads.contacts)
        if (!nothingActs(step, one.bodies)) steps.push_back(&step);
    // What hangs on something held is pulled by its own weight, what falls is not.
    const std::vector<BodyLoad> none(bodies.size());
    if (steps.empty() && rooted && !loads.weightBorne) steps.push_back(&none);
    if (steps.empty()) return out;
    std::vector<Bond> bonds;
    for (const std::size_t b : one.bonds) bonds.push_back(glue.bonds[b]);
    const BondFrame frame(one.bodies, bonds, bodies, start, held);
    const std::uint32_t any = one.bodies.front();
    const Rotation turn = rotationOf(now[any].turn) * transposed(rotationOf(start[any].turn));
    for (const auto* step : steps) {
        std::vector<BodyLoad> all = *step;
        for (const std::uint32_t b : one.bodies) all[b].force = all[b].force + loads.gravity * bodies[b].mass;
        const std::vector<double> pulls = frame.pulls(all, turn);
        for (std::size_t b = 0; b < out.size(); ++b) out[b] = std::max(out[b], pulls[b] / glue.strength[one.bonds[b]]);
    }
    return out;
}

}  // namespace

std::vector<std::uint32_t> clumpNumbers(std::size_t bodies, const Glue& glue, const BondsLeft& left) {
    std::vector<std::uint32_t> of(bodies);
    std::iota(of.begin(), of.end(), 0u);
    const auto first = [&](std::uint32_t body) {
        while (of[body] != body) body = of[body] = of[of[body]];
        return body;
    };
    for (std::size_t b = 0; b < glue.bonds.size(); ++b) {
        if (!left[b]) continue;
        const std::uint32_t one = first(glue.bonds[b].a), two = first(glue.bonds[b].b);
        of[std::max(one, two)] = std::min(one, two);
    }
    for (std::uint32_t body = 0; body < bodies; ++body) of[body] = first(body);
    return of;
}

BondsLeft bondsAfter(const Glue& glue, const BondsLeft& left, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& start,
                     const std::vector<BodyState>& now, const FrameLoads& loads, const RunContext& run) {
    BondsLeft out = left;
    const std::vector<std::uint8_t> held = loads.held ? *loads.held : std::vector<std::uint8_t>(bodies.size());
    for (int round = 0; round < kMostRounds; ++round) {
        const std::vector<Bonded> clumps = bondedOf(bodies.size(), glue, out);
        std::vector<std::uint8_t> broke(clumps.size());
        forEach(
            clumps.size(), run,
            [&](std::size_t c) {
                const Bonded& one = clumps[c];
                const auto strain = strains(glue, one, bodies, start, now, loads, held);
                const double worst = *std::max_element(strain.begin(), strain.end());
                if (worst <= 1) return;
                broke[c] = 1;
                for (std::size_t b = 0; b < strain.size(); ++b)
                    if (strain[b] > 1 && strain[b] >= std::min(kWithTheWorst * worst, kAnyhow)) out[one.bonds[b]] = 0;
            },
            1);
        if (std::none_of(broke.begin(), broke.end(), [](std::uint8_t b) { return b != 0; })) break;
    }
    return out;
}

}  // namespace seedloom

#include "motion/Clumps.h"

#include <algorithm>
#include <unordered_map>

namespace seedloom {

namespace {

/// Of a body turned so, about the point that lies `away` from its centre.
Rotation inertiaAbout(const RigidBody& body, const Turn& turn, const Triple& away) {
    const Rotation axes = rotationOf(turn);
    Rotation scaled = transposed(axes);
    for (std::size_t a = 0; a < 3; ++a) scaled[a] = scaled[a] * body.inertia[a];
    Rotation out = axes * scaled;
    const double square = dot(away, away);
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) out[i][j] += body.mass * ((i == j ? square : 0) - away[i] * away[j]);
    return out;
}

/// Axes of a tensor of inertia, and its moments about them.
InertiaAxes axesOf(const Rotation& inertia) {
    // What inertiaAxesOf takes are second moments: the tensor is their trace less them.
    SolidMoments moments;
    const double half = (inertia[0][0] + inertia[1][1] + inertia[2][2]) / 2;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) moments.second[i][j] = (i == j ? half : 0) - inertia[i][j];
    return inertiaAxesOf(moments);
}

void gather(Clump& clump, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& states) {
    BodyState& all = clump.state;
    const auto& first = clump.members.front();
    if (clump.members.size() == 1) {
        clump.mass = bodies[first.body].mass, clump.inertia = bodies[first.body].inertia;
        all = states[first.body];
        return;
    }
    all.asleep = true, all.calm = states[first.body].calm;
    Triple weighted{}, momentum{};
    for (const auto& member : clump.members) {
        const BodyState& state = states[member.body];
        const double mass = bodies[member.body].mass;
        clump.mass += mass, weighted = weighted + state.at * mass, momentum = momentum + state.velocity * mass;
        all.asleep = all.asleep && state.asleep, all.calm = std::min(all.calm, state.calm);
    }
    all.at = weighted * (1 / clump.mass), all.velocity = momentum * (1 / clump.mass);
    Rotation inertia{};
    Triple angular{};
    for (const auto& member : clump.members) {
        const BodyState& state = states[member.body];
        const RigidBody& body = bodies[member.body];
        const Triple away = state.at - all.at;
        const Rotation one = inertiaAbout(body, state.turn, away);
        for (std::size_t i = 0; i < 3; ++i) inertia[i] = inertia[i] + one[i];
        angular = angular + inertiaAbout(body, state.turn, {}) * state.spin + cross(away, state.velocity) * body.mass;
    }
    const InertiaAxes axes = axesOf(inertia);
    clump.inertia = axes.moment;
    all.turn = turnOf(transposed(axes.axis));
    Triple spin = axes.axis * angular;
    for (std::size_t a = 0; a < 3; ++a) spin[a] /= axes.moment[a];
    all.spin = transposed(axes.axis) * spin;
    for (auto& member : clump.members) {
        const BodyState& state = states[member.body];
        member.at = axes.axis * (state.at - all.at);
        member.turn = turnOf(axes.axis * rotationOf(state.turn));
    }
}

}  // namespace

std::vector<Clump> clumpsOf(const std::vector<RigidBody>& bodies, const std::vector<BodyState>& states, const std::vector<std::uint32_t>* clumpOf) {
    std::vector<Clump> out;
    std::unordered_map<std::uint32_t, std::size_t> place;
    for (std::uint32_t body = 0; body < bodies.size(); ++body) {
        const std::size_t at = clumpOf ? place.emplace((*clumpOf)[body], out.size()).first->second : out.size();
        if (at == out.size()) out.emplace_back();
        out[at].members.push_back({body});
    }
    for (Clump& clump : out) gather(clump, bodies, states);
    return out;
}

void moveMembers(const Clump& clump, const BodyState& now, std::vector<BodyState>& states) {
    if (clump.members.size() == 1) {
        states[clump.members.front().body] = now;
        return;
    }
    const Rotation turn = rotationOf(now.turn);
    for (const auto& member : clump.members) {
        BodyState& state = states[member.body];
        const Triple away = turn * member.at;
        state.at = now.at + away;
        state.turn = turnOf(turn * rotationOf(member.turn));
        state.velocity = now.velocity + cross(now.spin, away);
        state.spin = now.spin;
        state.calm = now.calm, state.asleep = now.asleep;
    }
}

}  // namespace seedloom

#include "graph/Profile.h"

#include <algorithm>

namespace seedloom {

namespace {

/// Metres: of the wall that a new profile starts with.
constexpr double kRadius = 0.3, kHeight = 0.6;

bool drawsProfiles(const std::string& op) { return op == "point_list" || op == "drawn_curve"; }

/// The plane in which the axis is upright, or lies from left to right.
ProfilePlane planeFor(const Node& revolve) {
    const auto axis = revolve.settings.find("axis");
    const std::string name = axis != revolve.settings.end() && axis->is_string() ? axis->get<std::string>() : "y";
    if (name == "x") return {0, 2, 1};
    if (name == "z") return {2, 0, 1};
    return {1, 2, 0};
}

}  // namespace

std::optional<ProfilePlane> profilePlane(const Loom& loom, const std::string& node) {
    const Node* drawn = loom.node(node);
    if (!drawn || !drawsProfiles(drawn->op)) return {};
    for (const Link& link : loom.links) {
        const Node* to = link.from == node ? loom.node(link.to) : nullptr;
        if (to && to->op == "revolve") return planeFor(*to);
    }
    return {};
}

std::map<std::string, Json> profileStart(const std::string& op, const Node& fed) {
    if (fed.op != "revolve" || !drawsProfiles(op)) return {};
    const ProfilePlane plane = planeFor(fed);
    if (op == "drawn_curve") return {{"plane", plane.across == 0 ? "side" : "front"}};
    std::array<double, 3> foot{}, top{};
    foot[std::size_t(plane.outward)] = top[std::size_t(plane.outward)] = kRadius;
    top[std::size_t(plane.axis)] = kHeight;
    return {{"points", Json::array({foot, top})}};
}

}  // namespace seedloom

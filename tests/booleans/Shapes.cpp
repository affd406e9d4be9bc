#include "Shapes.h"

#include "support/Run.h"

namespace seedloom::test {

Geometry turnedThrough(unsigned seed, int frequency) {
    const float s = float(seed), reach = 0.25f + 0.05f * s;
    Geometry out = made("geodesic_sphere", {{"radius", 1}, {"frequency", frequency}});
    std::vector<Vec3> at = out.positions();
    for (Vec3& p : at)
        p += Vec3{std::sin(4 * p.y + s) + std::sin(7 * p.z), std::sin(5 * p.z + 2 * s) + std::sin(6 * p.x + 1),
                  std::sin(4.5f * p.x + s) + std::sin(6.5f * p.y)} *
             reach;
    out.setPositions(std::move(at));
    return out;
}

Geometry pyramidsTipToTip() {
    const std::vector<Vec3> at{{0, 0, 0}, {1, -1, 1}, {-1, -1, 1}, {-1, -1, -1}, {1, -1, -1}, {1, 1, 1}, {-1, 1, 1}, {-1, 1, -1}, {1, 1, -1}};
    const std::vector<Index> corners{0, 2, 1, 0, 3, 2, 0, 4, 3, 0, 1, 4, 1, 2, 3, 4, 0, 5, 6, 0, 6, 7, 0, 7, 8, 0, 8, 5, 8, 7, 6, 5};
    return Geometry(at, Topology(at.size(), {0, 3, 6, 9, 12, 16, 19, 22, 25, 28, 32}, corners, {0}, {}, {}));
}

Geometry someSolid(Chance& chance) {
    const auto number = [&](float low, float high) { return double(chance.number(low, high)); };
    const auto whole = [&](Index low, Index high) { return int(low + chance.below(high - low)); };
    switch (chance.below(5)) {
        case 0: return made("geodesic_sphere", {{"radius", number(0.5f, 1.2f)}, {"frequency", whole(4, 16)}});
        case 1: return made("box", {{"size", {number(0.2f, 2), number(0.2f, 2), number(0.2f, 2)}}});
        case 2:
            return made("cylinder",
                        {{"radius_bottom", number(0.2f, 1)}, {"radius_top", number(0.2f, 1)}, {"height", number(0.3f, 2)}, {"sides", whole(8, 100)}});
        case 3: return made("torus", {{"radius", number(0.7f, 1)}, {"tube", number(0.1f, 0.5f)}});
        default:
            return made("subdivide", {{"levels", whole(1, 5)}, {"form", chance.below(2) ? "flat" : "catmull-clark"}},
                        {made("box", {{"size", {number(0.5f, 2), number(0.5f, 2), number(0.5f, 2)}}})});
    }
}

Geometry somewhere(Geometry g, Chance& chance, float far) {
    const Vec3 axis = normalized(chance.place());
    const float angle = chance.below(3) == 0 ? chance.number(0, 1e-4f) : chance.number(0, 3);
    const Vec3 move = chance.place(0.5f) * (chance.below(3) == 0 ? 1e-4f : 1.0f) + Vec3{far, far, far};
    std::vector<Vec3> at = g.positions();
    for (Vec3& p : at) p = p * std::cos(angle) + cross(axis, p) * std::sin(angle) + axis * (dot(axis, p) * (1 - std::cos(angle))) + move;
    g.setPositions(std::move(at));
    return g;
}

}  // namespace seedloom::test

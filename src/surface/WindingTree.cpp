#include "surface/WindingTree.h"

#include "geometry/Measures.h"

#include <algorithm>
#include <numbers>

namespace seedloom {

namespace {

constexpr double kFar = 2.3;  ///< times a group's radius: from there on it counts as one

using Wide = std::array<double, 3>;

Wide wide(Vec3 v) { return {double(v.x), double(v.y), double(v.z)}; }
Wide minus(const Wide& a, const Wide& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
double inner(const Wide& a, const Wide& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
Wide outer(const Wide& a, const Wide& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }

/// Source: Van Oosterom & Strackee, "The solid angle of a plane triangle", IEEE TBME 30(2), 1983.
double solidAngle(const Wide& a, const Wide& b, const Wide& c) {
    const double la = std::sqrt(inner(a, a)), lb = std::sqrt(inner(b, b)), lc = std::sqrt(inner(c, c));
    return 2 * std::atan2(inner(a, outer(b, c)), la * lb * lc + inner(a, b) * lc + inner(b, c) * la + inner(c, a) * lb);
}

}  // namespace

WindingTree::WindingTree(const Geometry& geometry, const Triangles& triangles) {
    const auto& at = geometry.positions();
    triangles_.reserve(triangles.count());
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        const auto corner = [&](std::size_t k) { return at[geometry.topology().cornerPoint()[triangles.corners[3 * t + k]]]; };
        triangles_.push_back({corner(0), corner(1), corner(2)});
    }
    if (!triangles_.empty()) build(0, triangles_.size());
}

Index WindingTree::build(std::size_t begin, std::size_t end) {
    const auto number = Index(nodes_.size());
    nodes_.emplace_back();
    Node node;
    node.begin = Index(begin), node.end = Index(end);
    Bounds middles;
    double whole = 0;
    for (std::size_t t = begin; t < end; ++t) {
        const auto& [a, b, c] = triangles_[t];
        const Vec3 middle = (a + b + c) / 3.0f;
        middles.add(middle);
        const Wide vector = outer(minus(wide(b), wide(a)), minus(wide(c), wide(a)));
        const double size = std::sqrt(inner(vector, vector)) / 2;
        for (std::size_t i = 0; i < 3; ++i) node.area[i] += vector[i] / 2, node.centre[i] += size * wide(middle)[i];
        whole += size;
    }
    node.centre = whole > 0 ? Wide{node.centre[0] / whole, node.centre[1] / whole, node.centre[2] / whole} : wide(middles.centre());
    for (std::size_t t = begin; t < end; ++t)
        for (Vec3 corner : triangles_[t]) {
            const Wide from = minus(wide(corner), node.centre);
            node.radius = std::max(node.radius, std::sqrt(inner(from, from)));
        }
    if (end - begin > kLeaf) {
        const Vec3 size = middles.size();
        const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
        const std::size_t middle = (begin + end) / 2;
        const auto first = triangles_.begin();
        // Stable, so that the order depends on nothing but the triangles.
        std::stable_sort(first + std::ptrdiff_t(begin), first + std::ptrdiff_t(end),
                         [axis](const Triangle& a, const Triangle& b) { return a[0][axis] + a[1][axis] + a[2][axis] < b[0][axis] + b[1][axis] + b[2][axis]; });
        build(begin, middle);
        node.right = build(middle, end);
    }
    nodes_[number] = node;
    return number;
}

double WindingTree::at(Vec3 place) const {
    if (nodes_.empty()) return 0;
    const Wide p = wide(place);
    double sum = 0;
    std::array<Index, 64> open;
    std::size_t count = 0;
    open[count++] = 0;
    while (count > 0) {
        const Index number = open[--count];
        const Node& node = nodes_[number];
        const Wide to = minus(node.centre, p);
        const double squared = inner(to, to);
        if (squared > kFar * kFar * node.radius * node.radius) {
            sum += inner(node.area, to) / (squared * std::sqrt(squared));
        } else if (node.right == 0) {
            for (Index t = node.begin; t < node.end; ++t) {
                const auto& [a, b, c] = triangles_[t];
                sum += solidAngle(minus(wide(a), p), minus(wide(b), p), minus(wide(c), p));
            }
        } else {
            open[count++] = node.right;
            open[count++] = number + 1;
        }
    }
    return sum / (4 * std::numbers::pi);
}

}  // namespace seedloom

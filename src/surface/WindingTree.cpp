#include "surface/WindingTree.h"

#include "surface/FinePlace.h"

#include "geometry/Measures.h"

#include <algorithm>
#include <numbers>

namespace seedloom {

namespace {

constexpr double kFar = 2.3;  ///< times a group's radius: from there on it counts as one

/// Source: Van Oosterom & Strackee, "The solid angle of a plane triangle", IEEE TBME 30(2), 1983.
double solidAngle(const FinePlace& a, const FinePlace& b, const FinePlace& c) {
    const double la = std::sqrt(dot(a, a)), lb = std::sqrt(dot(b, b)), lc = std::sqrt(dot(c, c));
    return 2 * std::atan2(dot(a, cross(b, c)), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb);
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
        const FinePlace vector = cross(minus(fine(b), fine(a)), minus(fine(c), fine(a)));
        const double size = std::sqrt(dot(vector, vector)) / 2;
        for (std::size_t i = 0; i < 3; ++i) node.area[i] += vector[i] / 2, node.centre[i] += size * fine(middle)[i];
        whole += size;
    }
    node.centre = whole > 0 ? FinePlace{node.centre[0] / whole, node.centre[1] / whole, node.centre[2] / whole} : fine(middles.centre());
    for (std::size_t t = begin; t < end; ++t)
        for (Vec3 corner : triangles_[t]) {
            const FinePlace from = minus(fine(corner), node.centre);
            node.radius = std::max(node.radius, std::sqrt(dot(from, from)));
        }
    if (end - begin > kLeaf) {
        const Vec3 size = middles.size();
        const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
        const std::size_t middle = (begin + end) / 2;
        const auto first = triangles_.begin();
        std::nth_element(first + std::ptrdiff_t(begin), first + std::ptrdiff_t(middle), first + std::ptrdiff_t(end),
                         [axis](const Triangle& a, const Triangle& b) { return a[0][axis] + a[1][axis] + a[2][axis] < b[0][axis] + b[1][axis] + b[2][axis]; });
        build(begin, middle);
        node.right = build(middle, end);
    }
    nodes_[number] = node;
    return number;
}

double WindingTree::at(Vec3 place) const {
    if (nodes_.empty()) return 0;
    const FinePlace p = fine(place);
    double sum = 0;
    std::array<Index, 64> open;
    std::size_t count = 0;
    open[count++] = 0;
    while (count > 0) {
        const Index number = open[--count];
        const Node& node = nodes_[number];
        const FinePlace to = minus(node.centre, p);
        const double squared = dot(to, to);
        if (squared > kFar * kFar * node.radius * node.radius) {
            sum += dot(node.area, to) / (squared * std::sqrt(squared));
        } else if (node.right == 0) {
            for (Index t = node.begin; t < node.end; ++t) {
                const auto& [a, b, c] = triangles_[t];
                sum += solidAngle(minus(fine(a), p), minus(fine(b), p), minus(fine(c), p));
            }
        } else {
            open[count++] = node.right;
            open[count++] = number + 1;
        }
    }
    return sum / (4 * std::numbers::pi);
}

}  // namespace seedloom

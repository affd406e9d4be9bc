#include "geometry/BoxTree.h"

#include "geometry/Measures.h"
#include "parallel/Sort.h"

#include <limits>
#include <numeric>

namespace seedloom {

namespace {

constexpr float kFar = std::numeric_limits<float>::infinity();
constexpr Box kNothing{{kFar, kFar, kFar}, {-kFar, -kFar, -kFar}};

std::uint64_t spread(std::uint64_t v) {  // 21 bits, with two zeros behind each
    v = (v | v << 32) & 0x1f00000000ffffULL;
    v = (v | v << 16) & 0x1f0000ff0000ffULL;
    v = (v | v << 8) & 0x100f00f00f00f00fULL;
    v = (v | v << 4) & 0x10c30c30c30c30c3ULL;
    return (v | v << 2) & 0x1249249249249249ULL;
}

/// Place along a curve that keeps near things near (Morton, 1966).
std::uint64_t curvePlace(Vec3 p, Vec3 low, Vec3 scale) {
    std::uint64_t out = 0;
    for (int c = 0; c < 3; ++c) out |= spread(std::uint64_t(std::clamp((p[c] - low[c]) * scale[c], 0.0f, 2097151.0f))) << c;
    return out;
}

std::vector<Index> allOf(std::size_t count) {
    std::vector<Index> out(count);
    std::iota(out.begin(), out.end(), 0u);
    return out;
}

}  // namespace

std::vector<Box> boxesOf(const Geometry& geometry, const Triangles& triangles) {
    std::vector<Box> out(triangles.count());
    forEach(out.size(), RunContext(), [&](std::size_t t) {
        Box box = kNothing;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 p = geometry.positions()[geometry.topology().cornerPoint()[triangles.corners[3 * t + k]]];
            box.add({p, p});
        }
        out[t] = box;
    });
    return out;
}

BoxTree::BoxTree(const std::vector<Box>& boxes) : BoxTree(boxes, allOf(boxes.size())) {}

BoxTree::BoxTree(const std::vector<Box>& boxes, std::vector<Index> numbers) : order_(std::move(numbers)) {
    if (order_.empty()) return;
    Box all = kNothing;
    for (Index i : order_) all.add(boxes[i]);
    Vec3 scale;
    for (int c = 0; c < 3; ++c) scale[c] = all.high[c] > all.low[c] ? 2097151.0f / (all.high[c] - all.low[c]) : 0;
    const RunContext run;
    std::vector<std::pair<std::uint64_t, Index>> keys(order_.size());
    forEach(keys.size(), run, [&](std::size_t k) {
        const Index i = order_[k];
        keys[k] = {curvePlace((boxes[i].low + boxes[i].high) * 0.5f, all.low, scale), i};
    });
    sortInParallel(keys, run);
    sorted_.resize(keys.size());
    forEach(keys.size(), run, [&](std::size_t k) { order_[k] = keys[k].second, sorted_[k] = boxes[keys[k].second]; });
    while ((kLeaf << levels_) < order_.size()) ++levels_;
    nodes_.assign((std::size_t(2) << levels_) - 1, kNothing);
    const std::size_t firstLeaf = (std::size_t(1) << levels_) - 1;
    forEach(nodes_.size() - firstLeaf, run, [&](std::size_t i) {
        const auto [begin, end] = range(firstLeaf + i);
        for (std::size_t k = begin; k < end; ++k) nodes_[firstLeaf + i].add(sorted_[k]);
    });
    for (std::size_t node = firstLeaf; node-- > 0;) {
        nodes_[node] = nodes_[2 * node + 1];
        nodes_[node].add(nodes_[2 * node + 2]);
    }
}

void BoxTree::pairs(const BoxTree& a, const BoxTree& b, const std::function<void(Index, Index)>& take) {
    if (a.empty() || b.empty()) return;
    std::vector<std::pair<std::size_t, std::size_t>> open{{0, 0}};
    while (!open.empty()) {
        const auto [i, j] = open.back();
        open.pop_back();
        if (!a.nodes_[i].meets(b.nodes_[j])) continue;
        if (a.leaf(i) && b.leaf(j)) {
            const auto [ai, ae] = a.range(i);
            const auto [bi, be] = b.range(j);
            for (std::size_t x = ai; x < ae; ++x)
                for (std::size_t y = bi; y < be; ++y)
                    if (a.sorted_[x].meets(b.sorted_[y])) take(a.order_[x], b.order_[y]);
        } else if (b.leaf(j) || (!a.leaf(i) && i <= j)) {
            open.push_back({2 * i + 2, j}), open.push_back({2 * i + 1, j});
        } else {
            open.push_back({i, 2 * j + 2}), open.push_back({i, 2 * j + 1});
        }
    }
}

/// Those of the nodes' children that meet, once each.
void BoxTree::step(Branches at, std::vector<Branches>& out) const {
    const auto add = [&](std::size_t a, std::size_t b) {
        if (nodes_[a].meets(nodes_[b])) out.push_back({a, b});
    };
    const std::size_t a = 2 * at.a + 1, b = 2 * at.b + 1;
    add(a, b), add(a, b + 1), add(a + 1, b + 1);
    if (at.a != at.b) add(a + 1, b);
}

std::vector<BoxTree::Branches> BoxTree::branches() const {
    if (empty()) return {};
    std::vector<Branches> out{{0, 0}}, next;
    // Boxes of what lies nowhere meet nothing, not even themselves.
    while (!out.empty() && out.size() < kManyBranches && !leaf(out.front().a)) {
        next.clear();
        for (const Branches& at : out) step(at, next);
        out.swap(next);
    }
    return out;
}

void BoxTree::pairsIn(Branches from, const std::function<void(Index, Index)>& take) const {
    std::vector<Branches> open{from};
    while (!open.empty()) {
        const Branches at = open.back();
        open.pop_back();
        if (!leaf(at.a)) {
            step(at, open);
            continue;
        }
        const auto [begin, end] = range(at.a);
        const auto [first, last] = range(at.b);
        for (std::size_t x = begin; x < end; ++x) {
            if (!sorted_[x].meets(nodes_[at.b])) continue;
            for (std::size_t y = at.a == at.b ? x + 1 : first; y < last; ++y)
                if (sorted_[x].meets(sorted_[y])) take(order_[x], order_[y]);
        }
    }
}

void BoxTree::meeting(const Box& box, const std::function<void(Index)>& take) const {
    if (empty()) return;
    std::vector<std::size_t> open{0};
    while (!open.empty()) {
        const std::size_t i = open.back();
        open.pop_back();
        if (!nodes_[i].meets(box)) continue;
        if (!leaf(i)) {
            open.push_back(2 * i + 2), open.push_back(2 * i + 1);
            continue;
        }
        const auto [begin, end] = range(i);
        for (std::size_t k = begin; k < end; ++k)
            if (sorted_[k].meets(box)) take(order_[k]);
    }
}

}  // namespace seedloom

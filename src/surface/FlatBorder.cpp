#include "surface/FlatBorder.h"

#include "geometry/BoxTree.h"

#include <algorithm>
#include <numeric>

namespace seedloom {

namespace {

using Edge = std::array<Index, 2>;

/// Edges that one triangle has alone, in a fixed order.
std::vector<Edge> borderOf(const std::vector<std::array<Index, 3>>& triangles) {
    std::vector<Edge> all, out;
    for (const auto& t : triangles)
        for (std::size_t k = 0; k < 3; ++k) all.push_back({std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3])});
    std::sort(all.begin(), all.end());
    for (std::size_t i = 0; i < all.size();) {
        std::size_t end = i + 1;
        while (end < all.size() && all[end] == all[i]) ++end;
        if (end == i + 1) out.push_back(all[i]);
        i = end;
    }
    return out;
}

class BorderSearch {
public:
    BorderSearch(std::vector<Edge> edges, const std::vector<std::complex<double>>& places) : edges_(std::move(edges)), places_(places) {
        for (const Edge& e : edges_) boxes_.push_back(boxOf(e));
    }
    bool crosses() const {
        std::vector<Index> numbers(edges_.size());
        std::iota(numbers.begin(), numbers.end(), Index{0});
        const BoxTree tree(boxes_, std::move(numbers));
        bool found = false;
        for (Index i = 0; i < edges_.size() && !found; ++i) tree.meeting(boxes_[i], [&](Index k) { found = found || (k > i && meet(edges_[i], edges_[k])); });
        return found;
    }

private:
    Box boxOf(const Edge& e) const {
        const auto a = places_[e[0]], b = places_[e[1]];
        return {{float(std::min(a.real(), b.real())), float(std::min(a.imag(), b.imag())), 0},
                {float(std::max(a.real(), b.real())), float(std::max(a.imag(), b.imag())), 0}};
    }
    /// The side of the line a–b that p lies on; 0 nearer than rounding can tell.
    int sideOf(std::complex<double> a, std::complex<double> b, std::complex<double> p) const {
        constexpr double kTouching = 1e-4;  // of the shorter length
        const double area = std::imag(std::conj(b - a) * (p - a)), least = kTouching * std::abs(b - a) * std::min(std::abs(b - a), std::abs(p - a));
        return area > least ? 1 : area < -least ? -1 : 0;
    }
    bool meet(const Edge& one, const Edge& other) const {
        if (one[0] == other[0] || one[0] == other[1] || one[1] == other[0] || one[1] == other[1]) return false;
        const auto a = places_[one[0]], b = places_[one[1]], c = places_[other[0]], d = places_[other[1]];
        return sideOf(a, b, c) * sideOf(a, b, d) < 0 && sideOf(c, d, a) * sideOf(c, d, b) < 0;
    }
    std::vector<Edge> edges_;
    const std::vector<std::complex<double>>& places_;
    std::vector<Box> boxes_;
};

}  // namespace

bool borderCrosses(const std::vector<std::array<Index, 3>>& triangles, const std::vector<std::complex<double>>& places) {
    return BorderSearch(borderOf(triangles), places).crosses();
}

}  // namespace seedloom

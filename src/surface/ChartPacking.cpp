#include "surface/ChartPacking.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace seedloom {

namespace {

double turnOf(Vec2 o, Vec2 a, Vec2 b) { return double(a.x - o.x) * double(b.y - o.y) - double(a.y - o.y) * double(b.x - o.x); }

/// Counter-clockwise, without points on its sides. Source: Andrew, "Another Efficient Algorithm for Convex Hulls in Two Dimensions", 1979.
std::vector<Vec2> hullOf(std::vector<Vec2> points) {
    const auto before = [](Vec2 a, Vec2 b) { return a.x < b.x || (a.x == b.x && a.y < b.y); };
    std::sort(points.begin(), points.end(), before);
    points.erase(std::unique(points.begin(), points.end()), points.end());
    if (points.size() < 3) return points;
    std::vector<Vec2> out;
    for (int side = 0; side < 2; ++side) {
        const std::size_t base = out.size();
        for (Vec2 p : points) {
            while (out.size() >= base + 2 && turnOf(out[out.size() - 2], out.back(), p) <= 0) out.pop_back();
            out.push_back(p);
        }
        out.pop_back();
        std::reverse(points.begin(), points.end());
    }
    return out;
}

struct ChartBox {
    Vec2 turn{1, 0}, low{}, size{};
};

ChartBox boxAlong(const std::vector<Vec2>& hull, Vec2 turn) {
    constexpr float kFar = std::numeric_limits<float>::max();
    Vec2 low{kFar, kFar}, high{-kFar, -kFar};
    for (Vec2 p : hull) {
        const Vec2 q = ChartPlace{turn, {}}.of(p);
        low = {std::min(low.x, q.x), std::min(low.y, q.y)};
        high = {std::max(high.x, q.x), std::max(high.y, q.y)};
    }
    return {turn, low, {high.x - low.x, high.y - low.y}};
}

ChartBox leastBox(const std::vector<Vec2>& points) {
    const std::vector<Vec2> hull = hullOf(points);
    if (hull.empty()) return {};
    ChartBox best = boxAlong(hull, {1, 0});
    for (std::size_t i = 0; i < hull.size() && hull.size() > 1; ++i) {
        const Vec2 a = hull[i], b = hull[(i + 1) % hull.size()];
        const float reach = std::hypot(b.x - a.x, b.y - a.y);
        const ChartBox box = boxAlong(hull, {(b.x - a.x) / reach, -(b.y - a.y) / reach});
        // A hair smaller is no reason to turn a chart that lies straight.
        if (double(box.size.x) * box.size.y < 0.999 * double(best.size.x) * best.size.y) best = box;
    }
    return best.size.y > best.size.x ? boxAlong(hull, {-best.turn.y, best.turn.x}) : best;
}

/// Lower left corners on shelves of a width, and the height that all need; charts in the order given.
struct Shelves {
    std::vector<Vec2> corners;
    double width = 0, height = 0;
};
Shelves shelve(const std::vector<ChartBox>& boxes, const std::vector<std::size_t>& order, double width, double gap) {
    Shelves out{std::vector<Vec2>(boxes.size()), 0, gap};
    double x = gap, y = gap, shelf = 0;
    for (std::size_t i : order) {
        const Vec2 size = boxes[i].size;
        if (x > gap && x + size.x + gap > width) x = gap, y += shelf + gap, shelf = 0;
        out.corners[i] = {float(x), float(y)};
        x += size.x + gap;
        shelf = std::max(shelf, double(size.y));
        out.width = std::max(out.width, x);
        out.height = y + shelf + gap;
    }
    return out;
}

Shelves bestShelves(const std::vector<ChartBox>& boxes, double gap) {
    constexpr int kTries = 32;
    std::vector<std::size_t> order(boxes.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return boxes[a].size.y > boxes[b].size.y; });
    double widest = 0, area = 0;
    for (const ChartBox& b : boxes) widest = std::max(widest, double(b.size.x)), area += (b.size.x + gap) * (b.size.y + gap);
    Shelves best;
    double least = std::numeric_limits<double>::infinity();
    for (int i = 0; i < kTries; ++i) {
        const double width = std::max(widest + 2 * gap, std::sqrt(area) * (1 + double(i) / kTries));
        Shelves tried = shelve(boxes, order, width, gap);
        if (std::max(tried.width, tried.height) < least) least = std::max(tried.width, tried.height), best = std::move(tried);
    }
    return best;
}

}  // namespace

ChartPacking packCharts(const std::vector<std::vector<Vec2>>& charts, double margin) {
    std::vector<ChartBox> boxes;
    for (const auto& points : charts) boxes.push_back(leastBox(points));
    Shelves shelves = bestShelves(boxes, 0);
    const auto sideOf = [](const Shelves& s) { return std::max(s.width, s.height); };
    // A wider gap makes a larger square, which asks for a wider gap.
    constexpr int kRounds = 60;
    double gap = 0;
    for (int i = 0; i < kRounds && margin > 0 && gap < margin * sideOf(shelves); ++i) {
        gap = margin * sideOf(shelves) * 1.02;
        shelves = bestShelves(boxes, gap);
    }
    ChartPacking out{{}, sideOf(shelves)};
    for (std::size_t i = 0; i < boxes.size(); ++i)
        out.places.push_back({boxes[i].turn, {shelves.corners[i].x - boxes[i].low.x, shelves.corners[i].y - boxes[i].low.y}});
    return out;
}

}  // namespace seedloom

#include "scene/Extremes.h"

#include "geometry/EvenDirections.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace seedloom {

namespace {

constexpr std::size_t kDirections = 64;
constexpr std::size_t kMostAsked = 100000;  ///< of more points every n-th

/// Even directions, from pole to pole along a golden spiral, after the axes.
std::array<Vec3, kDirections> makeDirections() {
    std::array<Vec3, kDirections> out{Vec3{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    constexpr std::size_t kAxes = 6;
    for (std::size_t i = 0; i + kAxes < kDirections; ++i) out[i + kAxes] = evenDirection(i, kDirections - kAxes, kAxes);
    return out;
}

class Farthest {
public:
    void add(Vec3 p, Index what) {
        if (!isFinite(p)) return;
        for (std::size_t i = 0; i < kDirections; ++i) {
            const float far = dot(p, directions()[i]);
            if (any_ && far <= far_[i]) continue;
            far_[i] = far;
            what_[i] = what;
        }
        any_ = true;
    }
    /// What was farthest out, each once.
    std::vector<Index> found() const {
        std::vector<Index> out;
        if (any_) out.assign(what_.begin(), what_.end());
        std::sort(out.begin(), out.end());
        out.erase(std::unique(out.begin(), out.end()), out.end());
        return out;
    }

private:
    static const std::array<Vec3, kDirections>& directions() {
        static const auto made = makeDirections();
        return made;
    }
    bool any_ = false;
    std::array<float, kDirections> far_{};
    std::array<Index, kDirections> what_{};
};

/// Of each shape the copies that stand farthest out speak for all of them.
void addCopies(const Copies& copies, std::vector<Vec3>& out) {
    std::vector<Farthest> standing(copies.shapes.size());
    for (Index i = 0; i < copies.place.size(); ++i) standing[copies.shapeOf[i]].add(copies.place[i].move, i);
    for (std::size_t s = 0; s < standing.size(); ++s) {
        const std::vector<Index> outer = standing[s].found();
        if (outer.empty()) continue;
        const std::vector<Vec3> shape = extremesOf(*copies.shapes[s]);
        for (Index i : outer)
            for (Vec3 p : shape) out.push_back(copies.place[i].point(p));
    }
}

}  // namespace

std::vector<Vec3> extremesOf(const Geometry& geometry) {
    const auto farthest = [](const std::vector<Vec3>& places) {
        Farthest asked;
        for (std::size_t i = 0, step = places.size() / kMostAsked + 1; i < places.size(); i += step) asked.add(places[i], Index(i));
        std::vector<Vec3> out;
        for (Index i : asked.found()) out.push_back(places[i]);
        return out;
    };
    std::vector<Vec3> out = farthest(geometry.positions());
    if (!geometry.copies()) return out;
    addCopies(*geometry.copies(), out);
    return farthest(out);
}

}  // namespace seedloom

#include "breaking/RoughWalls.h"

#include "breaking/PolygonMesh.h"
#include "breaking/RingFrame.h"
#include "fields/Noise.h"
#include "parallel/Loops.h"

#include <map>
#include <tuple>

namespace seedloom {

namespace {

using WallPlace = std::array<double, 3>;

constexpr double kSteepest = 5;         ///< of the noise, all octaves and directions together: change over a size, at an amount of 1
constexpr double kEdge = 0.25;          ///< length of the triangles' sides, part of the bumps' size
constexpr std::uint32_t kOther = 7919;  ///< between the seeds of the three directions

WallPlace mixed(const WallPlace& a, const WallPlace& b, double t) { return {a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t}; }
double distance(const WallPlace& a, const WallPlace& b) { return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]); }

/// One corner of the part of a wall that lies in a box.
struct Corner {
    WallPlace at;
    std::size_t on;    ///< the side of the wall's ring that it lies on; the ring's size: none
    std::size_t side;  ///< of the ring that goes on from it; the ring's size: the outline goes along the box
    int plane;         ///< of the box, that cuts the side; kOwn: it is the ring's own corner
};
constexpr int kOwn = -1;

double edgeOf(const Bounds& box, int plane) { return double(plane % 2 ? box.max[plane / 2] : box.min[plane / 2]); }

/// Where the line through two corners meets a side of the box: the same for every wall that has them.
WallPlace metAt(const FlatWalls& flat, Index a, Index b, double edge, std::size_t axis) {
    const WallPlace &from = flat.points[std::min(a, b)], &to = flat.points[std::max(a, b)];
    WallPlace at = mixed(from, to, std::clamp((edge - from[axis]) / (to[axis] - from[axis]), 0.0, 1.0));
    at[axis] = edge;
    return at;
}

std::vector<Corner> clipped(const FlatWalls& flat, const FlatWalls::Wall& wall, const Bounds& box) {
    const std::size_t none = wall.ring.size();
    std::vector<Corner> ring, next;
    for (std::size_t k = 0; k < none; ++k) ring.push_back({flat.points[wall.ring[k]], k, k, kOwn});
    for (int plane = 0; plane < 6 && !ring.empty(); ++plane) {
        const auto axis = std::size_t(plane / 2);
        const double edge = edgeOf(box, plane);
        const auto outside = [&](const WallPlace& p) { return plane % 2 ? p[axis] - edge : edge - p[axis]; };
        next.clear();
        for (std::size_t k = 0; k < ring.size(); ++k) {
            const Corner &from = ring[k], &to = ring[(k + 1) % ring.size()];
            const double s = outside(from.at), t = outside(to.at);
            const auto met = [&] {
                return from.side == none ? mixed(from.at, to.at, s / (s - t))
                                         : metAt(flat, wall.ring[from.side], wall.ring[(from.side + 1) % none], edge, axis);
            };
            if (s <= 0) next.push_back(from);
            if (s < 0 && t > 0) next.push_back({met(), from.side, none, plane});
            else if (s > 0 && t < 0) next.push_back({met(), from.side, from.side, plane});
            else if (s == 0 && t > 0) next.back().side = none;
        }
        std::swap(ring, next);
    }
    return ring;
}

/// Numbers places that walls have in common.
class SharedPlaces {
public:
    explicit SharedPlaces(const FlatWalls& flat) : flat_(flat) {}
    Index of(const FlatWalls::Wall& wall, const Corner& corner) {
        const std::size_t count = wall.ring.size();
        if (corner.on == count) return lone(corner.at);
        if (corner.plane == kOwn) return number({wall.ring[corner.on], wall.ring[corner.on], 0}, corner.at);
        const auto [a, b] = std::minmax(wall.ring[corner.on], wall.ring[(corner.on + 1) % count]);
        return number({a, b, kPlanes + Index(corner.plane)}, corner.at);
    }
    /// The k-th of `parts` places along the side between two corners.
    Index along(Index a, Index b, Index k, Index parts) {
        if (a > b) std::swap(a, b), k = parts - k;
        return number({a, b, k}, mixed(flat_.points[a], flat_.points[b], double(k) / double(parts)));
    }
    Index lone(const WallPlace& at) { return places_.push_back(at), Index(places_.size() - 1); }
    const std::vector<WallPlace>& places() const { return places_; }

private:
    static constexpr Index kPlanes = 0xFFFFFF00u;  ///< beyond all numbers of places along a side
    Index number(const std::array<Index, 3>& key, const WallPlace& at) {
        const auto [it, isNew] = numbers_.try_emplace(key, Index(places_.size()));
        if (isNew) places_.push_back(at);
        return it->second;
    }
    const FlatWalls& flat_;
    std::map<std::array<Index, 3>, Index> numbers_;
    std::vector<WallPlace> places_;
};

/// The outline in points no farther from each other than `spacing`.
std::vector<Index> outline(const FlatWalls& flat, const FlatWalls::Wall& wall, const std::vector<Corner>& ring, double spacing, SharedPlaces& places) {
    std::vector<Index> out;
    for (std::size_t k = 0; k < ring.size(); ++k) {
        const Corner &from = ring[k], &to = ring[(k + 1) % ring.size()];
        const double length = distance(from.at, to.at);
        out.push_back(places.of(wall, from));
        if (from.side == wall.ring.size()) {
            const int parts = int(std::ceil(length / spacing));
            for (int i = 1; i < parts; ++i) out.push_back(places.lone(mixed(from.at, to.at, double(i) / parts)));
            continue;
        }
        const Index a = wall.ring[from.side], b = wall.ring[(from.side + 1) % wall.ring.size()];
        const double whole = distance(flat.points[a], flat.points[b]);
        const auto parts = Index(std::max(1.0, std::ceil(whole / spacing)));
        const double start = distance(flat.points[a], from.at) / whole, end = start + length / whole, least = 0.05 / double(parts);
        for (auto i = Index(std::ceil((start + least) * double(parts))); i < parts && double(i) / double(parts) < end - least; ++i)
            if (i > 0) out.push_back(places.along(a, b, i, parts));
    }
    return out;
}

std::vector<WallPlace> placesOf(const std::vector<Corner>& ring) {
    std::vector<WallPlace> out;
    for (const Corner& c : ring) out.push_back(c.at);
    return out;
}

Bounds grown(Bounds box, double by) {
    for (int c = 0; c < 3; ++c) box.min[c] -= float(by), box.max[c] += float(by);
    return box;
}

double areaOf(const std::vector<Corner>& ring) {
    const RingFrame frame(placesOf(ring));
    double sum = 0;
    for (std::size_t k = 0; k < ring.size(); ++k) {
        const auto a = frame.flat(ring[k].at), b = frame.flat(ring[(k + 1) % ring.size()].at);
        sum += a[0] * b[1] - a[1] * b[0];
    }
    return std::abs(sum) / 2;
}

}  // namespace

double leastNoiseSize(double amount) { return amount * kSteepest; }

std::vector<Vec3> unevenPlaces(const std::vector<Vec3>& places, const Roughness& rough) {
    if (!(rough.amount > 0)) return places;
    std::array<std::vector<float>, 3> at;
    for (std::size_t c = 0; c < 3; ++c)
        for (Vec3 p : places) at[c].push_back(p[int(c)]);
    std::vector<Vec3> out = places;
    std::vector<float> by(places.size());
    for (std::size_t c = 0; c < 3; ++c) {
        NoiseOptions options;
        options.size = rough.size;
        options.octaves = 3;
        options.seed = rough.seed + std::uint32_t(c) * kOther;
        noise(at[0], at[1], at[2], options, by);
        for (std::size_t i = 0; i < out.size(); ++i) out[i][int(c)] = float(double(out[i][int(c)]) + rough.amount * double(by[i]));
    }
    return out;
}

Bounds roomOfWalls(const Bounds& box, const Roughness& rough) {
    return rough.amount > 0 ? grown(box, rough.amount * 2 + std::min(rough.size * kEdge * 2, box.diagonal() * 0.05)) : box;
}

Walls wallFaces(const FlatWalls& flat, const Bounds& box, const Roughness& rough, const RunContext& run) {
    const bool uneven = rough.amount > 0;
    const double spacing = uneven ? rough.size * kEdge : box.diagonal();
    const Bounds wide = uneven ? roomOfWalls(box, rough) : grown(box, box.diagonal() * 0.01);
    std::vector<std::vector<Corner>> parts;
    double estimate = 0;
    for (const auto& wall : flat.walls) {
        if (parts.size() % 512 == 0) run.poll();
        parts.push_back(clipped(flat, wall, wide));
        if (parts.back().size() < 3) parts.back().clear();
        else estimate += (uneven ? 3 * areaOf(parts.back()) / (spacing * spacing * 0.433) : 0) + 3 * double(parts.back().size());
    }
    run.require(estimate, "corners of walls");
    SharedPlaces places(flat);
    std::vector<std::vector<Index>> rings(parts.size());
    for (std::size_t w = 0; w < parts.size(); ++w) {
        if (uneven) rings[w] = outline(flat, flat.walls[w], parts[w], spacing, places);
        else
            for (const Corner& c : parts[w]) rings[w].push_back(places.of(flat.walls[w], c));
    }
    std::vector<PolygonMesh> meshes(parts.size());
    forEach(
        uneven ? parts.size() : 0, run,
        [&](std::size_t w) {
            if (parts[w].empty()) return;
            const RingFrame frame(placesOf(parts[w]));
            std::vector<std::array<double, 2>> ring;
            for (Index p : rings[w]) ring.push_back(frame.flat(places.places()[p]));
            meshes[w] = meshPolygon(ring, spacing);
        },
        16);
    Walls out;
    std::vector<Index> start{0}, corners;
    const auto endFace = [&](Index w) {
        start.push_back(Index(corners.size()));
        out.cells.push_back(flat.walls[w].cells);
        out.wall.push_back(w);
    };
    for (Index w = 0; w < parts.size(); ++w) {
        if (parts[w].empty()) continue;
        if (!uneven) {
            corners.insert(corners.end(), rings[w].begin(), rings[w].end());
            endFace(w);
            continue;
        }
        const RingFrame frame(placesOf(parts[w]));
        std::vector<Index> numbers = rings[w];
        for (const auto& p : meshes[w].inner) numbers.push_back(places.lone(frame.real(p)));
        for (const auto& t : meshes[w].triangles) {
            for (Index p : t) corners.push_back(numbers[p]);
            endFace(w);
        }
    }
    std::vector<Vec3> at;
    for (const WallPlace& p : places.places()) at.push_back({float(p[0]), float(p[1]), float(p[2])});
    at = unevenPlaces(at, rough);
    const std::size_t count = at.size();
    out.geometry = Geometry(std::move(at), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
    return out;
}

}  // namespace seedloom

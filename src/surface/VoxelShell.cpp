#include "surface/VoxelShell.h"

#include "geometry/BoxTree.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "parallel/Loops.h"
#include "surface/CellFaces.h"
#include "surface/WindingTree.h"

#include <limits>

namespace seedloom {

namespace {

constexpr double kMostlyCovered = 0.75;  ///< part of the faces with an inside: a terrain has half at most
constexpr float kBand = 1.8f;            ///< cells around faces in which distances are exact: more than the diagonal of one

struct Lattice {
    std::array<std::int64_t, 3> n{};
    Vec3 low;
    float cell = 1;
    float margin = 0;
    std::size_t size() const { return std::size_t(n[0]) * std::size_t(n[1]) * std::size_t(n[2]); }
    std::size_t at(std::int64_t x, std::int64_t y, std::int64_t z) const { return std::size_t((z * n[1] + y) * n[0] + x); }
    Vec3 place(std::int64_t x, std::int64_t y, std::int64_t z) const { return low + Vec3{float(x), float(y), float(z)} * cell; }
};

double reachOf(const VoxelShellOptions& options) { return std::max(options.close / 2, 1.05 * options.voxel); }

Lattice latticeFor(const Geometry& g, const VoxelShellOptions& options) {
    const Bounds bounds = boundsOf(g.positions());
    Lattice out;
    out.cell = float(options.voxel);
    out.margin = float(reachOf(options) + 3 * options.voxel);
    out.low = bounds.min - Vec3{1, 1, 1} * out.margin;
    const Vec3 size = bounds.size();
    for (int c = 0; c < 3; ++c) out.n[std::size_t(c)] = std::int64_t(std::ceil((double(size[c]) + 2 * double(out.margin)) / options.voxel)) + 1;
    return out;
}

/// Squared distance of a place to a triangle. Source: Ericson, "Real-Time Collision Detection", 2005, 5.1.5.
float squaredDistance(Vec3 p, Vec3 a, Vec3 b, Vec3 c) {
    const Vec3 ab = b - a, ac = c - a, ap = p - a;
    const float d1 = dot(ab, ap), d2 = dot(ac, ap);
    const auto to = [&](Vec3 q) { return dot(p - q, p - q); };
    if (d1 <= 0 && d2 <= 0) return to(a);
    const Vec3 bp = p - b;
    const float d3 = dot(ab, bp), d4 = dot(ac, bp);
    if (d3 >= 0 && d4 <= d3) return to(b);
    const float vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return to(a + ab * (d1 / std::max(d1 - d3, 1e-37f)));
    const Vec3 cp = p - c;
    const float d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d6 >= 0 && d5 <= d6) return to(c);
    const float vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return to(a + ac * (d2 / std::max(d2 - d6, 1e-37f)));
    const float va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return to(b + (c - b) * ((d4 - d3) / std::max(d4 - d3 + d5 - d6, 1e-37f)));
    const float sum = va + vb + vc;
    if (!(sum > 0)) return to(a);
    return to(a + ab * (vb / sum) + ac * (vc / sum));
}

class ShellMaker {
public:
    ShellMaker(const Geometry& in, const VoxelShellOptions& options, const RunContext& run)
        : in_(in), options_(options), run_(run), grid_(latticeFor(in, options)), reach_(float(reachOf(options))), triangles_(triangulate(in)) {}

    VoxelShell run() {
        measureNear();
        run_.setProgress(0.4f);
        VoxelShell out;
        double covered = 0;
        if (options_.sign != VoxelSign::winding) {
            floodOutside();
            run_.setProgress(0.6f);
            measureOutside();
            values_.resize(grid_.size());
            forEach(values_.size(), run_, [&](std::size_t i) { values_[i] = value(i); });
            covered = coveredPart();
        }
        const bool leaks = covered < kMostlyCovered && options_.sign == VoxelSign::automatic && open();
        if (options_.sign == VoxelSign::winding || leaks) {
            std::vector<float> flooded = std::move(values_);
            signByWinding();
            // A sheet encloses nothing, however it is asked: half of it at most seems to.
            const double byWinding = coveredPart();
            out.byWinding = options_.sign == VoxelSign::winding || byWinding >= kMostlyCovered;
            if (out.byWinding) covered = byWinding;
            else values_ = std::move(flooded);
        }
        run_.setProgress(0.8f);
        out.lost = 1 - covered;
        out.surface = withoutDust(surface());
        return out;
    }

private:
    static constexpr float kFar = std::numeric_limits<float>::max();
    static constexpr std::int64_t kBlock = 4;  ///< places along each side of a block

    /// Distances to faces, exact within the band; slabs of layers side by side.
    void measureNear() {
        near_.assign(grid_.size(), kFar);
        crossed_.assign(grid_.size(), 0);
        const auto boxes = boxesOf(in_, triangles_);
        const float band = kBand * grid_.cell;
        // Triangles by the first layer that they reach, so that a slab finds its own.
        std::vector<std::vector<Index>> byLayer(std::size_t(grid_.n[2]));
        const auto layer = [&](float z) { return std::clamp<std::int64_t>(std::int64_t(std::floor((z - grid_.low.z) / grid_.cell)), 0, grid_.n[2] - 1); };
        constexpr std::int64_t kSlab = 8;
        for (Index t = 0; t < boxes.size(); ++t)
            for (std::int64_t slab = layer(boxes[t].low.z - band) / kSlab; slab <= layer(boxes[t].high.z + band) / kSlab; ++slab)
                byLayer[std::size_t(slab)].push_back(t);
        forChunks(
            std::size_t((grid_.n[2] + kSlab - 1) / kSlab), run_,
            [&](std::size_t slab, Range) {
                const std::int64_t z0 = std::int64_t(slab) * kSlab, z1 = std::min(grid_.n[2], z0 + kSlab);
                std::size_t count = 0;
                for (Index t : byLayer[slab]) {
                    if (++count % 1024 == 0) run_.poll();
                    stamp(t, boxes[t], band, z0, z1);
                }
            },
            1);
        for (std::size_t i = 0; i < near_.size(); ++i)
            if (near_[i] != kFar) near_[i] = std::sqrt(near_[i]);
    }
    void stamp(Index t, const Box& box, float band, std::int64_t z0, std::int64_t z1) {
        const auto corner = [&](std::size_t k) { return in_.positions()[in_.topology().cornerPoint()[triangles_.corners[3 * t + k]]]; };
        const Vec3 a = corner(0), b = corner(1), c = corner(2);
        noteCrossings(a, b, c, z0, z1);
        const Vec3 n = normalized(cross(b - a, c - a), {});
        const auto from = [&](float v, int axis) { return std::max<std::int64_t>(0, std::int64_t(std::ceil((v - band - grid_.low[axis]) / grid_.cell))); };
        const auto to = [&](float v, int axis) {
            return std::min<std::int64_t>(grid_.n[std::size_t(axis)] - 1, std::int64_t(std::floor((v + band - grid_.low[axis]) / grid_.cell)));
        };
        const std::int64_t zEnd = std::min(z1 - 1, to(box.high.z, 2)), yEnd = to(box.high.y, 1), xEnd = to(box.high.x, 0);
        for (std::int64_t z = std::max(z0, from(box.low.z, 2)); z <= zEnd; ++z)
            for (std::int64_t y = from(box.low.y, 1); y <= yEnd; ++y)
                for (std::int64_t x = from(box.low.x, 0); x <= xEnd; ++x) {
                    const Vec3 p = grid_.place(x, y, z);
                    if (std::abs(dot(p - a, n)) > band) continue;  // off the plane: most of a slanted box
                    float& best = near_[grid_.at(x, y, z)];
                    best = std::min(best, squaredDistance(p, a, b, c));
                }
    }

    /// Notes which edges of the lattice a triangle crosses, borders of the triangle included.
    void noteCrossings(Vec3 a, Vec3 b, Vec3 c, std::int64_t z0, std::int64_t z1) {
        const std::array<Vec3, 3> p{a, b, c};
        std::array<std::array<double, 3>, 3> q{};
        for (std::size_t k = 0; k < 3; ++k)
            for (int i = 0; i < 3; ++i) q[k][std::size_t(i)] = (double(p[k][i]) - double(grid_.low[i])) / double(grid_.cell);
        for (int axis = 0; axis < 3; ++axis) {
            const int u = (axis + 1) % 3, v = (axis + 2) % 3;
            const auto U = std::size_t(u), V = std::size_t(v), W = std::size_t(axis);
            const auto first = [&](std::size_t i) { return std::max<std::int64_t>(0, std::int64_t(std::ceil(std::min({q[0][i], q[1][i], q[2][i]}) - 1e-6))); };
            const auto last = [&](std::size_t i) {
                return std::min<std::int64_t>(grid_.n[i] - 1, std::int64_t(std::floor(std::max({q[0][i], q[1][i], q[2][i]}) + 1e-6)));
            };
            for (std::int64_t y = v == 2 ? std::max(first(V), z0) : first(V); y <= (v == 2 ? std::min(last(V), z1 - 1) : last(V)); ++y)
                for (std::int64_t x = u == 2 ? std::max(first(U), z0) : first(U); x <= (u == 2 ? std::min(last(U), z1 - 1) : last(U)); ++x) {
                    std::array<double, 3> w{};
                    double area = 0;
                    for (std::size_t k = 0; k < 3; ++k) {
                        const auto &s = q[k], &e = q[(k + 1) % 3];
                        w[(k + 2) % 3] = (s[U] - double(x)) * (e[V] - double(y)) - (s[V] - double(y)) * (e[U] - double(x));
                        area += w[(k + 2) % 3];
                    }
                    if (area == 0 || std::any_of(w.begin(), w.end(), [&](double weight) { return weight / area < -1e-6; })) continue;
                    const double at = (w[0] * q[0][W] + w[1] * q[1][W] + w[2] * q[2][W]) / area;
                    for (double near : {at - 1e-5, at + 1e-5}) {
                        std::array<std::int64_t, 3> from{};
                        from[U] = x, from[V] = y, from[W] = std::int64_t(std::floor(near));
                        if (from[W] < 0 || from[W] + 1 >= grid_.n[W] || from[2] < z0 || from[2] >= z1) continue;
                        crossed_[grid_.at(from[0], from[1], from[2])] |= std::uint8_t(1u << axis);
                    }
                }
        }
    }

    /// Places that can be reached from the border of the lattice by steps that keep away from faces.
    void floodOutside() {
        widenWalls();
        outside_.assign(grid_.size(), 0);
        markStraight();
        std::vector<std::size_t> open = borderOf(outside_);
        const auto reach = [&](std::size_t i) {
            if (outside_[i] || wall_[i] <= reach_) return;
            outside_[i] = 1;
            open.push_back(i);
        };
        const auto strideY = std::size_t(grid_.n[0]), strideZ = strideY * std::size_t(grid_.n[1]);
        std::size_t count = 0;
        while (!open.empty()) {
            if (++count % 65536 == 0) run_.poll();
            const std::size_t i = open.back();
            open.pop_back();
            const std::size_t x = i % strideY, y = i / strideY % std::size_t(grid_.n[1]), z = i / strideZ;
            if (x > 0) reach(i - 1);
            if (x + 1 < strideY) reach(i + 1);
            if (y > 0) reach(i - strideY);
            if (y + 1 < std::size_t(grid_.n[1])) reach(i + strideY);
            if (z > 0) reach(i - strideZ);
            if (z + 1 < std::size_t(grid_.n[2])) reach(i + strideZ);
        }
    }
    /// What is seen straight along x from either side: most of the outside, without a flood.
    void markStraight() {
        const auto length = std::size_t(grid_.n[0]), lines = std::size_t(grid_.n[1] * grid_.n[2]);
        forEach(
            lines, run_,
            [&](std::size_t l) {
                std::size_t at = l * length, end = at + length;
                while (at < end && wall_[at] > reach_) outside_[at++] = 1;
                while (end > at && wall_[end - 1] > reach_) outside_[--end] = 1;
            },
            256);
    }
    /// Marked places with a neighbour that is not: where a flood goes on.
    std::vector<std::size_t> borderOf(const std::vector<std::uint8_t>& marked) const {
        const std::array<std::size_t, 3> n{std::size_t(grid_.n[0]), std::size_t(grid_.n[1]), std::size_t(grid_.n[2])}, stride{1, n[0], n[0] * n[1]};
        std::vector<std::vector<std::size_t>> found(n[2]);
        forEach(
            n[2], run_,
            [&](std::size_t z) {
                for (std::size_t y = 0; y < n[1]; ++y)
                    for (std::size_t x = 0; x < n[0]; ++x) {
                        const std::size_t i = x + y * stride[1] + z * stride[2];
                        if (!marked[i]) continue;
                        const bool inner = (x == 0 || marked[i - 1]) && (x + 1 == n[0] || marked[i + 1]) && (y == 0 || marked[i - stride[1]]) &&
                                           (y + 1 == n[1] || marked[i + stride[1]]) && (z == 0 || marked[i - stride[2]]) &&
                                           (z + 1 == n[2] || marked[i + stride[2]]);
                        if (!inner) found[z].push_back(i);
                    }
            },
            4);
        std::vector<std::size_t> out;
        for (const auto& layer : found) out.insert(out.end(), layer.begin(), layer.end());
        return out;
    }
    /// Distances to faces up to a little beyond the reach: those of the band carried on.
    void widenWalls() {
        wall_ = near_;
        if (reach_ > (kBand - 0.1f) * grid_.cell) spreadDistances(wall_);
    }
    /// Distances from where they are known carried on through the lattice, by sweeps to and fro along each axis. Source: Danielsson, "Euclidean distance
    /// mapping", 1980, in the form of lower envelopes: Felzenszwalb & Huttenlocher, Theory of Computing 8, 2012.
    void spreadDistances(std::vector<float>& field) const {
        for (float& v : field) v = v == kFar ? kFar : v * v;
        for (int axis = 0; axis < 3; ++axis) {
            const int u = (axis + 1) % 3, v = (axis + 2) % 3;
            const auto lines = std::size_t(grid_.n[std::size_t(u)] * grid_.n[std::size_t(v)]);
            forChunks(
                lines, run_,
                [&](std::size_t, Range range) {
                    std::vector<float> line(std::size_t(grid_.n[std::size_t(axis)])), out(line.size());
                    std::vector<std::size_t> hull(line.size());
                    std::vector<float> from(line.size() + 1);
                    for (std::size_t l = range.begin; l < range.end; ++l) {
                        std::array<std::int64_t, 3> at{};
                        at[std::size_t(u)] = std::int64_t(l) % grid_.n[std::size_t(u)], at[std::size_t(v)] = std::int64_t(l) / grid_.n[std::size_t(u)];
                        const auto index = [&](std::size_t k) {
                            auto p = at;
                            p[std::size_t(axis)] = std::int64_t(k);
                            return grid_.at(p[0], p[1], p[2]);
                        };
                        for (std::size_t k = 0; k < line.size(); ++k) line[k] = field[index(k)];
                        lowerEnvelope(line, out, hull, from);
                        for (std::size_t k = 0; k < line.size(); ++k) field[index(k)] = out[k];
                    }
                },
                256);
        }
        for (float& v : field) v = v == kFar ? kFar : std::sqrt(v);
    }
    void lowerEnvelope(const std::vector<float>& line, std::vector<float>& out, std::vector<std::size_t>& hull, std::vector<float>& from) const {
        const float c2 = grid_.cell * grid_.cell;
        std::size_t count = 0;
        const auto meets = [&](std::size_t p, std::size_t q) {  // where the parabola of q gets below that of p
            return ((line[q] - line[p]) / c2 + float(q * q) - float(p * p)) / (2 * float(q - p));
        };
        for (std::size_t q = 0; q < line.size(); ++q) {
            if (line[q] == kFar) continue;
            while (count > 0 && meets(hull[count - 1], q) <= from[count - 1]) --count;
            from[count] = count == 0 ? -std::numeric_limits<float>::infinity() : meets(hull[count - 1], q);
            hull[count++] = q;
        }
        if (count == 0) return void(std::fill(out.begin(), out.end(), kFar));
        std::size_t k = 0;
        for (std::size_t x = 0; x < out.size(); ++x) {
            while (k + 1 < count && from[k + 1] < float(x)) ++k;
            const float d = (float(x) - float(hull[k])) * grid_.cell;
            out[x] = d * d + line[hull[k]];
        }
    }

    /// How far each place is from the outside: a gap is bridged where that is the reach.
    void measureOutside() {
        fromOutside_.assign(grid_.size(), kFar);
        for (std::size_t i = 0; i < fromOutside_.size(); ++i)
            if (outside_[i]) fromOutside_[i] = 0;
        // Beyond this no distance is asked for.
        const auto window = std::int64_t(std::ceil((mostBeside() + 0.5f * grid_.cell) / grid_.cell));
        if (window <= kWidestWindow) spreadWithin(fromOutside_, window);
        else spreadDistances(fromOutside_);
        reachFaces();
    }
    /// The outside was met at places of the lattice: up to one diagonal later than where the reach ends.
    float mostBeside() const { return reach_ + 1.75f * grid_.cell; }
    static constexpr std::int64_t kWidestWindow = 8;
    /// As spreadDistances, but only up to so many cells: the least of a few places along each axis, which is quicker than envelopes where those are few.
    void spreadWithin(std::vector<float>& field, std::int64_t window) const {
        std::vector<float> before(field.size());
        const float c2 = grid_.cell * grid_.cell;
        for (int axis = 0; axis < 3; ++axis) {
            field.swap(before);
            const auto length = std::size_t(grid_.n[0]), lines = std::size_t(grid_.n[1] * grid_.n[2]);
            const std::array<std::int64_t, 3> stride{1, grid_.n[0], grid_.n[0] * grid_.n[1]};
            forEach(
                lines, run_,
                [&](std::size_t l) {
                    const auto start = std::int64_t(l * length);
                    const std::array<std::int64_t, 3> at{0, std::int64_t(l) % grid_.n[1], std::int64_t(l) / grid_.n[1]};
                    float* to = field.data() + start;
                    const float* same = before.data() + start;
                    std::copy(same, same + length, to);
                    for (std::int64_t k = -window; k <= window; ++k) {
                        const float add = float(k * k) * c2;
                        if (k == 0 || (axis > 0 && (at[std::size_t(axis)] + k < 0 || at[std::size_t(axis)] + k >= grid_.n[std::size_t(axis)]))) continue;
                        const std::int64_t first = axis == 0 ? std::max<std::int64_t>(0, -k) : 0,
                                           last = axis == 0 ? std::min(grid_.n[0], grid_.n[0] - k) : grid_.n[0];
                        const float* from = same + k * stride[std::size_t(axis)];
                        for (std::int64_t x = first; x < last; ++x) to[x] = std::min(to[x], from[x] + add);
                    }
                },
                256);
        }
        forEach(field.size(), run_, [&](std::size_t i) { field[i] = field[i] >= kFar ? kFar : std::sqrt(field[i]); });
    }
    /// From the outside up to the faces: along edges that no face crosses, not farther than the reach. So sides are told exactly.
    void reachFaces() {
        beside_ = outside_;
        std::vector<std::size_t> open = borderOf(beside_);
        const std::array<std::size_t, 3> stride{1, std::size_t(grid_.n[0]), std::size_t(grid_.n[0]) * std::size_t(grid_.n[1])};
        const float most = mostBeside();
        std::size_t count = 0;
        while (!open.empty()) {
            if (++count % 65536 == 0) run_.poll();
            const std::size_t i = open.back();
            open.pop_back();
            const std::array<std::size_t, 3> at{i % stride[1], i / stride[1] % std::size_t(grid_.n[1]), i / stride[2]};
            for (std::size_t axis = 0; axis < 3; ++axis) {
                const auto step = [&](std::size_t to, std::size_t edge) {
                    if (beside_[to] || (crossed_[edge] >> axis & 1) || fromOutside_[to] > most) return;
                    beside_[to] = 1;
                    open.push_back(to);
                };
                if (at[axis] > 0) step(i - stride[axis], i - stride[axis]);
                if (at[axis] + 1 < std::size_t(grid_.n[axis])) step(i + stride[axis], i);
            }
        }
    }
    /// Signed: positive outside. Near faces by their exact distance, in bridged gaps by that from the outside.
    float value(std::size_t i) const {
        const float bridge = reach_ - fromOutside_[i] + 0.5f * grid_.cell;  // the outside ends between two places: on average half a cell before the reach
        const bool nearby = near_[i] <= kBand * grid_.cell, out = nearby ? beside_[i] != 0 : outside_[i] || bridge > 0;
        float size = nearby ? near_[i] : std::min(std::abs(bridge), 2 * grid_.cell);
        size = std::max(size, 1e-4f * grid_.cell);
        return out ? size : -size;
    }
    bool open() const {
        const auto& beside = in_.topology().edges().faceCount;
        return std::any_of(beside.begin(), beside.end(), [](auto count) { return count % 2 != 0; });
    }
    /// Which part of the faces, by area, has some inside within a cell or two.
    double coveredPart() const {
        constexpr std::size_t kMostAsked = 20'000;
        const auto inside = [&](Vec3 place) {
            std::array<std::int64_t, 3> at{};
            for (int c = 0; c < 3; ++c) at[std::size_t(c)] = std::int64_t(std::floor((place[c] - grid_.low[c]) / grid_.cell));
            for (int corner = 0; corner < 8; ++corner)
                if (values_[grid_.at(at[0] + (corner & 1), at[1] + (corner >> 1 & 1), at[2] + (corner >> 2))] < 0) return true;
            return false;
        };
        double whole = 0, covered = 0;
        const std::size_t step = std::max<std::size_t>(1, triangles_.count() / kMostAsked);
        for (std::size_t t = 0; t < triangles_.count(); t += step) {
            const auto corner = [&](std::size_t k) { return in_.positions()[in_.topology().cornerPoint()[triangles_.corners[3 * t + k]]]; };
            const Vec3 a = corner(0), b = corner(1), c = corner(2), vector = cross(b - a, c - a), aside = normalized(vector, {}) * (0.9f * grid_.cell);
            const Vec3 middle = (a + b + c) / 3.0f;
            whole += double(length(vector));
            if (inside(middle + aside) || inside(middle - aside)) covered += double(length(vector));
        }
        return whole > 0 ? covered / whole : 1;
    }

    /// Inside is where faces go around a place by more than half. The number jumps where a face is crossed and hardly changes elsewhere, but near where faces
    /// end: so it is asked once for all places of a block that no face parts, if it is clear there, and place by place near open edges and in holes.
    void signByWinding() {
        const WindingTree winding(in_, triangles_);
        const float turn = signedVolume(in_) < 0 ? -1.0f : 1.0f;  // inside out is still a body
        std::array<std::int64_t, 3> blocks{};
        for (std::size_t c = 0; c < 3; ++c) blocks[c] = (grid_.n[c] + kBlock - 1) / kBlock;
        const std::vector<std::uint8_t> atRims = blocksAtRims(blocks);
        values_.assign(grid_.size(), 0);
        forEach(
            atRims.size(), run_,
            [&](std::size_t block) {
                const std::array<std::int64_t, 3> low{std::int64_t(block) % blocks[0] * kBlock, std::int64_t(block) / blocks[0] % blocks[1] * kBlock,
                                                      std::int64_t(block) / (blocks[0] * blocks[1]) * kBlock};
                signBlock(low, atRims[block] != 0,
                          [&](const std::array<std::int64_t, 3>& at) { return turn * float(winding.at(grid_.place(at[0], at[1], at[2]))) - 0.5f; });
            },
            16);
    }
    /// Blocks in which faces end, or run against each other, and those around them.
    std::vector<std::uint8_t> blocksAtRims(const std::array<std::int64_t, 3>& blocks) const {
        std::vector<std::uint8_t> out(std::size_t(blocks[0] * blocks[1] * blocks[2]), 0);
        const float size = grid_.cell * float(kBlock);
        const auto mark = [&](Vec3 place) {
            std::array<std::int64_t, 3> from{}, to{};
            for (int c = 0; c < 3; ++c) {
                const auto at = std::int64_t(std::floor((place[c] - grid_.low[c]) / size));
                from[std::size_t(c)] = std::max<std::int64_t>(0, at - 1), to[std::size_t(c)] = std::min(blocks[std::size_t(c)] - 1, at + 1);
            }
            for (std::int64_t z = from[2]; z <= to[2]; ++z)
                for (std::int64_t y = from[1]; y <= to[1]; ++y)
                    for (std::int64_t x = from[0]; x <= to[0]; ++x) out[std::size_t((z * blocks[1] + y) * blocks[0] + x)] = 1;
        };
        const EdgeTable& edges = in_.topology().edges();
        for (std::size_t e = 0; e < edges.edges.size(); ++e) {
            if (edges.balance[e] == 0) continue;
            const Vec3 a = in_.positions()[edges.edges[e].a], b = in_.positions()[edges.edges[e].b];
            const int steps = 1 + int(length(b - a) / size);
            for (int i = 0; i <= steps; ++i) mark(mix(a, b, float(i) / float(steps)));
        }
        return out;
    }
    /// The values of a block's places, from how often faces go `around` one beyond a half.
    template <class Around> void signBlock(const std::array<std::int64_t, 3>& low, bool atRim, const Around& around) {
        std::array<std::int64_t, 3> size{};
        for (std::size_t c = 0; c < 3; ++c) size[c] = std::min(kBlock, grid_.n[c] - low[c]);
        constexpr float kClear = 0.25f, kOutside = -0.5f;
        std::array<std::uint8_t, std::size_t(kBlock * kBlock * kBlock)> done{};
        const auto number = [](const std::array<std::int64_t, 3>& at) { return std::size_t((at[2] * kBlock + at[1]) * kBlock + at[0]); };
        const auto whole = [&](const std::array<std::int64_t, 3>& at) { return std::array<std::int64_t, 3>{low[0] + at[0], low[1] + at[1], low[2] + at[2]}; };
        const auto set = [&](const std::array<std::int64_t, 3>& at, float more) {
            const auto [x, y, z] = whole(at);
            const bool border = x == 0 || y == 0 || z == 0 || x + 1 == grid_.n[0] || y + 1 == grid_.n[1] || z + 1 == grid_.n[2];
            if (border) more = kOutside;
            const float near = near_[grid_.at(x, y, z)];
            // Over a hole the surface runs where the number is a half.
            const float far = near <= kBand * grid_.cell ? near : std::min(2.0f, 8 * std::abs(more)) * grid_.cell;
            values_[grid_.at(x, y, z)] = std::copysign(std::max(far, 1e-4f * grid_.cell), -more);
        };
        /// All places that are reached from one without crossing a face.
        const auto together = [&](const std::array<std::int64_t, 3>& first, auto& list) {
            std::size_t count = 0;
            list[count++] = first;
            done[number(first)] = 1;
            for (std::size_t next = 0; next < count; ++next)
                for (std::size_t axis = 0; axis < 3; ++axis)
                    for (int step : {-1, 1}) {
                        auto to = list[next];
                        to[axis] += step;
                        if (to[axis] < 0 || to[axis] >= size[axis] || done[number(to)]) continue;
                        const auto [x, y, z] = whole(step < 0 ? to : list[next]);
                        if (crossed_[grid_.at(x, y, z)] >> axis & 1) continue;
                        done[number(to)] = 1;
                        list[count++] = to;
                    }
            return count;
        };
        std::array<std::array<std::int64_t, 3>, done.size()> list;
        std::array<std::int64_t, 3> at{};
        for (at[2] = 0; at[2] < size[2]; ++at[2])
            for (at[1] = 0; at[1] < size[1]; ++at[1])
                for (at[0] = 0; at[0] < size[0]; ++at[0]) {
                    if (done[number(at)]) continue;
                    if (atRim) {
                        set(at, around(whole(at)));
                        continue;
                    }
                    const std::size_t count = together(at, list);
                    const float middle = around(whole(list[count / 2]));
                    for (std::size_t i = 0; i < count; ++i) set(list[i], std::abs(middle) > kClear ? middle : around(whole(list[i])));
                }
    }
    /// Replaces the ring that begins at `begin` by triangles around its middle.
    static void fillFromMiddle(std::vector<Vec3>& places, std::vector<Index>& corners, std::size_t begin, std::vector<Index>& start) {
        const std::vector<Index> ring(corners.begin() + std::ptrdiff_t(begin), corners.end());
        corners.resize(begin);
        Vec3 middle{};
        for (Index p : ring) middle += places[p] / float(ring.size());
        const auto number = Index(places.size());
        places.push_back(middle);
        for (std::size_t i = 0; i < ring.size(); ++i) {
            corners.insert(corners.end(), {number, ring[i], ring[(i + 1) % ring.size()]});
            start.push_back(Index(corners.size()));
        }
    }

    Geometry surface() {
        const auto& table = cellFaces();
        // Points on the lattice's edges: of two layers along x and y, of one between them along z.
        const auto layer = std::size_t(grid_.n[0] * grid_.n[1]);
        std::array<std::vector<Index>, 2> onX{std::vector<Index>(layer, kNone), std::vector<Index>(layer, kNone)}, onY = onX;
        std::vector<Index> onZ(layer, kNone);
        std::vector<Vec3> places;
        std::vector<Index> start{0}, corners;
        const auto point = [&](std::array<std::int64_t, 3> a, int axis, std::size_t above) {
            std::vector<Index>& list = axis == 0 ? onX[above] : axis == 1 ? onY[above] : onZ;
            Index& known = list[grid_.at(a[0], a[1], 0)];
            if (known != kNone) return known;
            auto b = a;
            ++b[std::size_t(axis)];
            const float va = values_[grid_.at(a[0], a[1], a[2])], vb = values_[grid_.at(b[0], b[1], b[2])];
            places.push_back(mix(grid_.place(a[0], a[1], a[2]), grid_.place(b[0], b[1], b[2]), std::clamp(va / (va - vb), 0.01f, 0.99f)));
            return known = Index(places.size() - 1);
        };
        for (std::int64_t z = 0; z + 1 < grid_.n[2]; ++z) {
            run_.poll();
            for (std::int64_t y = 0; y + 1 < grid_.n[1]; ++y) {
                const std::array<const float*, 4> rows{&values_[grid_.at(0, y, z)], &values_[grid_.at(0, y + 1, z)], &values_[grid_.at(0, y, z + 1)],
                                                       &values_[grid_.at(0, y + 1, z + 1)]};
                // Which of the eight corners are inside; those at the right become those at the left of the next cell.
                const auto atRight = [&](std::int64_t x) {
                    unsigned bits = 0;
                    for (unsigned r = 0; r < 4; ++r) bits |= unsigned(rows[r][x] < 0) << (2 * r + 1);
                    return bits;
                };
                unsigned right = atRight(0);
                for (std::int64_t x = 0; x + 1 < grid_.n[0]; ++x) {
                    const unsigned left = right >> 1;
                    right = atRight(x + 1);
                    const unsigned inside = left | right;
                    if (inside == 0 || inside == 255) continue;
                    for (const auto& [edges, needsMiddle] : table[inside]) {
                        const std::size_t begin = corners.size();
                        for (int e : edges) {
                            const int corner = kCellEdges[std::size_t(e)][0];
                            corners.push_back(point({x + (corner & 1), y + (corner >> 1 & 1), z + (corner >> 2)}, e / 4, std::size_t(corner >> 2)));
                        }
                        if (needsMiddle) fillFromMiddle(places, corners, begin, start);
                        else start.push_back(Index(corners.size()));
                    }
                }
            }
            std::swap(onX[0], onX[1]), std::swap(onY[0], onY[1]);
            for (std::vector<Index>* list : {&onX[1], &onY[1], &onZ}) std::fill(list->begin(), list->end(), kNone);
        }
        const std::size_t count = places.size();
        return Geometry(std::move(places), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
    }

    /// Separate pieces and hollows of less than a cell are nothing that the cells can tell; the largest piece stays.
    Geometry withoutDust(Geometry shell) const {
        const Connection& pieces = shell.topology().connection();
        if (pieces.pieces < 2) return shell;
        std::vector<double> volume(pieces.pieces, 0);
        const auto& at = shell.positions();
        const Vec3 origin = grid_.low;  // near, so that differences stay exact
        for (Index f = 0; f < shell.faceCount(); ++f) {
            const auto face = shell.topology().face(f);
            for (std::size_t k = 1; k + 1 < face.size(); ++k)
                volume[pieces.pieceOfPoint[face[0]]] += double(dot(at[face[0]] - origin, cross(at[face[k]] - origin, at[face[k + 1]] - origin))) / 6;
        }
        double largest = 0;
        for (double v : volume) largest = std::max(largest, std::abs(v));
        const double least = std::min(std::pow(double(grid_.cell), 3), largest);
        RowPlan plan;
        std::vector<Index> number(shell.pointCount(), kNone);
        for (Index p = 0; p < number.size(); ++p)
            if (std::abs(volume[pieces.pieceOfPoint[p]]) >= least) number[p] = Index(plan.points.size()), plan.points.push_back(p);
        if (plan.points.size() == number.size()) return shell;
        for (Index f = 0; f < shell.faceCount(); ++f) {
            const auto face = shell.topology().face(f);
            if (number[face[0]] == kNone) continue;
            for (std::size_t k = 0; k < face.size(); ++k) plan.addCorner(number[face[k]], Index(shell.topology().faceStart()[f] + k));
            plan.endFace(f);
        }
        return takeRows(shell, std::move(plan));
    }

    const Geometry& in_;
    const VoxelShellOptions& options_;
    const RunContext& run_;
    Lattice grid_;
    float reach_;
    Triangles triangles_;
    std::vector<float> near_, wall_, fromOutside_, values_;  ///< the last is negative inside
    std::vector<std::uint8_t> outside_, beside_, crossed_;
};

}  // namespace

double voxelCells(const Geometry& geometry, const VoxelShellOptions& options) {
    const Lattice grid = latticeFor(geometry, options);
    return double(grid.n[0]) * double(grid.n[1]) * double(grid.n[2]);
}

VoxelShell voxelShell(const Geometry& geometry, const VoxelShellOptions& options, const RunContext& run) { return ShellMaker(geometry, options, run).run(); }

}  // namespace seedloom

#include "scatter/CopyOverlap.h"

#include "geometry/Bake.h"
#include "geometry/BoxTree.h"
#include "geometry/Measures.h"
#include "parallel/Loops.h"
#include "scatter/PointGrid.h"
#include "scatter/VolumeSamples.h"

#include <numeric>
#include <tuple>

namespace seedloom {

namespace {

constexpr float kTouch = 1e-4f, kSame = 1e-5f;  // parts of a copy's size

/// A box as the shape's own, turned and stretched with its copy.
struct PlacedBox {
    Vec3 centre, half[3];
    Box around;
    float size = 0;
    bool usable = false;
};

PlacedBox placed(const Bounds& bounds, const Affine& place, float gap) {
    PlacedBox out;
    if (bounds.empty) return out;
    const Vec3 h = bounds.size() * 0.5f;
    out.centre = place.point(bounds.centre());
    out.half[0] = place.x * h.x, out.half[1] = place.y * h.y, out.half[2] = place.z * h.z;
    if (gap > 0)
        for (Vec3& side : out.half) side += normalized(side, {0, 0, 0}) * (gap * 0.5f);
    Vec3 reach{};
    for (const Vec3& side : out.half) reach += {std::abs(side.x), std::abs(side.y), std::abs(side.z)};
    out.around = {out.centre - reach, out.centre + reach};
    out.size = 2 * std::min({length(out.half[0]), length(out.half[1]), length(out.half[2])});
    if (out.size == 0) out.size = 2 * length(out.half[0] + out.half[1] + out.half[2]);
    out.usable = isFinite(out.centre) && isFinite(reach);
    return out;
}

bool boxesMeet(const PlacedBox& a, const PlacedBox& b) {
    const Vec3 between = b.centre - a.centre;
    const float slack = kTouch * std::min(a.size, b.size);
    const auto apart = [&](Vec3 axis) {
        const float far = length(axis);
        if (far < 1e-12f) return false;
        axis = axis / far;
        float reach = 0;
        for (int i = 0; i < 3; ++i) reach += std::abs(dot(a.half[i], axis)) + std::abs(dot(b.half[i], axis));
        return std::abs(dot(between, axis)) >= reach - slack;
    };
    for (const PlacedBox* box : {&a, &b})
        for (int i = 0; i < 3; ++i)
            if (apart(cross(box->half[i], box->half[(i + 1) % 3]))) return false;
    for (const Vec3& u : a.half)
        for (const Vec3& v : b.half)
            if (apart(cross(normalized(u, {0, 0, 0}), normalized(v, {0, 0, 0})))) return false;
    return true;
}

/// A shape's faces ready for being met by others.
struct ShapeFaces {
    Geometry baked;
    Triangles triangles;
    std::vector<Box> boxes;
    std::optional<BoxTree> tree;
    std::unique_ptr<InsideTest> inside;  ///< where it is closed

    explicit ShapeFaces(const Geometry& shape) : baked(bakeCopies(shape)), triangles(triangulate(baked)) {
        boxes = boxesOf(baked, triangles);
        std::vector<Index> all(boxes.size());
        std::iota(all.begin(), all.end(), Index{0});
        if (!all.empty()) tree.emplace(boxes, std::move(all));
        const auto& edges = baked.topology().edges();
        if (baked.faceCount() > 0 && std::all_of(edges.faceCount.begin(), edges.faceCount.end(), [](Index n) { return n == 2; }))
            inside = std::make_unique<InsideTest>(baked);
    }
    Vec3 corner(Index triangle, int k) const { return baked.positions()[baked.topology().cornerPoint()[triangles.corners[triangle * 3 + Index(k)]]]; }
};

bool segmentMeets(Vec3 from, Vec3 to, Vec3 a, Vec3 b, Vec3 c) {
    const Vec3 way = to - from, ab = b - a, ac = c - a, p = cross(way, ac);
    const double det = double(dot(ab, p)), size = double(dot(way, way)) * double(dot(ab, ab)) * double(dot(ac, ac));
    constexpr double kParallel = 1e-14;  // of the square of what it could be
    if (det * det <= kParallel * size) return false;
    const Vec3 s = from - a;
    const double u = double(dot(s, p)) / det;
    const Vec3 q = cross(s, ab);
    const double v = double(dot(way, q)) / det, t = double(dot(ac, q)) / det;
    return u >= 0 && v >= 0 && u + v <= 1 && t >= 0 && t <= 1;
}

/// The second shape is brought into the first one's space, a little smaller about its centre, so that touching is not meeting.
bool facesMeet(const ShapeFaces& a, const Affine& placeA, const ShapeFaces& b, const Affine& placeB) {
    if (!a.tree || !b.tree || placeA.determinant() == 0) return false;
    const Vec3 centre = (b.tree->bounds().low + b.tree->bounds().high) * 0.5f;
    Affine shrink;
    shrink.x.x = shrink.y.y = shrink.z.z = 1 - 2 * kTouch;
    shrink.move = centre * (2 * kTouch);
    const Affine map = inverse(placeA) * placeB * shrink;
    for (Index t = 0; t < b.triangles.count(); ++t) {
        const Vec3 p[3] = {map.point(b.corner(t, 0)), map.point(b.corner(t, 1)), map.point(b.corner(t, 2))};
        Box box{p[0], p[0]};
        box.add({p[1], p[1]}), box.add({p[2], p[2]});
        bool met = false;
        a.tree->meeting(box, [&](Index other) {
            if (met) return;
            const Vec3 q[3] = {a.corner(other, 0), a.corner(other, 1), a.corner(other, 2)};
            for (int i = 0; i < 3 && !met; ++i)
                met = segmentMeets(p[i], p[(i + 1) % 3], q[0], q[1], q[2]) || segmentMeets(q[i], q[(i + 1) % 3], p[0], p[1], p[2]);
        });
        if (met) return true;
    }
    if (a.inside && a.inside->inside(map.point(b.corner(0, 0)))) return true;
    return b.inside && map.determinant() != 0 && b.inside->inside(inverse(map).point(a.corner(0, 0)));
}

}  // namespace

void doubledCopies(const Geometry& geometry, std::vector<Index>& doubled, std::vector<Index>& doubleOf) {
    const Copies* copies = geometry.copies();
    if (!copies) return;
    std::vector<float> sizes;
    for (const auto& shape : copies->shapes) sizes.push_back(float(boundsOf(*shape).diagonal()));
    const std::size_t count = copies->place.size();
    std::vector<Vec3> at(count);
    std::vector<float> near(count);
    for (std::size_t i = 0; i < count; ++i) {
        at[i] = copies->place[i].move;
        near[i] = sizes[copies->shapeOf[i]] * kSame * std::max({length(copies->place[i].x), length(copies->place[i].y), length(copies->place[i].z)});
    }
    // Cells much larger than what is looked for: then nearly always one of them is enough.
    constexpr float kCell = 256;
    const PointGrid grid(at, std::max(typicalReach(near) * kCell, 1e-9f));
    const auto alike = [&](Index i, Index j) {
        const Affine &a = copies->place[i], &b = copies->place[j];
        const float size = std::max({length(a.x), length(a.y), length(a.z)}) * kSame * 10;
        return copies->shapeOf[i] == copies->shapeOf[j] && length(a.x - b.x) <= size && length(a.y - b.y) <= size && length(a.z - b.z) <= size;
    };
    std::vector<std::uint8_t> gone(count, 0);
    for (Index i = 0; i < count; ++i) {
        if (gone[i]) continue;
        grid.within(at[i], near[i], [&](Index j) {
            if (j > i && !gone[j] && alike(i, j)) gone[j] = 1, doubled.push_back(j), doubleOf.push_back(i);
        });
    }
    std::vector<std::pair<Index, Index>> both;
    for (std::size_t k = 0; k < doubled.size(); ++k) both.push_back({doubled[k], doubleOf[k]});
    std::sort(both.begin(), both.end());
    for (std::size_t k = 0; k < both.size(); ++k) doubled[k] = both[k].first, doubleOf[k] = both[k].second;
}

CopyOverlaps overlapsOf(const Geometry& geometry, OverlapBy by, const RunContext& run, float gap, std::size_t most) {
    CopyOverlaps out;
    const Copies* copies = geometry.copies();
    if (!copies) return out;
    doubledCopies(geometry, out.doubled, out.doubleOf);
    const std::size_t count = copies->place.size();
    std::vector<std::uint8_t> skipped(count, 0);
    for (Index i : out.doubled) skipped[i] = 1;
    std::vector<Bounds> bounds;
    for (const auto& shape : copies->shapes) bounds.push_back(boundsOf(*shape));
    std::vector<PlacedBox> boxes(count);
    std::vector<Box> around(count);
    std::vector<Index> numbers;
    for (Index i = 0; i < count; ++i) {
        boxes[i] = placed(bounds[copies->shapeOf[i]], copies->place[i], gap);
        around[i] = boxes[i].around;
        if (boxes[i].usable && !skipped[i]) numbers.push_back(i);
    }
    if (numbers.empty()) return out;
    std::vector<std::unique_ptr<ShapeFaces>> faces(copies->shapes.size());
    if (by == OverlapBy::meshes)
        for (Index i : numbers)
            if (auto& of = faces[copies->shapeOf[i]]; !of) of = std::make_unique<ShapeFaces>(*copies->shapes[copies->shapeOf[i]]);
    const BoxTree tree(around, numbers);
    std::vector<CopyPair> near;
    struct Enough {};
    try {
        std::size_t looked = 0;
        BoxTree::pairs(tree, tree, [&](Index i, Index j) {
            if (++looked % 65536 == 0) run.poll();
            if (i >= j) return;
            if (near.size() >= most) throw Enough{};
            near.push_back({i, j});
        });
    } catch (const Enough&) {
        out.cut = true;
    }
    out.near = near.size();
    if (out.cut) return out;
    std::sort(near.begin(), near.end(), [](const CopyPair& a, const CopyPair& b) { return std::tie(a.first, a.second) < std::tie(b.first, b.second); });
    // Each chunk keeps its own list, so that the pairs stay in their order.
    std::vector<std::vector<CopyPair>> found(chunkCount(near.size(), 256));
    forChunks(
        near.size(), run,
        [&](std::size_t chunk, Range range) {
            for (std::size_t k = range.begin; k < range.end; ++k) {
                const auto [i, j] = near[k];
                if (!boxesMeet(boxes[i], boxes[j])) continue;
                if (by == OverlapBy::meshes && !facesMeet(*faces[copies->shapeOf[i]], copies->place[i], *faces[copies->shapeOf[j]], copies->place[j])) continue;
                found[chunk].push_back(near[k]);
            }
        },
        256);
    for (const auto& some : found) out.pairs.insert(out.pairs.end(), some.begin(), some.end());
    return out;
}

}  // namespace seedloom

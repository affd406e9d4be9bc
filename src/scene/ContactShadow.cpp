#include "scene/ContactShadow.h"

#include "geometry/Measures.h"
#include "scene/Palette.h"

#include <cmath>

namespace seedloom {

namespace {

constexpr int kCells = 72, kBlur = 3, kRounds = 2;
constexpr float kBorder = 0.2f;  ///< of the footprint, on each side
constexpr float kFades = 0.1f;   ///< of the footprint: at this height the shadow is a third
constexpr float kBelow = 0.02f;  ///< of the size: how far something may stand in the ground
constexpr std::size_t kMostCopies = 20000, kMostTriangles = 200000;

class ShadowGrid {
public:
    explicit ShadowGrid(const Bounds& bounds)
        : wide_(std::max(bounds.size().x, bounds.size().z) * (1 + 2 * kBorder)),
          cell_(wide_ / kCells), low_{bounds.centre().x - wide_ / 2, 0, bounds.centre().z - wide_ / 2}, fades_(wide_ * kFades), dark_(kCells * kCells, 0) {}

    void add(Vec3 a, Vec3 b, Vec3 c) {
        if (!isFinite(a) || !isFinite(b) || !isFinite(c)) return;
        darken((a + b + c) / 3);  // one that is smaller than a cell, too
        const auto first = [&](float v, float low) { return std::clamp(int(std::floor((v - low) / cell_ - 0.5f)) + 1, 0, kCells); };
        const int x0 = first(std::min({a.x, b.x, c.x}), low_.x), x1 = first(std::max({a.x, b.x, c.x}), low_.x);
        const int z0 = first(std::min({a.z, b.z, c.z}), low_.z), z1 = first(std::max({a.z, b.z, c.z}), low_.z);
        const float area = (b.x - a.x) * (c.z - a.z) - (c.x - a.x) * (b.z - a.z);
        if (area == 0) return;
        for (int z = z0; z < z1; ++z)
            for (int x = x0; x < x1; ++x) {
                const float px = low_.x + (float(x) + 0.5f) * cell_, pz = low_.z + (float(z) + 0.5f) * cell_;
                const float u = ((px - a.x) * (c.z - a.z) - (c.x - a.x) * (pz - a.z)) / area, v = ((b.x - a.x) * (pz - a.z) - (px - a.x) * (b.z - a.z)) / area;
                if (u >= 0 && v >= 0 && u + v <= 1) darken({px, a.y + (b.y - a.y) * u + (c.y - a.y) * v, pz});
            }
    }
    /// Whether it covers more than a cell.
    bool isLarge(Vec3 a, Vec3 b, Vec3 c) const {
        const float wide = std::max({a.x, b.x, c.x}) - std::min({a.x, b.x, c.x}), deep = std::max({a.z, b.z, c.z}) - std::min({a.z, b.z, c.z});
        return std::max(wide, deep) > cell_;
    }
    /// A copy, as the box that it fills.
    void add(const Bounds& box) {
        const Vec3 low{box.min.x, box.min.y, box.min.z}, high{box.max.x, box.min.y, box.max.z};
        add(low, {high.x, low.y, low.z}, high), add(low, high, {low.x, low.y, high.z});
    }

    std::vector<DrawScene::Vertex> triangles() {
        for (int round = 0; round < kRounds; ++round) blur(1, kCells), blur(kCells, 1);
        std::vector<DrawScene::Vertex> out;
        const auto vertex = [&](int x, int z) {
            return DrawScene::Vertex{low_ + Vec3{(float(x) + 0.5f) * cell_, 0, (float(z) + 0.5f) * cell_},
                                     {0, 1, 0},
                                     kInk,
                                     {dark_[std::size_t(z * kCells + x)], 0}};
        };
        for (int z = 0; z + 1 < kCells; ++z)
            for (int x = 0; x + 1 < kCells; ++x) {
                const std::array square{vertex(x, z), vertex(x, z + 1), vertex(x + 1, z + 1), vertex(x + 1, z)};
                if (std::all_of(square.begin(), square.end(), [](const auto& v) { return v.uv.x < 0.004f; })) continue;
                for (int corner : {0, 1, 2, 0, 2, 3}) out.push_back(square[std::size_t(corner)]);
            }
        return out;
    }

private:
    void darken(Vec3 p) {
        const int x = int(std::floor((p.x - low_.x) / cell_)), z = int(std::floor((p.z - low_.z) / cell_));
        if (x < 0 || z < 0 || x >= kCells || z >= kCells) return;
        float& dark = dark_[std::size_t(z * kCells + x)];
        dark = std::max(dark, std::exp(-std::max(p.y, 0.0f) / fades_));
    }
    /// Means over a few cells in each row, or each column.
    void blur(int step, int next) {
        std::vector<float> row(kCells);
        for (int line = 0; line < kCells; ++line) {
            for (int i = 0; i < kCells; ++i) row[std::size_t(i)] = dark_[std::size_t(line * next + i * step)];
            for (int i = 0; i < kCells; ++i) {
                float sum = 0;
                for (int k = std::max(i - kBlur, 0); k <= std::min(i + kBlur, kCells - 1); ++k) sum += row[std::size_t(k)];
                dark_[std::size_t(line * next + i * step)] = sum / (2 * kBlur + 1);
            }
        }
    }

    float wide_, cell_;
    Vec3 low_;
    float fades_;
    std::vector<float> dark_;
};

void addCopies(const Copies& copies, ShadowGrid& grid) {
    std::vector<Bounds> of;
    for (const auto& shape : copies.shapes) of.push_back(boundsOf(*shape));
    for (std::size_t i = 0, step = copies.place.size() / kMostCopies + 1; i < copies.place.size(); i += step) {
        const Bounds& shape = of[copies.shapeOf[i]];
        Bounds placed;
        for (int corner = 0; corner < 8 && !shape.empty; ++corner) placed.add(copies.place[i].point(shape.corner(corner)));
        if (!placed.empty) grid.add(placed);
    }
}

}  // namespace

std::vector<DrawScene::Vertex> contactShadow(const Geometry& geometry, const Bounds& bounds, const std::vector<Index>& triangles) {
    if (bounds.empty || (geometry.faceCount() == 0 && !geometry.copies())) return {};
    const float size = float(bounds.diagonal());
    const bool near = bounds.min.y > -kBelow * size && bounds.min.y < size;
    if (!near || !(std::max(bounds.size().x, bounds.size().z) > 0) || !std::isfinite(size)) return {};
    ShadowGrid grid(bounds);
    const auto& point = geometry.topology().cornerPoint();
    const auto at = [&](std::size_t corner) { return geometry.positions()[point[triangles[corner]]]; };
    // Of very many small ones some tell as much as all.
    const std::size_t step = triangles.size() / 3 / kMostTriangles + 1;
    for (std::size_t t = 0; 3 * t + 2 < triangles.size(); ++t) {
        const Vec3 a = at(3 * t), b = at(3 * t + 1), c = at(3 * t + 2);
        if (t % step == 0 || grid.isLarge(a, b, c)) grid.add(a, b, c);
    }
    if (geometry.copies()) addCopies(*geometry.copies(), grid);
    return grid.triangles();
}

}  // namespace seedloom

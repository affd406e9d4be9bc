#include "fields/NoiseKernels.h"

#include <algorithm>
#include <bit>
#include <cmath>

// The kernels are built for three instruction sets; contraction is off, so all give the same bits.
// Sanitizers cannot start programs whose functions are chosen that early.
#if defined(__SANITIZE_THREAD__) || defined(__SANITIZE_ADDRESS__)
#define SEEDLOOM_CLONES
#else
#define SEEDLOOM_CLONES __attribute__((target_clones("arch=x86-64-v4", "avx2", "default")))
#endif
#define SEEDLOOM_INLINE inline __attribute__((always_inline))

namespace seedloom {

namespace {

// Odd numbers without a pattern in their bits; a step along an axis adds one of them, so corners share their sums.
constexpr std::uint32_t kStepX = 0x8DA6B343u, kStepY = 0xD8163841u, kStepZ = 0xCB1AB31Fu;

SEEDLOOM_INLINE std::uint32_t lattice(std::int32_t x, std::int32_t y, std::int32_t z, std::uint32_t seed) {
    return std::uint32_t(x) * kStepX + std::uint32_t(y) * kStepY + std::uint32_t(z) * kStepZ + seed;
}

/// All bits of the result depend on all bits of h.
SEEDLOOM_INLINE std::uint32_t mixed(std::uint32_t h) {
    h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
    h = (h ^ (h >> 12)) * 0x297A2D39u;
    return h ^ (h >> 15);
}

/// Only the highest bits are good; gradients need four.
SEEDLOOM_INLINE std::uint32_t mixedHigh(std::uint32_t h) { return (h ^ (h >> 15)) * 0x2C1B3C6Du; }

SEEDLOOM_INLINE float fade(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }
SEEDLOOM_INLINE float lerp(float a, float b, float t) { return a + (b - a) * t; }

/// Keeps lattice coordinates in the range of int32; also turns NaN into a number.
SEEDLOOM_INLINE float bounded(float v) {
    v = v > -1e9f ? v : -1e9f;
    return v < 1e9f ? v : 1e9f;
}

SEEDLOOM_INLINE std::uint32_t bitsOf(float v) { return std::bit_cast<std::uint32_t>(v); }

/// `yes` where the lowest bit of `choice` is set, else `no`; without a branch, so that loops over it become vector code.
SEEDLOOM_INLINE std::uint32_t pick(std::uint32_t choice, std::uint32_t yes, std::uint32_t no) {
    const std::uint32_t mask = 0u - (choice & 1u);
    return (yes & mask) | (no & ~mask);
}

/// The dot product with one of Perlin's twelve edge directions (four of them twice).
SEEDLOOM_INLINE float towards(std::uint32_t corner, float x, float y, float z) {
    const std::uint32_t hash = mixedHigh(corner);
    const std::uint32_t h = hash >> 28, upper = h >> 3, quarter = upper | (h >> 2);
    const std::uint32_t u = pick(upper, bitsOf(y), bitsOf(x));
    // h 0–3: y; 12 and 14: x; else z.
    const std::uint32_t twelve = upper & (h >> 2) & ~h;
    const std::uint32_t v = pick(quarter, pick(twelve, bitsOf(x), bitsOf(z)), bitsOf(y));
    return std::bit_cast<float>(u ^ (h << 31)) + std::bit_cast<float>(v ^ ((h << 30) & 0x80000000u));
}

/// The lattice cell that holds a place, and where in it the place lies.
struct Cell {
    float x, y, z;
    std::uint32_t corner;
};

SEEDLOOM_INLINE Cell cellOf(float x, float y, float z, std::uint32_t seed) {
    x = bounded(x), y = bounded(y), z = bounded(z);
    const float fx = std::floor(x), fy = std::floor(y), fz = std::floor(z);
    return {x - fx, y - fy, z - fz, lattice(static_cast<std::int32_t>(fx), static_cast<std::int32_t>(fy), static_cast<std::int32_t>(fz), seed)};
}

SEEDLOOM_CLONES void gradientBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    for (std::size_t i = 0; i < n; ++i) {
        const Cell c = cellOf(x[i], y[i], z[i], seed);
        const float u = fade(c.x), v = fade(c.y), w = fade(c.z);
        const auto row = [&](std::uint32_t corner, float dy, float dz) __attribute__((always_inline)) {
            return lerp(towards(corner, c.x, dy, dz), towards(corner + kStepX, c.x - 1, dy, dz), u);
        };
        const float near = lerp(row(c.corner, c.y, c.z), row(c.corner + kStepY, c.y - 1, c.z), v);
        const float far = lerp(row(c.corner + kStepZ, c.y, c.z - 1), row(c.corner + kStepY + kStepZ, c.y - 1, c.z - 1), v);
        out[i] = lerp(near, far, w);
    }
}

SEEDLOOM_INLINE float signedUnit(std::uint32_t h) { return static_cast<float>(h >> 8) * 0x1p-23f - 1.0f; }

SEEDLOOM_CLONES void valueBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    for (std::size_t i = 0; i < n; ++i) {
        const Cell c = cellOf(x[i], y[i], z[i], seed);
        const float u = fade(c.x), v = fade(c.y), w = fade(c.z);
        const auto row = [&](std::uint32_t corner) __attribute__((always_inline)) {
            return lerp(signedUnit(mixed(corner)), signedUnit(mixed(corner + kStepX)), u);
        };
        out[i] = lerp(lerp(row(c.corner), row(c.corner + kStepY), v), lerp(row(c.corner + kStepZ), row(c.corner + kStepY + kStepZ), v), w);
    }
}

/// A block's cells as columns, so that the 27 neighbours are visited with the places in the inner loop.
struct CellBlock {
    float x[kNoiseBlock], y[kNoiseBlock], z[kNoiseBlock];
    std::uint32_t corner[kNoiseBlock];
};

SEEDLOOM_INLINE void fillCells(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, CellBlock& to) {
    for (std::size_t i = 0; i < n; ++i) {
        const Cell c = cellOf(x[i], y[i], z[i], seed);
        to.x[i] = c.x, to.y[i] = c.y, to.z[i] = c.z, to.corner[i] = c.corner;
    }
}

/// From the place to the feature point of the k-th of the 27 cells around it.
struct Feature {
    float dx, dy, dz;
    std::uint32_t hash;
};

SEEDLOOM_INLINE Feature featureOf(const CellBlock& cells, std::size_t i, int k) {
    const int ox = k % 3 - 1, oy = k / 3 % 3 - 1, oz = k / 9 - 1;
    const std::uint32_t h = mixed(cells.corner[i] + std::uint32_t(ox) * kStepX + std::uint32_t(oy) * kStepY + std::uint32_t(oz) * kStepZ);
    return {float(ox) + float(h & 1023u) * (1 / 1023.0f) - cells.x[i], float(oy) + float(h >> 10 & 1023u) * (1 / 1023.0f) - cells.y[i],
            float(oz) + float(h >> 20 & 1023u) * (1 / 1023.0f) - cells.z[i], h};
}

SEEDLOOM_INLINE float squared(const Feature& f) { return f.dx * f.dx + f.dy * f.dy + f.dz * f.dz; }

SEEDLOOM_CLONES void nearestBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    CellBlock cells;
    fillCells(x, y, z, n, seed, cells);
    std::fill_n(out, n, 3.0f);
    for (int k = 0; k < 27; ++k)
        for (std::size_t i = 0; i < n; ++i) {
            const float d = squared(featureOf(cells, i, k));
            out[i] = d < out[i] ? d : out[i];
        }
    for (std::size_t i = 0; i < n; ++i) out[i] = std::max(-1.0f, 1.0f - 2.0f * std::sqrt(out[i]));
}

SEEDLOOM_CLONES void secondBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    CellBlock cells;
    fillCells(x, y, z, n, seed, cells);
    float nearest[kNoiseBlock];
    std::fill_n(nearest, n, 3.0f);
    std::fill_n(out, n, 3.0f);
    for (int k = 0; k < 27; ++k)
        for (std::size_t i = 0; i < n; ++i) {
            const float d = squared(featureOf(cells, i, k));
            const float farther = d < nearest[i] ? nearest[i] : d;
            nearest[i] = d < nearest[i] ? d : nearest[i];
            out[i] = farther < out[i] ? farther : out[i];
        }
    for (std::size_t i = 0; i < n; ++i) out[i] = std::max(-1.0f, 1.0f - 1.5f * std::sqrt(out[i]));
}

/// The nearest feature point of each place.
struct NearestFeatures {
    float squared[kNoiseBlock], dx[kNoiseBlock], dy[kNoiseBlock], dz[kNoiseBlock];
    std::uint32_t hash[kNoiseBlock];
};

SEEDLOOM_INLINE void findNearest(const CellBlock& cells, std::size_t n, NearestFeatures& to) {
    std::fill_n(to.squared, n, 3.0f);
    for (int k = 0; k < 27; ++k)
        for (std::size_t i = 0; i < n; ++i) {
            const Feature f = featureOf(cells, i, k);
            const float d = squared(f);
            const bool nearer = d < to.squared[i];
            to.squared[i] = nearer ? d : to.squared[i];
            to.dx[i] = nearer ? f.dx : to.dx[i];
            to.dy[i] = nearer ? f.dy : to.dy[i];
            to.dz[i] = nearer ? f.dz : to.dz[i];
            to.hash[i] = nearer ? f.hash : to.hash[i];
        }
}

/// The distance to the plane half way between the nearest feature point and each other one, the least of them:
/// with d1, d2 the distances and a the gap between the two points, (d2² − d1²) / 2a.
SEEDLOOM_CLONES void edgeBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    CellBlock cells;
    fillCells(x, y, z, n, seed, cells);
    NearestFeatures nearest{};
    findNearest(cells, n, nearest);
    std::fill_n(out, n, 1.0f);
    for (int k = 0; k < 27; ++k)
        for (std::size_t i = 0; i < n; ++i) {
            const Feature f = featureOf(cells, i, k);
            const float gx = f.dx - nearest.dx[i], gy = f.dy - nearest.dy[i], gz = f.dz - nearest.dz[i];
            const float gap = gx * gx + gy * gy + gz * gz;
            const float d = (squared(f) - nearest.squared[i]) / (2.0f * std::sqrt(std::max(gap, 1e-12f)));
            const float edge = gap > 1e-8f ? d : 1.0f;  // the nearest point itself
            out[i] = edge < out[i] ? edge : out[i];
        }
    for (std::size_t i = 0; i < n; ++i) out[i] = std::min(1.0f, 4.0f * std::max(out[i], 0.0f) - 1.0f);
}

SEEDLOOM_CLONES void numberBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* __restrict out) {
    CellBlock cells;
    fillCells(x, y, z, n, seed, cells);
    NearestFeatures nearest{};
    findNearest(cells, n, nearest);
    // The position used the bits; mixed once more they are a number of their own.
    for (std::size_t i = 0; i < n; ++i) out[i] = signedUnit(mixed(nearest.hash[i] + kStepY));
}

}  // namespace

NoiseKernel noiseKernel(NoiseKind kind) {
    switch (kind) {
        case NoiseKind::gradient: return gradientBlock;
        case NoiseKind::cells: return nearestBlock;
        case NoiseKind::value: return valueBlock;
        case NoiseKind::cellSecond: return secondBlock;
        case NoiseKind::cellEdge: return edgeBlock;
        case NoiseKind::cellNumber: return numberBlock;
    }
    return gradientBlock;
}

}  // namespace seedloom

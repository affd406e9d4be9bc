#include "fields/Noise.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <vector>

// The kernels are built twice, for a plain and for a wide instruction set; contraction is off, so both give the same bits.
// Sanitizers cannot start programs whose functions are chosen that early.
#if defined(__SANITIZE_THREAD__) || defined(__SANITIZE_ADDRESS__)
#define SEEDLOOM_CLONES
#else
#define SEEDLOOM_CLONES __attribute__((target_clones("avx2", "default")))
#endif

namespace seedloom {

namespace {

constexpr std::size_t kBlock = 512;

inline __attribute__((always_inline)) std::uint32_t lattice(std::int32_t x, std::int32_t y, std::int32_t z, std::uint32_t seed) {
    std::uint32_t h = std::uint32_t(x) * 0x8DA6B343u ^ std::uint32_t(y) * 0xD8163841u ^ std::uint32_t(z) * 0xCB1AB31Fu ^ seed;
    h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
    h = (h ^ (h >> 12)) * 0x297A2D39u;
    return h ^ (h >> 15);
}

inline __attribute__((always_inline)) float fade(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }
inline __attribute__((always_inline)) float lerp(float a, float b, float t) { return a + (b - a) * t; }

/// Keeps lattice coordinates in the range of int32; also turns NaN into a number.
inline __attribute__((always_inline)) float bounded(float v) {
    v = v > -1e9f ? v : -1e9f;
    return v < 1e9f ? v : 1e9f;
}

inline __attribute__((always_inline)) std::uint32_t bitsOf(float v) { return std::bit_cast<std::uint32_t>(v); }

/// `yes` where the lowest bit of `choice` is set, else `no`; without a branch, so that loops over it become vector code.
inline __attribute__((always_inline)) std::uint32_t pick(std::uint32_t choice, std::uint32_t yes, std::uint32_t no) {
    const std::uint32_t mask = 0u - (choice & 1u);
    return (yes & mask) | (no & ~mask);
}

/// The dot product with one of Perlin's twelve edge directions (four of them twice).
inline __attribute__((always_inline)) float towards(std::uint32_t hash, float x, float y, float z) {
    const std::uint32_t h = hash >> 28, upper = h >> 3, quarter = upper | (h >> 2);
    const std::uint32_t u = pick(upper, bitsOf(y), bitsOf(x));
    // h 0–3: y; 12 and 14: x; else z.
    const std::uint32_t twelve = upper & (h >> 2) & ~h;
    const std::uint32_t v = pick(quarter, pick(twelve, bitsOf(x), bitsOf(z)), bitsOf(y));
    return std::bit_cast<float>(u ^ (h << 31)) + std::bit_cast<float>(v ^ ((h << 30) & 0x80000000u));
}

SEEDLOOM_CLONES void gradientBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float weight,
                                   float* __restrict out) {
    for (std::size_t i = 0; i < n; ++i) {
        const float px = bounded(x[i]), py = bounded(y[i]), pz = bounded(z[i]);
        const float fx = std::floor(px), fy = std::floor(py), fz = std::floor(pz);
        const auto ix = static_cast<std::int32_t>(fx), iy = static_cast<std::int32_t>(fy), iz = static_cast<std::int32_t>(fz);
        const float dx = px - fx, dy = py - fy, dz = pz - fz;
        const float u = fade(dx), v = fade(dy), w = fade(dz);
        const float a = lerp(towards(lattice(ix, iy, iz, seed), dx, dy, dz), towards(lattice(ix + 1, iy, iz, seed), dx - 1, dy, dz), u);
        const float b = lerp(towards(lattice(ix, iy + 1, iz, seed), dx, dy - 1, dz),
                             towards(lattice(ix + 1, iy + 1, iz, seed), dx - 1, dy - 1, dz), u);
        const float c = lerp(towards(lattice(ix, iy, iz + 1, seed), dx, dy, dz - 1),
                             towards(lattice(ix + 1, iy, iz + 1, seed), dx - 1, dy, dz - 1), u);
        const float d = lerp(towards(lattice(ix, iy + 1, iz + 1, seed), dx, dy - 1, dz - 1),
                             towards(lattice(ix + 1, iy + 1, iz + 1, seed), dx - 1, dy - 1, dz - 1), u);
        out[i] += weight * lerp(lerp(a, b, v), lerp(c, d, v), w);
    }
}

inline __attribute__((always_inline)) float signedUnit(std::uint32_t h) { return static_cast<float>(h >> 8) * 0x1p-23f - 1.0f; }

SEEDLOOM_CLONES void valueBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float weight,
                                float* __restrict out) {
    for (std::size_t i = 0; i < n; ++i) {
        const float px = bounded(x[i]), py = bounded(y[i]), pz = bounded(z[i]);
        const float fx = std::floor(px), fy = std::floor(py), fz = std::floor(pz);
        const auto ix = static_cast<std::int32_t>(fx), iy = static_cast<std::int32_t>(fy), iz = static_cast<std::int32_t>(fz);
        const float u = fade(px - fx), v = fade(py - fy), w = fade(pz - fz);
        const float a = lerp(signedUnit(lattice(ix, iy, iz, seed)), signedUnit(lattice(ix + 1, iy, iz, seed)), u);
        const float b = lerp(signedUnit(lattice(ix, iy + 1, iz, seed)), signedUnit(lattice(ix + 1, iy + 1, iz, seed)), u);
        const float c = lerp(signedUnit(lattice(ix, iy, iz + 1, seed)), signedUnit(lattice(ix + 1, iy, iz + 1, seed)), u);
        const float d = lerp(signedUnit(lattice(ix, iy + 1, iz + 1, seed)), signedUnit(lattice(ix + 1, iy + 1, iz + 1, seed)), u);
        out[i] += weight * lerp(lerp(a, b, v), lerp(c, d, v), w);
    }
}

SEEDLOOM_CLONES void cellBlock(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float weight,
                               float* __restrict out) {
    float nearest[kBlock];
    std::fill_n(nearest, n, 3.0f);
    for (int k = 0; k < 27; ++k) {
        const int ox = k % 3 - 1, oy = k / 3 % 3 - 1, oz = k / 9 - 1;
        for (std::size_t i = 0; i < n; ++i) {
            const float px = bounded(x[i]), py = bounded(y[i]), pz = bounded(z[i]);
            const float fx = std::floor(px), fy = std::floor(py), fz = std::floor(pz);
            const std::uint32_t h = lattice(static_cast<std::int32_t>(fx) + ox, static_cast<std::int32_t>(fy) + oy,
                                            static_cast<std::int32_t>(fz) + oz, seed);
            const float dx = float(ox) + float(h & 1023u) * (1 / 1023.0f) - (px - fx);
            const float dy = float(oy) + float(h >> 10 & 1023u) * (1 / 1023.0f) - (py - fy);
            const float dz = float(oz) + float(h >> 20 & 1023u) * (1 / 1023.0f) - (pz - fz);
            const float d = dx * dx + dy * dy + dz * dz;
            nearest[i] = d < nearest[i] ? d : nearest[i];
        }
    }
    for (std::size_t i = 0; i < n; ++i) out[i] += weight * std::max(-1.0f, 1.0f - 2.0f * std::sqrt(nearest[i]));
}

}  // namespace

void noise(std::span<const float> x, std::span<const float> y, std::span<const float> z, const NoiseOptions& options,
           std::span<float> out) {
    const int octaves = std::clamp(options.octaves, 1, 16);
    const double roughness = std::isfinite(options.roughness) ? std::clamp(options.roughness, 0.0, 4.0) : 0.5;
    double total = 0, weight = 1;
    for (int o = 0; o < octaves; ++o, weight *= roughness) total += weight;
    const auto kernel = options.kind == NoiseKind::gradient ? gradientBlock : options.kind == NoiseKind::cells ? cellBlock : valueBlock;
    float px[kBlock], py[kBlock], pz[kBlock];
    for (std::size_t begin = 0; begin < out.size(); begin += kBlock) {
        const std::size_t n = std::min(kBlock, out.size() - begin);
        float* result = out.data() + begin;
        std::fill_n(result, n, 0.0f);
        double scale = 1 / std::max(std::abs(options.size), 1e-9);
        weight = 1 / total;
        for (int o = 0; o < octaves; ++o) {
            const auto ox = static_cast<float>(options.offset[0] * scale), oy = static_cast<float>(options.offset[1] * scale),
                       oz = static_cast<float>(options.offset[2] * scale);
            const auto s = static_cast<float>(scale);
            for (std::size_t i = 0; i < n; ++i) {
                px[i] = x[begin + i] * s - ox;
                py[i] = y[begin + i] * s - oy;
                pz[i] = z[begin + i] * s - oz;
            }
            kernel(px, py, pz, n, (options.seed + std::uint32_t(o)) * 0x9E3779B9u + 0x7F4A7C15u, static_cast<float>(weight), result);
            scale *= 2;
            weight *= roughness;
        }
        for (std::size_t i = 0; i < n; ++i) result[i] = std::clamp(result[i], -1.0f, 1.0f);
    }
}

}  // namespace seedloom

#pragma once
// Numbers that each part of a shape draws for itself, so that what happens on one part says nothing about the others.
#include "fields/Random.h"

#include "geometry/Vec.h"

#include <array>
#include <bit>
#include <cstdint>

namespace seedloom {

inline std::uint32_t reversedBits(std::uint32_t x) {
    x = ((x >> 1) & 0x55555555u) | ((x & 0x55555555u) << 1);
    x = ((x >> 2) & 0x33333333u) | ((x & 0x33333333u) << 2);
    x = ((x >> 4) & 0x0F0F0F0Fu) | ((x & 0x0F0F0F0Fu) << 4);
    return __builtin_bswap32(x);
}

/// Each bit is turned over or not by a hash of the bits below it. Source: Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020.
inline std::uint32_t nestedHash(std::uint32_t x, std::uint32_t seed) {
    x ^= x * 0x3D20ADEAu;
    x += seed;
    x *= (seed >> 16) | 1;
    x ^= x * 0x05526C56u;
    return x ^ x * 0x53A22864u;
}

inline double unitOf(std::uint32_t bits) { return (double(bits) + 0.5) * 0x1p-32; }

/// In (0, 1): the i-th of a sequence whose first 2ᵏ members, like each following 2ᵏ, fill 2ᵏ equal stretches once each.
inline double evenly(std::uint32_t i, std::uint32_t seed) { return unitOf(reversedBits(nestedHash(i, seed))); }

/// The i-th of a sequence of places in the unit square that fills it evenly at every length (Sobol's first two dimensions, scrambled).
inline std::array<double, 2> evenlyInSquare(std::uint32_t i, std::uint32_t seed) {
    std::uint32_t second = 0;
    for (std::uint32_t bits = i, v = 1u << 31; bits; bits >>= 1, v ^= v >> 1)
        if (bits & 1) second ^= v;
    const auto other = std::uint32_t(mixBits(seed + 0x9E3779B97F4A7C15ull));
    return {evenly(i, seed), unitOf(reversedBits(nestedHash(reversedBits(second), other)))};
}

/// 64 well-mixed bits of three numbers.
inline std::uint64_t mixThree(std::uint64_t a, std::uint64_t b, std::uint64_t c) {
    return mixBits(mixBits(mixBits(a + 0x9E3779B97F4A7C15ull) + b) + 0xD1B54A32D192ED03ull * c);
}

/// 64 bits of a place; the same for 0 and −0.
inline std::uint64_t placeBits(Vec3 p) {
    const auto bits = [](float v) { return std::bit_cast<std::uint32_t>(v + 0.0f); };
    return mixThree(bits(p.x), bits(p.y), bits(p.z));
}

/// In [0, 1), from 64 bits.
inline double unitOf(std::uint64_t bits) { return double(bits >> 11) * 0x1p-53; }

}  // namespace seedloom

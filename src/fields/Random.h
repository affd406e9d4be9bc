#pragma once
// Random numbers as pure functions of a number and a seed, so that changing a count reshuffles nothing.
#include <bit>
#include <cstdint>

namespace seedloom {

/// Mixes 64 bits so that every input bit reaches every output bit. Source: Stafford's mix 13 (splitmix64).
inline std::uint64_t mixBits(std::uint64_t x) {
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ull;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBull;
    return x ^ (x >> 31);
}

/// A number in [0, 1) that depends on `id` and `seed` only.
inline double randomOf(double id, double seed) {
    const auto bits = [](double v) { return std::bit_cast<std::uint64_t>(v == 0 ? 0.0 : v); };
    const std::uint64_t h = mixBits(bits(id) + 0x9E3779B97F4A7C15ull * (mixBits(bits(seed)) | 1));
    return static_cast<double>(h >> 11) * 0x1p-53;
}

}  // namespace seedloom

#pragma once
// Repeatable noise in space, in [-1, 1], bit-equal on every processor.
#include <cstdint>
#include <span>

namespace seedloom {

enum class NoiseKind : std::uint8_t { gradient, cells, value };

struct NoiseOptions {
    double size = 1;           ///< metres from one feature to the next; under 10⁻⁹ counts as 10⁻⁹
    int octaves = 1;           ///< 1–16, each half the size of the one before
    double roughness = 0.5;    ///< the weight of each octave against the one before
    std::uint32_t seed = 0;
    double offset[3] = {0, 0, 0};  ///< metres; moves the pattern by −offset
    NoiseKind kind = NoiseKind::gradient;
};

/// out[i] = the noise at (x[i], y[i], z[i]); coordinates as columns, equal lengths.
/// Gradient noise: Perlin, "Improving Noise", SIGGRAPH 2002, with hashed lattice; cells: Worley, SIGGRAPH 1996
/// (1 at a feature point, −1 far from it); value: smoothly joined random values.
void noise(std::span<const float> x, std::span<const float> y, std::span<const float> z, const NoiseOptions& options,
           std::span<float> out);

}  // namespace seedloom

#pragma once
// Repeatable noise in space, in [-1, 1], bit-equal on every processor.
#include <array>
#include <cstdint>
#include <span>
#include <string_view>

namespace seedloom {

enum class NoiseKind : std::uint8_t { gradient, cells, value, cellSecond, cellEdge, cellNumber };

/// As written in looms and shown in settings; in the order of NoiseKind.
inline constexpr std::array<std::string_view, 6> kNoiseKinds{"gradient", "cells", "value", "cell second", "cell edge", "cell number"};

struct NoiseOptions {
    double size = 1;         ///< metres from one feature to the next; under 10⁻⁹ counts as 10⁻⁹
    int octaves = 1;         ///< 1–16, each half the size of the one before
    double roughness = 0.5;  ///< the weight of each octave against the one before
    std::uint32_t seed = 0;
    double offset[3] = {0, 0, 0};   ///< metres; moves the pattern by −offset
    double stretch[3] = {1, 1, 1};  ///< times the size, for each axis
    NoiseKind kind = NoiseKind::gradient;
    bool ridged = false;  ///< each octave v becomes 1 − 2|v|: sharp ridges where v is 0
};

/// out[i] = the noise at (x[i], y[i], z[i]); coordinates as columns, equal lengths.
/// - gradient: Perlin, "Improving Noise", SIGGRAPH 2002, with a hashed lattice;
/// - value: smoothly joined random values;
/// - cells, after Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996, one feature point in each cell of the lattice, with
///   distances in sizes: `cells` 1 − 2·(distance to the nearest), `cell second` 1 − 1.5·(distance to the second),
///   `cell edge` 4·(distance to the face between two cells) − 1, all held at ±1; `cell number` one random value for all of a cell.
///   Feature points more than one cell away are not looked at, which matters to one place in some hundreds.
void noise(std::span<const float> x, std::span<const float> y, std::span<const float> z, const NoiseOptions& options, std::span<float> out);

}  // namespace seedloom

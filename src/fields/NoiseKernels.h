#pragma once
// One octave of noise over a block of places, chosen once a call and built for each width of the processor's vectors.
#include "fields/Noise.h"

#include <cstddef>

namespace seedloom {

inline constexpr std::size_t kNoiseBlock = 512;

/// Writes n ≤ kNoiseBlock values in [−1, 1] (gradient noise reaches about ±1) for places in units of one feature.
using NoiseKernel = void (*)(const float* x, const float* y, const float* z, std::size_t n, std::uint32_t seed, float* out);

NoiseKernel noiseKernel(NoiseKind kind);

}  // namespace seedloom

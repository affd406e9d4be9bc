#include "fields/Noise.h"

#include "fields/NoiseKernels.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

double sizeAlong(const NoiseOptions& options, int axis) { return std::max(std::abs(options.size * options.stretch[axis]), 1e-9); }

/// The places of a block in units of one feature.
void scaled(std::span<const float> from, std::size_t begin, std::size_t n, double scale, double offset, float* to) {
    const auto s = static_cast<float>(scale), o = static_cast<float>(offset * scale);
    for (std::size_t i = 0; i < n; ++i) to[i] = from[begin + i] * s - o;
}

}  // namespace

void noise(std::span<const float> x, std::span<const float> y, std::span<const float> z, const NoiseOptions& options, std::span<float> out) {
    const int octaves = std::clamp(options.octaves, 1, 16);
    const double roughness = std::isfinite(options.roughness) ? std::clamp(options.roughness, 0.0, 4.0) : 0.5;
    double total = 0, weight = 1;
    for (int o = 0; o < octaves; ++o, weight *= roughness) total += weight;
    const NoiseKernel kernel = noiseKernel(options.kind);
    float px[kNoiseBlock], py[kNoiseBlock], pz[kNoiseBlock], layer[kNoiseBlock];
    for (std::size_t begin = 0; begin < out.size(); begin += kNoiseBlock) {
        const std::size_t n = std::min(kNoiseBlock, out.size() - begin);
        float* result = out.data() + begin;
        std::fill_n(result, n, 0.0f);
        double finer = 1;
        weight = 1 / total;
        for (int o = 0; o < octaves; ++o, finer *= 2, weight *= roughness) {
            scaled(x, begin, n, finer / sizeAlong(options, 0), options.offset[0], px);
            scaled(y, begin, n, finer / sizeAlong(options, 1), options.offset[1], py);
            scaled(z, begin, n, finer / sizeAlong(options, 2), options.offset[2], pz);
            kernel(px, py, pz, n, (options.seed + std::uint32_t(o)) * 0x9E3779B9u + 0x7F4A7C15u, layer);
            const auto w = static_cast<float>(weight);
            if (options.ridged)
                for (std::size_t i = 0; i < n; ++i) result[i] += w * (1.0f - 2.0f * std::abs(layer[i]));
            else
                for (std::size_t i = 0; i < n; ++i) result[i] += w * layer[i];
        }
        for (std::size_t i = 0; i < n; ++i) result[i] = std::clamp(result[i], -1.0f, 1.0f);
    }
}

}  // namespace seedloom

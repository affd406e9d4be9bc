#include "scatter/VolumeSamples.h"

#include "geometry/Measures.h"
#include "geometry/RayScene.h"
#include "parallel/Loops.h"
#include "scatter/Streams.h"

#include <bit>
#include <tuple>

namespace seedloom {

InsideTest::InsideTest(const Geometry& closed) : scene_(std::make_unique<RayScene>(closed)) {}
InsideTest::~InsideTest() = default;

bool InsideTest::along(Vec3 p, Vec3 direction) const {
    constexpr int kMostCrossings = 10000;
    bool inside = false;
    float start = 0;
    for (int i = 0; i < kMostCrossings; ++i) {
        const auto far = scene_->firstHit(p, direction, start);
        if (!far) break;
        inside = !inside;
        start = std::nextafter(*far, *far * 2 + 1) + *far * 1e-6f;
    }
    return inside;
}

bool InsideTest::inside(Vec3 p) const {
    // Directions that no model's edges are likely to follow.
    const Vec3 ways[3] = {normalized({0.8131f, 0.4721f, 0.3401f}), normalized({-0.3917f, 0.7793f, 0.4889f}), normalized({0.2713f, -0.5519f, 0.7883f})};
    const bool first = along(p, ways[0]), second = along(p, ways[1]);
    return first == second ? first : along(p, ways[2]);
}

VolumeGround::VolumeGround(const Geometry& closed, double seed)
    : geometry_(closed), test_(closed), surface_(closed, NearestPlace::On::faces), seed_(mixBits(std::bit_cast<std::uint64_t>(seed == 0 ? 0.0 : seed) + 2)),
      size_(std::abs(signedVolume(closed))) {
    constexpr double kCubesAlong = 16;
    const Bounds bounds = boundsOf(closed.positions());
    const double longest = double(std::max({bounds.size().x, bounds.size().y, bounds.size().z, 1e-9f}));
    // A power of two, so that a change of the shape's size seldom changes the cubes.
    cube_ = std::exp2(std::ceil(std::log2(longest / kCubesAlong)));
    for (int c = 0; c < 3; ++c) {
        low_[std::size_t(c)] = std::int64_t(std::floor(double(bounds.min[c]) / cube_));
        count_[std::size_t(c)] = std::int64_t(std::floor(double(bounds.max[c]) / cube_)) - low_[std::size_t(c)] + 1;
    }
}

std::optional<bool> VolumeGround::wholly(Vec3 middle) const {
    if (surface_.empty()) return false;
    const double reach = cube_ * std::sqrt(3.0) / 2 * 1.0001;
    if (double(surface_.find(middle).squaredDistance) <= reach * reach) return {};
    return test_.inside(middle);
}

std::vector<VolumeCandidate> VolumeGround::until(double time, const RunContext& run) const {
    const double rate = cube_ * cube_ * cube_;
    const std::size_t cubes = geometry_.faceCount() == 0 ? 0 : std::size_t(count_[0] * count_[1] * count_[2]);
    run.require(double(cubes) * rate * time, "points");
    std::vector<std::vector<VolumeCandidate>> found(cubes);
    forEach(
        cubes, run,
        [&](std::size_t i) {
            const auto n = std::int64_t(i);
            const std::array<std::int64_t, 3> cube{low_[0] + n % count_[0], low_[1] + n / count_[0] % count_[1], low_[2] + n / (count_[0] * count_[1])};
            const std::uint64_t key = mixThree(seed_ + std::uint64_t(cube[0]), std::uint64_t(cube[1]), std::uint64_t(cube[2]));
            const double phase = unitOf(mixBits(key + 5));
            constexpr double kMany = 4;  // then it pays to look at the cube first
            const auto middle = [&](int c) { return float((double(cube[std::size_t(c)]) + 0.5) * cube_); };
            const auto all = rate * time > kMany ? wholly({middle(0), middle(1), middle(2)}) : std::nullopt;
            if (all == false) return;
            for (Index k = 0; double(k) + phase <= rate * time; ++k) {
                const auto [u, v] = evenlyInSquare(k, std::uint32_t(key));
                const double w = unitOf(mixThree(key, k, 4));
                const auto at = [&](int c, double part) { return float((double(cube[std::size_t(c)]) + part) * cube_); };
                const Vec3 p{at(0, u), at(1, v), at(2, w)};
                if (k % 256 == 0) run.poll();
                if (all || test_.inside(p)) found[i].push_back({p, (double(k) + phase) / rate, mixThree(key, k, 3)});
            }
        },
        8);
    std::vector<VolumeCandidate> out;
    for (const auto& some : found) out.insert(out.end(), some.begin(), some.end());
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return std::tie(a.time, a.hash) < std::tie(b.time, b.hash); });
    return out;
}

}  // namespace seedloom

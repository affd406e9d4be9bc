#include "scatter/StrokesApart.h"

#include <cmath>

namespace seedloom {

namespace {

constexpr float kOwnWay = 1.6f;      // distances along a stroke within which it is not near to itself: half of a circle that wide
constexpr float kOtherSide = -0.2f;  // cosine between normals
constexpr double kCell = 2;          // of the largest distance: fewer cells to look into, with more in each
constexpr std::size_t kBuckets = 1024;

std::int64_t cellOf(float at, double cell) { return std::int64_t(std::floor(double(at) / cell)); }

}  // namespace

StrokesApart::StrokesApart(double most, bool otherSide) : cell_(kCell * most), otherSide_(otherSide), first_(kBuckets, kNone) {}

std::size_t StrokesApart::bucketOf(std::int64_t x, std::int64_t y, std::int64_t z) const {
    std::uint64_t hash = std::uint64_t(x) * 0x9E3779B97F4A7C15u ^ std::uint64_t(y) * 0xC2B2AE3D27D4EB4Fu ^ std::uint64_t(z) * 0x165667B19E3779F9u;
    hash ^= hash >> 29;
    return std::size_t(hash * 0xBF58476D1CE4E5B9u >> 20) & (first_.size() - 1);
}

std::size_t StrokesApart::bucketOf(Vec3 at) const { return bucketOf(cellOf(at.x, cell_), cellOf(at.y, cell_), cellOf(at.z, cell_)); }

void StrokesApart::link(Index sample) {
    Index& first = first_[bucketOf(samples_[sample].at)];
    next_[sample] = first, first = sample;
}

void StrokesApart::add(const Sample& sample) {
    samples_.push_back(sample), next_.push_back(kNone);
    if (samples_.size() <= first_.size()) return link(Index(samples_.size() - 1));
    first_.assign(first_.size() * 4, kNone);
    for (Index i = 0; i < Index(samples_.size()); ++i) link(i);
}

void StrokesApart::removeLast() {
    // What came last is the first in its bucket.
    first_[bucketOf(samples_.back().at)] = next_.back();
    samples_.pop_back(), next_.pop_back();
}

bool StrokesApart::isFree(const Sample& sample, float distance) const {
    const auto low = [&](float at) { return cellOf(at - distance, cell_); };
    const auto high = [&](float at) { return cellOf(at + distance, cell_); };
    const auto disturbs = [&](const Sample& other) {
        const Vec3 way = other.at - sample.at;
        if (dot(way, way) >= distance * distance) return false;
        if (other.stroke == sample.stroke && std::abs(other.arc - sample.arc) < kOwnWay * distance) return false;
        return otherSide_ || dot(other.normal, sample.normal) > kOtherSide;
    };
    for (std::int64_t x = low(sample.at.x); x <= high(sample.at.x); ++x)
        for (std::int64_t y = low(sample.at.y); y <= high(sample.at.y); ++y)
            for (std::int64_t z = low(sample.at.z); z <= high(sample.at.z); ++z)
                for (Index i = first_[bucketOf(x, y, z)]; i != kNone; i = next_[i])
                    if (disturbs(samples_[i])) return false;
    return true;
}

}  // namespace seedloom

#pragma once
// Which parts of a shape get points, and in which order: every part gets its points one after another at its own pace.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <span>

namespace seedloom {

/// The `number`-th point of a part.
struct Arrival {
    double time;
    Index part, number;
};

/// Part p gets its points at the times (k + u) / rate[p], k = 0, 1 …, with a u of its own in (0, 1) that `key` and `seed` decide. The u of neighbouring keys
/// are spread evenly (see `evenly`), so that the number until any time is close to rate × time also where each part gets a point in a hundred.
/// A part's times depend on nothing but its own rate and key: raising a rate keeps the points that are there, and other parts don't notice.
class Arrivals {
public:
    /// Rates that are no numbers, or negative, are 0.
    Arrivals(std::vector<double> rates, std::vector<std::uint32_t> keys, std::uint32_t seed);

    /// Points expected until time 1.
    double expected() const { return total_; }
    enum class Order : std::uint8_t { time, part };
    /// All after one time until another, by time or part by part. Cost: O(parts + points · log points), or O(parts + points). Throws LimitExceeded.
    std::vector<Arrival> between(double from, double to, const RunContext& run, Order order = Order::time) const;
    /// The first `count`; fewer only where no part has a rate.
    std::vector<Arrival> first(std::size_t count, const RunContext& run) const;

private:
    double countUntil(double time) const;
    std::vector<double> rates_;
    std::vector<double> phase_;
    double total_ = 0;
};

/// Numbers that belong to the hashes, each once: small enough to be exact as a float where there are up to a few millions. Where two would be the same, the
/// later one gives way.
std::vector<std::int32_t> idsOf(const std::vector<std::uint64_t>& hashes);

}  // namespace seedloom

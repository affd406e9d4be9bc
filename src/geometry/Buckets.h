#pragma once
// Items sorted into numbered buckets, in two arrays whatever their number.
#include "geometry/Topology.h"

#include <numeric>
#include <span>

namespace seedloom {

inline constexpr Index kNoBucket = ~Index{0};

class Buckets {
public:
    /// `bucketOf(i)`: below `buckets`, or kNoBucket. Items keep their order. Counting sort: O(count + buckets).
    template <class BucketOf> Buckets(std::size_t count, std::size_t buckets, BucketOf&& bucketOf) : start_(buckets + 1, 0) {
        std::vector<Index> of(count);
        for (Index i = 0; i < count; ++i)
            if ((of[i] = bucketOf(i)) != kNoBucket) ++start_[of[i] + 1];
        std::partial_sum(start_.begin(), start_.end(), start_.begin());
        items_.resize(start_.back());
        std::vector<Index> fill(start_.begin(), start_.end() - 1);
        for (Index i = 0; i < count; ++i)
            if (of[i] != kNoBucket) items_[fill[of[i]]++] = i;
    }
    std::span<const Index> of(Index bucket) const { return {items_.data() + start_[bucket], items_.data() + start_[bucket + 1]}; }

private:
    std::vector<Index> start_, items_;
};

}  // namespace seedloom

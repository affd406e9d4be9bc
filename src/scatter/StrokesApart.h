#pragma once
// What keeps strokes on a surface from coming too near to each other.
#include "geometry/Geometry.h"

namespace seedloom {

/// Places on strokes in the cells of a grid that grows with them. Other than SpacedPoints it knows which stroke a place is on, which side of the surface it
/// looks to, and takes back what was added last.
class StrokesApart {
public:
    struct Sample {
        Vec3 at, normal;
        Index stroke;
        float arc;  ///< where on its stroke, m: from 0 at the start, below it backwards
    };
    /// `most`: the largest distance that will be asked for, metres, over 0. `otherSide`: whether what lies on the other side of a thin wall counts.
    StrokesApart(double most, bool otherSide);
    /// Whether nothing is nearer than `distance`. What lies on the way along its own stroke does not count.
    bool isFree(const Sample& sample, float distance) const;
    void add(const Sample& sample);
    void removeLast();

private:
    std::size_t bucketOf(std::int64_t x, std::int64_t y, std::int64_t z) const;
    std::size_t bucketOf(Vec3 at) const;
    void link(Index sample);

    double cell_;
    bool otherSide_;
    std::vector<Sample> samples_;
    std::vector<Index> first_, next_;  ///< of each bucket, and after each sample
};

}  // namespace seedloom

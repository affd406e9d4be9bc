#pragma once
// Random numbers that are the same in every run.
#include "geometry/Geometry.h"

#include <random>

namespace seedloom::test {

class Chance {
public:
    explicit Chance(unsigned seed) : engine_(seed) {}
    float number(float low, float high) { return std::uniform_real_distribution<float>(low, high)(engine_); }
    Index below(std::size_t n) { return Index(engine_() % n); }
    Vec3 place(float reach = 1) { return {number(-reach, reach), number(-reach, reach), number(-reach, reach)}; }

private:
    std::mt19937 engine_;
};

}  // namespace seedloom::test

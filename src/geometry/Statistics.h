#pragma once
#include "geometry/Column.h"

namespace seedloom {

/// What the numbers of one component of a column are like. Values that are not finite are counted apart and left out of the rest.
struct Statistics {
    std::size_t count = 0, nonFinite = 0;
    double least = 0, most = 0, mean = 0, deviation = 0;
    std::vector<std::size_t> bars;  ///< how many values fall into each of equal parts of least … most
};

/// `component` −1 takes the length of vectors. Texts have no numbers: count 0. Cost: O(rows), two passes.
Statistics statisticsOf(const Column& column, int component, std::size_t bars = 32);

}  // namespace seedloom

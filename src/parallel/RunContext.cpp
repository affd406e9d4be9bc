#include "parallel/RunContext.h"

#include <fmt/format.h>

namespace seedloom {

void RunContext::require(double estimate, const char* what) const {
    if (estimate <= double(limits_.elements)) return;
    throw LimitExceeded(
        std::isfinite(estimate)
            ? fmt::format("this would make about {:.3g} {}, and the limit is {}. Use smaller numbers, or raise the limit", estimate, what, limits_.elements)
            : fmt::format("this would make more {} than can be counted. What comes in is too large or too small: bring it to a usual size", what));
}

}  // namespace seedloom

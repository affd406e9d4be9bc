#include "parallel/RunContext.h"

#include <fmt/format.h>

namespace seedloom {

void RunContext::require(double estimate, const char* what) const {
    if (estimate <= double(limits_.elements)) return;
    throw LimitExceeded(
        fmt::format("this would make about {:.3g} {}, and the limit is {}. Use smaller numbers, or raise the limit", estimate, what, limits_.elements));
}

}  // namespace seedloom

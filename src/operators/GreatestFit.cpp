#include "operators/GreatestFit.h"

#include "operators/Notice.h"

#include <array>
#include <cmath>

namespace seedloom {

double greatestFit(double wished, const std::function<bool(double)>& fits) {
    constexpr std::array kShares{0.85, 0.6, 0.4, 0.25, 0.1, 0.04};
    constexpr int kBetween = 3;
    double tooMuch = wished, found = 0;
    for (double share : kShares) {
        const double size = twoDigits(wished * share, std::floor);
        if (size > 0 && fits(size)) {
            found = size;
            break;
        }
        tooMuch = wished * share;
    }
    for (int i = 0; i < kBetween && found > 0; ++i) {
        const double size = twoDigits((found + tooMuch) / 2, std::floor);
        if (size <= found) break;
        (fits(size) ? found : tooMuch) = size;
    }
    return found;
}

}  // namespace seedloom

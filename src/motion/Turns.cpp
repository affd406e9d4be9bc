#include "motion/Turns.h"

#include <cmath>

namespace seedloom {

Rotation rotationOf(const Turn& turn) {
    const auto [x, y, z, w] = turn;
    return {{{1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)},
             {2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)},
             {2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)}}};
}

Turn turnOf(const Rotation& m) {
    const double trace = m[0][0] + m[1][1] + m[2][2];
    Turn q;
    std::size_t largest = 3;
    double most = trace;
    for (std::size_t i = 0; i < 3; ++i)
        if (m[i][i] > most) most = m[i][i], largest = i;
    if (largest == 3) {
        q = {m[2][1] - m[1][2], m[0][2] - m[2][0], m[1][0] - m[0][1], 1 + trace};
    } else {
        const std::size_t i = largest, j = (i + 1) % 3, k = (i + 2) % 3;
        q[i] = 1 - trace + 2 * m[i][i];
        q[j] = m[i][j] + m[j][i];
        q[k] = m[i][k] + m[k][i];
        q[3] = m[k][j] - m[j][k];
    }
    const double length = std::sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3]);
    for (double& one : q) one /= length;
    return q;
}

double lengthOf(const Triple& v) { return std::sqrt(dot(v, v)); }

}  // namespace seedloom

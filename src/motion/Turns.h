#pragma once
// Rotations as unit quaternions x y z w and as matrices.
#include <array>

namespace seedloom {

using Triple = std::array<double, 3>;
using Turn = std::array<double, 4>;
using Rotation = std::array<Triple, 3>;  ///< rows

Rotation rotationOf(const Turn& turn);
/// Of a rotation, or of three axes as columns, right-handed. Method: Shepperd (1978).
Turn turnOf(const Rotation& rotation);
inline Rotation transposed(const Rotation& m) {
    Rotation out;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) out[i][j] = m[j][i];
    return out;
}

inline Triple operator+(const Triple& a, const Triple& b) { return {a[0] + b[0], a[1] + b[1], a[2] + b[2]}; }
inline Triple operator-(const Triple& a, const Triple& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
inline Triple operator*(const Triple& a, double by) { return {a[0] * by, a[1] * by, a[2] * by}; }
inline Triple operator*(const Rotation& m, const Triple& v) {
    Triple out{};
    for (std::size_t i = 0; i < 3; ++i) out[i] = m[i][0] * v[0] + m[i][1] * v[1] + m[i][2] * v[2];
    return out;
}
inline Rotation operator*(const Rotation& a, const Rotation& b) {
    Rotation out{};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j)
            for (std::size_t k = 0; k < 3; ++k) out[i][j] += a[i][k] * b[k][j];
    return out;
}
inline double dot(const Triple& a, const Triple& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
inline Triple cross(const Triple& a, const Triple& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }
double lengthOf(const Triple& v);

}  // namespace seedloom

#include "motion/SolidMoments.h"

#include <Eigen/Eigenvalues>

namespace seedloom {

namespace {

using Matrix = std::array<std::array<double, 3>, 3>;

std::array<double, 3> minus(Vec3 a, Vec3 b) { return {double(a.x) - double(b.x), double(a.y) - double(b.y), double(a.z) - double(b.z)}; }

double determinantOf(const std::array<double, 3>& a, const std::array<double, 3>& b, const std::array<double, 3>& c) {
    return a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
}

}  // namespace

SolidMoments momentsOf(std::span<const Triangle3> surface) {
    SolidMoments out;
    if (surface.empty()) return out;
    const Vec3 from = surface.front()[0];
    std::array<double, 3> first{};
    Matrix second{};
    for (const Triangle3& t : surface) {
        const std::array<std::array<double, 3>, 3> at{minus(t[0], from), minus(t[1], from), minus(t[2], from)};
        const double six = determinantOf(at[0], at[1], at[2]);
        out.volume += six / 6;
        for (int i = 0; i < 3; ++i) {
            const double sum = at[0][i] + at[1][i] + at[2][i];
            first[i] += six / 24 * sum;
            // Of a tetrahedron with one corner at the origin: V/20 (Σ pᵢpⱼ over corners + (Σp)ᵢ(Σp)ⱼ).
            for (int j = 0; j < 3; ++j) {
                const double sumJ = at[0][j] + at[1][j] + at[2][j];
                second[i][j] += six / 120 * (at[0][i] * at[0][j] + at[1][i] * at[1][j] + at[2][i] * at[2][j] + sum * sumJ);
            }
        }
    }
    if (out.volume == 0) return out;
    const std::array<double, 3> origin{double(from.x), double(from.y), double(from.z)};
    for (int i = 0; i < 3; ++i) {
        out.centre[i] = origin[i] + first[i] / out.volume;
        for (int j = 0; j < 3; ++j) out.second[i][j] = second[i][j] - first[i] * first[j] / out.volume;
    }
    return out;
}

SolidMoments mapped(const SolidMoments& moments, const Affine& map) {
    const Matrix by{{{double(map.x.x), double(map.y.x), double(map.z.x)},
                     {double(map.x.y), double(map.y.y), double(map.z.y)},
                     {double(map.x.z), double(map.y.z), double(map.z.z)}}};
    const std::array<double, 3> move{double(map.move.x), double(map.move.y), double(map.move.z)};
    const double scale = std::abs(map.determinant());
    SolidMoments out;
    out.volume = moments.volume * scale;
    for (int i = 0; i < 3; ++i) {
        out.centre[i] = move[i];
        for (int j = 0; j < 3; ++j) {
            out.centre[i] += by[i][j] * moments.centre[j];
            for (int k = 0; k < 3; ++k)
                for (int l = 0; l < 3; ++l) out.second[i][j] += scale * by[i][k] * moments.second[k][l] * by[j][l];
        }
    }
    return out;
}

InertiaAxes inertiaAxesOf(const SolidMoments& moments) {
    Eigen::Matrix3d inertia;
    const double trace = moments.second[0][0] + moments.second[1][1] + moments.second[2][2];
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j) inertia(i, j) = (i == j ? trace : 0) - moments.second[i][j];
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solved(inertia);
    Eigen::Matrix3d axes = solved.eigenvectors();
    if (axes.determinant() < 0) axes.col(2) = -axes.col(2);
    InertiaAxes out;
    for (int a = 0; a < 3; ++a) {
        out.moment[a] = std::max(solved.eigenvalues()[a], 0.0);
        for (int i = 0; i < 3; ++i) out.axis[a][i] = axes(i, a);
    }
    return out;
}

}  // namespace seedloom

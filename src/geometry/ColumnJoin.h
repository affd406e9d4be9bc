#pragma once
// What a column is given where a part that joins others has it in another type, or not at all.
#include "geometry/Geometry.h"

namespace seedloom {

/// One value in another type, component by component; a single number fills all.
template <class T> T convertRow(const Column& column, std::size_t row) {
    if constexpr (std::is_same_v<T, std::string>) {
        return {};
    } else if constexpr (std::is_arithmetic_v<T>) {
        return static_cast<T>(column.component(row, 0));
    } else {
        T out{};
        const int have = componentCount(column.type());
        for (int c = 0; c < static_cast<int>(sizeof(T) / sizeof(float)); ++c)
            (&out.x)[c] = have == 0 ? 0 : static_cast<float>(column.component(row, have == 1 ? 0 : std::min(c, have - 1)));
        return out;
    }
}

/// What has no colour is not black: it lets the light through as it is. What has no material has not the first one.
template <class T> T missingValue(std::string_view name) {
    if constexpr (std::is_same_v<T, Vec3>)
        if (name == "color") return {1, 1, 1};
    if constexpr (std::is_same_v<T, Vec4>)
        if (name == "color") return {1, 1, 1, 1};
    if constexpr (std::is_same_v<T, std::int32_t>)
        if (name == "material") return -1;
    return {};
}

/// Normals of a part that stores none: zeros would be drawn black, and are not allowed in files.
std::vector<Vec3> ownNormals(const Geometry& part, Element element);

}  // namespace seedloom

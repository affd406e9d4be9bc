#include "geometry/Column.h"

#include <array>

namespace seedloom {

namespace {
constexpr std::array<std::string_view, 7> kNames{"float", "int", "bool", "vec2", "vec3", "vec4", "text"};
}

std::string_view typeName(ColumnType type) { return kNames[static_cast<std::size_t>(type)]; }

ColumnType typeFromName(std::string_view word, bool& ok) {
    for (std::size_t i = 0; i < kNames.size(); ++i)
        if (kNames[i] == word) return ok = true, static_cast<ColumnType>(i);
    ok = false;
    return ColumnType::number;
}

int componentCount(ColumnType type) {
    switch (type) {
        case ColumnType::vec2: return 2;
        case ColumnType::vec3: return 3;
        case ColumnType::vec4: return 4;
        case ColumnType::text: return 0;
        default: return 1;
    }
}

double Column::component(std::size_t i, int c) const {
    return std::visit(
        [&](const auto& shared) -> double {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            if constexpr (std::is_same_v<T, std::string>)
                return 0;
            else if constexpr (std::is_arithmetic_v<T>)
                return static_cast<double>((*shared)[i]);
            else
                return static_cast<double>((&(*shared)[i].x)[c]);
        },
        data_);
}

std::size_t Column::byteSize() const {
    return std::visit(
        [](const auto& shared) {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            std::size_t bytes = shared->size() * sizeof(T);
            if constexpr (std::is_same_v<T, std::string>)
                for (const auto& text : *shared) bytes += text.size();
            return bytes;
        },
        data_);
}

Column gather(const Column& column, const std::vector<std::uint32_t>& rows) {
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            std::vector<T> out(rows.size());
            for (std::size_t i = 0; i < rows.size(); ++i) out[i] = (*shared)[rows[i]];
            return Column(std::move(out));
        },
        column.data());
}

Column zeros(ColumnType type, std::size_t count) {
    switch (type) {
        case ColumnType::number: return std::vector<float>(count);
        case ColumnType::integer: return std::vector<std::int32_t>(count);
        case ColumnType::boolean: return std::vector<std::uint8_t>(count);
        case ColumnType::vec2: return std::vector<Vec2>(count);
        case ColumnType::vec3: return std::vector<Vec3>(count);
        case ColumnType::vec4: return std::vector<Vec4>(count);
        case ColumnType::text: break;
    }
    return std::vector<std::string>(count);
}

}  // namespace seedloom

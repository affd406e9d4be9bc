#include "geometry/Column.h"

#include <algorithm>
#include <array>
#include <bit>

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
            if constexpr (std::is_same_v<T, std::string>) return 0;
            else if constexpr (std::is_arithmetic_v<T>) return static_cast<double>((*shared)[i]);
            else return static_cast<double>((&(*shared)[i].x)[c]);
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

std::size_t firstNonFinite(const Column& column, std::size_t from) {
    return std::visit(
        [&](const auto& shared) -> std::size_t {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            if constexpr (std::is_integral_v<T> || std::is_same_v<T, std::string>) {
                return shared->size();
            } else {
                constexpr std::size_t kWidth = sizeof(T) / sizeof(float), kBlock = 1024;
                static_assert(sizeof(T) % sizeof(float) == 0);
                const float* values = reinterpret_cast<const float*>(shared->data());
                // All exponent bits set: infinite or no number. A block without one is passed over in wide steps.
                const auto odd = [](float v) { return (std::bit_cast<std::uint32_t>(v) & 0x7F800000u) == 0x7F800000u; };
                const std::size_t count = shared->size() * kWidth;
                for (std::size_t begin = from * kWidth; begin < count; begin += kBlock) {
                    const std::size_t end = std::min(count, begin + kBlock);
                    std::uint32_t found = 0;
                    for (std::size_t i = begin; i < end; ++i) found |= odd(values[i]);
                    if (!found) continue;
                    for (std::size_t i = begin; i < end; ++i)
                        if (odd(values[i])) return i / kWidth;
                }
                return shared->size();
            }
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

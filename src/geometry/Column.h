#pragma once
// One attribute's values: an immutable, typed, shared array. Copying a Column shares the array.
#include "geometry/Vec.h"

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace seedloom {

enum class ColumnType : std::uint8_t { number, integer, boolean, vec2, vec3, vec4, text };

/// The word for a type in files and on the command line: float int bool vec2 vec3 vec4 text.
std::string_view typeName(ColumnType type);
/// The type of a word, or `false` in `ok`.
ColumnType typeFromName(std::string_view word, bool& ok);
/// How many numbers one value holds (text: 0).
int componentCount(ColumnType type);

template <class T> struct ColumnTypeOf;
template <> struct ColumnTypeOf<float> { static constexpr auto value = ColumnType::number; };
template <> struct ColumnTypeOf<std::int32_t> { static constexpr auto value = ColumnType::integer; };
template <> struct ColumnTypeOf<std::uint8_t> { static constexpr auto value = ColumnType::boolean; };
template <> struct ColumnTypeOf<Vec2> { static constexpr auto value = ColumnType::vec2; };
template <> struct ColumnTypeOf<Vec3> { static constexpr auto value = ColumnType::vec3; };
template <> struct ColumnTypeOf<Vec4> { static constexpr auto value = ColumnType::vec4; };
template <> struct ColumnTypeOf<std::string> { static constexpr auto value = ColumnType::text; };

/// Booleans are kept as one byte each (0 or 1).
class Column {
public:
    template <class T> using Shared = std::shared_ptr<const std::vector<T>>;
    using Data = std::variant<Shared<float>, Shared<std::int32_t>, Shared<std::uint8_t>, Shared<Vec2>, Shared<Vec3>, Shared<Vec4>, Shared<std::string>>;

    template <class T> Column(std::vector<T> values) : data_(std::make_shared<const std::vector<T>>(std::move(values))) {}
    template <class T> Column(Shared<T> values) : data_(std::move(values)) {}

    ColumnType type() const { return static_cast<ColumnType>(data_.index()); }
    std::size_t size() const {
        return std::visit([](const auto& v) { return v->size(); }, data_);
    }
    /// The values where they have type T, else nullptr.
    template <class T> const std::vector<T>* as() const {
        const auto* shared = std::get_if<Shared<T>>(&data_);
        return shared ? shared->get() : nullptr;
    }
    const Data& data() const { return data_; }
    /// Identity of the shared array; equal for columns that share storage.
    const void* storage() const {
        return std::visit([](const auto& v) { return static_cast<const void*>(v.get()); }, data_);
    }
    /// Component `c` of row `i` as a number (text: 0).
    double component(std::size_t i, int c) const;
    std::size_t byteSize() const;

private:
    Data data_;
};

/// Gathers rows: result[i] = column[rows[i]].
Column gather(const Column& column, const std::vector<std::uint32_t>& rows);
/// The first row from `from` on with a component that is infinite or no number; the number of rows where there is none. Cost: the memory's speed.
std::size_t firstNonFinite(const Column& column, std::size_t from = 0);
/// `count` rows of the type's zero value.
Column zeros(ColumnType type, std::size_t count);

}  // namespace seedloom

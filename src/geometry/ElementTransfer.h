#pragma once
// Reads an attribute for another kind of element than the one it sits on.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

/// Where an attribute was found.
struct FoundColumn {
    Column column;
    Element element;
};

/// Looks for `name` on `wanted` first, then on the other kinds in the order point, corner, face, curve, copy, model.
std::optional<FoundColumn> findColumn(const Geometry& geometry, std::string_view name, Element wanted);

/// How several values become one. Minimum and maximum go by component; texts always take the first.
enum class Combine : std::uint8_t { average, minimum, maximum, sum, first };

/// The values of a column of `from` for each element of `to`, each combined from what touches it; zero where nothing does.
Column changeElement(const Geometry& geometry, const Column& column, Element from, Element to, Combine by = Combine::average);

/// `name` as seen from elements of kind `wanted`. `position` of a face or curve is its centre; `normal` is computed where it is
/// not stored; `index` is always there. Nothing where no such attribute exists.
std::optional<Column> columnFor(const Geometry& geometry, std::string_view name, Element wanted);

/// Existing attribute names, most similar to `name` first (by edit distance), at most `most`.
std::vector<std::string> similarNames(std::string_view name, std::vector<std::string> known, std::size_t most = 3);
/// Whether `name` may be a slip for `known`: at most two letters, or a third of them, differ, or it is the beginning of it.
bool isSlipFor(std::string_view name, std::string_view known);
std::vector<std::string> attributeNames(const Geometry& geometry);

}  // namespace seedloom

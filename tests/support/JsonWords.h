#pragma once
// For precompiled headers only: what the JSON library must know about each type that a test writes down. A string of each length is a type of its own, and
// working these out anew took every test program a second.
#include "geometry/Json.h"

#include <type_traits>
#include <utility>

namespace seedloom::test {

template <class T> inline constexpr bool isWritten = std::is_constructible_v<nlohmann::detail::json_ref<Json>, T>&& std::is_constructible_v<Json, T>;

template <std::size_t... N> constexpr bool wordsAreWritten(std::index_sequence<N...>) { return (... && isWritten<const char(&)[N + 1]>); }
static_assert(wordsAreWritten(std::make_index_sequence<64>()));

template <class... T> inline constexpr bool areWritten = (... && (isWritten<T> && isWritten<T&> && isWritten<const T&>));
static_assert(areWritten<int, unsigned, std::size_t, float, double, bool, std::string, const char*, Json>);

}  // namespace seedloom::test

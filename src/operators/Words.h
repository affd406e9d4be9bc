#pragma once
// The words of a setting's text.
#include <algorithm>
#include <string>
#include <string_view>
#include <vector>

namespace seedloom {

/// What stands between white space. (A stream would end quietly where memory ends.)
inline std::vector<std::string> wordsIn(std::string_view text) {
    constexpr std::string_view kWhite = " \t\n\v\f\r";
    std::vector<std::string> out;
    for (std::size_t from = text.find_first_not_of(kWhite); from != std::string_view::npos;) {
        const std::size_t end = std::min(text.find_first_of(kWhite, from), text.size());
        out.emplace_back(text.substr(from, end - from));
        from = text.find_first_not_of(kWhite, end);
    }
    return out;
}

}  // namespace seedloom

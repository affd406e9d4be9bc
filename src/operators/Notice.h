#pragma once
#include <string>

namespace seedloom {

enum class NoticeLevel : unsigned char { info, warning, error };

inline std::string_view levelName(NoticeLevel level) { return level == NoticeLevel::error ? "error" : level == NoticeLevel::warning ? "warning" : "info"; }

/// Something to tell about a node. `code` is stable; `text` is for people.
struct Notice {
    NoticeLevel level = NoticeLevel::info;
    std::string code, text;
    std::string setting;       ///< id of the setting it is about, or empty
    std::string node;          ///< filled in by the rebuilding engine
    int line = 0, column = 0;  ///< place in a formula, from 1; 0 where it has none
};

}  // namespace seedloom

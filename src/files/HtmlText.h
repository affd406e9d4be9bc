#pragma once
#include <string>

namespace seedloom {

/// A text as it is written in HTML, also between quotes.
inline std::string htmlText(const std::string& text) {
    std::string out;
    for (const char c : text) switch (c) {
            case '<': out += "&lt;"; break;
            case '>': out += "&gt;"; break;
            case '&': out += "&amp;"; break;
            case '"': out += "&quot;"; break;
            default: out += c;
        }
    return out;
}

}  // namespace seedloom

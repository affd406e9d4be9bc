#include "files/Csv.h"

#include <fmt/format.h>

namespace seedloom {

Result<std::vector<std::vector<std::string>>> csvRows(const std::string& text) {
    std::vector<std::vector<std::string>> out;
    std::vector<std::string> row{{}};
    bool quoted = false, any = false;
    std::size_t line = 1, opened = 0;
    const auto end = [&] {
        if (any) out.push_back(row);
        row = {{}}, any = false;
    };
    for (std::size_t i = text.starts_with("\xEF\xBB\xBF") ? 3 : 0; i < text.size(); ++i) {
        const char c = text[i];
        line += c == '\n';
        if (quoted) {
            if (c != '"') row.back() += c;
            else if (i + 1 < text.size() && text[i + 1] == '"') row.back() += text[++i];
            else quoted = false;
        } else if (c == '"') {
            quoted = any = true, opened = line;
        } else if (c == ',') {
            row.emplace_back(), any = true;
        } else if (c == '\n') {
            end();
        } else if (c != '\r') {
            row.back() += c, any = true;
        }
    }
    if (quoted) return Error{"csv.quote", fmt::format("Line {} opens a quote that is never closed.", opened)};
    end();
    return out;
}

std::string csvCell(const std::string& text) {
    if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

}  // namespace seedloom

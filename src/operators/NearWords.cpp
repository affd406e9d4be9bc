#include "operators/NearWords.h"

#include "geometry/ElementTransfer.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr std::size_t kMostWords = 2;

bool isLetter(char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '_'; }

/// Where the line begins and ends; nothing where the text has fewer lines.
std::optional<std::pair<std::size_t, std::size_t>> lineOf(const std::string& text, int line) {
    std::size_t begin = 0;
    for (int l = 1; l < line; ++l) {
        begin = text.find('\n', begin);
        if (begin == std::string::npos) return {};
        ++begin;
    }
    return std::pair(begin, std::min(text.find('\n', begin), text.size()));
}

}  // namespace

std::optional<std::string> withWordReplaced(const std::string& text, int line, int column, const std::string& word, const std::string& by) {
    const auto found = lineOf(text, line);
    if (!found || word.empty() || column < 1) return {};
    const auto [begin, end] = *found;
    for (std::size_t at = text.find(word, begin + std::size_t(column) - 1); at != std::string::npos && at + word.size() <= end; at = text.find(word, at + 1)) {
        const bool whole = (at == 0 || !isLetter(text[at - 1])) && (at + word.size() == text.size() || !isLetter(text[at + word.size()]));
        if (whole) return std::string(text).replace(at, word.size(), by);
    }
    return {};
}

std::vector<NoticeFix> nearWordFixes(const Source& source, const Error& error, const std::string& setting) {
    const auto* formula = std::get_if<FormulaSource>(&source);
    const auto* fixed = std::get_if<FixedSource>(&source);
    if (!formula && !(fixed && fixed->value.is_string())) return {};
    const std::string& text = formula ? formula->text : fixed->value.get_ref<const std::string&>();
    std::vector<NoticeFix> out;
    for (const std::string& near : error.near) {
        if (out.size() == kMostWords) break;
        if (!isSlipFor(error.unknown, near)) continue;
        const auto written = withWordReplaced(text, error.line, error.column, error.unknown, near);
        if (written)
            out.push_back(
                setFix(fmt::format("Write {} for {}", near, error.unknown), setting, formula ? sourceToJson(FormulaSource{*written}) : Json(*written)));
    }
    return out;
}

}  // namespace seedloom

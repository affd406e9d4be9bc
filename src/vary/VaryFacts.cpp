#include "vary/VaryFacts.h"

#include <algorithm>
#include <numeric>

namespace seedloom {

namespace {

/// What can be read of a row beside its controls.
const std::map<std::string, double (*)(const VaryRow&)>& readings() {
    static const std::map<std::string, double (*)(const VaryRow&)> kReadings{
        {"n", [](const VaryRow& row) { return double(row.number); }},
        {"faces", [](const VaryRow& row) { return double(row.faces); }},
        {"triangles", [](const VaryRow& row) { return double(row.triangles); }},
        {"points", [](const VaryRow& row) { return double(row.points); }},
        {"size_x", [](const VaryRow& row) { return row.size[0]; }},
        {"size_y", [](const VaryRow& row) { return row.size[1]; }},
        {"size_z", [](const VaryRow& row) { return row.size[2]; }},
        {"volume", [](const VaryRow& row) { return row.volume; }},
        {"closed", [](const VaryRow& row) { return double(row.closed); }},
        {"ok", [](const VaryRow& row) { return double(row.ok); }},
        {"ms", [](const VaryRow& row) { return row.ms; }},
    };
    return kReadings;
}

std::optional<double> numberOf(const Json& value) {
    if (value.is_boolean()) return double(value.get<bool>());
    return value.is_number() ? std::optional(value.get<double>()) : std::nullopt;
}

}  // namespace

std::map<std::string, double> factsOf(const VaryRow& row) {
    std::map<std::string, double> out;
    for (const auto& [word, reading] : readings()) out[word] = reading(row);
    for (const auto& [id, value] : row.values)
        if (const auto number = numberOf(value)) out[id] = *number;
    return out;
}

std::optional<double> factOf(const VaryRow& row, const std::string& word) {
    if (const auto control = row.values.find(word); control != row.values.end())
        if (const auto number = numberOf(control->second)) return number;
    const auto it = readings().find(word);
    return it == readings().end() ? std::nullopt : std::optional(it->second(row));
}

Result<bool> rowMeets(const std::string& condition, const VaryRow& row) {
    SurroundingWords words;
    for (const auto& [word, value] : factsOf(row)) words[word].value[0] = value;
    return conditionHolds(condition, row.values, words);
}

std::vector<std::size_t> orderedBy(const std::string& word, bool largestFirst, const std::vector<const VaryRow*>& rows) {
    std::vector<std::optional<double>> value;
    for (const VaryRow* row : rows) value.push_back(row ? factOf(*row, word) : std::nullopt);
    std::vector<std::size_t> out(rows.size());
    std::iota(out.begin(), out.end(), std::size_t(0));
    std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
        if (!value[a] || !value[b]) return value[a].has_value() && !value[b].has_value();
        return largestFirst ? *value[a] > *value[b] : *value[a] < *value[b];
    });
    return out;
}

}  // namespace seedloom

#include "vary/VaryFacts.h"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace seedloom {

std::map<std::string, double> factsOf(const VaryRow& row) {
    std::map<std::string, double> out{{"n", double(row.number)},
                                      {"faces", double(row.faces)},
                                      {"triangles", double(row.triangles)},
                                      {"points", double(row.points)},
                                      {"size_x", row.size[0]},
                                      {"size_y", row.size[1]},
                                      {"size_z", row.size[2]},
                                      {"volume", row.volume},
                                      {"closed", double(row.closed)},
                                      {"ok", double(row.ok)},
                                      {"ms", row.ms}};
    for (const auto& [id, value] : row.values) {
        if (value.is_number()) out[id] = value.get<double>();
        if (value.is_boolean()) out[id] = double(value.get<bool>());
    }
    return out;
}

const std::vector<std::string>& factWords() {
    static const std::vector<std::string> kWords = [] {
        std::vector<std::string> out;
        for (const auto& [word, value] : factsOf({})) out.push_back(word);
        return out;
    }();
    return kWords;
}

Result<bool> rowMeets(const std::string& condition, const VaryRow& row) {
    SurroundingWords words;
    for (const auto& [word, value] : factsOf(row)) words[word].value[0] = value;
    FieldContext context;
    context.controls = &row.values;
    context.words = &words;
    try {
        const Numbers result = evaluate(FormulaSource{condition}, context);
        if (result.components == 1) return result.value[0] != 0;
        return Error{"vary.condition",
                     fmt::format("'{}' gives {} numbers. It has to give yes or no for each variation, as in faces < 20000.", condition, result.components)};
    } catch (const FieldError& error) {
        return error.error();
    }
}

std::vector<std::size_t> orderedBy(const std::string& word, bool largestFirst, const std::vector<const VaryRow*>& rows) {
    std::vector<std::optional<double>> value;
    for (const VaryRow* row : rows) {
        std::optional<double>& one = value.emplace_back();
        if (!row) continue;
        const auto facts = factsOf(*row);
        if (const auto it = facts.find(word); it != facts.end()) one = it->second;
    }
    std::vector<std::size_t> out(rows.size());
    std::iota(out.begin(), out.end(), std::size_t(0));
    std::stable_sort(out.begin(), out.end(), [&](std::size_t a, std::size_t b) {
        if (!value[a] || !value[b]) return value[a].has_value() && !value[b].has_value();
        return largestFirst ? *value[a] > *value[b] : *value[a] < *value[b];
    });
    return out;
}

}  // namespace seedloom

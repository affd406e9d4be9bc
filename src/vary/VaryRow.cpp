#include "vary/VaryRow.h"

#include "files/Csv.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>

namespace seedloom {

Json rowJson(const VaryRow& row) {
    return {{"n", row.number},
            {"preset", row.variation.preset},
            {"given", row.variation.given},
            {"values", row.values},
            {"ok", row.ok},
            {"problem", row.problem},
            {"file", row.file},
            {"picture", row.picture},
            {"digest", row.digest},
            {"key", row.key},
            {"points", row.points},
            {"faces", row.faces},
            {"triangles", row.triangles},
            {"size", row.size},
            {"volume", row.volume},
            {"closed", row.closed},
            {"ms", row.ms}};
}

std::optional<VaryRow> rowFromJson(const Json& json) {
    try {
        VaryRow out;
        json.at("n").get_to(out.number);
        json.at("preset").get_to(out.variation.preset);
        json.at("given").get_to(out.variation.given);
        json.at("values").get_to(out.values);
        json.at("ok").get_to(out.ok);
        json.at("problem").get_to(out.problem);
        json.at("file").get_to(out.file);
        json.at("picture").get_to(out.picture);
        json.at("digest").get_to(out.digest);
        json.at("key").get_to(out.key);
        json.at("points").get_to(out.points);
        json.at("faces").get_to(out.faces);
        json.at("triangles").get_to(out.triangles);
        json.at("size").get_to(out.size);
        json.at("volume").get_to(out.volume);
        json.at("closed").get_to(out.closed);
        json.at("ms").get_to(out.ms);
        return out;
    } catch (const Json::exception&) {
        return {};  // half written by an older program, or by somebody else
    }
}

std::string indexCsv(const Loom& loom, const std::vector<VaryRow>& rows) {
    std::string out = fmt::format("{}", fmt::join(kIndexHead, ","));
    for (const Control& control : loom.controls) out += "," + csvCell(control.id);
    out += fmt::format(",{}\n", fmt::join(kIndexFacts, ","));
    const auto word = [](const Json& value) {
        if (value.is_string()) return value.get<std::string>();
        if (!value.is_array()) return value.dump();
        std::string joined;
        for (const Json& part : value) joined += (joined.empty() ? "" : ",") + part.dump();
        return joined;
    };
    for (const VaryRow& row : rows) {
        out += fmt::format("{},{}", row.number, csvCell(row.file));
        for (const Control& control : loom.controls) {
            const auto it = row.values.find(control.id);
            out += "," + (it == row.values.end() ? std::string() : csvCell(word(it->second)));
        }
        out += fmt::format(",{},{},{},{},{},{},{},{},{},{},{:.1f},{}\n", row.ok, csvCell(row.problem), row.faces, row.triangles, row.points, row.size[0],
                           row.size[1], row.size[2], row.volume, row.closed, row.ms, row.digest);
    }
    return out;
}

namespace {

std::string threeDigits(double value) { return std::abs(value) < 1000 ? fmt::format("{:.3g}", value) : fmt::format("{:.0f}", value); }

}  // namespace

std::string shownValue(const Control& control, const Json& value) {
    std::string text = value.is_number_float() ? threeDigits(value.get<double>()) : value.is_string() ? value.get<std::string>() : value.dump();
    if (control.type == "file" && !text.empty()) return std::filesystem::path(text).stem().string();
    if (text.empty()) text = "–";
    if (value.is_boolean()) text = value.get<bool>() ? "yes" : "no";
    if (!control.unit.empty()) return text + " " + control.unit;
    return (control.label.empty() ? control.id : control.label) + " " + text;
}

}  // namespace seedloom

#include "cli/Reference.h"

#include "graph/Controls.h"
#include "graph/Loom.h"
#include "graph/OperatorSample.h"
#include "operators/Catalogue.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

std::string rangeText(const SettingSpec& s) {
    if (!s.choices.empty()) return fmt::format("{}", fmt::join(s.choices, ", "));
    const std::string_view unit = unitSymbol(s.unit);
    const std::string space = unit.empty() ? "" : " ";
    if (s.min && s.max) return fmt::format("{:g} to {:g}{}{}", *s.min, *s.max, space, unit);
    if (s.min) return fmt::format("{:g}{}{} or more", *s.min, space, unit);
    return std::string(unit);
}

const char* const kIntroduction =
    "# Operators\n\n"
    "Made from the declarations by `scripts/update-reference`; do not edit by hand. `seedloom-cli operators` prints the same.\n\n"
    "A setting marked * is computed for each element. Every numeric setting takes any source: a fixed value, a control, an attribute, a\n"
    "ramp, noise, random values or a formula (see [file-format.md](file-format.md)).\n";

}  // namespace

std::string operatorReference() {
    std::string out = kIntroduction;
    Family family = Family::look;
    for (const OperatorSpec& spec : catalogue()) {
        if (spec.family != family) out += fmt::format("\n## {}\n", familyName(family = spec.family));
        out += fmt::format("\n### {} (`{}`)\n\n", spec.label, spec.id);
        if (!operatorSample(spec.id).empty()) out += fmt::format("![{0}](operators/{1}.png)\n\n", spec.label, spec.id);
        out += fmt::format("{} {}\n", spec.sentence, spec.help);
        if (!spec.inputs.empty()) {
            std::vector<std::string> ports;
            for (const PortSpec& p : spec.inputs) ports.push_back(fmt::format("`{}` {}{}", p.id, p.label, p.many ? " (many)" : ""));
            out += fmt::format("\nInputs: {}\n", fmt::join(ports, ", "));
        }
        if (spec.settings.empty()) continue;
        out += "\n| setting | type | default | allowed | |\n|---|---|---|---|---|\n";
        for (const SettingSpec& s : spec.settings)
            out += fmt::format("| `{}`{} {} | {} | `{}` | {} | {} |\n", s.id, s.perElement ? "*" : "", s.label, settingTypeName(s.type), s.fallback.dump(),
                               rangeText(s), s.help);
    }
    return out;
}

namespace {

Json refTo(const char* name) { return {{"$ref", std::string("#/$defs/") + name}}; }
Json arrayOf(Json items) { return {{"type", "array"}, {"items", std::move(items)}}; }

Json settingSchema(const SettingSpec& s) {
    Json plain;
    switch (s.type) {
        case SettingType::number:
        case SettingType::integer: plain = {{"type", {"number", "boolean", "array"}}}; break;
        case SettingType::boolean: plain = {{"type", {"boolean", "number"}}}; break;
        case SettingType::vec2:
        case SettingType::vec3: plain = {{"type", {"array", "number"}}}; break;
        case SettingType::choice: plain = {{"enum", s.choices}}; break;
        case SettingType::formula:
        case SettingType::text: plain = {{"type", "string"}}; break;
        case SettingType::strokes: plain = arrayOf({{"type", "object"}, {"required", {"points"}}}); break;
        case SettingType::materials: plain = arrayOf({{"type", "object"}, {"required", {"name"}}}); break;
        case SettingType::lines: plain = arrayOf({{"type", {"array", "object"}}, {"required", {"points"}}}); break;
        case SettingType::file: plain = {{"type", "string"}}; break;
        case SettingType::points: plain = arrayOf({{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 3}, {"maxItems", 3}}); break;
        case SettingType::ramp: plain = {{"type", "object"}, {"required", {"knots"}}, {"properties", {{"knots", refTo("knots")}}}}; break;
        case SettingType::range:
            plain = {{"anyOf", Json::array({{{"type", "string"}, {"pattern", "^auto( [0-9.]+ %)?$"}}, arrayOf({{"type", "number"}})})}};
            break;
    }
    if (s.min && plain["type"].is_array()) plain["minimum"] = *s.min;
    if (s.max && plain["type"].is_array()) plain["maximum"] = *s.max;
    return {{"description", s.help}, {"default", s.fallback}, {"anyOf", Json::array({plain, refTo("source")})}};
}

Json sourceSchema() {
    const Json text{{"type", "string"}}, number{{"type", "number"}};
    const auto one = [](const char* key, Json value) { return Json{{"type", "object"}, {"required", {key}}, {"properties", {{key, std::move(value)}}}}; };
    Json attribute = one("attribute", text);
    attribute["properties"]["scale"] = number;
    attribute["properties"]["add"] = number;
    return {{"oneOf", Json::array({one("control", text), one("formula", text), attribute,
                                   one("ramp", {{"type", "object"},
                                                {"required", {"knots"}},
                                                {"properties", {{"over", text}, {"range", Json::object()}, {"knots", refTo("knots")}}}}),
                                   one("noise", {{"type", "object"}}), one("random", {{"type", "object"}})})}};
}

}  // namespace

std::string loomSchema() {
    const Json text{{"type", "string"}};
    Json nodeKinds = Json::array();
    for (const OperatorSpec& spec : catalogue()) {
        Json settings = Json::object();
        for (const SettingSpec& s : spec.settings) settings[s.id] = settingSchema(s);
        nodeKinds.push_back(
            {{"if", {{"properties", {{"op", {{"const", spec.id}}}}}}},
             {"then", {{"description", spec.sentence}, {"properties", {{"settings", {{"type", "object"}, {"properties", std::move(settings)}}}}}}}});
    }
    const Json cell{{"type", "array"}, {"items", {{"type", "integer"}}}, {"minItems", 2}, {"maxItems", 2}};
    const Json node{{"type", "object"},
                    {"required", {"id", "op"}},
                    {"properties",
                     {{"id", text},
                      {"op", text},
                      {"label", text},
                      {"cell", cell},
                      {"skip", {{"type", "boolean"}}},
                      {"tint", {{"type", "integer"}, {"minimum", 0}, {"maximum", kTints}}},
                      {"settings", {{"type", "object"}}},
                      {"graph", refTo("graph")},
                      {"asset", {{"type", "object"}, {"properties", {{"file", text}, {"name", text}, {"version", text}}}}}}},
                    {"allOf", std::move(nodeKinds)}};
    const Json control{{"type", "object"},
                       {"required", {"id"}},
                       {"properties",
                        {{"id", text},
                         {"label", text},
                         {"section", text},
                         {"type", {{"enum", controlTypes()}}},
                         {"default", Json::object()},
                         {"min", {{"type", "number"}}},
                         {"max", {{"type", "number"}}},
                         {"low", {{"type", "number"}}},
                         {"high", {{"type", "number"}}},
                         {"step", {{"type", "number"}, {"exclusiveMinimum", 0}}},
                         {"unit", text},
                         {"help", text},
                         {"choices", arrayOf(text)},
                         {"pictures", arrayOf(text)},
                         {"shown_when", text},
                         {"allowed_when", text}}}};
    const Json link{{"anyOf", Json::array({{{"type", "array"}, {"items", text}, {"minItems", 2}, {"maxItems", 2}},
                                           {{"type", "object"},
                                            {"required", {"from", "to"}},
                                            {"properties", {{"from", text}, {"out", text}, {"to", text}, {"in", text}, {"cut", {{"type", "boolean"}}}}}}})}};
    const Json schema{{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                      {"title", "Seed Loom document, format 1"},
                      {"type", "object"},
                      {"required", {"seedloom"}},
                      {"properties",
                       {{"seedloom", {{"const", 1}}},
                        {"name", text},
                        {"controls", arrayOf(control)},
                        {"values", {{"type", "object"}}},
                        {"presets", arrayOf({{"type", "object"}, {"required", {"name"}}, {"properties", {{"name", text}, {"values", {{"type", "object"}}}}}})},
                        {"nodes", arrayOf(refTo("node"))},
                        {"links", arrayOf(link)},
                        {"notes", arrayOf({{"type", "object"}})},
                        {"output", text},
                        {"version", text},
                        {"summary", text},
                        {"author", text},
                        {"licence", text},
                        {"tags", arrayOf(text)}}},
                      {"$defs",
                       {{"knots", {{"type", "array"}, {"minItems", 1}, {"items", {{"type", "array"}, {"minItems", 2}, {"maxItems", 3}}}}},
                        {"source", sourceSchema()},
                        {"graph",
                         {{"description", "The graph inside of a container; its controls are the container's own settings."},
                          {"type", "object"},
                          {"required", {"nodes"}},
                          {"properties",
                           {{"controls", arrayOf(control)},
                            {"nodes", arrayOf(refTo("node"))},
                            {"links", arrayOf(link)},
                            {"notes", arrayOf({{"type", "object"}})},
                            {"output", text}}}}},
                        {"node", node}}}};
    return schema.dump(1) + "\n";
}

}  // namespace seedloom

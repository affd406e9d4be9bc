#include "vary/Variations.h"

#include "files/Csv.h"
#include "vary/EvenDraws.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <charconv>
#include <cmath>
#include <set>

namespace seedloom {

namespace {

std::vector<std::string> parted(const std::string& text, char at) {
    std::vector<std::string> out{{}};
    for (const char c : text)
        if (c == at) out.emplace_back();
        else out.back() += c;
    return out;
}

std::optional<double> numberIn(const std::string& text) {
    double out = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
    return error == std::errc() && end == text.data() + text.size() && std::isfinite(out) ? std::optional(out) : std::nullopt;
}

Error wrongAxis(const std::string& text) {
    return {"vary.axis", fmt::format("'{}' does not say what varies. Write it as height=0.6:1.6:4 (from, to, how many) or kind=round,square.", text)};
}

/// Whether a column says what became of a variation, and not what it is. A control that has such a name is meant by it.
bool ofIndex(const Loom& loom, const std::string& column) {
    const auto among = [&](const auto& names) { return std::find(names.begin(), names.end(), column) != names.end(); };
    return among(kIndexHead) || (among(kIndexFacts) && !loom.control(column));
}

/// From, to, how many.
Result<std::vector<Json>> steps(const Control& control, const std::string& text) {
    const auto parts = parted(text, ':');
    const auto from = parts.size() == 3 ? numberIn(parts[0]) : std::nullopt, to = parts.size() == 3 ? numberIn(parts[1]) : std::nullopt,
               count = parts.size() == 3 ? numberIn(parts[2]) : std::nullopt;
    if (!from || !to || !count || *count < 1 || *count != std::floor(*count)) return wrongAxis(control.id + "=" + text);
    return steppedValues(control, *from, *to, *count);
}

}  // namespace

Error unknownControl(const Loom& loom, const std::string& id) {
    std::vector<std::string> known;
    for (const Control& control : loom.controls) known.push_back(control.id);
    if (known.empty()) return {"control.unknown", fmt::format("There is no control '{}' to vary; this loom has none.", id)};
    return {"control.unknown", fmt::format("There is no control '{}' to vary. There are {}.", id, fmt::join(known, ", "))};
}

Error tooManyVariations(double count) {
    return {"vary.count", fmt::format("These are {:.0f} variations; at most {} are made at once. Take fewer steps, or several runs.", count, kMostVariations)};
}

Result<std::vector<Json>> steppedValues(const Control& control, double from, double to, double count) {
    if (count > double(kMostVariations)) return tooManyVariations(count);
    std::vector<Json> out;
    for (int i = 0; i < int(count); ++i) {
        const double value = count == 1 ? from : plainNumber(from + (to - from) * i / (count - 1));
        auto checked = checkedControlValue(control, control.type == "integer" ? Json(std::int64_t(std::llround(value))) : Json(value));
        if (!checked) return checked.error();
        if (out.empty() || out.back() != *checked) out.push_back(std::move(*checked));  // whole numbers may come twice
    }
    return out;
}

Result<VaryAxis> varyAxis(const Loom& loom, const std::string& text) {
    const auto at = text.find('=');
    if (at == std::string::npos || at == 0 || at + 1 == text.size()) return wrongAxis(text);
    VaryAxis out{text.substr(0, at), {}};
    const Control* control = loom.control(out.control);
    if (!control) return unknownControl(loom, out.control);
    const std::string values = text.substr(at + 1);
    const bool number = control->type == "number" || control->type == "integer";
    if (number && values.find(':') != std::string::npos) {
        auto stepped = steps(*control, values);
        if (!stepped) return stepped.error();
        out.values = std::move(*stepped);
        return out;
    }
    for (const std::string& value : parted(values, ',')) {
        auto parsed = controlValueFromText(*control, value);
        if (!parsed) return parsed.error();
        out.values.push_back(std::move(*parsed));
    }
    return out;
}

Result<std::vector<Variation>> variationsOfGrid(const std::vector<VaryAxis>& axes) {
    double count = 1;
    std::set<std::string> controls;
    for (const VaryAxis& axis : axes) {
        count *= double(axis.values.size());
        if (!controls.insert(axis.control).second)
            return Error{"vary.axis", fmt::format("The control '{}' is varied twice. Put its values into one list.", axis.control)};
    }
    if (count > double(kMostVariations)) return tooManyVariations(count);
    std::vector<Variation> out{{}};
    for (const VaryAxis& axis : axes) {
        std::vector<Variation> wider;
        for (const Variation& before : out)
            for (const Json& value : axis.values) {
                wider.push_back(before);
                wider.back().given[axis.control] = value;
            }
        out = std::move(wider);
    }
    return out;
}

Result<std::vector<Variation>> variationsFromTable(const Loom& loom, const std::string& text) {
    const auto rows = csvRows(text);
    if (!rows) return Error{"vary.table", rows.error().text};
    if (rows->empty()) return Error{"vary.table", "The table is empty. Its first line names the controls, each further one is a variation."};
    const std::vector<std::string>& head = rows->front();
    std::set<std::string> seen;
    for (std::size_t c = 0; c < head.size(); ++c) {
        if (!seen.insert(head[c]).second) return Error{"vary.table", fmt::format("Column {} has the name '{}' for the second time.", c + 1, head[c])};
        if (head[c] != "preset" && !ofIndex(loom, head[c]) && !loom.control(head[c]))
            return Error{"vary.table", fmt::format("Column {}: there is no control '{}'. Columns are ids of controls, or preset.", c + 1, head[c])};
    }
    if (rows->size() - 1 > kMostVariations) return tooManyVariations(double(rows->size() - 1));
    std::vector<Variation> out;
    for (std::size_t r = 1; r < rows->size(); ++r) {
        const auto& cells = (*rows)[r];
        if (cells.size() > head.size()) return Error{"vary.table", fmt::format("Row {} has {} cells; the first line names {}.", r, cells.size(), head.size())};
        Variation one;
        for (std::size_t c = 0; c < cells.size(); ++c) {
            const std::string& cell = cells[c];
            if (cell.empty() || ofIndex(loom, head[c])) continue;
            if (head[c] == "preset") {
                if (!loom.preset(cell)) return Error{"vary.table", fmt::format("Row {}: there is no preset '{}'.", r, cell)};
                one.preset = cell;
                continue;
            }
            auto value = controlValueFromText(*loom.control(head[c]), cell);
            if (!value) return Error{value.error().code, fmt::format("Row {}, column {} ('{}'): {}", r, c + 1, head[c], value.error().text)};
            one.given[head[c]] = std::move(*value);
        }
        out.push_back(std::move(one));
    }
    return out;
}

Result<std::vector<Variation>> variationsByChance(const Loom& loom, std::size_t count, unsigned seed) {
    if (count > kMostVariations) return tooManyVariations(double(count));
    Loom plain = loom;
    plain.values.clear();
    if (const auto defaults = controlValues(plain); !defaults) return defaults.error();
    std::vector<DrawnFrom> drawn;
    for (const Control& control : plain.controls)
        if (DrawnFrom from = drawnFrom(control); from.possible()) drawn.push_back(std::move(from));
    if (drawn.empty() && count > 0)
        return Error{"vary.nothing", "No control of this loom has a range, choices, or yes and no, so nothing can be varied by chance."};
    const EvenDraws draws(drawn.size(), seed);
    return allowedOnes(plain, count, [&](std::size_t number) {
        Variation one;
        for (std::size_t d = 0; d < drawn.size(); ++d) one.given[drawn[d].control->id] = drawn[d].at(draws.part(number, d));
        return one;
    });
}

std::vector<Variation> allowedOnes(const Loom& loom, std::size_t count, const std::function<Variation(std::size_t number)>& at) {
    constexpr std::size_t kMostTries = 50;
    std::vector<Variation> out;
    for (std::size_t number = 1; out.size() < count && number <= count * kMostTries; ++number) {
        Variation one = at(number);
        if (controlValues(loom, {one.preset, one.given})) out.push_back(std::move(one));
    }
    return out;
}

}  // namespace seedloom

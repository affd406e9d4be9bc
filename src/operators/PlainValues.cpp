#include "operators/PlainValues.h"

#include "fields/Evaluate.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

std::optional<Error> numberProblem(const SettingSpec& setting, const Json& value) {
    Numbers numbers;
    const bool understood = numbersOf(value, numbers);
    const int n = numbers.components;
    const bool tooMany = (setting.type == SettingType::vec2 && n > 2) || (setting.type == SettingType::vec3 && n != 1 && n != 3) ||
                         (setting.type == SettingType::boolean && n > 1);
    if (!understood || tooMany) {
        const char* wanted = setting.type == SettingType::boolean ? "true or false"
                           : setting.type == SettingType::vec2    ? "two numbers"
                           : setting.type == SettingType::vec3    ? "three numbers"
                                                                  : "a number";
        return Error{"setting.type", fmt::format("{} must be {}, not {}.", setting.label, wanted, value.dump())};
    }
    for (int c = 0; c < n; ++c) {
        const double v = numbers.value[c];
        if (std::isfinite(v) && (!setting.min || v >= *setting.min) && (!setting.max || v <= *setting.max)) continue;
        return Error{"setting.range", fmt::format("{} is {:g}, and must be {}.", setting.label, v, limitsInWords(setting))};
    }
    return {};
}

// A control can pick by number; files hold the word.
bool picksOneOf(const std::vector<std::string>& choices, const Json& value) {
    if (value.is_number()) return value.get<double>() >= 0 && value.get<double>() < double(choices.size());
    return value.is_string() && std::find(choices.begin(), choices.end(), value.get_ref<const std::string&>()) != choices.end();
}

}  // namespace

std::string limitsInWords(const SettingSpec& setting) {
    if (setting.min && setting.max) return fmt::format("between {:g} and {:g}", *setting.min, *setting.max);
    if (setting.min) return fmt::format("at least {:g}", *setting.min);
    return setting.max ? fmt::format("at most {:g}", *setting.max) : std::string("finite");
}

std::optional<Error> plainValueProblem(const SettingSpec& setting, const Json& value) {
    if (setting.numeric()) return numberProblem(setting, value);
    switch (setting.type) {
        case SettingType::choice:
            if (picksOneOf(setting.choices, value)) return {};
            return Error{"setting.choice", fmt::format("{}: {} is not one of: {}.", setting.label, value.dump(), fmt::join(setting.choices, ", "))};
        case SettingType::text:
        case SettingType::formula:
        case SettingType::file:
            if (value.is_string()) return {};
            return Error{"setting.type", fmt::format("{} must be a text, not {}.", setting.label, value.dump())};
        default: return {};
    }
}

}  // namespace seedloom

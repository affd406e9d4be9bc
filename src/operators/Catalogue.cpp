#include "operators/Catalogue.h"

#include <algorithm>

namespace seedloom {

// Each declaration of the folder, found by CMake: OPERATOR(boxOperator) …
#define OPERATOR(declaration) OperatorSpec declaration();
#include "OperatorList.inc"
#undef OPERATOR

namespace {

std::vector<OperatorSpec> allOperators() {
    std::vector<OperatorSpec> all;
#define OPERATOR(declaration) all.push_back(declaration());
#include "OperatorList.inc"
#undef OPERATOR
    std::sort(all.begin(), all.end(), [](const OperatorSpec& a, const OperatorSpec& b) { return a.order != b.order ? a.order < b.order : a.id < b.id; });
    return all;
}

}  // namespace

static std::vector<OperatorSpec>& knownOperators() {
    static std::vector<OperatorSpec> all = allOperators();
    return all;
}

const std::vector<OperatorSpec>& catalogue() { return knownOperators(); }

ExtraOperator::ExtraOperator(OperatorSpec spec) { knownOperators().push_back(std::move(spec)); }

ExtraOperator::~ExtraOperator() { knownOperators().pop_back(); }

const OperatorSpec* findOperator(std::string_view id) {
    for (const OperatorSpec& spec : catalogue())
        if (spec.id == id) return &spec;
    return nullptr;
}

std::shared_ptr<const OperatorSpec> operatorFor(std::string_view id, const Json& written) {
    const OperatorSpec* spec = findOperator(id);
    std::vector<SettingSpec> own = spec && spec->ownSettings ? spec->ownSettings(written) : std::vector<SettingSpec>{};
    if (own.empty()) return {std::shared_ptr<void>(), spec};  // lives as long as the catalogue
    auto extended = std::make_shared<OperatorSpec>(*spec);
    // Right below the formula that declares them.
    auto& settings = extended->settings;
    const auto formula = std::find_if(settings.begin(), settings.end(), [](const SettingSpec& s) { return s.type == SettingType::formula; });
    std::size_t at = formula == settings.end() ? settings.size() : std::size_t(formula - settings.begin()) + 1;
    for (SettingSpec& setting : own)
        if (!extended->setting(setting.id)) settings.insert(settings.begin() + std::ptrdiff_t(at++), std::move(setting));
    return extended;
}

}  // namespace seedloom

#pragma once
// Values written into settings as they stand, without a source: what a declaration allows.
#include "geometry/Result.h"
#include "operators/Spec.h"

#include <optional>

namespace seedloom {

/// "between 0 and 1", "at least 0", "at most 1": where a setting has limits.
std::string limitsInWords(const SettingSpec& setting);
/// What is wrong with a plain value for a setting (codes `setting.type`, `setting.range`, `setting.choice`), with what it may be. Nothing where it is
/// fine, and for lists, which are looked into where they are used.
std::optional<Error> plainValueProblem(const SettingSpec& setting, const Json& value);

}  // namespace seedloom

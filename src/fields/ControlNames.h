#pragma once
// The controls that a formula's text names, without binding it.
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <string_view>

namespace seedloom {

/// Controls named in one formula or in a text of statements, as far as it can be read.
std::set<std::string> controlsNamed(std::string_view formula);
/// The same text with something else in the place of each `ctl.id` for which `written` gives one; spaces and comments stay as they are.
std::string withControlsWritten(std::string_view formula, const std::function<std::optional<std::string>(const std::string& id)>& written);
/// Whether a control of that id can be named in a formula: a letter or _, then letters, digits and _.
bool isControlId(std::string_view id);

}  // namespace seedloom

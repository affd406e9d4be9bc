#pragma once
// A formula with a word in it that names nothing, and what it would be with the word that was meant.
#include "fields/Source.h"
#include "operators/Notice.h"

namespace seedloom {

/// `text` with the first whole word `word` at or behind the place (from 1) on that line replaced. Nothing where it is not there.
std::optional<std::string> withWordReplaced(const std::string& text, int line, int column, const std::string& word, const std::string& by);

/// A change of the setting for each of the two likeliest words that `error` knows, where `source` holds the formula that it is about.
std::vector<NoticeFix> nearWordFixes(const Source& source, const Error& error, const std::string& setting);

}  // namespace seedloom

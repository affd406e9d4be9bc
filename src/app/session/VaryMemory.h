#pragma once
#include "app/session/Document.h"

namespace seedloom::app {

/// What was varied of a document when it was last worked on here, by its file, or by its name where it has none; null where nothing is known, or where the
/// file was written later by somebody else.
Json rememberedVary(const Document& document);
/// Kept until the next time; nothing is kept of a document without file and name.
void rememberVary(const Document& document, const Json& varied);

}  // namespace seedloom::app

#pragma once
#include <string>

namespace seedloom {

/// docs/operators.md, made from the declarations.
std::string operatorReference();
/// docs/loom.schema.json: a JSON Schema of loom files, with every operator's settings.
std::string loomSchema();

}  // namespace seedloom

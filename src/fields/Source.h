#pragma once
// Where a setting takes its value from, and how that is written in a loom.
#include "fields/Noise.h"
#include "fields/Ramp.h"
#include "fields/ValueRange.h"
#include "geometry/Json.h"
#include "geometry/Result.h"

#include <optional>
#include <string>
#include <variant>

namespace seedloom {

/// Keeps the order of keys, so that files stay as people wrote them.

struct FixedSource {
    Json value;
};
struct ControlSource {
    std::string control;
};
struct FormulaSource {
    std::string text;
};
/// value × scale + add
struct AttributeSource {
    std::string name;
    double scale = 1, add = 0;
};
struct RampSource {
    std::string over;  ///< an attribute's name or a formula
    ValueRange range;
    Ramp ramp;
};
struct NoiseSource {
    NoiseOptions options;
    double low = -1, high = 1;  ///< noise −1 and 1 give these
};
struct RandomSource {
    double low = 0, high = 1;
    double seed = 0;
    std::string by;  ///< attribute that tells elements apart; empty: `id`, else the order
};

using Source = std::variant<FixedSource, ControlSource, FormulaSource, AttributeSource, RampSource, NoiseSource, RandomSource>;

/// fixed control formula attribute ramp noise random
std::string_view sourceKind(const Source& source);

/// Reads a setting as written in a loom: a plain value, or an object with exactly one source key.
/// Unknown keys beside it are ignored here (the document keeps them). Code of errors: `setting.source`.
Result<Source> sourceFromJson(const Json& json);
Json sourceToJson(const Source& source);
/// What stands in a written source and is not read, with what would be: for people who mistyped a word.
struct UnknownKeys {
    std::string kind;
    std::vector<std::string> keys, known;
};
UnknownKeys unknownKeys(const Json& written);

/// A ramp written `{"knots": [[x, y, "shape"], …]}`; between 1 and 1000 knots of finite numbers.
Result<Ramp> rampFromJson(const Json& json);
Json rampToJson(const Ramp& ramp);

}  // namespace seedloom

#pragma once
// Which values of its controls a loom is varied over: a table, a grid, or numbers that cover the ranges evenly.
#include "graph/Controls.h"

#include <array>
#include <functional>

namespace seedloom {

inline constexpr std::size_t kMostVariations = 10'000;

struct Variation {
    std::string preset;   ///< that it starts from, or empty
    ControlValues given;  ///< beside it, by control
    bool operator==(const Variation&) const = default;
};

/// What one control is varied over.
struct VaryAxis {
    std::string control;
    std::vector<Json> values;
};

/// "height=0.6:1.6:4" (from, to, how many, evenly apart, both ends included) or "kind=round,square". Errors: `control.unknown`, `control.type`,
/// `control.range`, `vary.axis`.
Result<VaryAxis> varyAxis(const Loom& loom, const std::string& text);
/// All combinations, the last axis fastest. Errors: `vary.count` above kMostVariations, with the number; `vary.axis` where a control stands in two.
Result<std::vector<Variation>> variationsOfGrid(const std::vector<VaryAxis>& axes);

/// Columns of an index beside the controls, those before them and those behind.
inline constexpr std::array<const char*, 2> kIndexHead{"n", "file"};
inline constexpr std::array<const char*, 12> kIndexFacts{"ok",     "problem", "faces",  "triangles", "points", "size_x",
                                                         "size_y", "size_z",  "volume", "closed",    "ms",     "digest"};

/// The rows of a table: comma-separated values (RFC 4180), its first line the ids of controls, or `preset`. An empty cell leaves the default. Columns that an
/// index has beside the controls are left out, so that it can be varied again. Errors name line and column: `vary.table`, those of controlValueFromText(),
/// `vary.count`.
Result<std::vector<Variation>> variationsFromTable(const Loom& loom, const std::string& text);

/// So many settings of all controls with a range, choices, or yes and no, that cover them evenly from the first on: more of them never changes the first ones.
/// What the loom does not allow is left out, and others come in its place. Texts, files, ramps and vectors keep their defaults. Fewer than `count` where hardly
/// anything is allowed. Method: additive recurrence with powers of the generalised golden ratio (Roberts 2018), shifted by the seed.
/// Errors: `vary.count`, `vary.nothing` where no control can be varied, those of controlValues() for the defaults.
Result<std::vector<Variation>> variationsByChance(const Loom& loom, std::size_t count, unsigned seed);

// What those are made of.
/// `control.unknown`, with those that there are.
Error unknownControl(const Loom& loom, const std::string& id);
Error tooManyVariations(double count);
/// Values evenly apart, both ends included; of whole numbers each once. Errors: `control.range`, `vary.count`.
Result<std::vector<Json>> steppedValues(const Control& control, double from, double to, double count);
/// The first `count` of at(1), at(2) … whose values the loom allows; fewer where hardly any are.
std::vector<Variation> allowedOnes(const Loom& loom, std::size_t count, const std::function<Variation(std::size_t number)>& at);

}  // namespace seedloom

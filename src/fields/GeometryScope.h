#pragma once
// What names and functions of a formula mean on a geometry.
#include "fields/Evaluate.h"
#include "fields/Formula.h"

#include <map>
#include <mutex>

namespace seedloom {

/// The column that a source sees under `name`, or nothing.
std::optional<Column> visibleColumn(const FieldContext& context, std::string_view name);
/// A column as a formula's input; one value where `perElement` is false. Texts can't be had this way.
FormulaInput inputOf(Column column, bool perElement);

/// Rows begin … begin + n of a column of numbers into out[c][0 … n).
template <class T, class Number> void unpackColumn(const std::vector<T>& values, std::size_t begin, std::size_t n, Number* const* out) {
    if constexpr (std::is_arithmetic_v<T>) {
        for (std::size_t i = 0; i < n; ++i) out[0][i] = static_cast<Number>(values[begin + i]);
    } else if constexpr (!std::is_same_v<T, std::string>) {
        constexpr int components = sizeof(T) / sizeof(float);
        for (std::size_t i = 0; i < n; ++i)
            for (int c = 0; c < components; ++c) out[c][i] = Number((&values[begin + i].x)[c]);
    }
}

/// What a formula text can read beside attributes and controls.
struct FormulaSurroundings {
    std::map<std::string, double> dials;
    std::map<std::string, Ramp> ramps;
    std::vector<const Geometry*> inputs;  ///< A, B, C; nullptr or missing where nothing is plugged in
};

class GeometryScope : public FormulaScope {
public:
    explicit GeometryScope(const FieldContext& context, FormulaSurroundings surroundings = {});

    bool resolveName(const std::string& name, FormulaInput& input) override;
    bool resolveControl(const std::string& id, FormulaInput& input) override;
    bool isFixed(const std::string& name) const override { return surroundings_.dials.count(name) > 0; }
    std::vector<std::string> knownNames() const override;
    std::vector<std::string> knownControls() const override;
    double numberOfText(const std::string& text) override;
    Result<FormulaFunction> resolveFunction(const std::string& function, const std::string& geometry, const std::vector<std::string>& words) override;

    const std::vector<std::string>& texts() const { return texts_; }
    /// Attributes that were found on another kind of element, as name and kind, in the order of first use.
    const std::vector<std::pair<std::string, Element>>& converted() const { return converted_; }

private:
    FormulaInput textInput(const std::vector<std::string>& values);
    Result<FormulaFunction> rampFunction(const std::vector<std::string>& words) const;
    Result<FormulaFunction> statFunction(const Geometry* from, const std::vector<std::string>& words) const;
    Result<FormulaFunction> atFunction(const Geometry& from, const std::vector<std::string>& words);
    Result<FormulaFunction> placeFunction(const std::string& function, const Geometry& from) const;

    const FieldContext& context_;
    FormulaSurroundings surroundings_;
    std::vector<std::string> texts_;
    std::map<std::string, double> numberOfText_;
    std::vector<std::pair<std::string, Element>> converted_;
};

}  // namespace seedloom

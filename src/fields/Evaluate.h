#pragma once
// Turns a source into values, one for all or one for each element of a geometry.
#include "fields/Source.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <map>
#include <stdexcept>

namespace seedloom {

/// Control values by id: number, true/false, text, or list of numbers.
using ControlValues = std::map<std::string, Json>;

struct Numbers;
/// Values that a container gives to what is inside it, by name: number, turn, centre …
using SurroundingWords = std::map<std::string, Numbers>;

/// What a source may read. Without a geometry only single values can be had.
struct FieldContext {
    const Geometry* geometry = nullptr;
    Element element = Element::point;
    bool perElement = false;
    double time = 0, frame = 0;
    const ControlValues* controls = nullptr;
    const SurroundingWords* words = nullptr;  ///< these come before attributes of the same name
    const RunContext* run = nullptr;
};

/// A source that can't be evaluated; `code` as in Error.
class FieldError : public std::runtime_error {
public:
    FieldError(std::string code, const std::string& text) : FieldError(Error{std::move(code), text}) {}
    explicit FieldError(Error error) : std::runtime_error(error.text), error_(std::move(error)) {}
    const std::string& code() const { return error_.code; }
    const Error& error() const { return error_; }

private:
    Error error_;
};

/// One value for all elements, or one for each.
template <class T> struct Field {
    bool uniform = true;
    T value{};
    std::vector<T> values;
    const T& operator[](std::size_t i) const { return uniform ? value : values[i]; }
};

/// Values with 1–4 components, as columns of floats.
struct Numbers {
    int components = 1;
    bool uniform = true;
    std::array<double, 4> value{};
    std::array<std::vector<float>, 4> columns;
};

/// Throws FieldError (unknown control, unknown attribute, formula errors, wrong type) and Cancelled.
/// A setting that is not per element sees model attributes, and the average of other attributes.
Numbers evaluate(const Source& source, const FieldContext& context);
/// A single number; the value must have one component.
Field<float> evaluateFloat(const Source& source, const FieldContext& context);
/// Three components; a single number fills all of them.
Field<Vec3> evaluateVec3(const Source& source, const FieldContext& context);

/// A control's value as numbers: numbers, true/false, and lists of up to four. False where it is none of these.
bool numbersOf(const Json& value, Numbers& out);

}  // namespace seedloom

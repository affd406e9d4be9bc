#pragma once
// What the operators of the attribute family share: finding an attribute by name, and mixing new values with old ones.
#include "geometry/ElementTransfer.h"
#include "operators/OperatorCall.h"

namespace seedloom {

inline const std::vector<std::string> kElementWords{"point", "corner", "face", "curve", "copy", "model"};

/// The element that a choice setting names.
Element elementOf(const OperatorCall& call, std::string_view setting);
/// The name written in a text setting; fails where it is empty, or where it is `position`, which no single value can replace.
std::string newName(const OperatorCall& call, std::string_view setting);
/// The attribute that a text setting names, as stored, or computed where it can be (normal, index). Fails with the nearest names.
FoundColumn namedAttribute(const OperatorCall& call, const Geometry& in, std::string_view setting, Element preferred = Element::point);
/// The same, with one number a value; vectors are refused. As floats.
FoundColumn namedNumbers(const OperatorCall& call, const Geometry& in, std::string_view setting, Element preferred = Element::point);

/// Fresh values where the weight is 1, what was there under this name (0 if nothing, or of another type) where it is 0, mixed between;
/// whole numbers, true/false and texts change over at a half.
Column blended(const Geometry& in, Element element, std::string_view name, Column fresh, const Field<float>& weights);
/// Writes `fresh` on `in`, blended by the call's `where` and `blend`.
Geometry withAttribute(OperatorCall& call, const Geometry& in, Element element, const std::string& name, Column fresh);

/// Least and largest finite value; 0 and 1 where there is none.
std::array<double, 2> rangeOf(const std::vector<float>& values);

}  // namespace seedloom

#pragma once
// What a source gives where a setting's node works; can be asked on any thread.
#include "fields/Evaluate.h"
#include "geometry/Statistics.h"

namespace seedloom::app {

struct SourceValues {
    Geometry geometry;
    Element element = Element::point;
    ControlValues controls;
    double time = 0, frame = 0;
    std::shared_ptr<const SurroundingWords> words;  ///< given by containers around; none outside

    /// One value an element, or one for all. Throws FieldError.
    Numbers values(const Source& source) const;
    /// How the first components are spread. Throws FieldError.
    Statistics statistics(const Source& source, std::size_t bars) const;
    /// The least and the greatest value of an attribute or formula; nothing where it cannot be told.
    std::optional<std::array<double, 2>> range(const std::string& over) const;
};

}  // namespace seedloom::app

#include "app/settings/SourceValues.h"

namespace seedloom::app {

Numbers SourceValues::values(const Source& source) const {
    FieldContext context;
    context.geometry = &geometry;
    context.element = element;
    context.perElement = true;
    context.controls = &controls;
    context.time = time;
    context.frame = frame;
    context.words = words.get();
    return evaluate(source, context);
}

Statistics SourceValues::statistics(const Source& source, std::size_t bars) const {
    Numbers numbers = values(source);
    std::vector<float>& first = numbers.columns[0];
    if (numbers.uniform) first.assign(std::max<std::size_t>(1, geometry.count(element)), float(numbers.value[0]));
    return statisticsOf(Column(std::move(first)), 0, bars);
}

std::optional<std::array<double, 2>> SourceValues::range(const std::string& over) const {
    try {
        const Statistics found = statistics(FormulaSource{over}, 1);
        if (found.count == found.nonFinite) return {};
        return std::array{found.least, found.most};
    } catch (const FieldError&) {
        return {};
    }
}

}  // namespace seedloom::app

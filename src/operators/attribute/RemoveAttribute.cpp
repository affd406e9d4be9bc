// Method: own.
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "operators/Words.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

/// Whether `name` fits a pattern in which * stands for any letters. Linear in the name for each star.
bool fits(std::string_view pattern, std::string_view name) {
    std::size_t p = 0, n = 0, star = std::string_view::npos, from = 0;
    while (n < name.size()) {
        if (p < pattern.size() && pattern[p] == '*') {
            star = p++, from = n;
        } else if (p < pattern.size() && pattern[p] == name[n]) {
            ++p, ++n;
        } else if (star != std::string_view::npos) {
            p = star + 1, n = ++from;
        } else {
            return false;
        }
    }
    while (p < pattern.size() && pattern[p] == '*') ++p;
    return p == pattern.size();
}

Geometry computeRemoveAttribute(OperatorCall& call) {
    const Geometry& in = call.in();
    Geometry out = in;
    for (const std::string& pattern : wordsIn(call.text("names"))) {
        if (pattern == "position") {
            call.tell(NoticeLevel::info, "attribute.kept", "position stays: without it there would be no points. Use Delete to take points away.", "names");
            continue;
        }
        std::size_t found = 0;
        for (Element element : kAllElements)
            for (const auto& [name, column] : in.table(element)) {
                if (name == "position" || !fits(pattern, name)) continue;
                out.removeColumn(element, name);
                ++found;
            }
        if (found > 0) continue;
        const auto near = similarNames(pattern, attributeNames(in));
        call.tell(NoticeLevel::info, "attribute.nothing",
                  fmt::format("No attribute fits '{}'.{}", pattern, near.empty() ? "" : fmt::format(" There are: {}.", fmt::join(near, ", "))), "names");
    }
    return out;
}

}  // namespace

OperatorSpec removeAttributeOperator() {
    OperatorSpec spec;
    spec.id = "remove_attribute";
    spec.order = 770;
    spec.label = "Remove attribute";
    spec.family = Family::attribute;
    spec.sentence = "Takes attributes away that nothing needs any more.";
    spec.help = "Several names stand with spaces between them; * stands for any letters, so `temp*` takes all that begin so. position always stays.";
    spec.synonyms = {"delete", "clean", "drop", "erase"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {textSetting("names", "Names", "mask").helped("Names with spaces between them; * stands for any letters.")};
    spec.compute = computeRemoveAttribute;
    return spec;
}

}  // namespace seedloom

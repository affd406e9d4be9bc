#include "app/session/PlannedVariations.h"

namespace seedloom::app {

std::string textOf(const Variation& variation) { return variation.preset + '|' + Json(variation.given).dump(-1, ' ', false, Json::error_handler_t::replace); }

PlannedVariations::PlannedVariations(const VaryPlan& plan, const Loom& loom) {
    auto variations = variationsOf(plan, loom);
    if (!variations) {
        problem = variations.error().text;
        return;
    }
    all.reserve(variations->size());
    for (Variation& one : *variations) {
        std::string text = textOf(one);
        all.push_back({std::move(one), std::move(text)});
    }
    places.reserve(all.size());
    for (std::size_t i = 0; i < all.size(); ++i) places.try_emplace(all[i].text, i);
}

}  // namespace seedloom::app

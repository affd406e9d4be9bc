// Method: own: a number in [0, 1) for each piece, against the chance.
#include "fields/Random.h"
#include "operators/breaking/PieceList.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr double kOwnChance = 4001.5;  ///< so that the same seed elsewhere chooses others

Geometry computeRemovePieces(OperatorCall& call) {
    const Geometry& in = call.in();
    const PieceList pieces = piecesOf(call, in);
    const std::vector<float> chance = eachPiece(call.each("chance", in, Element::face), pieces);
    const std::vector<float> where = eachPiece(call.weights(in, Element::face), pieces);
    const double least = call.number("smaller_than"), seed = call.number("seed") + kOwnChance;
    const bool instead = call.flag("keep_instead"), holdLargest = call.flag("hold_largest");
    const std::vector<PieceMeasure> measures = least > 0 || holdLargest ? measurePieces(in, pieces) : std::vector<PieceMeasure>(pieces.count);
    std::vector<std::uint8_t> keep(pieces.count);
    for (Index i = 0; i < pieces.count; ++i) {
        const bool chosen = where[i] > 0.5f && (randomOf(double(pieces.number[i]), seed) < double(chance[i]) || (least > 0 && measures[i].size < least));
        keep[i] = chosen == instead;
    }
    if (holdLargest && !keep.empty()) {
        const auto smaller = [](const PieceMeasure& a, const PieceMeasure& b) { return a.size < b.size; };
        keep[std::size_t(std::max_element(measures.begin(), measures.end(), smaller) - measures.begin())] = 1;
    }
    const auto left = std::count(keep.begin(), keep.end(), 1);
    call.tell(NoticeLevel::info, "pieces.removed", fmt::format("{} of {} pieces are left.", left, pieces.count));
    return takePieces(in, pieces, keep);
}

}  // namespace

OperatorSpec removePiecesOperator() {
    OperatorSpec spec;
    spec.id = "remove_pieces";
    spec.order = 865;
    spec.label = "Remove pieces";
    spec.family = Family::breaking;
    spec.sentence = "Takes pieces away: by chance, those that are too small, or those under a mask.";
    spec.help =
        "Every piece draws one number from its own number and the seed, and goes where that is below Chance; so a higher chance takes further pieces away and "
        "brings none back. Smaller than takes slivers away as well. Where limits both to pieces that are masked by more than half. Hold the "
        "largest keeps the main part whatever else is said. Those that stay are numbered anew without gaps.";
    spec.takes = Takes::faces;
    spec.synonyms = {"missing", "delete pieces", "lose", "holes", "drop", "slivers", "small parts", "debris", "clean"};
    spec.inputs = {{"in", "Pieces"}};
    spec.settings = {
        numberSetting("chance", "Chance", Unit::part, 0.2).within(0, 1).slider(0, 1).each(Element::face).helped("Which part of the pieces goes."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed takes others."),
        numberSetting("smaller_than", "Smaller than", Unit::none, 0)
            .atLeast(0)
            .slider(0, 0.01)
            .helped("Pieces of less than this go too: m³ of closed pieces, m² of open ones. 0: none."),
        flagSetting("hold_largest", "Hold the largest", false).helped("The largest piece stays in any case, so that something is always left."),
        flagSetting("keep_instead", "Keep them instead", false).helped("Keeps those that would go, and takes the others away."),
        whereSetting(Element::face),
    };
    spec.sample = sample::step(spec.id, {{"chance", 0.4}, {"seed", 2}}, {sample::step("shatter", {{"pieces", 24}, {"seed", 1}}, {sample::ball()})});
    spec.compute = computeRemovePieces;
    return spec;
}

}  // namespace seedloom

// Method: own: broken faces in even triangles, moved by one field of noise (Perlin, "Improving Noise", 2002) that is held back near the old skin.
#include "breaking/RoughBreaks.h"
#include "operators/Shapes.h"
#include "operators/SolidInput.h"
#include "operators/breaking/CellSettings.h"
#include "operators/breaking/PieceList.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeRoughenBreaks(OperatorCall& call) {
    const Geometry& in = call.in();
    const auto* inside = in.values<std::uint8_t>(Element::face, "inside");
    if (!inside || std::find(inside->begin(), inside->end(), 1) == inside->end()) {
        call.offer(insertFix("Shatter before it", "shatter"));
        call.tell(NoticeLevel::info, "roughen.none", "Nothing is broken here: there are no faces with the tag inside. Shatter or cut it first.");
        return in;
    }
    needSolid(call, in, "The piece", "roughen");
    const Field<float> amounts = call.each("amount", in, Element::point);
    std::vector<float> amount(in.pointCount());
    double most = 0;
    for (std::size_t p = 0; p < amount.size(); ++p) {
        amount[p] = std::isfinite(amounts[p]) ? std::max(amounts[p], 0.0f) : 0;
        most = std::max(most, double(amount[p]));
    }
    if (most > 1000) call.fail("setting.range", "Amount must be at most 1000 m.", "amount");
    if (most == 0) return in;
    const Roughness rough = roughnessOf(call, "Faces", most);
    const PieceList pieces = piecesOf(call, in);
    std::vector<std::int32_t> piece(pieces.ofFace.begin(), pieces.ofFace.end());
    RoughBreaks made = roughenBreaks(in, piece, amount, rough, call.number("detail"), call.run());
    if (made.held > 0)
        call.tell(NoticeLevel::info, "roughen.held",
                  fmt::format("{} places move less than they should: there is no room for more. A smaller Amount moves all alike.", made.held), "amount");
    if (made.crossing > 0) {
        call.offer(setFix("Set Amount to half", "amount", most / 2));
        call.tell(
            NoticeLevel::warning, "roughen.crossing",
            fmt::format("{} faces cross others of their piece. They may have done so before: look at it in the Checkup. Otherwise make Amount smaller, or "
                        "Detail larger.",
                        made.crossing),
            "amount");
    }
    return withCopiesOf(in, std::move(made.geometry));
}

}  // namespace

OperatorSpec roughenBreaksOperator() {
    OperatorSpec spec;
    spec.id = "roughen_breaks";
    spec.order = 866;
    spec.label = "Roughen breaks";
    spec.family = Family::breaking;
    spec.sentence = "Makes broken faces uneven, alike on both sides.";
    spec.help =
        "Faces with the tag inside are cut into even triangles and moved by noise; faces of the old skin stay as they are. Both sides of a break stay one "
        "surface, since they are moved by one field; so do this before pieces are moved apart. Where a break comes out, its line wanders on the old skin as "
        "far as the skin's own faces leave room, and never leaves it. Amount may differ from place to place. Detail is how fine the broken faces become; Noise "
        "size how far it is from one bump to the next.";
    spec.takes = Takes::faces;
    spec.synonyms = {"rough", "uneven", "bumpy", "grain", "fracture detail", "stone", "jagged", "noise on breaks"};
    spec.inputs = {{"in", "Pieces"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::metre, 0.01)
            .within(0, 1000)
            .slider(0, 0.05)
            .each(Element::point)
            .helped("How far places move at most, in each direction."),
        numberSetting("detail", "Detail", Unit::metre, 0.03).within(1e-5, 1000).slider(0.01, 0.2).helped("Length of the sides of the new triangles."),
        noiseSizeSetting(),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other bumps."),
    };
    spec.sample = sample::step("spread_pieces", {{"amount", 0.35}},
                               {sample::step(spec.id, {{"amount", 0.05}, {"detail", 0.06}, {"noise_size", 0.3}},
                                             {sample::step("shatter", {{"pieces", 3}, {"seed", 3}}, {sample::box()})})});
    spec.compute = computeRoughenBreaks;
    spec.coarse = [](OperatorCall& call) { return call.in(); };
    return spec;
}

}  // namespace seedloom

// Method: own: each piece moved away from a centre as a rigid body.
#include "fields/Random.h"
#include "geometry/Measures.h"
#include "operators/breaking/PieceList.h"
#include "operators/breaking/SoundMove.h"
#include "operators/scatter/CopyFrame.h"

namespace seedloom {

namespace {

/// A turn of at most so many degrees to either side, that stays with the piece's number.
Affine turnOf(std::int32_t number, double degreesTurned) {
    if (degreesTurned == 0) return {};
    const auto chance = [&](double own) { return float(randomOf(double(number), own) * 2 - 1); };
    return turnAbout(normalized({chance(11), chance(13), chance(17)}, {0, 1, 0}), float(degreesTurned) * chance(19));
}

Geometry computeSpreadPieces(OperatorCall& call) {
    const Geometry& in = call.in();
    const PieceList pieces = piecesOf(call, in);
    const std::vector<PieceMeasure> measures = measurePieces(in, pieces);
    const std::vector<float> amount = eachPiece(call.each("amount", in, Element::face), pieces);
    const Vec3 centre = call.choice("from") == "point" ? call.vec3("centre") : boundsOf(in.positions()).centre();
    const double turn = call.number("turn");
    for (const float each : amount)
        if (!std::isfinite(each)) call.fail("setting.number", "Amount is no number on some faces. Remap it, or give a plain number.", "amount");
    const auto mapOf = [&](std::size_t i, float ease) -> Affine {
        if (i >= pieces.count) return {};  // what is no piece stays
        Affine map = turnOf(pieces.number[i], turn * double(ease));
        map.move = measures[i].centre - map.vector(measures[i].centre) + (measures[i].centre - centre) * (amount[i] * ease);
        return map;
    };
    const Geometry apart = takePieces(in, pieces, std::vector<std::uint8_t>(pieces.count, 1));
    std::vector<Index> partOfPoint(apart.pointCount(), pieces.count);
    const auto& piece = *apart.values<std::int32_t>(Element::face, "piece");
    for (Index f = 0; f < apart.faceCount(); ++f)
        for (Index p : apart.topology().face(f)) partOfPoint[p] = Index(piece[f]);
    return movedSoundly(apart, partOfPoint, pieces.count + 1, mapOf, call.run());
}

}  // namespace

OperatorSpec spreadPiecesOperator() {
    OperatorSpec spec;
    spec.id = "spread_pieces";
    spec.order = 867;
    spec.label = "Spread pieces";
    spec.family = Family::breaking;
    spec.sentence = "Moves pieces away from each other, to look inside or to let them lie apart.";
    spec.help =
        "Every piece moves away from the centre as it is: twice as far from it at an Amount of 1. Pieces are those of the face attribute piece, or what hangs "
        "together where there is none. Turn gives each a turn of its own as well, at most so far to either side.";
    spec.takes = Takes::faces;
    spec.synonyms = {"explode", "exploded view", "apart", "burst", "separate", "scatter pieces", "open up"};
    spec.inputs = {{"in", "Pieces"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::part, 0.3)
            .within(-1, 1000)
            .slider(0, 2)
            .each(Element::face)
            .helped("0 leaves them where they are, 1 takes them twice as far from the centre."),
        choiceSetting("from", "From", {"auto", "point"}, "auto").helped("Auto is the middle of everything."),
        vec3Setting("centre", "Centre", Unit::metre, {0, 0, 0}).when("from", {"point"}).helped("The place that they move away from."),
        numberSetting("turn", "Turn", Unit::degree, 0).within(0, 360).slider(0, 90).helped("How far each piece is turned at most, by chance."),
    };
    spec.sample = sample::step(spec.id, {{"amount", 0.6}}, {sample::step("shatter", {{"pieces", 12}, {"seed", 1}}, {sample::ball()})});
    spec.compute = computeSpreadPieces;
    return spec;
}

}  // namespace seedloom

#include "operators/breaking/FinishedPieces.h"

#include "breaking/InsideFaces.h"
#include "breaking/PartedCells.h"
#include "geometry/Measures.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

namespace seedloom {

SettingSpec insideMaterialSetting() {
    return textSetting("inside_material", "Inside material", "inside").helped("The material of broken faces, by name; empty: none.");
}

namespace {

/// Fails where the pieces do not make up what was cut. A surface that crosses itself has no inside that could be parted; walls almost on top of each other
/// leave parts that rounding can't tell.
void needWhole(const OperatorCall& call, const SolidPieces& pieces, bool filling) {
    const EdgeTable& edges = pieces.geometry.topology().edges();
    bool closed = true;
    for (std::size_t e = 0; closed && e < edges.edges.size(); ++e) closed = edges.faceCount[e] % 2 == 0 && edges.balance[e] == 0;
    const double whole = pieces.volume, parts = signedVolume(pieces.geometry);
    if (closed && parts <= whole * (1 + 1e-4) && (!filling || parts >= whole * (1 - 1e-4))) return;
    call.offer(insertFix("Make a voxel remesh before it", "voxel_remesh"));
    call.fail(
        "break.crossing",
        fmt::format("The pieces would not make up the whole ({:.5g} of {:.5g} m³). Either its surface crosses itself: make a voxel remesh of it first. Or "
                    "two cuts lie almost on each other: move one, or try another seed.",
                    parts, whole));
}

void needParted(const OperatorCall& call, const SolidPieces& pieces, const Walls& walls) {
    const std::size_t several = piecesOfSeveralCells(pieces, walls);
    if (several == 0) return;
    call.offer(setFix("Try another seed", "seed", call.number("seed") + 1));
    call.fail("break.unparted", fmt::format("{} pieces would hang together where a wall should part them. Try another seed.", several), "seed");
}

}  // namespace

Geometry finishedPieces(OperatorCall& call, SolidPieces pieces, const Walls& walls, bool filling) {
    needWhole(call, pieces, filling);
    needParted(call, pieces, walls);
    mapInside(pieces, walls, call.run());
    giveInsideMaterial(pieces.geometry, pieces.faces, call.text("inside_material"));
    return withCopiesOf(call.in(), std::move(pieces.geometry));
}

}  // namespace seedloom

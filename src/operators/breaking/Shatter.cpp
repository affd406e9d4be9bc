// Method: Voronoi cells (Voronoi, 1908) as walls through an exact arrangement, so that both sides of a break are one surface.
#include "breaking/VoronoiWalls.h"
#include "operators/SolidInput.h"
#include "operators/breaking/CellSettings.h"
#include "operators/breaking/FinishedPieces.h"

namespace seedloom {

namespace {

Vec3 stretchOf(const OperatorCall& call) {
    const Vec3 stretch = call.vec3("stretch");
    for (int c = 0; c < 3; ++c)
        if (!(stretch[c] >= 0.01f && stretch[c] <= 100))
            call.fail("setting.range", "Stretch must be 0.01 to 100 along each axis; 1 is as long as wide.", "stretch");
    return stretch;
}

Geometry shattered(OperatorCall& call, std::size_t most, double roughness) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Shatter needs a closed solid, and there are no faces here.");
    needSolid(call, in, "The solid", "shatter");
    const Vec3 stretch = stretchOf(call);
    const double gap = call.number("gap");
    const Roughness rough = roughnessOf(call, "Walls", roughness);
    const std::vector<Vec3> seeds = seedsOf(call, in, SeedsIn::volume, most);
    const Bounds bounds = boundsOf(in.positions());
    call.run().require(3 * double(in.cornerCount()) + 60 * double(seeds.size()), "corners");
    const Walls walls = wallFaces(voronoiWalls(seeds, roomOfWalls(bounds, rough), stretch, gap, call.run()), bounds, rough, call.run());
    SolidPieces pieces = cutBodies(
        in, walls, [&](Vec3 p) { return cellHolding(p, seeds, stretch, gap); }, call.run());
    if (gap > 0) tellOfGap(call, pieces.cellOfPiece, seeds, gap);
    return finishedPieces(call, std::move(pieces), walls, gap == 0);
}

Geometry computeShatter(OperatorCall& call) { return shattered(call, kAllCells, call.number("roughness")); }
Geometry coarseShatter(OperatorCall& call) { return shattered(call, kCoarseCells, 0); }

}  // namespace

OperatorSpec shatterOperator() {
    OperatorSpec spec;
    spec.id = "shatter";
    spec.order = 861;
    spec.label = "Shatter";
    spec.family = Family::breaking;
    spec.sentence = "Breaks a solid into pieces that fit together.";
    spec.help =
        "Each seed gets what is nearest to it; what hangs together there is a piece, numbered by the face attribute piece. Old faces keep all they carry, "
        "bit for bit where nothing cut them; the broken faces carry the tag inside, a texture place in metres and a material of their own, and both "
        "sides of a break are the same surface. Without Seeds as many as Pieces says are strewn inside. Gap leaves room between the pieces. Roughness makes "
        "the walls uneven, all by one field, so that they still fit and the cracks wander over the skin. Curves and loose points are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"break", "fracture", "voronoi", "smash", "splinter", "cells", "destroy", "rubble", "crush", "split into pieces"};
    spec.inputs = {{"in", "Solid"}, {"seeds", "Seeds", true, true}};
    spec.settings = {
        cellCountSetting(),
        cellSeedSetting(),
        gatherSetting(),
        vec3Setting("stretch", "Stretch", Unit::none, {1, 1, 1}).helped("How long the cells are along x, y and z: more makes splinters."),
        numberSetting("gap", "Gap", Unit::metre, 0).within(0, 1000).slider(0, 0.05).helped("Room between pieces."),
        roughnessSetting("How far the walls bulge to each side; both sides match."),
        noiseSizeSetting(),
        insideMaterialSetting(),
    };
    spec.sample = sample::step("spread_pieces", {{"amount", 0.25}}, {sample::step(spec.id, {{"pieces", 9}, {"seed", 3}}, {sample::box()})});
    spec.compute = computeShatter;
    spec.coarse = coarseShatter;
    return spec;
}

}  // namespace seedloom

// Method: own: Voronoi cells cut out of each face by lines that depend on its edges alone.
#include "breaking/ShellCracks.h"
#include "geometry/Measures.h"
#include "operators/Shapes.h"
#include "operators/breaking/CellSettings.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Without copies; curves and loose points are no part of a shell.
Geometry shellOf(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Crack shell needs a surface, and there are no faces here.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    Geometry out = in;
    out.setCopies(nullptr);
    if (!(surfaceArea(out) > 0)) call.fail("mesh.no_area", "The surface has no area, so there is nothing to crack. Make it larger first.");
    return out;
}

Geometry cracked(OperatorCall& call, std::size_t most) {
    const Geometry& in = call.in();
    const Geometry shell = shellOf(call);
    const Field<float> gap = call.each("gap", shell, Element::point);
    std::vector<float> gaps(shell.pointCount());
    for (std::size_t p = 0; p < gaps.size(); ++p) gaps[p] = std::isfinite(gap[p]) ? std::max(0.0f, gap[p]) : 0;
    const Roughness rough = roughnessOf(call, "Cracks", call.number("roughness"));
    const std::vector<Vec3> seeds = seedsOf(call, shell, SeedsIn::surface, most);
    call.run().require(4 * double(shell.cornerCount()) + 60 * double(seeds.size()), "corners");
    ShellCracks cracks = crackShell(shell, seeds, unevenPlaces(shell.positions(), rough), gaps, call.run());
    const float widest = gaps.empty() ? 0 : *std::max_element(gaps.begin(), gaps.end());
    if (widest > 0) tellOfGap(call, cracks.cellOfPiece, seeds, double(widest));
    return withCopiesOf(in, std::move(cracks.geometry));
}

Geometry computeCrackShell(OperatorCall& call) { return cracked(call, kAllCells); }
Geometry coarseCrackShell(OperatorCall& call) { return cracked(call, kCoarseCells); }

}  // namespace

OperatorSpec crackShellOperator() {
    OperatorSpec spec;
    spec.id = "crack_shell";
    spec.order = 862;
    spec.label = "Crack shell";
    spec.family = Family::breaking;
    spec.sentence = "Cracks a thin surface into fragments with smooth borders, with room between them where wanted.";
    spec.help =
        "Each seed gets what is nearest to it. Faces are cut along the borders, never left out, and keep what they carry; new border points carry the tag "
        "crack. Gap is measured along the surface and may differ from place to place, so that cracks are fine at one end and gape at the other. Roughness "
        "makes the "
        "borders wander, as finely as the surface's own points allow. The fragments are open, numbered by piece, to be thickened afterwards. Curves and loose "
        "points are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"egg", "fragments", "sherds", "craze", "crackle", "fracture", "break surface", "mud", "tiles", "glaze"};
    spec.inputs = {{"in", "Surface"}, {"seeds", "Seeds", true, true}};
    spec.settings = {
        cellCountSetting(),
        cellSeedSetting(),
        gatherSetting(),
        numberSetting("gap", "Gap", Unit::metre, 0).within(0, 1000).slider(0, 0.05).each().helped("Room between fragments, along the surface."),
        roughnessSetting("How far the borders wander."),
        noiseSizeSetting(),
    };
    spec.sample =
        sample::step("thicken", {{"thickness", 0.06}}, {sample::step(spec.id, {{"pieces", 14}, {"gap", 0.05}, {"seed", 2}}, {sample::ball(0.6, 16)})});
    spec.compute = computeCrackShell;
    spec.coarse = coarseCrackShell;
    return spec;
}

}  // namespace seedloom

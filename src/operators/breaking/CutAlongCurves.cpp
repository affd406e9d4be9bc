// Method: own: a wall ruled through each line, all of them through one exact arrangement.
#include "breaking/CurveWalls.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "operators/SolidInput.h"
#include "operators/breaking/CellSettings.h"
#include "operators/breaking/FinishedPieces.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <set>

namespace seedloom {

namespace {

/// Names the lines that part nothing, and shows them.
void tellOfIdle(OperatorCall& call, const Geometry& lines, const CurveWalls& made, const SolidPieces& pieces) {
    std::set<Index> idle(made.walls.wall.begin(), made.walls.wall.end());
    for (const PieceFace& face : pieces.faces)
        if (face.inside) idle.erase(made.walls.wall[face.source]);
    idle.insert(made.pointless.begin(), made.pointless.end());
    if (idle.empty()) return;
    std::vector<Index> numbers;
    for (Index c : idle) numbers.push_back(c + 1);
    if (numbers.size() > 8) numbers.resize(8);
    const bool deep = call.number("depth") > 0;
    if (call.port(1).size() == 1) {
        NoticeFix show = showFix("Show the lines", Element::curve, {idle.begin(), idle.end()});
        show.port = "curves";
        call.offer(std::move(show));
    }
    if (deep) call.offer(setFix("Cut all the way through", "depth", 0));
    else if (!call.flag("extend")) call.offer(setFix("Draw them on", "extend", true));
    call.tell(NoticeLevel::warning, "cut.idle",
              fmt::format("{} of {} lines part nothing: number {}. {}", idle.size(), lines.curveCount(), fmt::join(numbers, ", "),
                          deep                  ? "They do not reach through: make Depth larger, or 0."
                          : call.flag("extend") ? "They lie beside the solid or inside of it, or Direction runs past it: draw them on its surface."
                                                : "They end inside: tick Draw lines on, or draw them to the border."));
}

Geometry cutAlong(OperatorCall& call, double roughness) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Cut along curves needs a closed solid, and there are no faces here.");
    needSolid(call, in, "The solid", "cut");
    const Geometry lines = combine(call.port(1));
    if (lines.curveCount() == 0) call.fail("cut.no_lines", "There are no curves in Curves. Link a drawn curve, or lines from another step.");
    // Lines go in against what the surface faces.
    const Geometry solid = signedVolume(in) < 0 ? flipped(in, std::vector<std::uint8_t>(in.faceCount(), 1)) : in;
    CurveCut cut;
    cut.direction = call.vec3("direction");
    cut.depth = call.number("depth");
    cut.extend = call.flag("extend");
    cut.rough = roughnessOf(call, "Walls", roughness);
    CurveWalls made = curveWalls(solid, lines, cut, call.run());
    call.run().require(3 * double(solid.cornerCount()) + 3 * double(made.walls.geometry.cornerCount()), "corners");
    SolidPieces pieces = cutBodies(
        solid, made.walls, [](Vec3) { return Index(0); }, call.run());
    tellOfIdle(call, lines, made, pieces);
    call.give(1, std::move(made.extended));
    return finishedPieces(call, std::move(pieces), made.walls, true);
}

Geometry computeCutAlongCurves(OperatorCall& call) { return cutAlong(call, call.number("roughness")); }
Geometry coarseCutAlongCurves(OperatorCall& call) { return cutAlong(call, 0); }

}  // namespace

OperatorSpec cutAlongCurvesOperator() {
    OperatorSpec spec;
    spec.id = "cut_along_curves";
    spec.order = 863;
    spec.label = "Cut along curves";
    spec.family = Family::breaking;
    spec.sentence = "Cuts a solid into pieces along lines that lie on it.";
    spec.help =
        "Each line cuts like a wall that goes into the solid: along Direction, or against what the surface faces along the line. A closed line around the "
        "solid is filled towards its middle. Lines may cross. A line that ends inside is drawn on until it leaves the solid; the second output shows the lines "
        "as "
        "they cut. A line that parts nothing is told. Old faces keep all they carry; broken ones carry the tag inside, a texture place in metres and a "
        "material of their own, and both sides of a cut are the same surface.";
    spec.takes = Takes::faces;
    spec.synonyms = {"crack", "slice", "split", "knife", "fracture along", "saw", "drawn cracks", "score"};
    spec.inputs = {{"solid", "Solid"}, {"curves", "Curves", true}};
    spec.outputs = {{"out", "Pieces"}, {"extended", "Lines as they cut"}};
    spec.settings = {
        vec3Setting("direction", "Direction", Unit::none, {0, 0, 0}).helped("Which way the walls go; 0, 0, 0: against the surface where the line lies."),
        numberSetting("depth", "Depth", Unit::metre, 0).within(0, 1e6).slider(0, 2).helped("How far in from the line; 0: all the way through."),
        flagSetting("extend", "Draw lines on", true).helped("Lines that end inside go on straight until they leave the solid."),
        roughnessSetting("How far the walls bulge to each side; both sides match."),
        noiseSizeSetting(),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other bumps."),
        insideMaterialSetting(),
    };
    const auto line = [](Json points) { return sample::step("point_list", {{"points", std::move(points)}}); };
    const SampleStep lines =
        sample::merged(line({{-0.8, 0.5, 0.25}, {-0.2, 0.5, -0.1}, {0.2, 0.5, 0.2}, {0.8, 0.5, -0.05}}), line({{0.1, 0.5, -0.8}, {-0.1, 0.5, 0.8}}));
    spec.sample = sample::step("spread_pieces", {{"amount", 0.3}},
                               {sample::plugged(sample::step(spec.id, {{"direction", {0, -1, 0}}, {"roughness", 0.03}}, {sample::box()}), "curves", lines)});
    spec.compute = computeCutAlongCurves;
    spec.coarse = coarseCutAlongCurves;
    return spec;
}

}  // namespace seedloom

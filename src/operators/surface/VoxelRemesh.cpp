// Method: flood fill of the outside (Ju, ACM TOG 24(4), 2005), exact distances, cells of Lorensen & Cline, SIGGRAPH 1987.
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Neighbours.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"
#include "surface/Untangle.h"
#include "surface/VoxelShell.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Rounds of moving every point to the middle of its neighbours and a little farther back, which keeps the volume (Taubin, SIGGRAPH 1995).
std::vector<Vec3> smoothed(const Geometry& g, int rounds, const RunContext& run) {
    const Rows beside = pointNeighbours(g.topology());
    std::vector<Vec3> at = g.positions(), next = at;
    for (int round = 0; round < rounds; ++round)
        for (float step : {0.5f, -0.53f}) {
            forEach(at.size(), run, [&](std::size_t p) {
                Vec3 middle{};
                for (Index q : beside[p]) middle += at[q];
                if (beside[p].size() > 0) next[p] = mix(at[p], middle / float(beside[p].size()), step);
            });
            at.swap(next);
        }
    return at;
}

/// Attributes of the nearest place of the old surface.
Geometry withAttributesOf(const Geometry& from, Geometry to, const RunContext& run) {
    std::optional<NearestPlace> places;  // not made for a surface that has nothing to carry over
    const auto carry = [&](Element element, const std::vector<Vec3>& at) {
        if (from.table(element).size() <= (element == Element::point ? 1u : 0u)) return;
        if (!places) places.emplace(from, NearestPlace::On::faces);
        std::vector<Place> found(at.size());
        forChunks(at.size(), run, [&](std::size_t, Range range) {
            Index start = 0;
            for (std::size_t i = range.begin; i < range.end; ++i) {
                found[i] = places->find(at[i], start);
                start = found[i].part;
            }
        });
        for (const auto& [name, column] : from.table(element))
            if (name != "position" && name != "normal") to.setColumn(element, name, valuesAt(column, element, found));
    };
    carry(Element::point, to.positions());
    carry(Element::face, faceCentres(to));
    for (const auto& [name, column] : from.table(Element::model)) to.setColumn(Element::model, name, column);
    return to;
}

[[noreturn]] void failForNothing(OperatorCall& call, const Geometry& in, const VoxelShellOptions& options) {
    const auto& beside = in.topology().edges().faceCount;
    const bool open = std::find(beside.begin(), beside.end(), 1u) != beside.end();
    const double half = twoDigits(options.voxel / 2, std::floor);
    if (open) call.offer(insertFix("Give it a wall before it", "thicken"));
    call.offer(setFix(fmt::format("Set Voxel to {:g} m", half), "voxel", half));
    if (open && options.sign == VoxelSign::automatic)
        call.fail("voxel.nothing",
                  fmt::format("This looks like a sheet: nothing is enclosed, however its holes are closed. Give it a wall with Thicken first; if it is a body, "
                              "make the voxel of {:.3g} m smaller than its parts are thick.",
                              options.voxel),
                  "close");
    call.fail("voxel.nothing",
              fmt::format("Nothing is enclosed at a voxel of {:.3g} m. Make Close larger than the holes, or the voxel smaller than the parts are thick.",
                          options.voxel),
              "close");
}

void tellWhatIsLost(OperatorCall& call, const VoxelShellOptions& options, double lost) {
    constexpr double kWorthTelling = 0.02, kMuch = 0.2;
    if (lost < kWorthTelling) return;
    const double half = twoDigits(options.voxel / 2, std::floor);
    call.offer(setFix(fmt::format("Set Voxel to {:g} m", half), "voxel", half));
    call.offer(insertFix("Give it a wall before it", "thicken"));
    call.tell(lost > kMuch ? NoticeLevel::warning : NoticeLevel::info, "voxel.lost",
              fmt::format(
                  "{:.0f} % of the surface is not in the result, as it is thinner than a voxel of {:.3g} m, or open. Make the voxel smaller, or give it a wall "
                  "first.",
                  100 * lost, options.voxel),
              "voxel");
}

Geometry computeVoxelRemesh(OperatorCall& call) {
    Geometry in = withoutCurves(call.in());
    in.setCopies(nullptr);
    if (in.faceCount() == 0) call.fail("surface.none", "Voxel remesh needs faces, and there are none here.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    VoxelShellOptions options;
    const double size = boundsOf(in.positions()).diagonal(), wanted = call.number("voxel");
    options.voxel = wanted > 0 ? wanted : size / 128;
    options.close = call.number("close");
    if (!(options.voxel > 0)) call.fail("voxel.size", "The surface has no size, so there is no voxel that fits.");
    // Beyond this numbers of cells no longer fit together exactly.
    if (double(length(boundsOf(in.positions()).max)) + double(length(boundsOf(in.positions()).min)) > 1e9 * options.voxel || size > 1e15)
        call.fail("limit.elements",
                  "The model is too large, or too far from the origin, for this voxel. Move it to the origin, scale it down, or make the voxel larger.",
                  "voxel");
    call.run().require(voxelCells(in, options), "voxels");
    const std::string sign = call.choice("sign");
    options.sign = sign == "flood" ? VoxelSign::flood : sign == "winding" ? VoxelSign::winding : VoxelSign::automatic;
    auto [shell, byWinding, lost] = voxelShell(in, options, call.run());
    if (shell.faceCount() == 0) failForNothing(call, in, options);
    tellWhatIsLost(call, options, lost);
    if (byWinding && options.sign == VoxelSign::automatic)
        call.tell(
            NoticeLevel::info, "voxel.winding",
            "The holes are wider than Close, so what lies inside is told by how far faces go around it. Make Close wider than the holes to bridge them flat.",
            "close");
    if (const int rounds = call.integer("smooth"); rounds > 0) shell.setPositions(movedWithoutCrossing(shell, smoothed(shell, rounds, call.run()), call.run()));
    return withAttributesOf(in, std::move(shell), call.run());
}

}  // namespace

OperatorSpec voxelRemeshOperator() {
    OperatorSpec spec;
    spec.id = "voxel_remesh";
    spec.order = 450;
    spec.label = "Voxel remesh";
    spec.family = Family::surface;
    spec.sentence = "Wraps anything in one closed surface: holes are closed, crossing parts united, insides filled.";
    spec.help =
        "The surface follows the faces to a small part of a voxel; what is smaller than one is lost, and sharp edges are cut off. Gaps up to the given width "
        "are bridged; a hole that is wider is closed as a film would. Any input will do: scans with holes, doubled faces, wrong winding. No faces cross each "
        "other. Point and face attributes are those of the nearest place.";
    spec.takes = Takes::faces;
    spec.synonyms = {"wrap", "shrink", "close holes", "repair", "solid", "scan", "watertight", "unite"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("voxel", "Voxel", Unit::metre, 0).within(0, 1e6).slider(0, 0.2).helped("Edge of the cells; 0 takes a 128th of the model's diagonal."),
        numberSetting("close", "Close", Unit::metre, 0)
            .within(0, 1e6)
            .slider(0, 1)
            .helped("Gaps and holes up to this width are bridged; 0 still bridges two voxels."),
        choiceSetting("sign", "Inside by", {"auto", "flood", "winding"}, "auto")
            .helped("Inside is what a flood from outside does not reach, or what faces go around by more than half; auto takes the second where the first "
                    "leaks in through a hole."),
        integerSetting("smooth", "Smooth", 1).within(0, 1000).slider(0, 20).helped("Rounds that take the traces of the cells away, without shrinking."),
    };
    spec.sample = sample::step(spec.id, {{"voxel", 0.06}}, {sample::cells()});
    spec.compute = computeVoxelRemesh;
    return spec;
}

}  // namespace seedloom

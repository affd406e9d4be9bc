// Method: own arrangement with exact predicates (CGAL), sides by winding numbers (after Zhou, Grinspun, Zorin & Jacobson, SIGGRAPH 2016).
#include "surface/Boolean.h"
#include "geometry/Measures.h"
#include "operators/SolidInput.h"
#include "surface/FlatTriangles.h"
#include "surface/ShortEdges.h"

#include <fmt/format.h>

#include <bit>
#include <cmath>
#include <set>

namespace seedloom {

namespace {

constexpr double kShortest = 1e-4;  ///< of the diagonal: shorter edges that a cut leaves are taken out
constexpr double kVoxels = 150;     ///< along the diagonal: fine enough to keep a shape

std::vector<Geometry> solidsAt(OperatorCall& call, std::size_t port, const char* name) {
    std::vector<Geometry> out;
    for (std::size_t i = 0; i < call.port(port).size(); ++i) {
        const Geometry& g = call.port(port)[i];
        if (g.empty()) continue;
        if (g.faceCount() == 0) {
            call.tell(NoticeLevel::warning, "boolean.empty",
                      fmt::format("{} has no faces and is left out.", call.port(port).size() > 1 ? fmt::format("{} {}", name, i + 1) : std::string(name)));
            continue;
        }
        needSolid(call, g, call.port(port).size() > 1 ? fmt::format("{} {}", name, i + 1) : std::string(name), "boolean");
        out.push_back(g);
    }
    return out;
}

void tellOfCrossings(OperatorCall& call, const BooleanReport& report, double size) {
    if (report.crossed > 0)
        call.tell(
            NoticeLevel::info, "boolean.crossed",
            fmt::format("Solids cross themselves at {} pairs of faces. What they wind around counts as inside, and the result does not cross itself there.",
                        report.crossed));
    if (report.crossing == 0 && report.odd == 0) return;
    call.offer(addFix("Voxel remesh after it", "voxel_remesh", {{"voxel", twoDigits(size / kVoxels, std::floor)}}));
    call.tell(NoticeLevel::warning, "boolean.unsound",
              fmt::format("The surfaces meet in so many places at once that rounding leaves {} pairs of faces that cross and {} edges without exactly two "
                          "faces. Move a solid a little, or put Voxel remesh behind this.",
                          report.crossing, report.odd));
}

/// Without the short edges and flat triangles that a cut leaves where it passes close by a corner, which shade badly and trouble what comes after.
Geometry withoutCutEdges(OperatorCall& call, const Geometry& cut, std::initializer_list<const std::vector<Geometry>*> groups) {
    const auto hashOf = [](Vec3 p) { return std::bit_cast<std::array<std::uint32_t, 3>>(p); };
    std::set<std::array<std::uint32_t, 3>> before;
    for (const auto* group : groups)
        for (const Geometry& g : *group)
            for (Vec3 p : g.positions()) before.insert(hashOf(p));
    std::vector<std::uint8_t> old(cut.pointCount());
    for (Index p = 0; p < old.size(); ++p) old[p] = before.contains(hashOf(cut.positions()[p]));
    return withoutFlatTriangles(withoutShortEdges(cut, kShortest * boundsOf(cut.positions()).diagonal(), old, call.run()), call.run());
}

Geometry computeBoolean(OperatorCall& call) {
    const std::string word = call.choice("form");
    const BooleanForm form = word == "unite"     ? BooleanForm::unite
                           : word == "intersect" ? BooleanForm::intersect
                           : word == "split"     ? BooleanForm::split
                                                 : BooleanForm::subtract;
    const std::vector<Geometry> base = solidsAt(call, 0, "Base"), cutters = solidsAt(call, 1, "Cutter");
    if (base.empty() && cutters.empty()) call.fail("surface.none", "Boolean needs closed solids, and there are no faces here.");
    double corners = 0;
    for (const auto* group : {&base, &cutters})
        for (const Geometry& g : *group) corners += 3 * double(g.cornerCount());
    call.run().require(corners, "corners");
    BooleanReport report;
    Geometry out = combineSolids(base, cutters, form, call.run(), &report);
    if (report.crossing == 0 && report.odd == 0) out = withoutCutEdges(call, out, {&base, &cutters});
    tellOfCrossings(call, report, boundsOf(out.positions()).diagonal());
    if (!cutters.empty() && report.meetings == 0) call.tell(NoticeLevel::info, "boolean.apart", "The surfaces meet nowhere.");
    return out;
}

}  // namespace

OperatorSpec booleanOperator() {
    OperatorSpec spec;
    spec.id = "boolean";
    spec.order = 390;
    spec.label = "Boolean";
    spec.family = Family::surface;
    spec.sentence = "Unites solids, subtracts or intersects them, or splits them along each other, with as many cutters as are plugged in.";
    spec.help =
        "Closed solids give a closed solid. Solids of one input may overlap. Faces in one plane are handled, and places are exact until the last rounding. "
        "A solid may cross itself: what it winds around is inside. "
        "Faces that are not touched stay bit for bit; cut ones keep their "
        "place in the texture, and those from cutters get the tag inside. Split keeps the parts inside and outside of the cutters, numbered as piece. Curves "
        "and loose points are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"union", "difference", "subtract", "cut out", "cut away", "intersection", "carve", "drill", "combine", "csg"};
    spec.inputs = {{"base", "Base", true}, {"cutters", "Cutters", true, true}};
    spec.settings = {choiceSetting("form", "Form", {"unite", "subtract", "intersect", "split"}, "unite")
                         .helped("What becomes of the base: all together, without the cutters, only what lies in both, or both parts.")};
    spec.sample = sample::plugged(sample::step(spec.id, {{"form", "subtract"}}, {sample::box()}), "cutters",
                                  sample::step("transform", {{"move", {0.4, 0.7, 0.4}}}, {sample::ball(0.55, 8)}));
    spec.compute = computeBoolean;
    return spec;
}

}  // namespace seedloom

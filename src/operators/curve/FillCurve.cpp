// Method: own: nesting of rings by winding, outer rings joined to their holes by bridges.
#include "geometry/FlatRings.h"
#include "geometry/Measures.h"
#include "geometry/PlanarFill.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

#include <map>
#include <numeric>

namespace seedloom {

namespace {

/// Closed curves in one plane, filled together so that those inside others become holes.
struct Sheet {
    Vec3 normal, origin;
    std::vector<Index> curves;
};

bool flat(const Geometry& in, Index c, Vec3 normal, double tolerance) {
    const auto curve = in.topology().curve(c);
    const Vec3 origin = in.positions()[curve[0]];
    return std::all_of(curve.begin(), curve.end(), [&](Index p) { return std::abs(double(dot(in.positions()[p] - origin, normal))) <= tolerance; });
}

/// Sheets by their distance from the origin, so that one is found among many.
class SheetFinder {
public:
    SheetFinder(std::vector<Sheet>& sheets, double tolerance) : sheets_(sheets), tolerance_(tolerance) {}
    void add(Index curve, Vec3 normal, Vec3 origin) {
        const auto cell = std::int64_t(std::floor(std::abs(double(dot(origin, normal))) / (8 * tolerance_)));
        for (std::int64_t near = cell - 1; near <= cell + 1; ++near)
            for (std::size_t i : byDistance_[near])
                if (std::abs(dot(sheets_[i].normal, normal)) > 1 - 1e-5f && std::abs(double(dot(origin - sheets_[i].origin, sheets_[i].normal))) <= tolerance_)
                    return sheets_[i].curves.push_back(curve);
        byDistance_[cell].push_back(sheets_.size());
        sheets_.push_back({normal, origin, {curve}});
    }

private:
    std::vector<Sheet>& sheets_;
    double tolerance_;
    std::map<std::int64_t, std::vector<std::size_t>> byDistance_;
};

std::vector<Sheet> sheetsOf(const Geometry& in, std::vector<Index>& bent, std::size_t& open) {
    const double tolerance = boundsOf(in.positions()).diagonal() * 1e-5;
    std::vector<Sheet> out;
    SheetFinder finder(out, tolerance);
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (!in.topology().curveClosed(c) || curve.size() < 3) {
            ++open;
            continue;
        }
        const Vec3 normal = normalized(areaVector(curve, in.positions()), {});
        if (length(normal) < 0.5f) continue;
        if (flat(in, c, normal, tolerance)) finder.add(c, normal, in.positions()[curve[0]]);
        else bent.push_back(c);
    }
    return out;
}

/// Rings of one sheet: outlines anticlockwise, those at odd depth the other way round. The first outermost curve says which side is the front.
std::vector<std::vector<Index>> ringsOf(const Geometry& in, const Sheet& sheet, Vec3& normal, const RunContext& run) {
    std::vector<std::vector<Index>> rings;
    for (Index c : sheet.curves) rings.emplace_back(in.topology().curve(c).begin(), in.topology().curve(c).end());
    const FlatRings plane(in.positions(), rings, sheet.normal);
    std::vector<std::size_t> depth;
    for (std::size_t r = 0; r < rings.size(); ++r) {
        if (r % 1024 == 0) run.poll();
        depth.push_back(plane.around(r).size());
    }
    const std::size_t first = std::size_t(std::min_element(depth.begin(), depth.end()) - depth.begin());
    const double sense = plane.area(first) >= 0 ? 1 : -1;
    normal = sheet.normal * float(sense);
    for (std::size_t r = 0; r < rings.size(); ++r)
        if ((plane.area(r) * sense > 0) == (depth[r] % 2 == 1)) std::reverse(rings[r].begin(), rings[r].end());
    return rings;
}

Geometry computeFillCurve(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Fill curve needs a closed curve, and none is plugged in.");
    std::vector<Index> bent;
    std::size_t open = 0;
    const auto sheets = sheetsOf(in, bent, open);
    if (sheets.empty() && bent.empty()) call.fail("curve.open", "Every curve is open or has no area, so there is nothing to fill. Close the curve first.");
    if (open > 0) call.tell(NoticeLevel::info, "curve.open", fmt::format("{} open curves are left as they are.", open));
    RowPlan plan;
    plan.points.resize(in.pointCount());
    std::iota(plan.points.begin(), plan.points.end(), 0u);
    std::vector<Index> faceCurve;
    const auto addFace = [&](const std::vector<Index>& points, Index curve) {
        plan.cornerPoint.insert(plan.cornerPoint.end(), points.begin(), points.end());
        plan.endFace(0);
        faceCurve.push_back(curve);
    };
    for (const Sheet& sheet : sheets) {
        call.run().poll();
        Vec3 normal;
        const auto rings = ringsOf(in, sheet, normal, call.run());
        for (const FilledFace& face : fillRings(in.positions(), rings, normal)) addFace(face.points, sheet.curves[face.outline]);
    }
    for (Index c : bent) addFace({in.topology().curve(c).begin(), in.topology().curve(c).end()}, c);
    const bool keep = call.flag("keep_curves");
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (!keep && in.topology().curveClosed(c) && curve.size() >= 3) continue;
        plan.curvePoint.insert(plan.curvePoint.end(), curve.begin(), curve.end());
        plan.endCurve(c, in.topology().curveClosed(c));
    }
    Geometry out(in.positions(), Topology(in.pointCount(), std::move(plan.faceStart), std::move(plan.cornerPoint), std::move(plan.curveStart),
                                          std::move(plan.curvePoint), std::move(plan.curveClosed)));
    for (const auto& [name, column] : in.table(Element::point)) out.setColumn(Element::point, name, column);
    for (const auto& [name, column] : in.table(Element::curve)) {
        out.setColumn(Element::face, name, gather(column, faceCurve));
        out.setColumn(Element::curve, name, gather(column, plan.curves));
    }
    for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
    // Faces that were there before come first.
    if (in.faceCount() == 0) return out;
    Geometry before = in;
    return combine({withoutCurves(before), out});
}

}  // namespace

OperatorSpec fillCurveOperator() {
    OperatorSpec spec;
    spec.id = "fill_curve";
    spec.order = 230;
    spec.label = "Fill curve";
    spec.family = Family::curve;
    spec.sentence = "Fills closed curves with faces; curves inside others become holes.";
    spec.help =
        "Curves in one plane are filled together, whichever way they run; the front looks to where the first outer curve runs counter-clockwise. An area "
        "without holes is one face. A curve that is not flat gives one face by itself. Faces get the attributes of the curve around them.";
    spec.takes = Takes::curves;
    spec.synonyms = {"cap", "area", "polygon", "face from curve", "plan", "letter"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {flagSetting("keep_curves", "Keep curves", false).helped("Leaves the filled curves in place beside the faces.")};
    spec.sample = sample::step(spec.id, Json::object(), {sample::step("polygon", {{"sides", 7}})});
    spec.compute = computeFillCurve;
    return spec;
}

}  // namespace seedloom

#include "geometry/Measures.h"
#include "geometry/PlanarFill.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

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

std::vector<Sheet> sheetsOf(const Geometry& in, std::vector<Index>& bent, std::size_t& open) {
    const double tolerance = boundsOf(in.positions()).diagonal() * 1e-5;
    std::vector<Sheet> out;
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (!in.topology().curveClosed(c) || curve.size() < 3) {
            ++open;
            continue;
        }
        const Vec3 normal = normalized(areaVector(curve, in.positions()), {});
        if (length(normal) < 0.5f) continue;
        if (!flat(in, c, normal, tolerance)) {
            bent.push_back(c);
            continue;
        }
        const Vec3 origin = in.positions()[curve[0]];
        const auto same = std::find_if(out.begin(), out.end(), [&](const Sheet& s) {
            return std::abs(dot(s.normal, normal)) > 1 - 1e-5f && std::abs(double(dot(origin - s.origin, s.normal))) <= tolerance;
        });
        if (same == out.end()) out.push_back({normal, origin, {c}});
        else same->curves.push_back(c);
    }
    return out;
}

class InPlane {
public:
    InPlane(const Geometry& in, Vec3 normal) : in_(in), u_(anyPerpendicular(normal)), v_(cross(normal, u_)) {}
    double area(Index c) const {
        const auto curve = in_.topology().curve(c);
        double sum = 0;
        for (std::size_t i = 0; i < curve.size(); ++i) {
            const Vec3 a = in_.positions()[curve[i]], b = in_.positions()[curve[(i + 1) % curve.size()]];
            sum += x(a) * y(b) - x(b) * y(a);
        }
        return sum / 2;
    }
    bool holds(Index outer, Vec3 p) const {
        const auto curve = in_.topology().curve(outer);
        bool inside = false;
        for (std::size_t i = 0, j = curve.size() - 1; i < curve.size(); j = i++) {
            const Vec3 a = in_.positions()[curve[i]], b = in_.positions()[curve[j]];
            if ((y(a) > y(p)) != (y(b) > y(p)) && x(p) < (x(b) - x(a)) * (y(p) - y(a)) / (y(b) - y(a)) + x(a)) inside = !inside;
        }
        return inside;
    }

private:
    double x(Vec3 p) const { return double(dot(p, u_)); }
    double y(Vec3 p) const { return double(dot(p, v_)); }
    const Geometry& in_;
    Vec3 u_, v_;
};

/// Rings of one sheet: outlines anticlockwise, those at odd depth the other way round. The first outermost curve says which side is the front.
std::vector<std::vector<Index>> ringsOf(const Geometry& in, const Sheet& sheet, Vec3& normal) {
    const InPlane plane(in, sheet.normal);
    std::vector<int> depth;
    for (Index c : sheet.curves)
        depth.push_back(int(std::count_if(sheet.curves.begin(), sheet.curves.end(), [&](Index other) { return other != c && plane.holds(other, in.positions()[in.topology().curve(c)[0]]); })));
    const std::size_t first = std::size_t(std::min_element(depth.begin(), depth.end()) - depth.begin());
    const double sense = plane.area(sheet.curves[first]) >= 0 ? 1 : -1;
    normal = sheet.normal * float(sense);
    std::vector<std::vector<Index>> rings;
    for (std::size_t i = 0; i < depth.size(); ++i) {
        const auto curve = in.topology().curve(sheet.curves[i]);
        std::vector<Index> ring(curve.begin(), curve.end());
        if ((plane.area(sheet.curves[i]) * sense > 0) == (depth[i] % 2 == 1)) std::reverse(ring.begin(), ring.end());
        rings.push_back(std::move(ring));
    }
    return rings;
}

Geometry compute(OperatorCall& call) {
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
        const auto rings = ringsOf(in, sheet, normal);
        for (const auto& face : fillRings(in.positions(), rings, normal)) addFace(face, sheet.curves.front());
    }
    for (Index c : bent) addFace({in.topology().curve(c).begin(), in.topology().curve(c).end()}, c);
    const bool keep = call.flag("keep_curves");
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (!keep && in.topology().curveClosed(c) && curve.size() >= 3) continue;
        plan.curvePoint.insert(plan.curvePoint.end(), curve.begin(), curve.end());
        plan.endCurve(c, in.topology().curveClosed(c));
    }
    Geometry out(in.positions(), Topology(in.pointCount(), std::move(plan.faceStart), std::move(plan.cornerPoint), std::move(plan.curveStart), std::move(plan.curvePoint), std::move(plan.curveClosed)));
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
    spec.label = "Fill curve";
    spec.family = Family::curve;
    spec.sentence = "Fills closed curves with faces; curves inside others become holes.";
    spec.help = "Curves in one plane are filled together, whichever way they run; the front looks to where the first outer curve runs counter-clockwise. An area without holes is one face. A curve that is not flat gives one face by itself.";
    spec.takes = Takes::curves;
    spec.synonyms = {"cap", "area", "polygon", "face from curve", "plan", "letter"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {flagSetting("keep_curves", "Keep curves", false).helped("Leaves the filled curves in place beside the faces.")};
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom

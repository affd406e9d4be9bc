// Method: own: an image across a plane, welded on it.
#include "geometry/Measures.h"
#include "geometry/Weld.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "surface/PlaneCut.h"

namespace seedloom {

namespace {

/// The plane's axis, where it cuts it, and how near to it a point counts as lying on it.
struct Plane {
    int axis;
    float at, reach;
    bool holds(Vec3 p) const { return std::abs(p[axis] - at) <= reach; }
};

/// Points near the plane are put exactly on it, and faces that lie in it are left out: welded, they would be inside.
Geometry preparedForWeld(const Geometry& in, const Plane& plane) {
    std::vector<Vec3> points = in.positions();
    for (Vec3& p : points)
        if (plane.holds(p)) p[plane.axis] = plane.at;
    Geometry snapped = in;
    snapped.setPositions(std::move(points));
    RowPlan plan = planOfPointsAndCurves(snapped);
    bool inside = false;
    for (Index f = 0; f < in.faceCount(); ++f) {
        const auto face = in.topology().face(f);
        const bool flat = !face.empty() && std::all_of(face.begin(), face.end(), [&](Index p) { return plane.holds(snapped.positions()[p]); });
        if (!flat) addFaceAsItIs(plan, snapped, f);
        inside |= flat;
    }
    return inside ? takeRows(snapped, std::move(plan)) : snapped;
}

/// What lies on the side that is kept. It stays open at the plane, where the image closes it.
Geometry halfOf(OperatorCall& call, const Plane& plane) {
    CutPlane cut{};
    cut.normal[plane.axis] = call.choice("side") == "above" ? 1.0f : -1.0f;
    cut.origin[plane.axis] = plane.at;
    Geometry half = cutByPlane(call.in(), cut, false);
    if (half.empty() && !call.in().empty())
        call.fail("mirror.side", "Nothing lies on the side of the plane that is kept. Choose the other side, or move the plane.", "side");
    return half;
}

Geometry computeMirror(OperatorCall& call) {
    const bool weldSeam = call.flag("weld"), keep = call.flag("keep_original");
    Plane plane{call.choice("plane")[0] - 'x', float(call.number("offset")), 0};
    plane.reach = float(std::max(call.number("weld_distance"), boundsOf(call.in().positions()).diagonal() * 1e-7));
    const Geometry half = call.flag("cut") ? halfOf(call, plane) : call.in();
    const Geometry in = keep && weldSeam ? preparedForWeld(half, plane) : half;
    Affine map;
    map.x[0] = plane.axis == 0 ? -1.0f : 1.0f;
    map.y[1] = plane.axis == 1 ? -1.0f : 1.0f;
    map.z[2] = plane.axis == 2 ? -1.0f : 1.0f;
    map.move[plane.axis] = 2 * plane.at;
    Geometry image = transformed(in, map);
    std::vector<std::uint8_t> tag(image.faceCount(), 1);
    image.setColumn(Element::face, "mirrored", Column(std::move(tag)));
    if (!keep) return image;
    Geometry both = combine({in, std::move(image)});
    if (!weldSeam) return both;
    std::vector<std::uint8_t> joins(both.pointCount());
    for (std::size_t p = 0; p < joins.size(); ++p) joins[p] = plane.holds(both.positions()[p]);
    return weld(both, double(plane.reach) * 0.01, joins).geometry;
}

}  // namespace

OperatorSpec mirrorOperator() {
    OperatorSpec spec;
    spec.id = "mirror";
    spec.order = 380;
    spec.label = "Mirror";
    spec.family = Family::surface;
    spec.sentence = "Adds the mirror image of a geometry, joined at the mirror's plane.";
    spec.help =
        "Faces of the image are turned over, so that they look outward like the others, and carry the tag mirrored. Points within the distance of the plane "
        "are put onto it and shared; faces that lie in it are left out.";
    spec.synonyms = {"symmetry", "reflect", "both sides", "copy over"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("plane", "Across", {"x", "y", "z"}, "x").helped("The axis that crosses the mirror's plane."),
        numberSetting("offset", "Offset", Unit::metre, 0).within(-1e6, 1e6).slider(-2, 2).helped("Where on that axis the plane stands."),
        flagSetting("cut", "Cut at the plane", false)
            .helped("Only one side counts: what lies beyond the plane is cut away first, which makes anything symmetric."),
        choiceSetting("side", "Side that counts", {"above", "below"}, "above")
            .helped("Which side is kept and mirrored: towards greater or smaller values.")
            .when("cut", {"true"}),
        flagSetting("keep_original", "Keep the original", true).helped("Both sides, or the image alone."),
        flagSetting("weld", "Join at the plane", true).helped("Shares the points that lie on the plane."),
        numberSetting("weld_distance", "Join within", Unit::metre, 0.0001)
            .within(0, 1e6)
            .slider(0, 0.05)
            .helped("Points at most this far from the plane are put onto it."),
    };
    spec.sample = sample::step(spec.id, {{"offset", -0.6}}, {sample::cells()});
    spec.compute = computeMirror;
    return spec;
}

}  // namespace seedloom

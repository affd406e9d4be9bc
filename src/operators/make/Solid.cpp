// Method: Platonic and Archimedean solids by their coordinates and the hull of them.
#include "operators/OperatorCall.h"
#include "operators/Polyhedra.h"

namespace seedloom {

namespace {

Geometry computeSolid(OperatorCall& call) {
    const std::string kind = call.choice("kind");
    const Geometry& unit = unitSolid(std::size_t(std::find(kSolids.begin(), kSolids.end(), kind) - kSolids.begin()));
    const auto radius = float(call.number("radius"));
    Geometry out = unit;
    std::vector<Vec3> points = unit.positions();
    for (Vec3& p : points) p = p * radius;
    out.setPositions(std::move(points));
    std::vector<std::int32_t> corners(out.faceCount());
    for (std::size_t f = 0; f < corners.size(); ++f) corners[f] = std::int32_t(out.topology().face(f).size());
    out.setColumn(Element::face, "corners", Column(std::move(corners)));
    return out;
}

}  // namespace

OperatorSpec solidOperator() {
    OperatorSpec spec;
    spec.id = "solid";
    spec.order = 100;
    spec.label = "Solid";
    spec.family = Family::make;
    spec.sentence = "Makes a solid with flat regular faces, such as a dodecahedron or a football's pattern.";
    spec.help = "All points lie on a ball of the radius. The face attribute corners tells triangles from squares, pentagons and the rest.";
    spec.synonyms = {"polyhedron", "platonic", "archimedean", "dice", "football", "crystal", "tetrahedron", "octahedron", "icosahedron"};
    spec.settings = {
        choiceSetting("kind", "Kind", {kSolids.begin(), kSolids.end()}, "dodecahedron").helped("Which solid."),
        numberSetting("radius", "Radius", Unit::metre, 0.5).within(1e-6, 1e6).slider(0.05, 3).helped("From the centre to every point."),
    };
    spec.compute = computeSolid;
    return spec;
}

}  // namespace seedloom

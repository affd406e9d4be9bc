// Method: own.
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeGrid(OperatorCall& call) {
    const Vec2 size = call.vec2("size"), cells = call.vec2("cells");
    const auto nx = static_cast<Index>(std::min(cells.x + 0.5f, 1e9f)), nz = static_cast<Index>(std::min(cells.y + 0.5f, 1e9f));
    call.run().require(4.0 * nx * nz, "corners");
    std::vector<Vec3> points;
    points.reserve(std::size_t(nx + 1) * (nz + 1));
    for (Index j = 0; j <= nz; ++j)
        for (Index i = 0; i <= nx; ++i) points.push_back({size.x * (float(i) / float(nx) - 0.5f), 0, size.y * (float(j) / float(nz) - 0.5f)});
    std::vector<Index> start{0}, corners;
    std::vector<Vec2> uv;
    corners.reserve(std::size_t(nx) * nz * 4);
    uv.reserve(std::size_t(nx) * nz * 4);
    const auto corner = [&](Index i, Index j) {
        corners.push_back(j * (nx + 1) + i);
        uv.push_back({float(i) / float(nx), 1 - float(j) / float(nz)});
    };
    for (Index j = 0; j < nz; ++j) {
        call.run().poll();
        for (Index i = 0; i < nx; ++i) {
            corner(i, j), corner(i, j + 1), corner(i + 1, j + 1), corner(i + 1, j);
            start.push_back(static_cast<Index>(corners.size()));
        }
    }
    const std::size_t count = points.size();
    Geometry out(std::move(points), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
    out.setColumn(Element::corner, "uv", Column(std::move(uv)));
    return out;
}

}  // namespace

OperatorSpec gridOperator() {
    OperatorSpec spec;
    spec.id = "grid";
    spec.order = 50;
    spec.label = "Grid";
    spec.family = Family::make;
    spec.sentence = "Makes a flat sheet of equal four-sided faces on the ground.";
    spec.help = "The sheet is centred on the origin and faces up. uv runs from 0 to 1 over the whole sheet.";
    spec.synonyms = {"plane", "sheet", "floor", "ground", "terrain"};
    spec.settings = {
        vec2Setting("size", "Size", Unit::metre, {1, 1}).within(0, 1e6).helped("Width along x and depth along z."),
        vec2Setting("cells", "Cells", Unit::none, {10, 10}).atLeast(1).helped("How many faces along x and along z."),
    };
    spec.compute = computeGrid;
    return spec;
}

}  // namespace seedloom

#include "scene/Marks.h"

#include "geometry/Triangulate.h"
#include "scene/Palette.h"

namespace seedloom {

namespace {

/// A copy's box as lines, and its faces where they are not too many.
void markCopy(const Geometry& g, Index copy, Vec3 colour, MarkShapes& marks) {
    constexpr std::size_t kMostTriangles = 60000;  // of all marked copies
    const Affine& place = g.copies()->place[copy];
    const Geometry& shape = *g.copies()->shapes[g.copies()->shapeOf[copy]];
    const Bounds box = boundsOf(shape);
    if (box.empty) return;
    const auto vertex = [&](Vec3 p) {
        marks.bounds.add(place.point(p));
        return DrawScene::Vertex{place.point(p), {0, 1, 0}, colour, {}};
    };
    for (int a = 0; a < 8; ++a)
        for (int bit : {1, 2, 4})
            if (!(a & bit)) marks.lines.push_back(vertex(box.corner(a))), marks.lines.push_back(vertex(box.corner(a | bit)));
    const Triangles triangles = triangulate(shape);
    if (marks.triangles.size() / 3 + triangles.count() > kMostTriangles) return;
    for (Index c : triangles.corners) marks.triangles.push_back(vertex(shape.positions()[shape.topology().cornerPoint()[c]]));
}

}  // namespace

MarkShapes markShapes(const Geometry& g, const ElementMarks& marks) {
    MarkShapes out;
    const Topology& t = g.topology();
    const auto place = [&](Index p) {
        out.bounds.add(g.positions()[p]);
        return plainVertex(g.positions()[p], kMadder);
    };
    for (const auto& edge : marks.edges)
        if (std::max(edge[0], edge[1]) < g.pointCount())
            for (Index p : edge) out.lines.push_back(place(p));
    for (Index row : marks.rows) {
        if (row >= g.count(marks.element)) continue;
        switch (marks.element) {
            case Element::point: out.dots.push_back(place(row)); break;
            case Element::corner: out.dots.push_back(place(t.cornerPoint()[row])); break;
            case Element::face: {
                const Index first = t.faceStart()[row], end = t.faceStart()[row + 1];
                for (Index c = first; c < end; ++c) {
                    out.lines.push_back(place(t.cornerPoint()[c]));
                    out.lines.push_back(place(t.cornerPoint()[c + 1 == end ? first : c + 1]));
                    if (c > first && c + 1 < end)
                        for (Index corner : {first, c, c + 1}) out.triangles.push_back(place(t.cornerPoint()[corner]));
                }
                break;
            }
            case Element::curve: {
                const auto curve = t.curve(row);
                for (std::size_t i = 0; i + (t.curveClosed(row) ? 0 : 1) < curve.size(); ++i) {
                    out.lines.push_back(place(curve[i]));
                    out.lines.push_back(place(curve[(i + 1) % curve.size()]));
                }
                break;
            }
            case Element::copy: markCopy(g, row, kMadder, out); break;
            default: break;
        }
    }
    return out;
}

}  // namespace seedloom

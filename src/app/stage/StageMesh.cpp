#include "app/stage/StageMesh.h"

#include "geometry/ElementTransfer.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"

#include <meshoptimizer.h>

#include <limits>

namespace seedloom::app {

namespace {

constexpr Vec3 kClay{0.80f, 0.765f, 0.70f};
constexpr Vec3 kInk{0.137f, 0.169f, 0.212f};
constexpr std::size_t kMostDots = 300000, kMostArrows = 40000;
constexpr Vec3 kIndigo{0.176f, 0.290f, 0.471f}, kMadder{0.702f, 0.251f, 0.180f};

/// A length-per-row number of a column: the value, or a vector's length.
double magnitude(const Column& column, std::size_t row) {
    const int n = componentCount(column.type());
    if (n == 1) return column.component(row, 0);
    double sum = 0;
    for (int c = 0; c < n; ++c) sum += column.component(row, c) * column.component(row, c);
    return std::sqrt(sum);
}

/// A colour for every element of `element`, and the legend's range.
std::vector<Vec3> attributeColours(const Geometry& g, Element element, StageMesh& mesh) {
    const auto column = columnFor(g, mesh.attribute, element);
    if (!column || column->type() == ColumnType::text) {
        mesh.attributeProblem = column ? "texts have no colours" : "not on this geometry";
        return {};
    }
    std::vector<Vec3> out(column->size());
    if (mesh.attribute == "color" && column->type() == ColumnType::vec3) return *column->as<Vec3>();
    double low = std::numeric_limits<double>::max(), high = std::numeric_limits<double>::lowest();
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double v = magnitude(*column, i);
        if (std::isfinite(v)) low = std::min(low, v), high = std::max(high, v);
    }
    if (low > high) low = high = 0;
    mesh.low = low;
    mesh.high = high;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double v = magnitude(*column, i);
        out[i] = std::isfinite(v) ? valueColour(high > low ? float((v - low) / (high - low)) : 0.5f) : Vec3{1, 0, 1};
    }
    return out;
}

/// Fewer triangles over the same vertices, by clustering (meshoptimizer): coarse, but quick to make and with the same outline.
void reduce(StageMesh& mesh) {
    if (mesh.triangles.size() / 3 <= kReduceAbove) return;
    constexpr float kMostError = 0.02f;  // part of the size
    mesh.reduced.resize(mesh.triangles.size());
    const std::size_t count = meshopt_simplifySloppy(mesh.reduced.data(), mesh.triangles.data(), mesh.triangles.size(), &mesh.vertices[0].position.x, mesh.vertices.size(),
                                                     sizeof(StageMesh::Vertex), kReduceAbove / 3 * 3, kMostError, nullptr);
    mesh.reduced.resize(count);
    mesh.reduced.shrink_to_fit();
}

void addFaces(const Geometry& g, StageMesh& mesh) {
    const Topology& t = g.topology();
    const auto* own = g.values<Vec3>(Element::corner, "normal");
    const auto* onPoints = g.values<Vec3>(Element::point, "normal");
    std::vector<Vec3> computed;
    // A stored normal without length (from a file, or made by hand) would be drawn black.
    const auto normalAt = [&](Index corner, Index point) {
        const Vec3 stored = own ? (*own)[corner] : onPoints ? (*onPoints)[point] : Vec3{};
        if (dot(stored, stored) > 1e-12f) return stored;
        if (computed.empty()) computed = cornerNormals(g, 32);
        return computed[corner];
    };
    const auto colour = mesh.attribute.empty() ? std::vector<Vec3>() : attributeColours(g, Element::corner, mesh);
    const auto uv = mesh.shading == Shading::checker ? columnFor(g, "uv", Element::corner) : std::nullopt;
    const auto* uvs = uv ? uv->as<Vec2>() : nullptr;
    if (mesh.shading == Shading::checker && !uvs) mesh.attributeProblem = "there are no uv here";
    mesh.vertices.resize(g.cornerCount());
    for (Index c = 0; c < g.cornerCount(); ++c) {
        const Index p = t.cornerPoint()[c];
        mesh.vertices[c] = {g.positions()[p], normalAt(c, p), colour.empty() ? kClay : colour[c], uvs ? (*uvs)[c] : Vec2{}};
    }
    Triangles triangles = triangulate(g);
    mesh.triangles = std::move(triangles.corners);
    mesh.triangleFace = std::move(triangles.faceOf);
    reduce(mesh);
    std::vector<std::uint8_t> seen(t.edges().edges.size(), 0);
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index c = t.faceStart()[f], end = t.faceStart()[f + 1]; c < end; ++c)
            if (!seen[t.edges().cornerEdge[c]]++) mesh.wire.insert(mesh.wire.end(), {c, c + 1 == end ? t.faceStart()[f] : c + 1});
    mesh.closed = std::all_of(t.edges().faceCount.begin(), t.edges().faceCount.end(), [](Index n) { return n == 2; });
}

void addCurvesAndPoints(const Geometry& g, const StageLook& look, StageMesh& mesh) {
    const Topology& t = g.topology();
    const auto colour = mesh.attribute.empty() || g.faceCount() > 0 ? std::vector<Vec3>() : attributeColours(g, Element::point, mesh);
    const auto vertex = [&](Index p) { return StageMesh::Vertex{g.positions()[p], {0, 1, 0}, colour.empty() ? kInk : colour[p], {}}; };
    std::vector<std::uint8_t> onFace(g.pointCount(), 0);
    for (Index p : t.cornerPoint()) onFace[p] = 1;
    for (std::size_t c = 0; c < g.curveCount(); ++c) {
        const auto curve = t.curve(c);
        for (std::size_t i = 0; i < curve.size(); ++i) {
            if (i + 1 == curve.size() && !t.curveClosed(c)) break;
            mesh.lines.push_back(vertex(curve[i]));
            mesh.lines.push_back(vertex(curve[(i + 1) % curve.size()]));
        }
    }
    for (Index p = 0; p < g.pointCount() && mesh.dots.size() < kMostDots; ++p)
        if (!onFace[p] || look.points) mesh.dots.push_back(vertex(p));
    mesh.dotsCut = mesh.dots.size() == kMostDots;
}

StageMesh::Vertex plain(Vec3 position, Vec3 colour) { return {position, {0, 1, 0}, colour, {}}; }

/// A line from `at` along `way`, with two short barbs at its end.
void addArrow(std::vector<StageMesh::Vertex>& to, Vec3 at, Vec3 way, Vec3 colour) {
    const float size = length(way);
    if (!(size > 0) || !std::isfinite(size)) return;
    const Vec3 tip = at + way, along = way * (1 / size);
    const Vec3 side = normalized(cross(along, std::abs(along.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{1, 0, 0}));
    const float barb = size * 0.22f;
    for (const Vec3 end : {at, tip - along * barb + side * (barb * 0.5f), tip - along * barb - side * (barb * 0.5f)}) {
        to.push_back(plain(end, colour));
        to.push_back(plain(tip, colour));
    }
}

/// Places of a kind of element: where an arrow of it starts.
std::vector<Vec3> placesOf(const Geometry& g, Element element) {
    if (element == Element::point) return g.positions();
    if (element == Element::face) return faceCentres(g);
    const auto column = columnFor(g, "position", element);
    const auto* places = column ? column->as<Vec3>() : nullptr;
    return places ? *places : std::vector<Vec3>();
}

void addArrows(const Geometry& g, const StageLook& look, StageMesh& mesh) {
    const auto scale = float(mesh.bounds.diagonal() * 0.05 * look.arrowLength);
    const auto draw = [&](std::vector<StageMesh::Vertex>& to, const std::vector<Vec3>& places, const std::vector<Vec3>& ways, float times, Vec3 colour) {
        // Evenly left out where there are too many to see.
        const std::size_t step = places.size() / kMostArrows + 1;
        for (std::size_t i = 0; i < std::min(places.size(), ways.size()); i += step) addArrow(to, places[i], ways[i] * times, colour);
    };
    if (look.normals) draw(mesh.normals, g.positions(), pointNormals(g), scale * 0.6f, kIndigo);
    if (look.arrows.empty()) return;
    const auto found = findColumn(g, look.arrows, Element::point);
    const auto* ways = found ? found->column.as<Vec3>() : nullptr;
    if (!ways) return;
    // Directions are drawn at a readable length; longer vectors in proportion to the longest.
    float longest = 0;
    for (const Vec3& way : *ways)
        if (const float size = length(way); std::isfinite(size)) longest = std::max(longest, size);
    if (longest > 0) draw(mesh.arrows, placesOf(g, found->element), *ways, scale / longest, kMadder);
}

void addOpenEdges(const Geometry& g, StageMesh& mesh) {
    const EdgeTable& edges = g.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] == 2) continue;
        ++mesh.openEdgeCount;
        for (Index p : {edges.edges[e].a, edges.edges[e].b}) mesh.openEdges.push_back(plain(g.positions()[p], kMadder));
    }
}

}  // namespace

Vec3 valueColour(float t) {
    constexpr Vec3 steps[] = {{0.176f, 0.290f, 0.471f}, {0.47f, 0.55f, 0.60f}, {0.87f, 0.79f, 0.60f}, {0.80f, 0.52f, 0.36f}, {0.702f, 0.251f, 0.180f}};
    const float at = std::clamp(t, 0.0f, 1.0f) * 4;
    const int i = std::min(int(at), 3);
    return mix(steps[i], steps[i + 1], at - float(i));
}

std::shared_ptr<const StageMesh> stageMesh(const Geometry& geometry, const StageLook& look) {
    auto mesh = std::make_shared<StageMesh>();
    mesh->geometry = bakeCopies(geometry);
    const Geometry& g = mesh->geometry;
    mesh->shading = look.shading;
    if (look.shading == Shading::attribute) mesh->attribute = look.attribute;
    mesh->bounds = boundsOf(g.positions());
    mesh->faceCount = g.faceCount();
    mesh->pointCount = g.pointCount();
    mesh->copyCount = geometry.copyCount();
    if (const auto found = findColumn(g, look.attribute, Element::point)) mesh->attributeElement = found->element;
    if (g.faceCount() > 0) addFaces(g, *mesh);
    addCurvesAndPoints(g, look, *mesh);
    addArrows(g, look, *mesh);
    if (look.openEdges) addOpenEdges(g, *mesh);
    return mesh;
}

MarkShapes markShapes(const Geometry& g, const StageMarks& marks) {
    MarkShapes out;
    const Topology& t = g.topology();
    const auto place = [&](Index p) {
        out.bounds.add(g.positions()[p]);
        return plain(g.positions()[p], kMadder);
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
            default: break;
        }
    }
    return out;
}

std::vector<std::string> vectorAttributes(const Geometry& geometry) {
    std::vector<std::string> out;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            if (column.type() == ColumnType::vec3 && name != "position" && name != "color" && std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    return out;
}

std::vector<std::string> colourableAttributes(const Geometry& geometry) {
    std::vector<std::string> out;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            if (column.type() != ColumnType::text && std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    return out;
}

}  // namespace seedloom::app

#include "app/stage/StageMesh.h"

#include "geometry/ElementTransfer.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"

#include <limits>

namespace seedloom::app {

namespace {

constexpr Vec3 kClay{0.80f, 0.765f, 0.70f};
constexpr Vec3 kInk{0.137f, 0.169f, 0.212f};
constexpr std::size_t kMostDots = 200000;

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

void addFaces(const Geometry& g, StageMesh& mesh) {
    const Topology& t = g.topology();
    const auto* own = g.values<Vec3>(Element::corner, "normal");
    const auto* onPoints = g.values<Vec3>(Element::point, "normal");
    const std::vector<Vec3> normals = own ? *own : onPoints ? std::vector<Vec3>() : cornerNormals(g, 32);
    const auto colour = mesh.attribute.empty() ? std::vector<Vec3>() : attributeColours(g, Element::corner, mesh);
    mesh.vertices.resize(g.cornerCount());
    for (Index c = 0; c < g.cornerCount(); ++c) {
        const Index p = t.cornerPoint()[c];
        mesh.vertices[c] = {g.positions()[p], onPoints && !own ? (*onPoints)[p] : normals[c], colour.empty() ? kClay : colour[c]};
    }
    mesh.triangles = triangulate(g).corners;
    std::vector<std::uint8_t> seen(t.edges().edges.size(), 0);
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index c = t.faceStart()[f], end = t.faceStart()[f + 1]; c < end; ++c)
            if (!seen[t.edges().cornerEdge[c]]++) mesh.wire.insert(mesh.wire.end(), {c, c + 1 == end ? t.faceStart()[f] : c + 1});
    mesh.closed = std::all_of(t.edges().faceCount.begin(), t.edges().faceCount.end(), [](Index n) { return n == 2; });
}

void addCurvesAndPoints(const Geometry& g, StageMesh& mesh) {
    const Topology& t = g.topology();
    const auto colour = mesh.attribute.empty() || g.faceCount() > 0 ? std::vector<Vec3>() : attributeColours(g, Element::point, mesh);
    const auto vertex = [&](Index p) { return StageMesh::Vertex{g.positions()[p], {0, 1, 0}, colour.empty() ? kInk : colour[p]}; };
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
        if (!onFace[p]) mesh.dots.push_back(vertex(p));
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
    const Geometry g = bakeCopies(geometry);
    mesh->attribute = look.attribute;
    mesh->bounds = boundsOf(g.positions());
    mesh->faceCount = g.faceCount();
    mesh->pointCount = g.pointCount();
    if (const auto found = findColumn(g, look.attribute, Element::point)) mesh->attributeElement = found->element;
    if (g.faceCount() > 0) addFaces(g, *mesh);
    addCurvesAndPoints(g, *mesh);
    return mesh;
}

std::vector<std::string> colourableAttributes(const Geometry& geometry) {
    std::vector<std::string> out;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            if (column.type() != ColumnType::text && std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    return out;
}

}  // namespace seedloom::app

#include "scene/DrawScene.h"

#include "breaking/FaceKind.h"
#include "geometry/Bake.h"
#include "geometry/Difference.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Rows.h"
#include "geometry/ShownColours.h"
#include "geometry/Triangulate.h"
#include "parallel/Loops.h"
#include "scene/ApartView.h"
#include "scene/Cavity.h"
#include "scene/ContactShadow.h"
#include "scene/DrawCopies.h"
#include "scene/Extremes.h"
#include "scene/Palette.h"

#include <meshoptimizer.h>

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr std::size_t kMostDots = 300000, kMostArrows = 40000;

/// Colours for the corners where there are faces, else for the points; none where the shape is shown plainly.
std::vector<Vec3> attributeColours(const Geometry& g, DrawScene& mesh) {
    const auto column = columnFor(g, mesh.legend.title, g.faceCount() > 0 ? Element::corner : Element::point);
    if (!column) {
        mesh.legend.problem = "not on this geometry";
        return {};
    }
    mesh.values = *column;
    if (const auto found = findColumn(g, mesh.legend.title, Element::point)) mesh.legend.element = found->element;
    return coloursOf(*column, mesh.legend);
}

/// What was there before and is gone: edges of faces and lone points, as lines and dots.
void addRemoved(const Geometry& before, const Difference& difference, DrawScene& mesh) {
    const Topology& t = before.topology();
    const auto at = [&](Index p) { return plainVertex(before.positions()[p], kRemoved); };
    for (Index f : difference.removedFaces) {
        const auto face = t.face(f);
        for (std::size_t i = 0; i < face.size(); ++i) {
            mesh.lines.push_back(at(face[i]));
            mesh.lines.push_back(at(face[(i + 1) % face.size()]));
        }
    }
    std::vector<std::uint8_t> onFace(before.pointCount(), 0);
    for (Index p : t.cornerPoint()) onFace[p] = 1;
    for (Index p : difference.removed)
        if (!onFace[p] && mesh.dots.size() < kMostDots) mesh.dots.push_back(at(p));
}

void countDifference(const Difference& difference, bool faces, Legend& legend) {
    const auto tell = [&](const char* what, Vec3 colour, std::size_t count) {
        if (count > 0) legend.key.push_back({what, colour, count});
    };
    tell(faces ? "added faces" : "added points", kAdded, faces ? difference.addedFaceCount : difference.addedCount);
    tell(faces ? "removed faces" : "removed points", kRemoved, faces ? difference.removedFaces.size() : difference.removed.size());
}

std::vector<Vec3> differenceColours(const Geometry& g, const Geometry* given, DrawScene& mesh) {
    mesh.legend.title = "moved";
    if (!given) {
        mesh.legend.problem = "there is nothing before this to compare it with";
        return {};
    }
    const Geometry before = bakeCopies(*given);
    const Difference difference = differenceOf(before, g);
    const bool faces = g.faceCount() > 0;
    const Column moved(difference.moved);
    mesh.values = faces ? gather(moved, g.topology().cornerPoint()) : moved;
    // What has not moved has the lowest colour, also where nothing moved at all.
    const auto locked = mesh.legend.choice.range;
    if (!locked) mesh.legend.choice.range = {0.0, difference.farthest > 0 ? double(difference.farthest) : 0.001};
    std::vector<Vec3> out = coloursOf(*mesh.values, mesh.legend);
    mesh.legend.choice.range = locked;
    countDifference(difference, faces, mesh.legend);
    if (faces) {
        for (Index f = 0; f < g.faceCount(); ++f)
            if (difference.addedFaces[f]) std::fill(out.begin() + g.topology().faceStart()[f], out.begin() + g.topology().faceStart()[f + 1], kAdded);
    } else {
        for (std::size_t p = 0; p < out.size(); ++p)
            if (difference.added[p]) out[p] = kAdded;
    }
    addRemoved(before, difference, mesh);
    return out;
}

std::vector<Vec3> coloursFor(const Geometry& g, const SceneLook& look, const Geometry* before, DrawScene& mesh) {
    if (look.shading == Shading::look) {
        const bool asked = findColumn(g, "color", Element::corner).has_value();
        auto own = asked && g.faceCount() > 0 ? shownColours(g, kClay) : std::nullopt;
        return own ? std::move(*own) : std::vector<Vec3>();
    }
    if (mesh.shading == Shading::difference) return differenceColours(g, before, mesh);
    return mesh.legend.title.empty() ? std::vector<Vec3>() : attributeColours(g, mesh);
}

/// Fewer triangles over the same vertices, by clustering (meshoptimizer): coarse, but quick to make and with the same outline. Clusters are made of points,
/// which are several times fewer than corners; each is then drawn by the first corner that stands on it.
void reduce(const Geometry& g, DrawScene& mesh) {
    if (mesh.triangles.size() / 3 <= kReduceAbove) return;
    constexpr float kMostError = 0.02f;  // part of the size
    const auto& pointOf = g.topology().cornerPoint();
    std::vector<Index> byPoint(mesh.triangles.size()), firstCorner(g.pointCount(), 0);
    for (std::size_t i = 0; i < byPoint.size(); ++i) byPoint[i] = pointOf[mesh.triangles[i]];
    for (std::size_t c = pointOf.size(); c-- > 0;) firstCorner[pointOf[c]] = Index(c);
    mesh.reduced.resize(byPoint.size());
    const std::size_t count = meshopt_simplifySloppy(mesh.reduced.data(), byPoint.data(), byPoint.size(), &g.positions()[0].x, g.pointCount(), sizeof(Vec3),
                                                     kReduceAbove / 3 * 3, kMostError, nullptr);
    mesh.reduced.resize(count);
    mesh.reduced.shrink_to_fit();
    for (Index& vertex : mesh.reduced) vertex = firstCorner[vertex];
}

/// The normals that faces are drawn with: those that are stored, computed ones where there are none, or where one has no length (from a file, or made by
/// hand) and would be drawn black.
class DrawnNormals {
public:
    explicit DrawnNormals(const Geometry& g)
        : geometry_(g), own_(g.values<Vec3>(Element::corner, "normal")), onPoints_(g.values<Vec3>(Element::point, "normal")) {
        const std::vector<Vec3>* stored = own_ ? own_ : onPoints_;
        if (stored && std::all_of(stored->begin(), stored->end(), hasLength)) return;
        computed_.emplace(g, kCreaseDegrees);
        forChunks(g.faceCount(), RunContext(), [&](std::size_t, Range faces) { computed_->prepare(faces.begin, faces.end); });
    }
    Vec3 at(Index corner) const {
        const Vec3 stored = own_ ? (*own_)[corner] : onPoints_ ? (*onPoints_)[geometry_.topology().cornerPoint()[corner]] : Vec3{};
        return hasLength(stored) ? stored : computed_->of(corner);
    }

private:
    static bool hasLength(Vec3 v) { return dot(v, v) > 1e-12f; }
    const Geometry& geometry_;
    const std::vector<Vec3>*own_, *onPoints_;
    std::optional<CornerNormals> computed_;
};

/// The normal of a corner's face at each corner.
std::vector<Vec3> flatNormals(const Geometry& g) {
    const Topology& t = g.topology();
    std::vector<Vec3> out(g.cornerCount());
    forEach(g.faceCount(), RunContext(), [&](std::size_t f) {
        const Vec3 normal = normalized(areaVector(t.face(f), g.positions()));
        std::fill(out.begin() + t.faceStart()[f], out.begin() + t.faceStart()[f + 1], normal);
    });
    return out;
}

void addVertices(const Geometry& g, const SceneLook& look, const std::vector<Vec3>& colour, DrawScene& mesh) {
    const Topology& t = g.topology();
    const bool interactive = look.interactive;
    const std::vector<Vec3> flat = look.flat ? flatNormals(g) : std::vector<Vec3>();
    const auto normals = look.flat ? std::nullopt : std::optional<DrawnNormals>(g);
    const auto materials = colour.empty() && mesh.shading == Shading::look ? materialColours(g, Element::face, kClay) : std::nullopt;
    const auto plainly = [&](std::size_t c) { return materials ? (*materials)[t.faceOfCorner()[c]] : kClay; };
    const auto uv = mesh.shading == Shading::checker ? columnFor(g, "uv", Element::corner) : std::nullopt;
    const auto* uvs = uv ? uv->as<Vec2>() : nullptr;
    if (mesh.shading == Shading::checker && !uvs) mesh.legend.title = "uv", mesh.legend.problem = "there are none here, so no squares can be drawn";
    const bool bends = interactive && mesh.shading != Shading::checker;
    const std::vector<float> cavity = bends ? cavityOf(g) : std::vector<float>();
    mesh.vertices.resize(g.cornerCount());
    forEach(g.cornerCount(), RunContext(), [&](std::size_t c) {
        const Index p = t.cornerPoint()[c];
        const Vec2 place = uvs ? (*uvs)[c] : bends ? Vec2{cavity[c], 0} : Vec2{};
        mesh.vertices[c] = {g.positions()[p], normals ? normals->at(Index(c)) : flat[c], colour.empty() ? plainly(c) : colour[c], place};
    });
}

void addTriangles(const Geometry& g, bool interactive, DrawScene& mesh) {
    const Topology& t = g.topology();
    Triangles triangles = triangulate(g);
    mesh.triangles = std::move(triangles.corners);
    mesh.triangleFace = std::move(triangles.faceOf);
    if (!interactive) return;
    reduce(g, mesh);
    std::vector<std::uint8_t> seen(t.edges().edges.size(), 0);
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index c = t.faceStart()[f], end = t.faceStart()[f + 1]; c < end; ++c)
            if (!seen[t.edges().cornerEdge[c]]++) mesh.wire.insert(mesh.wire.end(), {c, c + 1 == end ? t.faceStart()[f] : c + 1});
    mesh.closed = std::all_of(t.edges().faceCount.begin(), t.edges().faceCount.end(), [](Index n) { return n == 2; });
}

/// Vertices and triangles need nothing of each other, so a large model is made ready by two threads.
void addFaces(const Geometry& g, const SceneLook& look, const std::vector<Vec3>& colour, DrawScene& mesh) {
    forEach(
        2, RunContext(), [&](std::size_t half) { half == 0 ? addVertices(g, look, colour, mesh) : addTriangles(g, look.interactive, mesh); }, 1);
}

void addCurvesAndPoints(const Geometry& g, const SceneLook& look, const std::vector<Vec3>& given, DrawScene& mesh) {
    const Topology& t = g.topology();
    const std::vector<Vec3> none, &colour = g.faceCount() > 0 ? none : given;  // where there are faces they are for corners
    const auto vertex = [&](Index p) { return DrawScene::Vertex{g.positions()[p], {0, 1, 0}, colour.empty() ? kInk : colour[p], {}}; };
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
    std::vector<std::uint8_t> onCurve(g.pointCount(), 0);
    for (Index p : t.curvePoint()) onCurve[p] = 1;
    const auto addDots = [&](auto wanted) {
        for (Index p = 0; p < g.pointCount() && mesh.dots.size() < kMostDots; ++p)
            if (wanted(p)) mesh.dots.push_back(vertex(p));
    };
    addDots([&](Index p) { return !onFace[p] && !onCurve[p]; });
    mesh.looseDots = mesh.dots.size();
    addDots([&](Index p) { return onFace[p] ? look.points : bool(onCurve[p]); });
    mesh.dotsCut = mesh.dots.size() == kMostDots;
}

/// A line from `at` along `way`, with two short barbs at its end.
void addArrow(std::vector<DrawScene::Vertex>& to, Vec3 at, Vec3 way, Vec3 colour) {
    const float size = length(way);
    if (!(size > 0) || !std::isfinite(size)) return;
    const Vec3 tip = at + way, along = way * (1 / size);
    const Vec3 side = normalized(cross(along, std::abs(along.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{1, 0, 0}));
    const float barb = size * 0.22f;
    for (const Vec3 end : {at, tip - along * barb + side * (barb * 0.5f), tip - along * barb - side * (barb * 0.5f)}) {
        to.push_back(plainVertex(end, colour));
        to.push_back(plainVertex(tip, colour));
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

void addArrows(const Geometry& g, const SceneLook& look, DrawScene& mesh) {
    const auto scale = float(mesh.bounds.diagonal() * 0.05 * look.arrowLength);
    const auto draw = [&](std::vector<DrawScene::Vertex>& to, const std::vector<Vec3>& places, const std::vector<Vec3>& ways, float times, Vec3 colour) {
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

void addOpenEdges(const Geometry& g, DrawScene& mesh) {
    const EdgeTable& edges = g.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] == 2) continue;
        ++mesh.openEdgeCount;
        for (Index p : {edges.edges[e].a, edges.edges[e].b}) mesh.openEdges.push_back(plainVertex(g.positions()[p], kMadder));
    }
}

}  // namespace

SceneLook lookForPictures() {
    SceneLook out;
    out.shading = Shading::look;
    out.interactive = false;
    return out;
}

std::shared_ptr<const DrawScene> drawScene(const Geometry& geometry, const SceneLook& look, const Geometry* before) {
    auto mesh = std::make_shared<DrawScene>();
    // Differences are told point by point, also of copies.
    const bool bakes = look.shading == Shading::difference && bakesEasily(geometry) && (!before || bakesEasily(*before));
    mesh->geometry = bakes ? bakeCopies(geometry) : movedApart(geometry, look.apart);
    mesh->comesApart = look.interactive && comesApart(geometry);
    mesh->hasKinds = look.interactive && hasKinds(geometry);
    mesh->size = boundsOf(bakes ? mesh->geometry : geometry).size();
    const Geometry& g = mesh->geometry;
    mesh->shading = look.shading;
    if (look.shading == Shading::attribute) mesh->legend.title = look.attribute;
    mesh->legend.choice = look.colours;
    // Points alone don't tell whether they are so many in a square metre, a cubic one, or along one.
    if (mesh->legend.title == "density" && g.faceCount() > 0) mesh->legend.unit = "points per m²";
    mesh->bounds = boundsOf(g);
    if (look.interactive && look.whole) mesh->extremes = extremesOf(g);
    mesh->faceCount = g.faceCount();
    mesh->pointCount = g.pointCount();
    mesh->copyCount = geometry.copyCount();
    if (g.copies()) addCopies(g, look, *mesh);
    if (look.shading == Shading::difference && !bakes) {
        mesh->legend.title = "moved";
        mesh->legend.problem = "there are too many copies here to compare";
    }
    // A legend that the copies have filled is theirs.
    const bool copiesOnly = g.copies() && g.pointCount() == 0;
    const std::vector<Vec3> colour =
        copiesOnly || (look.shading == Shading::difference && !bakes) ? std::vector<Vec3>() : coloursFor(bakes ? g : geometry, look, before, *mesh);
    if (g.faceCount() > 0) addFaces(g, look, colour, *mesh);
    if (look.interactive && look.whole) mesh->shadow = contactShadow(g, mesh->bounds, mesh->triangles);
    addCurvesAndPoints(g, look, colour, *mesh);
    addArrows(g, look, *mesh);
    if (look.openEdges) addOpenEdges(g, *mesh);
    mesh->drawnFaces = facesWithCopies(g);
    mesh->allClosed = mesh->closed || mesh->faceCount == 0;
    for (const DrawCopies& copies : mesh->copies) mesh->allClosed &= copies.shape->closed || copies.shape->faceCount == 0;
    return mesh;
}

std::size_t triangleCount(const DrawScene& mesh) {
    std::size_t out = mesh.triangles.size() / 3;
    for (const DrawCopies& copies : mesh.copies)
        out += (copies.shape->triangles.size() / 3 + copies.shape->lines.size() / 2 + copies.shape->dots.size()) * copies.rows.size();
    return out;
}

namespace {

/// The corner of a face that is nearest to a place on it.
Index nearestCorner(const Geometry& g, Index face, Vec3 at) {
    const Topology& t = g.topology();
    Index best = t.faceStart()[face];
    for (Index c = best; c < t.faceStart()[face + 1]; ++c)
        if (distance(g.positions()[t.cornerPoint()[c]], at) < distance(g.positions()[t.cornerPoint()[best]], at)) best = c;
    return best;
}

}  // namespace

std::string valueAt(const DrawScene& mesh, Element picked, Index row, Vec3 at) {
    if (picked == Element::copy && mesh.copyValues && mesh.legend.problem.empty())
        return fmt::format("{}  {}  ·  copy {}", mesh.legend.title, valueText(*mesh.copyValues, row), row);
    if (!mesh.values || !mesh.legend.problem.empty() || (picked != Element::face && picked != Element::point)) return {};
    const Topology& t = mesh.geometry.topology();
    Index held = row, point = row, face = row;
    if (picked == Element::face) {
        held = nearestCorner(mesh.geometry, row, at);
        point = t.cornerPoint()[held];
    } else if (mesh.faceCount > 0) {
        const auto corner = std::find(t.cornerPoint().begin(), t.cornerPoint().end(), row);
        if (corner == t.cornerPoint().end()) return {};
        held = static_cast<Index>(corner - t.cornerPoint().begin());
        face = static_cast<Index>(std::upper_bound(t.faceStart().begin(), t.faceStart().end(), held) - t.faceStart().begin() - 1);
    }
    const std::string value = fmt::format("{}  {}", mesh.legend.title, valueText(*mesh.values, held));
    switch (mesh.legend.element) {
        case Element::point: return fmt::format("{}  ·  point {}", value, point);
        case Element::corner: return fmt::format("{}  ·  corner {}", value, held);
        case Element::face: return fmt::format("{}  ·  face {}", value, face);
        default: return value;
    }
}

std::vector<std::string> vectorAttributes(const Geometry& geometry) {
    std::vector<std::string> out;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            if (column.type() == ColumnType::vec3 && name != "position" && name != "color" && std::find(out.begin(), out.end(), name) == out.end())
                out.push_back(name);
    return out;
}

std::vector<std::string> colourableAttributes(const Geometry& geometry) {
    std::vector<std::string> out;
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element))
            if (std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    return out;
}

}  // namespace seedloom

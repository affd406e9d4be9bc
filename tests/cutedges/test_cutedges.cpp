// What cuts leave by chance: edges next to nothing long, and triangles that lie on one of their sides.
#include "geometry/Digest.h"
#include "geometry/SelfIntersections.h"
#include "geometry/ShadingBreaks.h"
#include "support/Chance.h"
#include "support/Sound.h"
#include "surface/Boolean.h"
#include "surface/FlatTriangles.h"
#include "surface/ShortEdges.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

std::vector<std::uint8_t> none(const Geometry& g) { return std::vector<std::uint8_t>(g.pointCount(), 0); }

double shortestOf(const Geometry& g) {
    double out = 1e9;
    for (const auto& [a, b] : g.topology().edges().edges) out = std::min(out, double(length(g.positions()[a] - g.positions()[b])));
    return out;
}

bool told(const OperatorOutcome& out, const char* code) {
    return std::any_of(out.notices.begin(), out.notices.end(), [&](const Notice& n) { return n.code == code; });
}

/// A ball of triangles, two neighbouring points of it moved next to each other.
Geometry pinched(double apart, Index* a = nullptr, Index* b = nullptr) {
    Geometry g = made("geodesic_sphere", {{"radius", 1}, {"frequency", 6}});
    const auto edge = g.topology().edges().edges[100];
    std::vector<Vec3> at = g.positions();
    at[edge.b] = at[edge.a] + normalized(at[edge.b] - at[edge.a], {}) * float(apart);
    g.setPositions(at);
    if (a) *a = edge.a;
    if (b) *b = edge.b;
    return g;
}

/// A tetrahedron, a point on one of its edges made by a triangle without area between the faces there.
Geometry withFlat() {
    const std::vector<Vec3> at{{0, 0, 0}, {1, 0, 0}, {0, 0, 1}, {0, 1, 0}, {0.25f, 0, 0}};
    // The edge 0–1 has the point 4 on the side of the face 0 1 3 only; 0 4 1 lies between.
    const std::vector<std::array<Index, 3>> faces{{0, 1, 2}, {0, 3, 4}, {4, 3, 1}, {0, 4, 1}, {0, 2, 3}, {1, 3, 2}};
    std::vector<Index> start{0}, corners;
    for (const auto& f : faces) {
        corners.insert(corners.end(), f.begin(), f.end());
        start.push_back(Index(corners.size()));
    }
    Geometry g(at, Topology(at.size(), start, corners, {0}, {}, {}));
    std::vector<Vec2> uv;
    for (Index c = 0; c < g.cornerCount(); ++c) uv.push_back({at[corners[c]].x * 2, at[corners[c]].z});
    g.setColumn(Element::corner, "uv", Column(std::move(uv)));
    return g;
}

}  // namespace

class TestCutEdges : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void aShortEdgeIsDrawnTogether() {
        Index a = 0, b = 0;
        const Geometry g = pinched(1e-5, &a, &b);
        const Geometry out = withoutShortEdges(g, 1e-4, none(g), RunContext());
        QCOMPARE(out.pointCount(), g.pointCount() - 1);
        QCOMPARE(out.faceCount(), g.faceCount() - 2);
        QCOMPARE(euler(out), 2l);
        verifySolid(out);
        QVERIFY(shortestOf(out) > 0.01);
        // The length is the limit, and points of the input stay: one of them draws the other, two draw nobody.
        QVERIFY(digestOf(withoutShortEdges(g, 0.9e-5, none(g), RunContext())) == digestOf(g));
        for (Index fixed : {a, b}) {
            std::vector<std::uint8_t> old = none(g);
            old[fixed] = 1;
            const Geometry kept = withoutShortEdges(g, 1e-4, old, RunContext());
            QCOMPARE(kept.pointCount(), g.pointCount() - 1);
            QVERIFY(std::find(kept.positions().begin(), kept.positions().end(), g.positions()[fixed]) != kept.positions().end());
            QVERIFY(std::find(kept.positions().begin(), kept.positions().end(), g.positions()[fixed == a ? b : a]) == kept.positions().end());
        }
        std::vector<std::uint8_t> both = none(g);
        both[a] = both[b] = 1;
        QVERIFY(digestOf(withoutShortEdges(g, 1e-4, both, RunContext())) == digestOf(g));
    }

    void theSurfaceNeverPinches() {
        // All edges are shorter than that: what is left is still a closed body.
        for (const Geometry& g :
             {made("geodesic_sphere", {{"radius", 1}, {"frequency", 4}}), made("torus"), made("box"), made("solid", {{"kind", "tetrahedron"}})}) {
            const Geometry out = withoutShortEdges(g, 10, none(g), RunContext());
            const Checkup c = checkupOf(out);
            QVERIFY(c.closed && c.manifold && c.consistentWinding && c.nonmanifoldPoints == 0);
            QCOMPARE(euler(out), euler(g));
            QVERIFY(crossingsOf(out).faces.empty());
        }
    }

    void flatFacesStayFlat() {
        // A box with its corners cut off by next to nothing: they come back where no side leaves its plane by more than a tenth of the limit.
        const auto cut = [](double width) { return made("bevel", {{"of", "points"}, {"width", width}}, {made("box")}); };
        const Geometry little = cut(5e-6), more = cut(2e-5), out = withoutShortEdges(little, 1e-4, none(little), RunContext());
        QCOMPARE(out.pointCount(), 8u);
        QCOMPARE(out.faceCount(), 6u);
        verifySolid(out);
        QVERIFY(shortestOf(more) < 1e-4);
        QVERIFY(digestOf(withoutShortEdges(more, 1e-4, none(more), RunContext())) == digestOf(more));
    }

    void aFlatTriangleHandsItsCornerOn() {
        const Geometry g = withFlat();
        QCOMPARE(checkupOf(g).degenerateFaces, 1u);
        QVERIFY(checkupOf(g).closed && checkupOf(g).manifold);
        const Geometry out = withoutFlatTriangles(g, RunContext());
        QCOMPARE(out.faceCount(), g.faceCount() - 1);
        QCOMPARE(out.positions(), g.positions());
        verifySolid(out);
        QCOMPARE(euler(out), 2l);
        QVERIFY(near(checkupOf(out).volume, 1.0 / 6, 1e-6));
        // The face behind it has the point between its ends, with what lies between their values.
        const auto& t = out.topology();
        const auto& uv = *out.values<Vec2>(Element::corner, "uv");
        std::size_t found = 0;
        for (Index c = 0; c < out.cornerCount(); ++c) {
            const Vec3 p = out.positions()[t.cornerPoint()[c]];
            QCOMPARE(uv[c], (Vec2{p.x * 2, p.z}));
            found += t.cornerPoint()[c] == 4 && t.face(t.faceOfCorner()[c]).size() == 4;
        }
        QCOMPARE(found, std::size_t(1));
        const Geometry ball = made("geodesic_sphere");
        QVERIFY(digestOf(withoutFlatTriangles(ball, RunContext())) == digestOf(ball));
    }

    void streaksAreFound() {
        // Strips along z, with these places along x and heights.
        const auto strips = [](std::vector<std::array<float, 2>> profile) {
            std::vector<Vec3> at;
            std::vector<Index> start{0}, corners;
            for (const auto& [x, y] : profile) at.insert(at.end(), {Vec3{x, y, 0}, Vec3{x, y, 1}});
            for (Index i = 0; i + 1 < profile.size(); ++i) {
                corners.insert(corners.end(), {2 * i, 2 * i + 1, 2 * i + 3, 2 * i + 2});
                start.push_back(Index(corners.size()));
            }
            const std::size_t count = at.size();
            return Geometry(std::move(at), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
        };
        using Found = std::vector<Index>;
        const float w = 0.0005f;
        // A wrinkle, one side of it, a dent that is hardly one, a step, an edge with a narrow bevel, a broad roof, and next to nothing at a border.
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f + w, w}, {0.5f + 2 * w, 0}, {1, 0}})), (Found{1, 2}));
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f + w, w}, {1, w}})), (Found{1}));
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f + w, w / 8}, {0.5f + 2 * w, 0}, {1, 0}})), Found());
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f, w}, {1, w}})), Found());
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f + w, -w}, {0.5f + w, -1}})), Found());
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.3f, 0}, {0.4f, 0.1f}, {0.5f, 0}, {1, 0}})), Found());
        QCOMPARE(shadingBreaks(strips({{0, 0}, {0.5f, 0}, {0.5f + w, w}})), Found());
        for (const char* shape : {"box", "sphere", "torus", "cylinder", "geodesic_sphere"}) QVERIFY(shadingBreaks(made(shape)).empty());
        QVERIFY(shadingBreaks(Geometry()).empty());
        const auto findings = findingsOf(strips({{0, 0}, {0.5f, 0}, {0.5f + w, w}, {1, w}}));
        const auto told = std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.code == "shading_breaks"; });
        QVERIFY(told != findings.end() && !told->fault() && told->count == 1 && told->rows == Found{1});
    }

    /// Boxes that stand next to nothing off the points of another one: what the cut leaves there is taken out, and nothing crosses for it.
    void cutsPastCornersLeaveFewSlivers() {
        std::mt19937 dice(5);
        std::uniform_real_distribution<double> tiny(-3e-5, 3e-5);
        const Geometry box = made("box", {{"cells", {4, 4, 4}}});
        std::size_t unsound = 0, flat = 0, flatBefore = 0, edges = 0, edgesBefore = 0;
        const auto shortEdges = [](const Geometry& g) {
            const auto& all = g.topology().edges().edges;
            return std::size_t(std::count_if(all.begin(), all.end(), [&](const auto& e) { return length(g.positions()[e.a] - g.positions()[e.b]) < 1e-4f; }));
        };
        for (int i = 0; i < 40; ++i) {
            const Geometry cutter = made("transform", {{"move", {0.5 + tiny(dice), 0.25 + tiny(dice), 0.25 + tiny(dice)}}},
                                         {made("box", {{"size", {0.5, 0.5, 0.5}}, {"cells", {3, 3, 3}}})});
            const Geometry raw = combineSolids({box}, {cutter}, BooleanForm::subtract, RunContext());
            const OperatorOutcome out = runPorts("boolean", {{box}, {cutter}}, {{"form", "subtract"}});
            QVERIFY(!out.failed);
            if (told(out, "boolean.unsound")) {  // what rounding crosses is left as it is, and told
                ++unsound;
                continue;
            }
            const Checkup c = checkupOf(out.geometry);
            QVERIFY(c.closed && c.manifold && c.consistentWinding);
            QVERIFY(crossingsOf(out.geometry).faces.empty());
            QVERIFY(near(c.volume, 1 - 0.25 * 0.5 * 0.5, 2e-4));
            flat += c.degenerateFaces, flatBefore += checkupOf(raw).degenerateFaces;
            edges += shortEdges(out.geometry), edgesBefore += shortEdges(raw);
        }
        QVERIFY(unsound <= 4);
        QVERIFY(flatBefore > 0 && flat * 4 <= flatBefore && edgesBefore > 20 && edges * 4 < edgesBefore);
    }
};

QTEST_GUILESS_MAIN(TestCutEdges)
#include "test_cutedges.moc"

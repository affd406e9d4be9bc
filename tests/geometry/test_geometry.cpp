#include "geometry/Checkup.h"
#include "geometry/Digest.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "geometry/Triangulate.h"
#include "geometry/Weld.h"

#include <QtTest/QtTest>

#include <stdexcept>

using namespace seedloom;

namespace {

/// A cube from (0,0,0) to (1,1,1), outward faces.
Geometry cube(Vec3 at = {}) {
    std::vector<Vec3> p;
    for (int i = 0; i < 8; ++i) p.push_back(at + Vec3{float(i & 1), float(i >> 1 & 1), float(i >> 2 & 1)});
    std::vector<Index> corners{0, 2, 3, 1, 4, 5, 7, 6, 0, 1, 5, 4, 2, 6, 7, 3, 0, 4, 6, 2, 1, 3, 7, 5};
    return Geometry(std::move(p), Topology(8, {0, 4, 8, 12, 16, 20, 24}, std::move(corners), {0}, {}, {}));
}

Geometry polyline(std::vector<Vec3> points, bool closed) {
    const auto n = static_cast<Index>(points.size());
    std::vector<Index> order;
    for (Index i = 0; i < n; ++i) order.push_back(i);
    return Geometry(std::move(points), Topology(n, {0}, {}, {0, n}, std::move(order), {std::uint8_t(closed)}));
}

Geometry face(std::vector<Vec3> points) {
    const auto n = static_cast<Index>(points.size());
    std::vector<Index> order;
    for (Index i = 0; i < n; ++i) order.push_back(i);
    return Geometry(std::move(points), Topology(n, {0, n}, std::move(order), {0}, {}, {}));
}

}  // namespace

class TestGeometry : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void copyingSharesAndWritingCopiesOneColumn() {
        Geometry a = cube();
        a.setColumn(Element::point, "mask", Column(std::vector<float>(8, 0.5f)));
        Geometry b = a;
        QCOMPARE(b.column(Element::point, "mask")->storage(), a.column(Element::point, "mask")->storage());
        b.setColumn(Element::point, "mask", Column(std::vector<float>(8, 1.0f)));
        QCOMPARE(b.column(Element::point, "position")->storage(), a.column(Element::point, "position")->storage());
        QCOMPARE(&b.topology(), &a.topology());
        QCOMPARE(a.values<float>(Element::point, "mask")->front(), 0.5f);
        QCOMPARE(b.values<float>(Element::point, "mask")->front(), 1.0f);
    }

    void wrongLengthsAndTypesAreRefused() {
        Geometry g = cube();
        QVERIFY_EXCEPTION_THROWN(g.setColumn(Element::face, "x", Column(std::vector<float>(5))), std::invalid_argument);
        QVERIFY_EXCEPTION_THROWN(g.setColumn(Element::point, "position", Column(std::vector<float>(8))), std::invalid_argument);
        QVERIFY_EXCEPTION_THROWN(Geometry({{0, 0, 0}}, Topology(1, {0, 3}, {0, 0, 7}, {0}, {}, {})), std::invalid_argument);
        g.removeColumn(Element::point, "position");
        QVERIFY(g.column(Element::point, "position"));
    }

    void edgesOfACube() {
        const Geometry g = cube();
        const EdgeTable& e = g.topology().edges();
        QCOMPARE(e.edges.size(), 12u);
        for (std::size_t i = 0; i < 12; ++i) {
            QCOMPARE(e.faceCount[i], 2u);
            QCOMPARE(e.balance[i], 0);
            QVERIFY(e.edges[i].a < e.edges[i].b);
        }
        QCOMPARE(g.topology().connection().pieces, 1u);
        QCOMPARE(g.topology().cornersOfPoint()[0].size(), 3u);
    }

    /// A hub with many spokes takes another path through the edge table than points of usual valence.
    void edgesOfALargeFan() {
        constexpr Index n = 500;
        std::vector<Vec3> p{{0, 0, 0}};
        std::vector<Index> start{0}, corners;
        for (Index i = 0; i < n; ++i) {
            p.push_back({std::cos(float(i)), 0, std::sin(float(i))});
            corners.insert(corners.end(), {0, 1 + i, 1 + (i + 1) % n});
            start.push_back(Index(corners.size()));
        }
        const Geometry g(std::move(p), Topology(n + 1, start, corners, {0}, {}, {}));
        QCOMPARE(g.topology().edges().edges.size(), std::size_t(2 * n));
        QCOMPARE(checkupOf(g).openEdges, std::size_t(n));
    }

    void measuresOfACube() {
        const Geometry g = cube({3, 4, 5});
        QCOMPARE(surfaceArea(g), 6.0);
        QVERIFY(std::abs(signedVolume(g) - 1) < 1e-6);
        const Bounds b = boundsOf(g);
        QCOMPARE(b.min, (Vec3{3, 4, 5}));
        QCOMPARE(b.size(), (Vec3{1, 1, 1}));
        const auto normals = pointNormals(g);
        const float third = 1 / std::sqrt(3.0f);
        QVERIFY(distance(normals[7], {third, third, third}) < 1e-5f);
    }

    void cornerNormalsKeepCrispEdges() {
        const Geometry g = cube();
        const auto crisp = cornerNormals(g, 30), soft = cornerNormals(g, 180);
        const auto faces = faceNormals(g);
        for (Index c = 0; c < g.cornerCount(); ++c) {
            QCOMPARE(crisp[c], faces[g.topology().faceOfCorner()[c]]);
            QVERIFY(dot(soft[c], crisp[c]) < 0.6f);
        }
    }

    void curveNormalsLieInThePlane() {
        const Geometry upright = polyline({{1, 0, 0}, {1, 0.5f, 0}, {1, 1, 0}}, false);
        for (Vec3 n : pointNormals(upright)) QVERIFY(distance(n, {1, 0, 0}) < 1e-6f);
        QCOMPARE(curveLength(upright, 0), 1.0);
        const Geometry loop = polyline({{1, 0, 0}, {0, 0, -1}, {-1, 0, 0}, {0, 0, 1}}, true);
        const auto normals = pointNormals(loop);
        for (Index i = 0; i < 4; ++i) QVERIFY(dot(normals[i], loop.positions()[i]) > 0.99f);
        QVERIFY(std::abs(curveLength(loop, 0) - 4 * std::sqrt(2.0)) < 1e-6);
    }

    void concaveFacesAreCutInside() {
        // An arrow head: a fan from its first corner would leave the shape.
        const Geometry g = face({{0, 0, 0}, {2, 0, 0}, {2, 0, -2}, {1, 0, -0.5f}});
        const Triangles t = triangulate(g);
        QCOMPARE(t.count(), 2u);
        double area = 0;
        for (std::size_t i = 0; i < t.count(); ++i) {
            const auto at = [&](std::size_t k) { return g.positions()[g.topology().cornerPoint()[t.corners[i * 3 + k]]]; };
            const Vec3 n = cross(at(1) - at(0), at(2) - at(0)) * 0.5f;
            QVERIFY(n.y > 0);
            area += double(length(n));
        }
        QVERIFY(std::abs(area - double(length(areaVector(g.topology().face(0), g.positions())))) < 1e-6);
    }

    void checkupFindsEachFault() {
        const Checkup good = checkupOf(cube());
        QVERIFY(good.sound());
        Geometry inverted = flipped(cube(), std::vector<std::uint8_t>(6, 1));
        QVERIFY(checkupOf(inverted).closed);
        QVERIFY(!checkupOf(inverted).sound());
        std::vector<std::uint8_t> one(6, 0);
        one[2] = 1;
        QVERIFY(!checkupOf(flipped(cube(), one)).consistentWinding);
        const Geometry open = face({{0, 0, 0}, {1, 0, 0}, {1, 0, -1}, {0, 0, -1}});
        QCOMPARE(checkupOf(open).openEdges, 4u);
        QCOMPARE(checkupOf(combine({cube(), cube()})).doubledPoints, 8u);
        QCOMPARE(checkupOf(face({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}})).degenerateFaces, 1u);
        Geometry lost = cube();
        auto p = lost.positions();
        p[3].x = std::numeric_limits<float>::quiet_NaN();
        lost.setPositions(p);
        QCOMPARE(checkupOf(lost).nonFinitePoints, 1u);
    }

    void touchingSolidsAreNotManifold() {
        // Two cubes that share one corner point, and two that share one edge.
        const Geometry corner = weld(combine({cube(), cube({1, 1, 1})}), 1e-6).geometry;
        QCOMPARE(checkupOf(corner).nonmanifoldPoints, 1u);
        QVERIFY(!checkupOf(corner).manifold);
        const Geometry edge = weld(combine({cube(), cube({1, 1, 0})}), 1e-6).geometry;
        QCOMPARE(checkupOf(edge).nonmanifoldEdges, 1u);
    }

    void weldJoinsAndDropsCollapsedFaces() {
        const WeldResult twice = weld(combine({cube(), cube()}), 1e-4);
        QCOMPARE(twice.joinedPoints, 8u);
        QCOMPARE(twice.geometry.pointCount(), 8u);
        const WeldResult collapsed = weld(cube(), 1.8);
        QCOMPARE(collapsed.geometry.faceCount(), 0u);
        QCOMPARE(collapsed.removedFaces, 6u);
        // Masked points stay apart.
        QCOMPARE(weld(combine({cube(), cube()}), 1e-4, std::vector<std::uint8_t>(16, 0)).joinedPoints, 0u);
    }

    void weldOfManyPointsMatchesABruteForceCount() {
        std::vector<Vec3> points;
        std::uint32_t state = 7;
        const auto next = [&] { return float((state = state * 1664525u + 1013904223u) >> 8) / float(1 << 24); };
        for (int i = 0; i < 3000; ++i) points.push_back({next(), next(), next()});
        constexpr double reach = 0.03;
        std::size_t expected = 0;
        std::vector<std::size_t> kept;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const bool near = std::any_of(kept.begin(), kept.end(), [&](std::size_t k) {
                const Vec3 d = points[k] - points[i];
                return dot(d, d) <= float(reach * reach);
            });
            near ? void(++expected) : kept.push_back(i);
        }
        QCOMPARE(countDoubled(points, reach), expected);
        QVERIFY(expected > 100);
    }

    void selfIntersectionsAreCounted() {
        QCOMPARE(selfIntersections(cube()), 0u);
        QCOMPARE(selfIntersections(combine({cube(), cube({5, 0, 0})})), 0u);
        QVERIFY(selfIntersections(combine({cube(), cube({0.5f, 0.5f, 0.5f})})) > 0);
        // A fold: two triangles over one edge, in one plane, on the same side.
        const Geometry fold({{0, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {0.4f, 2, 0}}, Topology(4, {0, 3, 6}, {0, 1, 2, 1, 0, 3}, {0}, {}, {}));
        QCOMPARE(selfIntersections(fold), 1u);
        const Geometry flat({{0, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {0.4f, -2, 0}}, Topology(4, {0, 3, 6}, {0, 1, 2, 1, 0, 3}, {0}, {}, {}));
        QCOMPARE(selfIntersections(flat), 0u);
    }

    void mirroringKeepsSolidsOutward() {
        Affine mirror;
        mirror.x = {-1, 0, 0};
        Geometry g = cube();
        g.setColumn(Element::point, "normal", Column(pointNormals(g)));
        const Geometry m = transformed(g, mirror);
        QVERIFY(signedVolume(m) > 0.999);
        const auto* normals = m.values<Vec3>(Element::point, "normal");
        const auto fresh = pointNormals(m);
        for (Index p = 0; p < 8; ++p) QVERIFY(dot((*normals)[p], fresh[p]) > 0.99f);
    }

    void flippingTwiceGivesTheSame() {
        Geometry g = cube();
        std::vector<Vec2> uv;
        for (Index c = 0; c < 24; ++c) uv.push_back({float(c), 0});
        g.setColumn(Element::corner, "uv", Column(uv));
        const std::vector<std::uint8_t> all(6, 1);
        QCOMPARE(digestOf(flipped(flipped(g, all), all)), digestOf(g));
        QVERIFY(digestOf(flipped(g, all)) != digestOf(g));
    }

    void combineConvertsAndFills() {
        Geometry a = cube(), b = cube({2, 0, 0});
        a.setColumn(Element::point, "mask", Column(std::vector<float>(8, 0.25f)));
        b.setColumn(Element::point, "count", Column(std::vector<std::int32_t>(8, 3)));
        const Geometry g = combine({a, b});
        QCOMPARE(g.faceCount(), 12u);
        QCOMPARE(g.values<float>(Element::point, "mask")->at(12), 0.0f);
        QCOMPARE(g.values<std::int32_t>(Element::point, "count")->at(12), 3);
        QCOMPARE(checkupOf(g).closed, true);
        QCOMPARE(g.topology().connection().pieces, 2u);
    }

    void bakedCopiesAreRealFaces() {
        auto copies = std::make_shared<Copies>();
        copies->shapes.push_back(std::make_shared<const Geometry>(cube()));
        for (int i = 0; i < 3; ++i) {
            Affine place;
            place.move = {float(i) * 2, 0, 0};
            copies->place.push_back(place);
            copies->shapeOf.push_back(0);
        }
        Geometry g;
        g.setCopies(copies);
        g.setColumn(Element::copy, "id", Column(std::vector<std::int32_t>{7, 8, 9}));
        QCOMPARE(g.copyCount(), 3u);
        const Geometry baked = bakeCopies(g);
        QCOMPARE(baked.faceCount(), 18u);
        QCOMPARE(baked.copyCount(), 0u);
        QCOMPARE(baked.values<std::int32_t>(Element::face, "id")->at(17), 9);
        QCOMPARE(boundsOf(g).max.x, boundsOf(baked).max.x);
    }

    void attributesMoveBetweenElements() {
        Geometry g = cube();
        std::vector<float> height;
        for (Vec3 p : g.positions()) height.push_back(p.y);
        g.setColumn(Element::point, "height", Column(height));
        const auto onFaces = columnFor(g, "height", Element::face);
        QCOMPARE(onFaces->as<float>()->size(), 6u);
        QCOMPARE((*onFaces->as<float>())[3], 1.0f);   // the top
        QCOMPARE((*onFaces->as<float>())[0], 0.5f);   // a side
        QCOMPARE((*columnFor(g, "height", Element::model)->as<float>())[0], 0.5f);
        QCOMPARE((*columnFor(g, "height", Element::corner)->as<float>()).size(), 24u);
        QCOMPARE((*columnFor(g, "position", Element::face)->as<Vec3>())[3], (Vec3{0.5f, 1, 0.5f}));
        QVERIFY(!columnFor(g, "hight", Element::point));
        QCOMPARE(similarNames("hight", attributeNames(g)).front(), std::string("height"));
    }

    void digestsTellContentsApart() {
        Geometry a = cube(), b = cube();
        QCOMPARE(digestOf(a), digestOf(b));
        b.setColumn(Element::model, "name", Column(std::vector<std::string>{"quay"}));
        QVERIFY(digestOf(a) != digestOf(b));
        QCOMPARE(digestOf(a).hex().size(), 32u);
    }
};

QTEST_APPLESS_MAIN(TestGeometry)
#include "test_geometry.moc"

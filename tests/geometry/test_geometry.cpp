#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/Difference.h"
#include "geometry/Digest.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "geometry/Statistics.h"
#include "geometry/Triangulate.h"
#include "geometry/WallThickness.h"
#include "geometry/Weld.h"
#include "support/Chance.h"

#include <QtTest/QtTest>

#include <stdexcept>

#include <set>

#include <random>

#include <numeric>

#include <limits>

using namespace seedloom;

namespace {

/// A cube from (0,0,0) to (1,1,1), outward faces.
Geometry cube(Vec3 at = {}) {
    std::vector<Vec3> p;
    for (int i = 0; i < 8; ++i) p.push_back(at + Vec3{float(i & 1), float(i >> 1 & 1), float(i >> 2 & 1)});
    std::vector<Index> corners{0, 2, 3, 1, 4, 5, 7, 6, 0, 1, 5, 4, 2, 6, 7, 3, 0, 4, 6, 2, 1, 3, 7, 5};
    return Geometry(std::move(p), Topology(8, {0, 4, 8, 12, 16, 20, 24}, std::move(corners), {0}, {}, {}));
}

/// Three triangles in a row, the last of which passes through the first.
Geometry bowTie() {
    return Geometry({{0, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {2, 0.5f, 1}, {0.4f, 0.3f, -1}, {0.5f, 0.35f, 1}},
                    Topology(6, {0, 3, 6, 9}, {0, 1, 2, 2, 1, 3, 3, 4, 5}, {0}, {}, {}));
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
        QCOMPARE(crossingsOf(cube()).pairs, 0u);
        QCOMPARE(crossingsOf(combine({cube(), cube({5, 0, 0})})).touching, 0u);
        const Geometry inEachOther = combine({cube(), cube({0.5f, 0.5f, 0.5f}), cube({5, 0, 0})});
        const Crossings pieces = crossingsOf(inEachOther);
        QVERIFY(pieces.pairs == 0 && pieces.faces.empty());
        QCOMPARE(pieces.touching, 1u);
        QCOMPARE(pieces.touchingFaces.size(), 6u);
        const Crossings whole = crossingsOfAll(inEachOther);
        QVERIFY(whole.pairs > 6 && whole.touching == 0 && whole.faces == pieces.touchingFaces);
        QCOMPARE(crossingsWithinPieces(inEachOther), 0u);
        // A fold: two triangles over one edge, in one plane, on the same side.
        const Geometry fold({{0, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {0.4f, 2, 0}}, Topology(4, {0, 3, 6}, {0, 1, 2, 1, 0, 3}, {0}, {}, {}));
        QCOMPARE(crossingsOf(fold).pairs, 1u);
        const Geometry flat({{0, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {0.4f, -2, 0}}, Topology(4, {0, 3, 6}, {0, 1, 2, 1, 0, 3}, {0}, {}, {}));
        QCOMPARE(crossingsOf(flat).pairs, 0u);
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
        QCOMPARE((*onFaces->as<float>())[3], 1.0f);  // the top
        QCOMPARE((*onFaces->as<float>())[0], 0.5f);  // a side
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

    void combiningComputesTheNormalsThatArePutIn() {
        Geometry with = cube();
        with.setColumn(Element::corner, "normal", Column(cornerNormals(with, 32)));
        const Geometry both = combine({with, cube({3, 0, 0})});
        const auto* normals = both.values<Vec3>(Element::corner, "normal");
        QVERIFY(normals);
        QCOMPARE(normals->size(), 48u);
        for (std::size_t i = 0; i < 24; ++i) QCOMPARE((*normals)[i], (*normals)[i + 24]);
        // Other attributes that a part lacks stay zero.
        with.setColumn(Element::point, "tangent", Column(std::vector<Vec3>(8, Vec3{1, 0, 0})));
        QCOMPARE((*combine({with, cube()}).values<Vec3>(Element::point, "tangent"))[15], Vec3{});
    }

    // What the Checkup drawer shows

    void aSoundSolidHasNoFindings() {
        QVERIFY(findingsOf(cube(), true).empty());
        QVERIFY(findingsOf(Geometry(), true).empty());
    }

    void everyFindingNamesItsElements() {
        const auto byCode = [](const std::vector<Finding>& all, const char* code) {
            const auto it = std::find_if(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
            return it == all.end() ? Finding{} : *it;
        };
        // A cube without its last face, with its first point doubled.
        const Geometry whole = cube();
        std::vector<Vec3> points = whole.positions();
        points.push_back(points[0]);
        std::vector<Index> corners(whole.topology().cornerPoint().begin(), whole.topology().cornerPoint().end() - 4);
        const Geometry open(points, Topology(9, {0, 4, 8, 12, 16, 20}, corners, {0}, {}, {}));
        const auto found = findingsOf(open);
        QCOMPARE(byCode(found, "open_edges").count, 4u);
        const std::set<Index> rim{1, 3, 5, 7};  // the face that is gone
        for (const auto& edge : byCode(found, "open_edges").edges) QVERIFY(rim.count(edge[0]) && rim.count(edge[1]));
        QCOMPARE(byCode(found, "doubled_points").rows, std::vector<Index>{8});
        // Faces turned against each other, and a face without area.
        std::vector<Index> turned(whole.topology().cornerPoint().begin(), whole.topology().cornerPoint().end());
        std::reverse(turned.begin(), turned.begin() + 4);
        const auto wound = findingsOf(Geometry(whole.positions(), Topology(8, {0, 4, 8, 12, 16, 20, 24}, turned, {0}, {}, {})));
        QCOMPARE(byCode(wound, "winding").count, 4u);
        const auto flat = findingsOf(face({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}));
        QCOMPARE(byCode(flat, "degenerate_faces").rows, std::vector<Index>{0});
        const float none = std::numeric_limits<float>::quiet_NaN();
        QCOMPARE(byCode(findingsOf(face({{0, 0, 0}, {1, 0, none}, {0, 1, 0}})), "non_finite_points").rows, std::vector<Index>{1});
        // Inside out: every face turned.
        std::vector<Index> all(whole.topology().cornerPoint().begin(), whole.topology().cornerPoint().end());
        for (int f = 0; f < 6; ++f) std::reverse(all.begin() + f * 4, all.begin() + f * 4 + 4);
        QCOMPARE(byCode(findingsOf(Geometry(whole.positions(), Topology(8, {0, 4, 8, 12, 16, 20, 24}, all, {0}, {}, {}))), "inside_out").count, 6u);
        // Two cubes through each other: all faces that do are named, the others are not, and none is at fault.
        const std::vector<Geometry> both{cube(), cube({0.5f, 0.5f, 0.5f})};
        const Finding cut = byCode(findingsOf(combine(both), true), "touching_pieces");
        QVERIFY(cut.count == 1 && cut.element == Element::face && !cut.fault());
        QCOMPARE(cut.rows.size(), 6u);
        QVERIFY(byCode(findingsOf(combine(both), false), "touching_pieces").count == 0);
        // A surface that passes through itself.
        const Finding crossed = byCode(findingsOf(bowTie(), true), "self_intersections");
        QVERIFY(crossed.count > 0 && crossed.fault() && crossed.rows.size() >= 2);
    }

    void findingsAgreeWithTheCheckup() {
        std::mt19937 random(8);
        for (int round = 0; round < 60; ++round) {
            // Faces at random over a few points: everything that can be wrong.
            const Index points = 4 + random() % 12, faces = random() % 14;
            std::vector<Vec3> places;
            for (Index i = 0; i < points; ++i) places.push_back({float(random() % 3), float(random() % 3), float(random() % 3)});
            std::vector<Index> start{0}, corners;
            for (Index f = 0; f < faces; ++f) {
                for (unsigned k = 0; k < 3 + random() % 2; ++k) corners.push_back(random() % points);
                start.push_back(Index(corners.size()));
            }
            const Geometry g(places, Topology(points, start, corners, {0}, {}, {}));
            const Checkup facts = checkupOf(g);
            std::map<std::string, std::size_t> counts;
            for (const Finding& f : findingsOf(g)) counts[f.code] = f.count;
            QCOMPARE(counts["open_edges"], facts.openEdges);
            QCOMPARE(counts["nonmanifold_edges"], facts.nonmanifoldEdges);
            QCOMPARE(counts["nonmanifold_points"], facts.nonmanifoldPoints);
            QCOMPARE(counts["degenerate_faces"], facts.degenerateFaces);
            QCOMPARE(counts["doubled_points"], facts.doubledPoints);
            QCOMPARE(counts["winding"] == 0, faces == 0 || facts.consistentWinding);
        }
    }

    void wallsAreMeasuredFromSideToSide() {
        const auto solid = wallThickness(cube());
        QVERIFY(solid);
        QVERIFY(std::abs(solid->least - 1) < 1e-4 && std::abs(solid->mean - 1) < 1e-4);
        QCOMPARE(solid->samples, 12u);
        // A slab: thin one way, thick the others.
        Geometry slab = cube();
        std::vector<Vec3> places = slab.positions();
        for (Vec3& p : places) p.y *= 0.02f;
        slab.setPositions(places);
        const auto thin = wallThickness(slab);
        QVERIFY(std::abs(thin->least - 0.02) < 1e-5);
        QVERIFY(std::abs(thin->mean - (2 * 0.02 + 4 * 1) / 6) < 1e-4);
        QVERIFY(thin->thinnestFace == 2 || thin->thinnestFace == 3);
        QVERIFY(!wallThickness(face({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}})));
        QVERIFY(!wallThickness(Geometry()));
        QCOMPARE(wallThickness(cube(), 2)->samples, 2u);
    }

    void statisticsOfColumns() {
        const float none = std::numeric_limits<float>::quiet_NaN();
        const Statistics s = statisticsOf(Column(std::vector<float>{1, 2, 3, 4, none}), 0, 3);
        QCOMPARE(s.count, 4u);
        QCOMPARE(s.nonFinite, 1u);
        QCOMPARE(s.least, 1.0);
        QCOMPARE(s.most, 4.0);
        QCOMPARE(s.mean, 2.5);
        QVERIFY(std::abs(s.deviation - std::sqrt(1.25)) < 1e-12);
        QCOMPARE(s.bars, (std::vector<std::size_t>{1, 1, 2}));
        const Statistics lengths = statisticsOf(Column(std::vector<Vec3>{{3, 4, 0}, {0, 0, 1}}), -1, 0);
        QCOMPARE(lengths.most, 5.0);
        QCOMPARE(statisticsOf(Column(std::vector<Vec3>{{3, 4, 0}, {0, 0, 1}}), 1, 0).mean, 2.0);
        QCOMPARE(statisticsOf(Column(std::vector<std::string>{"quay"}), 0).count, 0u);
        // Large values close together keep their digits.
        std::vector<float> high(1000, 16777216.0f);
        for (std::size_t i = 0; i < high.size(); i += 2) high[i] += 2;
        QVERIFY(std::abs(statisticsOf(Column(high), 0).deviation - 1) < 1e-9);
        const Statistics same = statisticsOf(Column(std::vector<float>(10, 0.5f)), 0, 4);
        QCOMPARE(std::accumulate(same.bars.begin(), same.bars.end(), std::size_t(0)), std::size_t(10));
    }

    void differencesMatchByNumberIdAndPlace() {
        // The same faces: point for point.
        Geometry moved = cube();
        std::vector<Vec3> p = moved.positions();
        p[3] += Vec3{0, 2, 0};
        moved.setPositions(p);
        const Difference same = differenceOf(cube(), moved);
        QCOMPARE(same.matchedBy, MatchedBy::number);
        QCOMPARE(same.movedCount, std::size_t(1));
        QCOMPARE(same.moved[3], 2.0f);
        QCOMPARE(same.farthest, 2.0f);
        QVERIFY(same.removed.empty() && same.removedFaces.empty() && same.addedCount == 0);
        // By place: one cube of two is left, and a new one stands elsewhere.
        const Geometry both = combine({cube(), cube({3, 0, 0})}), other = combine({cube({9, 0, 0}), cube({3, 0, 0})});
        const Difference fewer = differenceOf(both, cube({3, 0, 0}));
        QCOMPARE(fewer.matchedBy, MatchedBy::place);
        QCOMPARE(fewer.removed.size(), std::size_t(8));
        QCOMPARE(fewer.removedFaces, (std::vector<Index>{0, 1, 2, 3, 4, 5}));
        QCOMPARE(fewer.addedFaceCount, std::size_t(0));
        const Difference more = differenceOf(cube({3, 0, 0}), both);
        QCOMPARE(more.addedCount, std::size_t(8));
        QCOMPARE(more.addedFaces, (std::vector<std::uint8_t>{1, 1, 1, 1, 1, 1, 0, 0, 0, 0, 0, 0}));
        // As many points over the same faces count as the same ones, moved.
        QCOMPARE(differenceOf(both, other).movedCount, std::size_t(8));
        // Ids tell points apart where places and numbers do not.
        Geometry before(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}), after(std::vector<Vec3>{{2, 1, 0}, {0, 0, 0}});
        before.setColumn(Element::point, "id", Column(std::vector<std::int32_t>{10, 11, 12}));
        after.setColumn(Element::point, "id", Column(std::vector<std::int32_t>{12, 10}));
        const Difference byId = differenceOf(before, after);
        QCOMPARE(byId.matchedBy, MatchedBy::id);
        QCOMPARE(byId.moved, (std::vector<float>{1, 0}));
        QCOMPARE(byId.removed, (std::vector<Index>{1}));
        // Ids that stand twice say nothing.
        after.setColumn(Element::point, "id", Column(std::vector<std::int32_t>{12, 12}));
        QCOMPARE(differenceOf(before, after).matchedBy, MatchedBy::place);
    }

    void differencesTakeAnything() {
        const Geometry none, dots(std::vector<Vec3>{{0, 0, 0}, {0, 0, 0}, {-0.0f, 0, 0}, {NAN, 0, 0}});
        QCOMPARE(differenceOf(none, dots).addedCount, std::size_t(4));
        QCOMPARE(differenceOf(dots, none).removed.size(), std::size_t(4));
        // Three points at one place are three; what is no number never stays where it is.
        const Difference fewer = differenceOf(dots, Geometry(std::vector<Vec3>{{0, 0, 0}, {0, 0, 0}, {NAN, 0, 0}}));
        QCOMPARE(fewer.addedCount, std::size_t(1));
        QCOMPARE(fewer.removed, (std::vector<Index>{2, 3}));
        // A face that begins at another corner is the same face; turned over it is another.
        const Geometry apart(std::vector<Vec3>{{7, 7, 7}});
        const Geometry first = combine({face({{0, 0, 0}, {1, 0, 0}, {0, 0, 1}}), apart});
        QCOMPARE(differenceOf(first, face({{1, 0, 0}, {0, 0, 1}, {0, 0, 0}})).addedFaceCount, std::size_t(0));
        QCOMPARE(differenceOf(first, face({{0, 0, 1}, {1, 0, 0}, {0, 0, 0}})).addedFaceCount, std::size_t(1));
    }

    void wallsOfBentFacesAreMeasured() {
        // The middle of a face that is not flat lies off its triangles; a ray from there would meet the face itself.
        Geometry bent = cube();
        std::vector<Vec3> p = bent.positions();
        for (Vec3& at : p) at.y += at.x > 0.5f && at.z > 0.5f ? 0.2f : 0.0f;
        bent.setPositions(p);
        const auto wall = wallThickness(bent);
        QVERIFY(wall && wall->least > 0.8);
        QCOMPARE(wall->samples, std::size_t(12));
    }

    void theFirstNonFiniteRowIsFound() {
        std::vector<Vec3> places(5000, Vec3{1, -2e38f, 0});
        QCOMPARE(firstNonFinite(Column(places)), std::size_t(5000));
        places[4321].z = NAN;
        places[4999].x = -INFINITY;
        QCOMPARE(firstNonFinite(Column(places)), std::size_t(4321));
        QCOMPARE(firstNonFinite(Column(places), 4321), std::size_t(4321));
        QCOMPARE(firstNonFinite(Column(places), 4322), std::size_t(4999));
        QCOMPARE(firstNonFinite(Column(places), 5000), std::size_t(5000));
        QCOMPARE(firstNonFinite(Column(std::vector<std::string>{"quay"})), std::size_t(1));
        QCOMPARE(firstNonFinite(Column(std::vector<float>{})), std::size_t(0));
    }

    /// Corners in the middle of a straight side, wherever the face begins: no triangle without area.
    void straightCornersGiveNoEmptyTriangles() {
        std::vector<Vec3> outline{{0, 0, 0}, {0.3f, 0, 0}, {0.7f, 0, 0}, {1, 0, 0}, {1, 0, -0.5f}, {1, 0, -1}, {0.5f, 0, -1}, {0, 0, -1}, {0, 0, -0.25f}};
        for (std::size_t turn = 0; turn < outline.size(); ++turn) {
            std::rotate(outline.begin(), outline.begin() + 1, outline.end());
            std::vector<Vec3> lifted;
            for (Vec3 p : outline) lifted.push_back(rotateAbout(p, normalized(Vec3{1, 2, 3}), 0.7f) + Vec3{5, 6, 7});
            const Geometry g = face(lifted);
            const Triangles triangles = triangulate(g);
            QCOMPARE(triangles.count(), outline.size() - 2);
            double area = 0;
            for (std::size_t t = 0; t < triangles.count(); ++t) {
                const Vec3 a = lifted[triangles.corners[3 * t]], b = lifted[triangles.corners[3 * t + 1]], c = lifted[triangles.corners[3 * t + 2]];
                const double size = double(length(cross(b - a, c - a))) / 2;
                QVERIFY(size > 1e-4);
                area += size;
            }
            QVERIFY(std::abs(area - 1) < 1e-5);
        }
    }

    /// Corners that rounding has put beside the line of their neighbours are no ears: a triangle over one would cross the faces beyond that side.
    void cornersOnALineAreNoEars() {
        std::mt19937 random(3);
        std::uniform_real_distribution<float> off(-6e-8f, 6e-8f);
        for (int round = 0; round < 200; ++round) {
            std::vector<Vec3> ring{{0.5f, 0, 0.5f}};
            for (int i = 0; i <= 6; ++i) ring.push_back({0.5f - float(i) * 0.003f, 0, -0.5f + off(random)});
            ring.push_back({-0.5f, 0, 0.5f});
            std::vector<Index> corners(ring.size());
            for (Index i = 0; i < corners.size(); ++i) corners[i] = i;
            const Geometry g(ring, Topology(ring.size(), {0, Index(ring.size())}, corners, {0}, {}, {}));
            const Triangles t = triangulate(g);
            QCOMPARE(t.count(), ring.size() - 2);
            for (std::size_t i = 0; i < t.count(); ++i) {
                int onLine = 0;
                for (std::size_t k = 0; k < 3; ++k) onLine += t.corners[3 * i + k] >= 1 && t.corners[3 * i + k] <= 7;
                QVERIFY2(onLine < 3, qPrintable(QString::number(round)));
            }
        }
    }

    /// Long thin triangles, as cuts make them: places on them are found as well as on others.
    void nearestPlacesOfSlivers() {
        for (const float thin : {1e-2f, 1e-3f, 1e-4f}) {
            const std::vector<Vec3> corners{{-0.31f, 0.2f, -0.4f}, {0.72f, 0.25f, 0.3f}, {0.1f, 0.22f + thin, -0.12f}};
            const Geometry sliver(corners, Topology(3, {0, 3}, {0, 1, 2}, {0}, {}, {}));
            const NearestPlace nearest(sliver, NearestPlace::On::faces);
            test::Chance chance(5);
            for (int i = 0; i < 200; ++i) {
                const float u = chance.number(0, 1), v = chance.number(0, 1 - u);
                const Vec3 on = corners[0] * (1 - u - v) + corners[1] * u + corners[2] * v;
                QVERIFY2(std::sqrt(nearest.find(on).squaredDistance) < 1e-6f, qPrintable(QString::number(double(thin))));
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestGeometry)
#include "test_geometry.moc"

// What booleans, voxels and welded rods stand on: cuts, hulls, cells and windings, each by what must come out whatever goes in.
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "operators/Polyhedra.h"
#include "operators/surface/WallFolds.h"
#include "support/Chance.h"
#include "support/Sound.h"
#include "surface/ArrangedFaces.h"
#include "surface/CellFaces.h"
#include "surface/ConvexHull.h"
#include "surface/PartPairs.h"
#include "surface/SolidWinding.h"

#include <map>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

double areaOf(const std::array<Vec3, 3>& t) { return double(length(cross(t[1] - t[0], t[2] - t[0]))) / 2; }

}  // namespace

class TestSolids : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // ---- Convex hull

    void hullsHoldAllPoints_data() {
        QTest::addColumn<int>("form");
        QTest::newRow("cloud") << 0;
        QTest::newRow("ball") << 1;
        QTest::newRow("lattice") << 2;
    }
    void hullsHoldAllPoints() {
        QFETCH(int, form);
        Chance chance(10);
        std::vector<Vec3> points;
        for (int i = 0; i < 400; ++i) {
            if (form == 0) points.push_back(chance.place());
            if (form == 1) points.push_back(normalized(chance.place()));
            if (form == 2) points.push_back({float(chance.below(5)), float(chance.below(5)), float(chance.below(5))});
        }
        const auto faces = convexHull(points);
        QVERIFY(faces.size() >= 4);
        std::vector<Index> start{0}, corners;
        for (const auto& f : faces) {
            corners.insert(corners.end(), f.begin(), f.end());
            start.push_back(Index(corners.size()));
            const Vec3 n = normalized(cross(points[f[1]] - points[f[0]], points[f[2]] - points[f[0]]));
            for (Vec3 p : points) QVERIFY(dot(p - points[f[0]], n) < 1e-5f);
        }
        const Geometry hull(points, Topology(points.size(), start, corners, {0}, {}, {}));
        const Checkup c = checkupOf(hull);
        QVERIFY(c.closed && c.consistentWinding && c.volume > 0);
        // Sides with more than three corners are fans from their lowest number, whatever the memory looks like: an octagonal prism, made often.
        std::vector<Vec3> prism;
        for (int i = 0; i < 16; ++i) {
            constexpr float x[8] = {2, 1, -1, -2, -2, -1, 1, 2}, z[8] = {1, 2, 2, 1, -1, -2, -2, -1};
            prism.push_back({x[i / 2], float(i % 2), z[i / 2]});
        }
        const auto first = convexHull(prism);
        QCOMPARE(first.size(), std::size_t(28));
        for (const auto& t : first) {
            const bool lid = t[0] % 2 == t[1] % 2 && t[0] % 2 == t[2] % 2;
            const Index low = std::min({t[0] / 2, t[1] / 2, t[2] / 2}), high = std::max({t[0] / 2, t[1] / 2, t[2] / 2});
            QVERIFY(lid ? t[0] < 2 : std::set<Index>(t.begin(), t.end()).count(2 * low) == 1 && (high - low == 1 || high - low == 7));
        }
        std::vector<std::unique_ptr<std::vector<char>>> clutter;
        for (int run = 0; run < 30; ++run) {
            for (int i = 0; i < 50; ++i) clutter.push_back(std::make_unique<std::vector<char>>(std::size_t(40 + 37 * run + i)));
            for (std::size_t i = std::size_t(run % 3); i < clutter.size(); i += 3) clutter[i].reset();
            QVERIFY(convexHull(prism) == first);
        }
        QVERIFY(convexHull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}}).empty());
        QVERIFY(convexHull({}).empty() && convexHull({{1, 1, 1}}).empty());
    }

    // ---- Arrangement

    /// Faces that nothing meets stay as they are, also where they are not flat; once they were cut into triangles.
    void untouchedFacesStayAsTheyAre() {
        const Geometry bent = made("noise_displace", {{"amount", 0.2}, {"size", 0.7}}, {made("box", {{"cells", {4, 4, 4}}})});
        const Geometry out =
            madeOf("boolean", {{bent}, {made("transform", {{"move", {0.6, 0.6, 0.6}}, {"scale", {0.5, 0.5, 0.5}}}, {made("box")})}}, {{"form", "subtract"}});
        std::set<std::vector<std::array<float, 3>>> before;
        const auto placesOf = [](const Geometry& g, Index f) {
            std::vector<std::array<float, 3>> places;
            for (Index p : g.topology().face(f)) places.push_back({g.positions()[p].x, g.positions()[p].y, g.positions()[p].z});
            return places;
        };
        for (Index f = 0; f < bent.faceCount(); ++f) before.insert(placesOf(bent, f));
        std::size_t same = 0;
        for (Index f = 0; f < out.faceCount(); ++f) same += before.count(placesOf(out, f));
        QVERIFY2(same > 70 && same < bent.faceCount(), qPrintable(QString("%1 of %2").arg(same).arg(bent.faceCount())));
        verifySolid(out);
    }
    /// Panels, patches and edges of a box that a sheet goes through.
    void panelsAndPatches() {
        const Geometry box = made("box"), sheet = made("grid", {{"size", {2, 2}}, {"cells", {1, 1}}});
        const Geometry all = combine({box, sheet});
        const Triangles triangles = triangulate(all);
        std::vector<Index> part;
        std::vector<std::uint8_t> kind;
        for (Index f : triangles.faceOf) part.push_back(f >= 6), kind.push_back(f >= 6);
        const ArrangedFaces arranged(all, triangles, partPairs(all, triangles, part, RunContext()), kind, 1e-6, RunContext());
        QCOMPARE(arranged.cutTriangles(), std::size_t(8 + 2));  // all of the four sides, and both of the sheet
        std::map<Index, double> areas;
        for (Index s = 0; s < arranged.panels().size(); ++s) {
            const auto& p = arranged.panels()[s].piece.points;
            areas[arranged.patchOf(s)] += areaOf({arranged.place(p[0]), arranged.place(p[1]), arranged.place(p[2])});
        }
        std::vector<double> sorted;
        for (const auto& [patch, area] : areas) sorted.push_back(area);
        std::sort(sorted.begin(), sorted.end());
        QCOMPARE(sorted.size(), std::size_t(4));  // of the sheet what is inside and what is not; the box above and below
        QVERIFY(near(sorted[0], 1, 1e-5) && near(sorted[1], 3, 1e-5) && near(sorted[2], 3, 1e-5) && near(sorted[3], 3, 1e-5));
        double crossing = 0, border = 0;
        for (const auto& edge : arranged.edges()) {
            QVERIFY(edge.panels.size() == 4 || edge.panels.size() == 1);
            (edge.panels.size() == 4 ? crossing : border) += double(distance(arranged.place(edge.a), arranged.place(edge.b)));
        }
        QVERIFY(near(crossing, 4, 1e-5) && near(border, 8, 1e-5));
    }

    void anArrangementKeepsEveryArea_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 8; ++seed) QTest::addRow("%u", seed) << seed;
    }
    void anArrangementKeepsEveryArea() {
        QFETCH(unsigned, seed);
        Chance chance(seed);
        // Boxes turned at random, some in common planes; each is one part.
        std::vector<Geometry> solids;
        std::vector<Index> part;
        for (Index i = 0; i < 4; ++i) {
            Json turn{chance.number(0, 90), chance.number(0, 90), 0};
            if (seed % 2) turn = {0, 0, 0};
            const Vec3 at =
                seed % 2 ? Vec3{float(chance.below(4)) * 0.25f, float(chance.below(4)) * 0.25f, float(chance.below(4)) * 0.25f} : chance.place(0.5f);
            solids.push_back(made("transform", {{"move", {at.x, at.y, at.z}}, {"rotate", turn}}, {made("triangulate", Json::object(), {made("box")})}));
            part.insert(part.end(), 12, i);
        }
        const Geometry all = combine(solids);
        const Triangles triangles = triangulate(all);
        QCOMPARE(triangles.count(), part.size());
        const Arrangement out = arrange(all, triangles, partPairs(all, triangles, part, RunContext()), RunContext());
        const auto placeOf = [&](Index p) { return p < all.pointCount() ? all.positions()[p] : rounded(out.newPoints[p - all.pointCount()]); };
        const auto corner = [&](std::size_t t, std::size_t k) { return all.positions()[all.topology().cornerPoint()[triangles.corners[t * 3 + k]]]; };
        std::vector<double> area(triangles.count(), 0);
        for (const Facet& f : out.facets) {
            const std::array<Vec3, 3> shape{placeOf(f.points[0]), placeOf(f.points[1]), placeOf(f.points[2])};
            area[f.triangle] += areaOf(shape);
            const Vec3 n = cross(corner(f.triangle, 1) - corner(f.triangle, 0), corner(f.triangle, 2) - corner(f.triangle, 0));
            QVERIFY(dot(n, cross(shape[1] - shape[0], shape[2] - shape[0])) > -1e-6f);  // in its triangle's sense
            for (std::size_t k = 0; k < 3; ++k) {
                Vec3 mixed{};
                for (std::size_t i = 0; i < 3; ++i) mixed += corner(f.triangle, i) * f.weights[k][i];
                QVERIFY(length(mixed - shape[k]) < 2e-5f);
            }
        }
        std::size_t cut = 0;
        for (std::size_t t = 0; t < triangles.count(); ++t) {
            if (!out.cut[t]) continue;
            ++cut;
            QVERIFY(near(area[t], areaOf({corner(t, 0), corner(t, 1), corner(t, 2)}), 1e-5));
        }
        QVERIFY(cut > 4);
        // After it no two facets of different solids cross in their insides.
        std::vector<Index> owner;
        std::vector<std::array<Vec3, 3>> pieces;
        for (const Facet& f : out.facets)
            owner.push_back(part[f.triangle]), pieces.push_back({placeOf(f.points[0]), placeOf(f.points[1]), placeOf(f.points[2])});
        for (std::size_t a = 0; a < pieces.size(); ++a)
            for (std::size_t b = 0; b < pieces.size(); ++b) {
                if (owner[a] == owner[b]) continue;
                const Vec3 n = normalized(cross(pieces[b][1] - pieces[b][0], pieces[b][2] - pieces[b][0]), {});
                // An edge of one that goes right through the middle of the other.
                for (std::size_t k = 0; k < 3; ++k) {
                    const Vec3 p = pieces[a][k], q = pieces[a][(k + 1) % 3];
                    const float dp = dot(p - pieces[b][0], n), dq = dot(q - pieces[b][0], n);
                    if (!(dp * dq < 0) || std::min(std::abs(dp), std::abs(dq)) < 1e-3f) continue;
                    const Vec3 at = mix(p, q, dp / (dp - dq));
                    bool inside = true;
                    for (std::size_t e = 0; e < 3; ++e) inside = inside && dot(cross(pieces[b][(e + 1) % 3] - pieces[b][e], at - pieces[b][e]), n) > 1e-3f;
                    QVERIFY(!inside);
                }
            }
    }

    void volumesOfBooleansAddUp_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 10; ++seed) QTest::addRow("%u", seed) << seed;
    }
    void volumesOfBooleansAddUp() {
        QFETCH(unsigned, seed);
        Chance chance(seed * 77);
        const auto solid = [&] {
            const std::array<Geometry, 4> kinds{made("box", {{"anchor", "middle"}}), made("geodesic_sphere", {{"radius", 0.6}, {"frequency", 4}}),
                                                made("torus", {{"sides", 16}, {"tube_sides", 9}}), made("cylinder", {{"sides", 11}, {"anchor", "middle"}})};
            const Vec3 at = chance.place(0.4f);
            return made("transform", {{"move", {at.x, at.y, at.z}}, {"rotate", {chance.number(0, 360), chance.number(0, 360), chance.number(0, 360)}}},
                        {kinds[chance.below(4)]});
        };
        const Geometry a = solid(), b = solid();
        const auto volume = [&](const char* form) {
            const Json settings{{"form", form}};
            const auto spec = operatorFor("boolean", settings);
            OperatorInput input = inputFor(*spec, settings, {a});
            input.ports[1] = {b};
            const OperatorOutcome out = runOperator(*spec, input, RunContext());
            if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
            const Checkup c = checkupOf(out.geometry);
            if (out.geometry.faceCount() > 0 && !(c.closed && c.consistentWinding)) QTest::qFail(form, __FILE__, __LINE__);
            return signedVolume(out.geometry);
        };
        const double va = signedVolume(a), vb = signedVolume(b), both = volume("intersect"), either = volume("unite"), without = volume("subtract");
        QVERIFY(near(either + both, va + vb, 2e-5));
        QVERIFY(near(without, va - both, 2e-5));
        QVERIFY(both > -1e-6 && both < std::min(va, vb) + 1e-6);
    }

    // ---- Cells of the voxel surface

    void cellsFitTogetherInEveryCase() {
        const auto& faces = cellFaces();
        QVERIFY(faces[0].empty() && faces[255].empty());
        const auto bit = [](unsigned set, int corner) { return set >> corner & 1u; };
        for (unsigned set = 0; set < 256; ++set) {
            std::map<int, int> uses;
            for (const auto& ring : faces[set]) {
                QVERIFY(ring.edges.size() >= 3);
                for (int e : ring.edges) ++uses[e];
                if (ring.edges.size() < 4) QVERIFY(!ring.needsMiddle);
            }
            // Just the edges that change sides carry points, each once.
            for (int e = 0; e < 12; ++e) {
                const bool changes = bit(set, kCellEdges[std::size_t(e)][0]) != bit(set, kCellEdges[std::size_t(e)][1]);
                QCOMPARE(uses.count(e) ? uses[e] : 0, changes ? 1 : 0);
            }
        }
        // Two cells that share a side draw the same lines on it, in opposite directions.
        const auto linesOnSide = [&](unsigned set, int axis, int high) {
            std::set<std::pair<int, int>> out;
            const auto flat = [&](int e) {  // the edge as one of the side's four
                int name = 0;
                for (int c : kCellEdges[std::size_t(e)]) name |= 1 << (c & ~(1 << axis));
                return name;
            };
            const auto onSide = [&](int e) {
                return (kCellEdges[std::size_t(e)][0] >> axis & 1) == high && (kCellEdges[std::size_t(e)][1] >> axis & 1) == high;
            };
            for (const auto& [ring, middle] : faces[set])
                for (std::size_t i = 0; i < ring.size(); ++i) {
                    const int a = ring[i], b = ring[(i + 1) % ring.size()];
                    if (onSide(a) && onSide(b)) out.emplace(flat(a), flat(b));
                }
            return out;
        };
        for (int axis = 0; axis < 3; ++axis)
            for (unsigned low = 0; low < 256; ++low)
                for (unsigned high = 0; high < 256; ++high) {
                    bool share = true;
                    for (int c = 0; c < 8; ++c)
                        if (c >> axis & 1) share = share && bit(low, c) == bit(high, c & ~(1 << axis));
                    if (!share || (low * 31 + high) % 7 != 0) continue;
                    std::set<std::pair<int, int>> turned;
                    for (const auto& [a, b] : linesOnSide(high, axis, 0)) turned.emplace(b, a);
                    QCOMPARE(linesOnSide(low, axis, 1), turned);
                }
    }

    // ---- Winding

    void raysCountTheSolidsAroundAPlace() {
        // Three boxes within each other, the second a cutter.
        std::vector<std::array<Vec3, 3>> triangles;
        std::vector<std::uint8_t> cutter;
        const auto add = [&](float size, bool cuts) {
            const Geometry box = made("box", {{"size", {size, size, size}}, {"anchor", "middle"}});
            const Triangles t = triangulate(box);
            for (std::size_t i = 0; i < t.count(); ++i) {
                const auto at = [&](std::size_t k) { return box.positions()[box.topology().cornerPoint()[t.corners[i * 3 + k]]]; };
                triangles.push_back({at(0), at(1), at(2)});
                cutter.push_back(cuts);
            }
        };
        add(3, false), add(2, true), add(1, false);
        std::vector<Box> boxes;
        for (const auto& t : triangles) {
            boxes.push_back({t[0], t[0]});
            for (Vec3 p : t) boxes.back().add({p, p});
        }
        const BoxTree tree(boxes);
        const WindingRays rays(triangles, tree, cutter);
        // In front of each triangle lies what is outside of its box.
        for (Index t = 0; t < triangles.size(); ++t) {
            const int box = int(t / 12);
            SolidWinding step;
            (cutter[t] ? step.cutters : step.base) = 1;
            const SolidWinding before = rays.inFrontOf({fine(triangles[t][0]), fine(triangles[t][1]), fine(triangles[t][2])}, {t}, step);
            QCOMPARE(before.base, box == 0 ? 0 : 1);
            QCOMPARE(before.cutters, box == 2 ? 1 : 0);
        }
    }

    /// Where a wall crosses itself, and only there.
    void foldsOfAWall() {
        const Geometry sheet = made("grid", {{"size", {4, 1}}, {"cells", {16, 2}}});
        Geometry wall = made("thicken", {{"thickness", 0.1}}, {sheet});
        const auto count = [&](const Geometry& of) {
            const auto folds = foldsOf(sheet, of, RunContext());
            return std::count(folds.begin(), folds.end(), 1);
        };
        QCOMPARE(wall.pointCount(), sheet.pointCount() * 2);
        QCOMPARE(count(wall), 0);
        // The back of a point in the middle goes beyond its neighbour's.
        Index middle = 0;
        for (Index p = 0; p < sheet.pointCount(); ++p)
            if (length(sheet.positions()[p]) < length(sheet.positions()[middle])) middle = p;
        for (const float by : {0.1f, 0.6f}) {
            std::vector<Vec3> at = wall.positions();
            at[middle + sheet.pointCount()].x += by;
            Geometry bent = wall;
            bent.setPositions(std::move(at));
            QCOMPARE(count(bent) > 0, by > 0.25f);
            if (by < 0.25f) continue;
            const auto folds = foldsOf(sheet, bent, RunContext());
            QVERIFY(folds[middle]);
            for (Index p = 0; p < folds.size(); ++p) QVERIFY(!folds[p] || distance(sheet.positions()[p], sheet.positions()[middle]) < 1.2f);
        }
        // Parts that stand in each other are no folds.
        const Geometry twice = combine({sheet, made("transform", {{"move", {0, -0.05, 0}}}, {sheet})});
        QVERIFY(crossingsOfAll(made("thicken", {{"thickness", 0.1}}, {twice})).pairs > 0);
        QVERIFY(runOp("thicken", {{"thickness", 0.1}}, {twice}).notices.empty());
    }
};

QTEST_APPLESS_MAIN(TestSolids)
#include "test_solids.moc"

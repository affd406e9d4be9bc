// Other faces for the same shape: voxel remesh, remesh and simplify, and the winding numbers that close holes.
#include "geometry/SelfIntersections.h"
#include "support/Run.h"
#include "support/Sound.h"
#include "surface/SoundSimplify.h"
#include "surface/WindingTree.h"

#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

class TestRemeshing : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void simplifyingTearsNothing() {
        // Thin plates with a bump: quadrics draw them together to edges of four faces unless that is watched.
        std::vector<Geometry> parts;
        const Geometry plate = made("formula", {{"text", "position.y += position.y > 0 ? 0.05 * noise(position * 3) : 0.0;"}},
                                    {made("subdivide", {{"levels", 4}, {"form", "flat"}}, {made("box", {{"size", {2, 0.02, 2}}})})});
        for (int target : {40, 150, 400, 1000}) {
            const Geometry g = made("simplify", {{"target", target}}, {plate});
            verifySolid(g);
            QVERIFY2(g.faceCount() <= std::size_t(target) + 20, qPrintable(QString::number(g.faceCount())));
            QVERIFY(near(signedVolume(g), signedVolume(plate), 0.02));
        }
    }

    void simplifiedSoundlyKeepsTopology() {
        const RunContext run;
        // Edge by edge, without the quick way before it.
        const Geometry ring = made("triangulate", {}, {made("torus", {{"radius", 1}, {"tube", 0.3}})});
        const auto triangles = simplifiedSoundly(ring, {200, 0, false}, run);
        const Geometry g = trianglesOver(ring.positions(), triangles);
        const Checkup c = checkupOf(g);
        QVERIFY(c.closed && c.manifold && c.consistentWinding && c.degenerateFaces == 0);
        QCOMPARE(g.faceCount(), std::size_t(200));
        std::set<Index> used(triangles.begin(), triangles.end());
        QCOMPARE(int(used.size()) - int(g.faceCount()) / 2, 0);  // V − E + F of a ring, E being 3 F / 2
        QVERIFY(near(signedVolume(g), signedVolume(ring), 0.1 * signedVolume(ring)));
        // An open edge is held where that is asked for.
        const Geometry sheet = made("triangulate", {}, {made("grid", {{"cells", {10, 10}}})});
        const auto held = simplifiedSoundly(sheet, {4, 0, true}, run);
        std::set<Index> left(held.begin(), held.end());
        QVERIFY2(left.size() >= 40 && left.size() < 60, qPrintable(QString::number(left.size())));
    }

    void simplified() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 20}});
        const Geometry g = made("simplify", {{"target", 500}}, {ball});
        QVERIFY2(g.faceCount() <= 510 && g.faceCount() > 400, qPrintable(QString::number(g.faceCount())));
        verifySolid(g);
        QVERIFY(near(signedVolume(g), signedVolume(ball), 0.15));
        for (Vec3 p : g.positions()) QVERIFY(std::find(ball.positions().begin(), ball.positions().end(), p) != ball.positions().end());
        QCOMPARE(lastCode(runOp("simplify", {{"target", 100000}}, {ball})), std::string("simplify.enough"));
        // A limit of the error keeps more.
        QVERIFY(made("simplify", {{"target", 50}, {"error", 0.002}}, {ball}).faceCount() > 500);
    }

    void remeshMendsFlatFaces() {
        // The middle corner of the lower face lies on the line of the two others: no area, however points move along their lines.
        const std::vector<Vec3> places{{0, 0, 0}, {0.5f, 0, 0}, {1, 0, 0}, {0.5f, 1, 0}, {0.5f, 0.4f, 1}};
        const std::vector<Index> corners{0, 2, 1, 0, 3, 2, 0, 1, 4, 1, 2, 4, 0, 4, 3, 4, 2, 3};
        Geometry g(places, Topology(5, {0, 3, 6, 9, 12, 15, 18}, corners, {0}, {}, {}));
        QCOMPARE(checkupOf(g).degenerateFaces, std::size_t(1));
        const Checkup c = checkupOf(made("remesh", {{"edge_length", 0.5}, {"keep_edges_over", 20}}, {g}));
        QVERIFY(c.closed && c.manifold && c.consistentWinding);
        QCOMPARE(c.degenerateFaces, std::size_t(0));
        QVERIFY(near(c.volume, signedVolume(g), 0.02));
    }

    void evenlyRemeshed() {
        const auto edgeSpread = [](const Geometry& g) {
            double sum = 0, squares = 0, n = 0;
            for (const auto& e : g.topology().edges().edges) {
                const double l = double(distance(g.positions()[e.a], g.positions()[e.b]));
                sum += l, squares += l * l, n += 1;
            }
            return std::pair(sum / n, std::sqrt(squares / n - sum / n * sum / n) / (sum / n));
        };
        const Geometry ball = made("sphere", {{"radius", 1}, {"sides", 40}, {"rings", 12}});
        const Geometry g = made("remesh", {{"edge_length", 0.1}, {"iterations", 6}}, {ball});
        verifySolid(g);
        QCOMPARE(euler(g), 2l);
        const auto [mean, spread] = edgeSpread(g);
        QVERIFY2(near(mean, 0.1, 0.02) && spread < 0.2, qPrintable(QString("%1 %2").arg(mean).arg(spread)));
        QVERIFY(near(signedVolume(g), signedVolume(ball), 0.02 * signedVolume(ball)));
        // Sharp edges stay: the box keeps its volume and its corners.
        const Geometry box = made("remesh", {{"edge_length", 0.1}, {"iterations", 4}}, {made("box", {{"size", {1, 1, 1}}})});
        verifySolid(box);
        QVERIFY(near(signedVolume(box), 1, 1e-4));
        QVERIFY(distance(boundsOf(box.positions()).size(), {1, 1, 1}) < 1e-5f);
        QVERIFY(near(edgeSpread(box).first, 0.1, 0.03));
        // Handles and holes are kept; a finer length where the formula asks for it.
        const Geometry ring = made("remesh", {{"edge_length", 0.08}}, {made("torus", {{"radius", 1}, {"tube", 0.3}})});
        verifySolid(ring);
        QCOMPARE(euler(ring), 0l);
        const Geometry sheet = made("remesh", {{"edge_length", {{"formula", "position.x > 0 ? 0.05 : 0.2"}}}, {"iterations", 5}},
                                    {made("grid", {{"size", {2, 2}}, {"cells", {8, 8}}})});
        QVERIFY(checkupOf(sheet).manifold && checkupOf(sheet).consistentWinding);
        QVERIFY(near(surfaceArea(sheet), 4, 1e-3));
        std::size_t left = 0, right = 0;
        for (Vec3 p : sheet.positions()) ++(p.x > 0 ? right : left);
        QVERIFY(right > left * 5);
        // Coarser than it was, with its attributes.
        const Geometry tagged =
            made("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, {made("geodesic_sphere", {{"radius", 1}, {"frequency", 24}})});
        const Geometry coarse = made("remesh", {{"edge_length", 0.25}, {"iterations", 5}}, {tagged});
        verifySolid(coarse);
        QVERIFY(coarse.faceCount() < tagged.faceCount() / 6);
        for (std::size_t p = 0; p < coarse.pointCount(); ++p)
            QVERIFY(near(double((*coarse.values<float>(Element::point, "height"))[p]), double(coarse.positions()[p].y), 0.02));
        QVERIFY(runOp("remesh", {{"edge_length", 1e-6}}, {ball}).failed);
    }

    void voxelsLeaveNoDust() {
        // A grain of less than a cell beside a box is nothing that cells can tell; one of several cells is.
        const auto pieces = [](double grain) {
            const Geometry g =
                made("merge", {},
                     {made("box", {{"size", {1, 1, 1}}}), made("transform", {{"move", {1, 0, 0}}}, {made("box", {{"size", {grain, grain, grain}}})})});
            return made("voxel_remesh", {{"voxel", 0.05}}, {g}).topology().connection().pieces;
        };
        QCOMPARE(pieces(0.03), 1u);
        QCOMPARE(pieces(0.2), 2u);
    }

    void wrappedInVoxels() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 16}});
        const Geometry g = made("voxel_remesh", {{"voxel", 0.05}, {"smooth", 0}}, {ball});
        verifySolid(g);
        QVERIFY2(near(signedVolume(g), signedVolume(ball), 0.02 * signedVolume(ball)), qPrintable(QString::number(signedVolume(g))));
        for (Vec3 p : g.positions()) QVERIFY2(near(double(length(p)), 1, 0.02), qPrintable(QString::number(double(length(p)))));
        // A hole, parts that cross, faces the wrong way round: one closed solid.
        const Geometry open = made("delete", {{"of", "faces"}, {"where", {{"formula", "position.y > 0.97"}}}}, {ball});
        QVERIFY(!checkupOf(open).closed);
        const Geometry closed = made("voxel_remesh", {{"voxel", 0.06}, {"close", 0.6}}, {open});
        verifySolid(closed);
        QVERIFY(near(signedVolume(closed), signedVolume(ball), 0.05 * signedVolume(ball)));
        // The outside gets in where the hole is not bridged; then it is closed as faces go around.
        QCOMPARE(lastCode(runOp("voxel_remesh", {{"voxel", 0.06}, {"sign", "flood"}}, {open})), std::string("voxel.nothing"));
        const OperatorOutcome around = runOp("voxel_remesh", {{"voxel", 0.06}}, {open});
        verifySolid(around.geometry);
        QCOMPARE(lastCode(around), std::string("voxel.winding"));
        QVERIFY(near(signedVolume(around.geometry), signedVolume(ball), 0.05 * signedVolume(ball)));
        // Inside out it is still a body; a sheet is none, however it is bent.
        verifySolid(made("voxel_remesh", {{"voxel", 0.06}}, {made("flip", Json::object(), {open})}));
        const Geometry hills = made("noise_displace", {{"amount", 0.3}, {"size", 0.5}}, {made("grid", {{"size", {3, 3}}, {"cells", {40, 40}}})});
        const OperatorOutcome sheet = runOp("voxel_remesh", {{"voxel", 0.06}}, {hills});
        QVERIFY(sheet.failed && sheet.notices.back().text.find("sheet") != std::string::npos);
        QCOMPARE(sheet.notices.back().fixes.front().op, std::string("thicken"));
        const Geometry crossing = made("merge", Json::object(),
                                       {made("box", {{"size", {1, 0.4, 0.4}}, {"anchor", "middle"}}),
                                        made("flip", Json::object(), {made("box", {{"size", {0.4, 1, 0.4}}, {"anchor", "middle"}})})});
        const Geometry united = made("voxel_remesh", {{"voxel", 0.02}}, {crossing});
        verifySolid(united);
        QCOMPARE(euler(united), 2l);
        QVERIFY(near(signedVolume(united), 2 * 0.16 - 0.064, 0.01));
        // Attributes come from the nearest place; far too fine a voxel is an error.
        const Geometry high =
            made("voxel_remesh", {{"voxel", 0.1}}, {made("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, {ball})});
        for (std::size_t p = 0; p < high.pointCount(); ++p)
            QVERIFY(near(double((*high.values<float>(Element::point, "height"))[p]), double(high.positions()[p].y), 0.05));
        QCOMPARE(lastCode(runOp("voxel_remesh", {{"voxel", 1e-5}}, {ball})), std::string("limit.elements"));
    }

    /// Whatever comes in: closed, manifold, without crossings, also once it is cut into triangles.
    void voxelsAreSoundWhateverComesIn() {
        for (int seed = 0; seed < 4; ++seed) {
            // Noisy balls in each other, with a sheet through them and a hole, at cells that are too coarse for what is there.
            const Geometry ball = made("noise_displace", {{"amount", 0.6}, {"size", 0.3}, {"octaves", 3}, {"seed", seed}},
                                       {made("geodesic_sphere", {{"radius", 0.7}, {"frequency", 10}})});
            const Geometry sheet =
                made("noise_displace", {{"amount", 0.4}, {"size", 0.4}, {"seed", seed}}, {made("grid", {{"size", {1, 1}}, {"cells", {12, 12}}})});
            const Geometry open = made("delete", {{"of", "faces"}, {"where", {{"formula", "index < 30"}}}}, {ball});
            const Geometry dirty = made("merge", {}, {ball, sheet, made("transform", {{"move", {0.5, 0.1, 0.2}}}, {open})});
            for (int smooth : {0, 1, 6}) {
                const OperatorOutcome out = runOp("voxel_remesh", {{"voxel", 0.05 + 0.01 * (seed % 4)}, {"smooth", smooth}}, {dirty});
                QVERIFY2(!out.failed, out.notices.empty() ? "" : out.notices.back().text.c_str());
                for (const Geometry& g : {out.geometry, made("triangulate", {}, {out.geometry})}) {
                    const Checkup c = checkupOf(g);
                    QVERIFY2(c.closed && c.manifold && c.consistentWinding && c.volume > 0, std::to_string(seed).c_str());
                    QCOMPARE(crossingsOfAll(g).pairs, 0u);
                }
                // Even triangles over it, longer than its thin parts are thick.
                const Geometry even = made("remesh", {{"edge_length", 0.12}, {"keep_edges_over", 180}}, {out.geometry});
                QVERIFY(checkupOf(even).closed && checkupOf(even).manifold);
                QCOMPARE(crossingsOf(even).pairs, 0u);
                if (smooth > 1) continue;
                const Geometry fewer = made("simplify", {{"target", 300}}, {out.geometry});
                QVERIFY(checkupOf(fewer).closed && checkupOf(fewer).manifold && fewer.faceCount() < out.geometry.faceCount());
                QCOMPARE(crossingsOf(fewer).pairs, 0u);
            }
        }
    }

    void windingNumbersTellInsideFromOutside() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 12}});
        const WindingTree whole(ball, triangulate(ball));
        std::mt19937 random(4);
        std::uniform_real_distribution<float> any(-1.6f, 1.6f);
        for (int i = 0; i < 500; ++i) {
            const Vec3 at{any(random), any(random), any(random)};
            if (std::abs(length(at) - 1) < 0.03f) continue;
            QVERIFY(near(whole.at(at), length(at) < 1 ? 1 : 0, 0.03));
        }
        // Half of a ball goes half around its middle.
        const Geometry half = made("plane_cut", {{"fill", false}}, {ball});
        QVERIFY(near(WindingTree(half, triangulate(half)).at({0, 0, 0}), 0.5, 0.02));
        QCOMPARE(WindingTree(Geometry(), triangulate(Geometry())).at({0, 0, 0}), 0.0);
    }
};

QTEST_APPLESS_MAIN(TestRemeshing)
#include "test_remeshing.moc"

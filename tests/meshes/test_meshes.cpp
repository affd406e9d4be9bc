// Meshes that are changed edge by edge, and what they are asked to become.
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "operators/Polyhedra.h"
#include "support/Chance.h"
#include "support/Sound.h"
#include "surface/TriangleMesh.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Every half edge has its twin, which runs the other way; each point's fan leads around it.
void verifyMesh(const TriangleMesh& mesh) {
    std::vector<Index> fan;
    std::vector<std::size_t> leaving(mesh.points(), 0);
    for (Index h = 0; h < mesh.halfEdges(); ++h) {
        if (!mesh.alive(h)) continue;
        ++leaving[mesh.from(h)];
        if (mesh.twin(h) == kNone) continue;
        QVERIFY(mesh.alive(mesh.twin(h)));
        QCOMPARE(mesh.twin(mesh.twin(h)), h);
        QCOMPARE(mesh.from(mesh.twin(h)), mesh.to(h));
        QCOMPARE(mesh.to(mesh.twin(h)), mesh.from(h));
    }
    for (Index p = 0; p < mesh.points(); ++p) {
        if (!mesh.pointAlive(p)) {
            QCOMPARE(leaving[p], 0u);
            continue;
        }
        mesh.around(p, fan);
        QCOMPARE(fan.size(), leaving[p]);
        for (Index h : fan) QCOMPARE(mesh.from(h), p);
    }
}

}  // namespace

class TestMeshes : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // ---- TriangleMesh

    void randomChangesKeepAMeshWhole_data() {
        QTest::addColumn<unsigned>("seed");
        for (unsigned seed = 1; seed <= 6; ++seed) QTest::addRow("%u", seed) << seed;
    }
    void randomChangesKeepAMeshWhole() {
        QFETCH(unsigned, seed);
        Chance chance(seed);
        // A ball, or a sheet with a border.
        const Geometry start = seed % 2 ? geodesicBall(6) : made("triangulate", Json::object(), {made("grid", {{"cells", {9, 7}}})});
        const long kind = euler(start);
        const bool closed = checkupOf(start).closed;
        TriangleMesh mesh(start);
        int splits = 0, collapses = 0, flips = 0;
        for (int i = 0; i < 1500; ++i) {
            const Index h = chance.below(mesh.halfEdges());
            if (!mesh.alive(h)) continue;
            switch (chance.below(3)) {
                case 0: mesh.split(h), ++splits; break;
                case 1:
                    if (mesh.canCollapse(h)) mesh.collapse(h), ++collapses;
                    break;
                default: flips += mesh.twin(h) != kNone && mesh.flip(h); break;
            }
            if (i % 100 == 0) verifyMesh(mesh);
        }
        verifyMesh(mesh);
        QVERIFY(splits > 200 && collapses > 50 && flips > 50);
        const Geometry end = mesh.compact();
        QCOMPARE(euler(end), kind);
        const Checkup c = checkupOf(end);
        QCOMPARE(c.closed, closed);
        QVERIFY(c.manifold && c.consistentWinding);
    }

    void collapsesAreTakenBackToTheLastBit() {
        Chance chance(9);
        TriangleMesh mesh(geodesicBall(5));
        mesh.noteCollapses();
        std::vector<std::pair<std::size_t, Geometry>> states;
        for (int i = 0; i < 400; ++i) {
            const Index h = chance.below(mesh.halfEdges());
            if (!mesh.alive(h) || !mesh.canCollapse(h)) continue;
            states.emplace_back(mesh.mark(), mesh.compact());
            mesh.collapse(h);
        }
        QVERIFY(states.size() > 100);
        while (!states.empty()) {
            mesh.takeBack(states.back().first);
            QCOMPARE(mesh.compact().topology().cornerPoint(), states.back().second.topology().cornerPoint());
            verifyMesh(mesh);
            states.pop_back();
        }
    }

    void aTetrahedronGivesWayToNothing() {
        TriangleMesh mesh(made("solid", {{"kind", "tetrahedron"}}));
        for (Index h = 0; h < mesh.halfEdges(); ++h) {
            QVERIFY(!mesh.canCollapse(h));
            QVERIFY(!mesh.flip(h));  // the other edge is there already
        }
    }

    void fansThatTouchAtAPointAreTakenApart() {
        // Two tetrahedra that share one corner.
        const Geometry one = made("solid", {{"kind", "tetrahedron"}});
        const Vec3 top = one.positions()[0];
        const Geometry both =
            weld(combine({one, transformed(one, Affine{{-1, 0, 0}, {0, -1, 0}, {0, 0, 1}, {top.x + top.x, top.y + top.y, 0}})}), 1e-5).geometry;
        QCOMPARE(both.pointCount(), 7u);
        const TriangleMesh mesh(both);
        QCOMPARE(mesh.points(), 8u);
        std::multiset<Index> sources(mesh.pointOf.begin(), mesh.pointOf.end());
        std::size_t doubled = 0;
        for (Index p = 0; p < 7; ++p) doubled += sources.count(p) == 2;
        QCOMPARE(doubled, 1u);
    }

    // ---- Embedding in a sphere

    void onlyBallsAreLaidOnASphere() {
        QVERIFY(std::abs(signedVolume(geodesicBall(3))) > 0);
        for (const Geometry& not_one : {made("torus"), made("triangulate", Json::object(), {made("grid")}),
                                        combine({geodesicBall(2), transformed(geodesicBall(2), Affine{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {5, 0, 0}})})}) {
            const auto out = runOp("morph_to_sphere", {{"amount", 1}}, {not_one});
            // It still gives something without falling over: what is no ball is only drawn together.
            QCOMPARE(out.geometry.pointCount(), not_one.pointCount());
            for (Vec3 p : out.geometry.positions()) QVERIFY(isFinite(p));
        }
    }
};

QTEST_APPLESS_MAIN(TestMeshes)
#include "test_meshes.moc"

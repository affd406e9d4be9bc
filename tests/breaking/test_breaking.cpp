// Solids broken into pieces: they fit, they are sound, and the old skin stays what it was.
#include "breaking/Bodies.h"
#include "breaking/BodyCuts.h"
#include "breaking/CellSeeds.h"
#include "breaking/PartedCells.h"
#include "breaking/PolygonMesh.h"
#include "breaking/VoronoiWalls.h"
#include "geometry/Digest.h"
#include "geometry/Materials.h"
#include "geometry/Rows.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"
#include "scatter/VolumeSamples.h"
#include "support/Chance.h"
#include "support/Pieces.h"
#include "support/Solids.h"

#include <tbb/task_arena.h>

using namespace seedloom;
using namespace seedloom::test;

class TestBreaking : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void piecesFitAndAreSound_data() {
        QTest::addColumn<QString>("solid");
        QTest::addColumn<QString>("settings");
        for (const char* solid : {"box", "plain box", "ball", "ring", "hollow", "two", "horseshoe"})
            for (const char* settings : {R"({"pieces": 20})", R"({"pieces": 7, "roughness": 0.03, "noise_size": 0.3})", R"({"pieces": 12, "gap": 0.02})",
                                         R"({"pieces": 6, "gap": 0.02, "roughness": 0.02, "seed": 3})", R"({"pieces": 30, "cluster": 1, "seed": 2})",
                                         R"({"pieces": 15, "stretch": [4, 1, 1]})"})
                QTest::addRow("%s %s", solid, settings) << solid << settings;
    }
    void piecesFitAndAreSound() {
        QFETCH(QString, solid);
        QFETCH(QString, settings);
        const Json set = Json::parse(settings.toStdString());
        const Geometry before = marked(solidNamed(solid));
        const OperatorOutcome out = runOp("shatter", set, {before});
        QVERIFY2(!out.failed, out.notices.empty() ? "" : out.notices.back().text.c_str());
        QVERIFY2(out.notices.empty(), out.notices.empty() ? "" : out.notices.back().text.c_str());
        const Geometry& after = out.geometry;
        verifyPieces(after);
        const double whole = checkupOf(before).volume, parts = checkupOf(after).volume;
        if (set.contains("gap")) QVERIFY(parts < whole * 0.99 && parts > whole * 0.3);
        else QVERIFY2(near(parts, whole, whole * 1e-5), qPrintable(QString("%1 %2").arg(parts).arg(whole)));
        if (!set.contains("gap")) QCOMPARE(loneInsideFaces(after), 0u);
        QCOMPARE(changedCorners(before, after), 0u);
    }

    /// Walls that pass through points and edges and lie in faces: seeds on a lattice that the box's own cells share.
    void wallsThroughPointsAndEdges_data() {
        QTest::addColumn<int>("cells");
        QTest::addColumn<float>("shift");
        for (int cells : {1, 2, 4, 8})
            for (float shift : {0.0f, 0.125f, 0.0625f}) QTest::addRow("%d cells, %g", cells, double(shift)) << cells << shift;
    }
    void wallsThroughPointsAndEdges() {
        QFETCH(int, cells);
        QFETCH(float, shift);
        std::vector<Vec3> seeds;
        for (int x = 0; x < 4; ++x)
            for (int y = 0; y < 4; ++y)
                for (int z = 0; z < 4; ++z) seeds.push_back({float(x) * 0.25f - 0.375f + shift, float(y) * 0.25f - 0.375f + shift, float(z) * 0.25f - 0.375f});
        const Geometry box = made("box", {{"cells", {cells, cells, cells}}});
        const Geometry out = madeOf("shatter", {{box}, {Geometry(seeds)}});
        verifyPieces(out);
        QCOMPARE(eachPieceOf(out).size(), std::size_t(64));
        QVERIFY(near(checkupOf(out).volume, 1, 1e-5));
        QCOMPARE(loneInsideFaces(out), 0u);
    }
    /// Seeds mirrored in a face of the solid: a wall lies in the face, and parts nothing.
    void aWallInAFace() {
        const Geometry out =
            madeOf("shatter", {{made("box", {{"cells", {2, 2, 2}}})}, {Geometry(std::vector<Vec3>{{0, 0, 0.25f}, {0, 0, 0.75f}, {0, 0, -0.25f}})}});
        verifyPieces(out);
        QCOMPARE(eachPieceOf(out).size(), std::size_t(2));
        QVERIFY(near(checkupOf(out).volume, 1, 1e-6));
    }
    void everyPlaceBelongsToItsNearestSeed() {
        Chance chance(8);
        std::vector<Vec3> seeds;
        for (int i = 0; i < 12; ++i) seeds.push_back(chance.place(0.5f));
        const Geometry out = madeOf("shatter", {{solidNamed("box")}, {Geometry(seeds)}});
        const auto& inside = *out.values<std::uint8_t>(Element::face, "inside");
        for (Index f = 0; f < out.faceCount(); ++f) {
            const Vec3 at = centreOf(out.topology().face(f), out.positions());
            std::vector<float> far;
            for (Vec3 s : seeds) far.push_back(distance(at, s));
            std::sort(far.begin(), far.end());
            if (inside[f]) QVERIFY(near(double(far[0]), double(far[1]), 1e-5));
        }
        // A convex solid has one piece a cell, in the order of the seeds: each holds its own.
        const auto pieces = eachPieceOf(out);
        QCOMPARE(pieces.size(), seeds.size());
        for (std::size_t i = 0; i < seeds.size(); ++i)
            for (std::size_t k = 0; k < seeds.size(); ++k) QCOMPARE(InsideTest(pieces[i]).inside(seeds[k]), i == k);
    }

    void theSameOnEveryRunAndForAnyThreads() {
        const SmallChunks small(16);
        for (const char* settings : {R"({"pieces": 25})", R"({"pieces": 8, "roughness": 0.03})", R"({"pieces": 9, "gap": 0.03})"}) {
            const auto run = [&](int threads) {
                Digest digest;
                tbb::task_arena arena(threads);
                arena.execute([&] { digest = digestOf(made("shatter", Json::parse(settings), {marked(solidNamed("ring"))})); });
                return digest;
            };
            const Digest one = run(1);
            QVERIFY(run(8) == one);
            QVERIFY(run(1) == one);
        }
    }
    /// Another material, or another roughness, does not renumber; more pieces keep the seeds of the first.
    void numbersStay() {
        const auto middles = [](const Json& settings) {
            std::vector<Vec3> out;
            for (const Geometry& piece : eachPieceOf(made("shatter", settings, {made("geodesic_sphere", {{"radius", 0.5}, {"frequency", 8}})})))
                out.push_back(boundsOf(piece.positions()).centre());
            return out;
        };
        const auto plain = middles({{"pieces", 10}, {"seed", 5}}), rough = middles({{"pieces", 10}, {"seed", 5}, {"roughness", 0.01}}),
                   apart = middles({{"pieces", 10}, {"seed", 5}, {"gap", 0.01}, {"inside_material", "granite"}});
        QCOMPARE(plain.size(), std::size_t(10));
        QCOMPARE(rough.size(), plain.size());
        QCOMPARE(apart.size(), plain.size());
        for (std::size_t i = 0; i < plain.size(); ++i) QVERIFY(distance(plain[i], rough[i]) < 0.05f && distance(plain[i], apart[i]) < 0.03f);
    }

    /// Inside faces: a texture place in metres that lies over no other of the same piece; old ones keep theirs (seen above).
    void insideTextureLiesBesideItself_data() {
        QTest::addColumn<QString>("settings");
        QTest::newRow("flat") << R"({"pieces": 9})";
        QTest::newRow("rough") << R"({"pieces": 4, "roughness": 0.03, "noise_size": 0.4})";
        QTest::newRow("apart") << R"({"pieces": 5, "gap": 0.05})";
    }
    void insideTextureLiesBesideItself() {
        QFETCH(QString, settings);
        const Json set = Json::parse(settings.toStdString());
        const Geometry out = made("shatter", set, {made("box")});
        const auto& inside = *out.values<std::uint8_t>(Element::face, "inside");
        const auto& uv = *out.values<Vec2>(Element::corner, "uv");
        const Triangles triangles = triangulate(out);
        const auto flat = [&](Index t, int k) { return uv[triangles.corners[3 * t + Index(k)]]; };
        const auto turn = [](Vec2 a, Vec2 b, Vec2 c) { return double(b.x - a.x) * double(c.y - a.y) - double(b.y - a.y) * double(c.x - a.x); };
        double area = 0, real = 0;
        for (Index t = 0; t < triangles.count(); ++t) {
            if (!inside[triangles.faceOf[t]]) continue;
            const double size = turn(flat(t, 0), flat(t, 1), flat(t, 2)) / 2;
            QVERIFY2(size > -1e-9, "nothing is mirrored");
            area += size;
            const auto at = [&](int k) { return out.positions()[out.topology().cornerPoint()[triangles.corners[3 * t + Index(k)]]]; };
            real += double(length(cross(at(1) - at(0), at(2) - at(0)))) / 2;
        }
        QVERIFY2(set.contains("roughness") ? area > real * 0.6 && area < real : near(area, real, real * 1e-3),
                 qPrintable(QString("%1 of %2").arg(area).arg(real)));
        QCOMPARE(overlappingInside(out), 0u);
    }
    void insideFacesHaveASlotOfTheirOwn() {
        const Geometry painted = made("material", Json::object(), {made("box")});
        const Geometry out = made("shatter", {{"pieces", 5}}, {painted});
        const auto list = materialsOf(out);
        QCOMPARE(list.size(), std::size_t(2));
        QCOMPARE(list[1].name, std::string("inside"));
        const auto& slot = *out.values<std::int32_t>(Element::face, "material");
        const auto& inside = *out.values<std::uint8_t>(Element::face, "inside");
        for (Index f = 0; f < out.faceCount(); ++f) QCOMPARE(slot[f], inside[f] ? 1 : 0);
        const Geometry bare = made("shatter", {{"pieces", 5}}, {made("box")});
        for (Index f = 0; f < bare.faceCount(); ++f)
            QCOMPARE((*bare.values<std::int32_t>(Element::face, "material"))[f], (*bare.values<std::uint8_t>(Element::face, "inside"))[f] ? 0 : -1);
        QVERIFY(!made("shatter", {{"pieces", 5}, {"inside_material", ""}}, {made("box")}).column(Element::face, "material"));
        // Broken again: the same slot.
        QCOMPARE(materialsOf(made("shatter", {{"pieces", 3}}, {out})).size(), std::size_t(2));
    }

    /// Nothing of a broken face was ever painted: it takes its material's colour, and the skin keeps its own.
    void brokenFacesOfAPaintedSolid() {
        for (const char* element : {"point", "corner", "face"}) {
            const Geometry painted = made("colour", {{"element", element}, {"by", "noise"}}, {made("box", {{"cells", {2, 2, 2}}})});
            const Geometry out = made("shatter", {{"pieces", 6}, {"roughness", 0.02}}, {painted});
            const Vec3 own = materialsOf(out).front().color;
            const auto& inside = *out.values<std::uint8_t>(Element::face, "inside");
            const Element at = std::string(element) == "point" ? Element::point : std::string(element) == "corner" ? Element::corner : Element::face;
            const auto& colour = *out.values<Vec3>(at, "color");
            std::vector<std::uint8_t> onSkin(out.pointCount(), 0);
            for (Index f = 0; f < out.faceCount(); ++f)
                for (Index p : out.topology().face(f)) onSkin[p] |= !inside[f];
            std::size_t broken = 0;
            for (Index f = 0; f < out.faceCount(); ++f)
                for (Index c = out.topology().faceStart()[f]; c < out.topology().faceStart()[f + 1]; ++c) {
                    const Index p = out.topology().cornerPoint()[c];
                    const Vec3 seen = at == Element::face ? colour[f] : at == Element::corner ? colour[c] : colour[p];
                    const bool own_ = at == Element::point ? !onSkin[p] : inside[f] != 0;
                    QCOMPARE(seen == own, own_);
                    broken += own_;
                }
            QVERIFY(broken > 20);
        }
    }
    /// Sizes in the message fit the model, however small it is.
    void aSmallModelKeepsItsNoiseSize() {
        const Geometry tiny = made("transform", {{"scale", {1e-3, 1e-3, 1e-3}}}, {made("box")});
        QVERIFY(runOp("shatter", {{"pieces", 4}, {"roughness", 2e-5}, {"noise_size", 3e-4}}, {tiny}).notices.empty());
        const auto told = runOp("shatter", {{"pieces", 4}, {"roughness", 2.13e-5}, {"noise_size", 5e-5}}, {tiny});
        QCOMPARE(lastCode(told), std::string("break.noise_size"));
        QVERIFY(near(told.notices.back().fixes[0].value.get<double>(), 1.1e-4, 1e-9));
        verifyPieces(told.geometry);
    }
    /// Bodies that reach into each other or touch, as pieces do that were broken before, are each broken by themselves.
    void bodiesThatMeet() {
        const Geometry crossed = combine({made("box"), made("transform", {{"move", {0.4, 0.3, 0.2}}}, {made("box")})});
        const Geometry before = made("shatter", {{"pieces", 12}, {"seed", 5}}, {made("box", {{"cells", {2, 2, 2}}})});
        for (const auto& [solid, volume] : {std::pair{crossed, 2.0}, {before, 1.0}})
            for (const char* settings : {R"({"pieces": 1})", R"({"pieces": 6})", R"({"pieces": 30})", R"({"pieces": 5, "roughness": 0.02})"}) {
                const auto out = runOp("shatter", Json::parse(settings), {solid});
                QVERIFY2(out.notices.empty(), out.notices.empty() ? "" : out.notices.back().text.c_str());
                verifyPieces(out.geometry);
                QVERIFY(near(checkupOf(out.geometry).volume, volume, volume * 1e-5));
            }
        QCOMPARE(eachPieceOf(made("shatter", {{"pieces", 1}}, {before})).size(), std::size_t(12));
        // Three times with one seed.
        Geometry thrice = made("box");
        for (int i = 0; i < 3; ++i) thrice = made("shatter", {{"pieces", 4}}, {thrice});
        verifyPieces(thrice);
        QVERIFY(eachPieceOf(thrice).size() > 15 && near(checkupOf(thrice).volume, 1, 2e-5));
        const Geometry again = made("shatter", {{"pieces", 6}}, {before});
        QVERIFY(eachPieceOf(again).size() > 20);
        QCOMPARE(loneInsideFaces(made("shatter", {{"pieces", 1}}, {before})), 0u);
    }
    void bodiesAndTheirHollows() {
        const auto ball = [](double radius, double x) { return made("transform", {{"move", {x, 0, 0}}}, {made("geodesic_sphere", {{"radius", radius}})}); };
        const auto inward = [](const Geometry& g) { return made("flip", Json::object(), {g}); };
        // A ball in a hollow ball, beside one that is inside out: three bodies.
        const Geometry all = combine({inward(ball(0.8, 0)), ball(1, 0), ball(0.3, 0.1), inward(ball(0.5, 3))});
        const auto bodies = bodiesOf(all);
        QCOMPARE(bodies.size(), std::size_t(3));
        QCOMPARE(bodies[0].faces.size(), made("geodesic_sphere").faceCount() * 2);
        for (const Body& body : bodies) QVERIFY(checkupOf(body.geometry).volume > 0);
        QVERIFY(near(checkupOf(bodies[2].geometry).volume, checkupOf(ball(0.5, 3)).volume, 1e-4));
        const Geometry out = made("shatter", {{"pieces", 20}}, {all});
        verifyPieces(out);
        double whole = 0;
        for (const Body& body : bodies) whole += checkupOf(body.geometry).volume;
        QVERIFY(near(checkupOf(out).volume, whole, whole * 1e-5));
    }
    /// A surface that crosses itself is no solid: nothing is broken, and what helps is offered.
    void aSurfaceThatCrossesItselfIsRefused() {
        const Geometry box = made("box", {{"cells", {6, 6, 6}}});
        const Geometry folded = made("move_points", {{"by", {{"formula", "vec3(position.x > 0.4 ? -1.4 : 0, 0, 0)"}}}}, {box});
        const auto out = runOp("shatter", {{"pieces", 20}}, {folded});
        QVERIFY(out.failed);
        QCOMPARE(lastCode(out), std::string("break.crossing"));
        QCOMPARE(out.notices.back().fixes[0].op, std::string("voxel_remesh"));
        QCOMPARE(out.geometry.faceCount(), folded.faceCount());
    }
    void copiesPassThrough() {
        const Geometry with = [] {
            Geometry g = made("box");
            return withCopiesOf(madeOf("place_copies", {{Geometry(std::vector<Vec3>{{2, 0, 0}})}, {made("box")}}), std::move(g));
        }();
        QCOMPARE(with.copyCount(), std::size_t(1));
        QCOMPARE(made("shatter", {{"pieces", 3}}, {with}).copyCount(), std::size_t(1));
        QCOMPARE(made("crack_shell", {{"pieces", 3}}, {with}).copyCount(), std::size_t(1));
    }

    // ---- What can't be broken

    void wrongInputIsToldWithWhatHelps() {
        const Geometry box = made("box");
        const auto open = runOp("shatter", Json::object(), {made("delete", {{"where", {{"formula", "index == 0"}}}}, {made("box")})});
        QVERIFY(open.failed);
        QCOMPARE(lastCode(open), std::string("shatter.open"));
        QCOMPARE(open.notices.back().fixes.size(), std::size_t(3));
        QCOMPARE(open.notices.back().fixes[0].rows.size(), std::size_t(4));
        QCOMPARE(lastCode(runOp("shatter", Json::object(), {made("grid")})), std::string("shatter.open"));
        QCOMPARE(lastCode(runOp("shatter", Json::object(), {made("line")})), std::string("surface.none"));
        for (const auto& [pieces, possible] : std::map<double, double>{{0.0, 1.0}, {-1.0, 1.0}, {1e9, 200.0}}) {
            const auto out = runOp("shatter", {{"pieces", pieces}}, {box});
            QCOMPARE(lastCode(out), std::string("setting.range"));
            QCOMPARE(out.notices.back().fixes.size(), std::size_t(1));
            QCOMPARE(out.notices.back().fixes[0].value.get<double>(), possible);
        }
        QCOMPARE(lastCode(runPorts("shatter", {{box}, {Geometry()}})), std::string("break.no_seeds"));
        const auto wide = runOp("shatter", {{"pieces", 10}, {"gap", 5}}, {box});
        QVERIFY(wide.failed);
        QCOMPARE(lastCode(wide), std::string("break.gap"));
        QCOMPARE(wide.notices.back().fixes.size(), std::size_t(1));
        const auto mended = runOp("shatter", {{"pieces", 10}, {"gap", wide.notices.back().fixes[0].value}}, {box});
        QVERIFY(!mended.failed && eachPieceOf(mended.geometry).size() >= 9);
        QCOMPARE(lastCode(runOp("shatter", {{"stretch", {0, 1, 1}}}, {box})), std::string("setting.range"));
        QVERIFY(runOp("shatter", {{"roughness", 0.5}, {"noise_size", 1e-6}}, {box}).notices.back().code == "break.noise_size");
        QVERIFY(runOp("shatter", {{"roughness", 1e-4}, {"noise_size", 1e-3}}, {box}, Limits{100'000}).failed);
        // Inside out as a whole: turned over, not refused.
        verifyPieces(made("shatter", {{"pieces", 4}}, {made("flip", Json::object(), {box})}));
    }
    /// Rougher than the solid is thick: still sound.
    void rougherThanThick() {
        const Geometry slab = made("box", {{"size", {1, 0.02, 1}}, {"cells", {6, 1, 6}}});
        for (double roughness : {0.01, 0.05, 0.2}) {
            const Geometry out = made("shatter", {{"pieces", 6}, {"roughness", roughness}, {"noise_size", 1.2}}, {slab});
            verifyPieces(out);
            QVERIFY(near(checkupOf(out).volume, 0.02, 0.02 * 1e-4));
        }
    }
    /// Walls that lie beside the solid while they are flat wander into it when they are not.
    void roughWallsPartAllCells() {
        for (double roughness : {0.002, 0.005, 0.02})
            for (int seed : {0, 1}) {
                const Geometry out = made("shatter", {{"pieces", 60}, {"roughness", roughness}, {"seed", seed}}, {made("box")});
                QCOMPARE(std::set(pieceOf(out).begin(), pieceOf(out).end()).size(), std::size_t(60));
            }
    }
    void aHoleInAWallIsNoticed() {
        // Four cells in a row; of the middle wall, nothing: its two cells become one piece.
        const Geometry bar = made("box", {{"size", {4, 1, 1}}});
        const auto wall = [](float x) { return std::vector<Vec3>{{x, -1, -1}, {x, 1, -1}, {x, 1, 1}, {x, -1, 1}}; };
        const auto several = [&](const std::vector<float>& at, const std::vector<std::array<Index, 2>>& cells) {
            Walls walls;
            std::vector<Vec3> places;
            std::vector<Index> start{0}, corners;
            for (float x : at) {
                for (Vec3 p : wall(x)) corners.push_back(Index(places.size())), places.push_back(p);
                start.push_back(Index(corners.size()));
                walls.wall.push_back(Index(walls.wall.size()));
            }
            const std::size_t count = places.size();
            walls.geometry = Geometry(std::move(places), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
            walls.cells = cells;
            return piecesOfSeveralCells(cutBodies(
                                            bar, walls, [](Vec3) { return Index(0); }, RunContext()),
                                        walls);
        };
        QCOMPARE(several({-1, 0, 1}, {{1, 0}, {2, 1}, {3, 2}}), std::size_t(0));
        QCOMPARE(several({-1, 1}, {{1, 0}, {3, 2}}), std::size_t(1));
        QCOMPARE(several({-1, 1}, {{1, 0}, {2, 1}}), std::size_t(0));
    }
    void seedsAreInsideAndKeepApart() {
        const Geometry ring = made("torus");
        const auto few = cellSeeds(ring, 20, 3, 0, RunContext()), many = cellSeeds(ring, 60, 3, 0, RunContext());
        QVERIFY(std::equal(few.begin(), few.end(), many.begin()));
        QVERIFY(cellSeeds(ring, 20, 4, 0, RunContext()) != few);
        const auto apart = [](const std::vector<Vec3>& all) {
            double sum = 0;
            for (Vec3 p : all) {
                float least = 1e9f;
                for (Vec3 q : all)
                    if (q != p) least = std::min(least, distance(p, q));
                sum += double(least);
            }
            return sum / double(all.size());
        };
        for (Vec3 p : many) QVERIFY(std::abs(std::hypot(std::hypot(p.x, p.z) - 0.5f, p.y)) < 0.151f);
        const auto gathered = cellSeeds(ring, 60, 3, 1, RunContext());
        QVERIFY(apart(gathered) < apart(many) * 0.6);
        for (Vec3 p : cellSeedsOn(made("grid"), 50, 1, 0, RunContext())) QVERIFY(std::abs(p.y) < 1e-6f && std::abs(p.x) <= 0.5f && std::abs(p.z) <= 0.5f);
    }

    // ---- Kernels

    /// Corners of walls are as far from both cells as from no other seed nearer.
    void wallsStandInTheMiddle_data() {
        QTest::addColumn<bool>("lattice");
        QTest::newRow("at random") << false;
        QTest::newRow("lattice") << true;
    }
    void wallsStandInTheMiddle() {
        QFETCH(bool, lattice);
        Chance chance(3);
        std::vector<Vec3> seeds;
        for (int i = 0; i < 60; ++i) seeds.push_back(lattice ? Vec3{float(i % 4), float(i / 4 % 4), float(i / 16)} : chance.place());
        seeds.push_back(seeds.front());  // doubled: no wall between them
        Bounds around;
        for (Vec3 s : seeds) around.add(s);
        const FlatWalls flat = voronoiWalls(seeds, around, {1, 1, 1}, 0, RunContext());
        QVERIFY(flat.walls.size() > 60);
        for (const auto& wall : flat.walls) {
            QVERIFY(wall.cells[0] != 60 && wall.cells[1] != 60 && wall.cells[0] != wall.cells[1]);
            for (Index p : wall.ring) {
                const auto far = [&](Index s) {
                    return std::hypot(flat.points[p][0] - double(seeds[s].x), flat.points[p][1] - double(seeds[s].y), flat.points[p][2] - double(seeds[s].z));
                };
                const double here = far(wall.cells[0]);
                QVERIFY(near(here, far(wall.cells[1]), 1e-5 * (1 + here)));
                for (Index s = 0; s < seeds.size(); ++s) QVERIFY(far(s) > here - 1e-5 * (1 + here));
            }
        }
        const auto neighbours = voronoiNeighbours(seeds, RunContext());
        for (const auto& wall : flat.walls) QVERIFY(std::binary_search(neighbours[wall.cells[0]].begin(), neighbours[wall.cells[0]].end(), wall.cells[1]));
    }
    void aGapIsAsWideAsAskedFor() {
        const FlatWalls flat = voronoiWalls({{0, 0, 0}, {1, 0, 0}}, boundsOf(std::vector<Vec3>{{-1, -1, -1}, {2, 1, 1}}), {1, 1, 1}, 0.2, RunContext());
        std::set<Index> cells;
        for (const auto& wall : flat.walls) {
            QCOMPARE(wall.cells[0], kNoCell);
            cells.insert(wall.cells[1]);
            for (Index p : wall.ring) QVERIFY(near(flat.points[p][0], wall.cells[1] == 0 ? 0.4 : 0.6, 1e-9));
        }
        QCOMPARE(cells.size(), std::size_t(2));
        QVERIFY(voronoiWalls({}, {}, {1, 1, 1}, 0, RunContext()).walls.empty());
    }
    void polygonsAreMeshedWhole() {
        for (double spacing : {0.05, 0.3, 10.0}) {
            std::vector<std::array<double, 2>> ring;
            for (int i = 0; i < 40; ++i) {
                const double a = i * 0.15707963, r = i % 2 ? 1 : 0.6;
                ring.push_back({r * std::cos(a), r * std::sin(a)});
            }
            const PolygonMesh mesh = meshPolygon(ring, spacing);
            double area = 0, wanted = 0;
            const auto at = [&](Index i) { return i < ring.size() ? ring[i] : mesh.inner[i - ring.size()]; };
            for (std::size_t i = 0; i < ring.size(); ++i) wanted += ring[i][0] * ring[(i + 1) % 40][1] - ring[i][1] * ring[(i + 1) % 40][0];
            std::set<Index> used;
            for (const auto& t : mesh.triangles) {
                const auto a = at(t[0]), b = at(t[1]), c = at(t[2]);
                const double size = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
                QVERIFY(size > 0);
                area += size;
                used.insert(t.begin(), t.end());
            }
            QVERIFY(near(area, wanted, 1e-9));
            QCOMPARE(used.size(), ring.size() + mesh.inner.size());
            if (spacing == 0.05) QVERIFY(near(double(mesh.inner.size()), wanted / 2 / (spacing * spacing * 0.866), wanted * 160));
        }
        QVERIFY(meshPolygon({{0, 0}, {1, 0}}, 1).triangles.empty());
    }
};

QTEST_GUILESS_MAIN(TestBreaking)
#include "test_breaking.moc"

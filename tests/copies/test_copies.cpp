// Copies: where they are placed and how, and what becomes of them in files and faces.
#include "geometry/Bake.h"
#include "geometry/Digest.h"
#include "geometry/Materials.h"
#include "geometry/Rows.h"
#include "meshes/MeshFile.h"
#include "scatter/CopyCheckup.h"
#include "support/Copies.h"
#include "support/Run.h"

#include <QtCore/QFile>
#include <QtCore/QTemporaryDir>

#include <filesystem>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

class TestCopies : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void everyPointGetsACopy() {
        const Geometry out = placed(points(500), {box()});
        QCOMPARE(out.copyCount(), std::size_t(500));
        QCOMPARE(out.pointCount(), std::size_t(0));
        const Geometry baked = made("bake_copies", {}, {out});
        QCOMPARE(baked.faceCount(), std::size_t(500 * 6));
        QCOMPARE(baked.pointCount(), std::size_t(500 * 8));
        QVERIFY(near(signedVolume(baked), 500 * 0.008, 1e-3));
        const Checkup facts = checkupOf(baked);
        QVERIFY(facts.closed && facts.manifold && facts.consistentWinding);
        QVERIFY(near(double(boundsOf(out).min.y), double(boundsOf(baked.positions()).min.y), 1e-6));
    }

    void mirroredCopiesLookOutward() {
        const Geometry out = placed(points(20), {box()}, {{"size", {-1, 1, 2}}});
        const Geometry baked = made("bake_copies", {}, {out});
        QVERIFY(near(signedVolume(baked), 20 * 0.016, 1e-3));
        QVERIFY(checkupOf(baked).consistentWinding);
    }

    /// Baking gives the same as placing each shape by itself and putting all together.
    void bakingIsPlacingOneByOne() {
        const Geometry out = placed(points(30), {box(), made("sphere", {{"radius", 0.1}, {"sides", 8}, {"rings", 5}})},
                                    {{"choose", "random"}, {"size", {-1, 1, 1.5}}, {"turn", {{"random", {{"range", {0, 360}}}}}}});
        std::vector<Geometry> parts;
        for (std::size_t i = 0; i < out.copyCount(); ++i) parts.push_back(transformed(*out.copies()->shapes[out.copies()->shapeOf[i]], out.copies()->place[i]));
        const Geometry one = bakeCopies(out), all = combine(parts);
        QCOMPARE(one.topology().cornerPoint(), all.topology().cornerPoint());
        QCOMPARE(one.topology().faceStart(), all.topology().faceStart());
        QVERIFY(one.positions() == all.positions());
        QVERIFY(*one.values<Vec2>(Element::corner, "uv") == *all.values<Vec2>(Element::corner, "uv"));
        QCOMPARE(one.values<std::int32_t>(Element::face, "shape")->size(), one.faceCount());
        const ElementCounts counts = bakedCounts(out);
        QCOMPARE(counts.points, std::uint64_t(one.pointCount()));
        QCOMPARE(counts.corners, std::uint64_t(one.cornerCount()));
        QCOMPARE(bakedPieces(out), std::uint64_t(30));
    }

    void copiesOfCopiesAreBakedToo() {
        const Geometry pair = placed(made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}}}}), {box()}, {{"align", "none"}});
        const Geometry four = placed(made("point_list", {{"points", {{0, 0, 0}, {0, 0, 5}}}}), {pair}, {{"align", "none"}});
        QCOMPARE(four.copyCount(), std::size_t(2));
        QCOMPARE(bakeCopies(four).faceCount(), std::size_t(24));
        QVERIFY(near(double(boundsOf(four).max.x), 1.1, 1e-5) && near(double(boundsOf(four).max.z), 5.1, 1e-5));
    }

    void normalsOfCopiesTurnWithThem() {
        const Geometry shape = made("normals", {{"on", "points"}}, {box()});
        const Geometry out = placed(made("point_list", {{"points", {{0, 0, 0}}}}), {shape}, {{"align", "none"}, {"turn", 90}});
        const auto& before = *shape.values<Vec3>(Element::point, "normal");
        const Geometry baked = bakeCopies(out);
        const auto& after = *baked.values<Vec3>(Element::point, "normal");
        for (std::size_t i = 0; i < before.size(); ++i) QVERIFY(length(after[i] - Vec3{before[i].z, before[i].y, -before[i].x}) < 1e-5f);
    }

    void upLiesOnTheNormalAndTurnIsAboutIt() {
        Geometry at = made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}}});
        at.setColumn(Element::point, "normal", Column(std::vector<Vec3>{{1, 0, 0}, {0, -1, 0}, normalized({1, 2, 3})}));
        for (double turn : {0.0, 37.0}) {
            const Geometry out = placed(at, {box()}, {{"turn", turn}, {"size", 2}});
            for (std::size_t i = 0; i < 3; ++i) {
                const Affine& place = out.copies()->place[i];
                QVERIFY(length(place.y - (*at.values<Vec3>(Element::point, "normal"))[i] * 2) < 1e-5f);
                QVERIFY(near(place.determinant(), 8, 1e-4));
                QVERIFY(near(double(dot(place.x, place.z)), 0, 1e-5));
            }
        }
        const Affine turned = placed(at, {box()}, {{"align", "none"}, {"turn", 90}}).copies()->place[0];
        QVERIFY(length(turned.x - Vec3{0, 0, -1}) < 1e-6f);
        const Affine tilted = placed(at, {box()}, {{"align", "none"}, {"tilt", 90}}).copies()->place[0];
        QVERIFY(length(tilted.y - Vec3{0, 0, 1}) < 1e-6f);
        const Affine lifted = placed(at, {box()}, {{"lift", 0.5}}).copies()->place[0];
        QVERIFY(length(lifted.move - Vec3{0.5f, 0, 0}) < 1e-6f);
    }

    void tangentsLeadCopiesAlong() {
        const Geometry curve = made("resample", {{"mode", "count"}, {"count", 20}}, {made("spiral", {{"turns", 1}, {"rise", 1}})});
        const Geometry out = placed(curve, {box()}, {{"align", "tangent"}});
        const auto& tangents = *curve.values<Vec3>(Element::point, "tangent");
        for (std::size_t i = 0; i < out.copyCount(); ++i) {
            QVERIFY(length(out.copies()->place[i].x - tangents[i]) < 1e-5f);
            QVERIFY(out.copies()->place[i].y.y > 0.5f);
        }
        QCOMPARE(lastCode(runPorts("place_copies", {{points(3)}, {box()}}, {{"align", "tangent"}})), std::string("copies.tangent"));
        Geometry turned = made("point_list", {{"points", {{0, 0, 0}}}});
        turned.setColumn(Element::point, "orientation", Column(std::vector<Vec4>{{0, 0, std::sqrt(0.5f), std::sqrt(0.5f)}}));
        QVERIFY(length(placed(turned, {box()}, {{"align", "orientation"}}).copies()->place[0].x - Vec3{0, 1, 0}) < 1e-6f);
    }

    void shapesStandAsAsked() {
        const Geometry shape = made("transform", {{"move", {3, 4, 5}}}, {box()}), at = made("point_list", {{"points", {{1, 1, 1}}}});
        const Bounds foot = boundsOf(placed(at, {shape}, {{"align", "none"}, {"stand", "foot"}, {"turn", 30}}));
        QVERIFY(near(double(foot.min.y), 1, 1e-5) && near(double(foot.centre().x), 1, 1e-5));
        QVERIFY(length(boundsOf(placed(at, {shape}, {{"align", "none"}, {"stand", "middle"}})).centre() - Vec3{1, 1, 1}) < 1e-5f);
    }

    void shapesAreChosenAsAsked() {
        const std::vector<Geometry> shapes{box(0.1), box(0.2), box(0.3)};
        const auto numbers = [&](const Json& settings, const Geometry& at) { return ofCopies<std::int32_t>(placed(at, shapes, settings), "shape"); };
        const auto turns = numbers({{"choose", "in turn"}}, points(7));
        for (std::size_t i = 0; i < turns.size(); ++i) QCOMPARE(turns[i], std::int32_t(i % 3));
        std::array<int, 3> found{};
        for (int n : numbers({{"choose", "random"}, {"weights", "6 3 1"}}, points(10000))) ++found[std::size_t(n)];
        QVERIFY(std::abs(found[0] - 6000) < 200 && std::abs(found[1] - 3000) < 200 && std::abs(found[2] - 1000) < 150);
        Geometry at = points(3);
        at.setColumn(Element::point, "kind", Column(std::vector<std::int32_t>{2, 0, 4}));
        QCOMPARE(numbers({{"choose", "by attribute"}, {"attribute", "kind"}}, at), (std::vector<std::int32_t>{2, 0, 1}));
        QCOMPARE(lastCode(runPorts("place_copies", {{at}, shapes}, {{"choose", "random"}, {"weights", "1 x"}})), std::string("copies.weights"));
        QCOMPARE(lastCode(runPorts("place_copies", {{at}, shapes}, {{"choose", "by attribute"}, {"attribute", "nothing"}})),
                 std::string("setting.unknown_attribute"));
        QCOMPARE(lastCode(runPorts("place_copies", {{at}, {Geometry()}})), std::string("copies.no_shape"));
    }

    /// Copy n keeps place, size, turn and shape when there are more, and all but the shape when another seed chooses shapes.
    void moreCopiesLeaveWhatIsThere() {
        const Json settings{{"choose", "random"}, {"size", {{"random", {{"range", {0.5, 2}}}}}}, {"turn", {{"random", {{"range", {0, 360}}, {"seed", 5}}}}}};
        const std::vector<Geometry> shapes{box(0.1), box(0.2), box(0.3)};
        const auto few = byId(placed(points(100), shapes, settings)), many = byId(placed(points(700), shapes, settings));
        QCOMPARE(few.size(), std::size_t(100));
        for (const auto& [id, copy] : few) QVERIFY(many.at(id).first == copy.first && many.at(id).second == copy.second);
        Json other = settings;
        other["seed"] = 9;
        int changed = 0;
        for (const auto& [id, copy] : byId(placed(points(100), shapes, other))) {
            QVERIFY(few.at(id).second == copy.second);
            changed += few.at(id).first != copy.first;
        }
        QVERIFY(changed > 40);
    }

    /// The same seed for shape, material and size says nothing of one by the others.
    void chancesAreIndependent() {
        const Json slots{{{"name", "a"}}, {{"name", "b"}}};
        const Geometry out =
            made("material", {{"slots", slots}}, {placed(points(4000), {box(), box()}, {{"choose", "random"}, {"size", {{"random", {{"range", {0, 1}}}}}}})});
        std::array<int, 8> found{};
        for (std::size_t i = 0; i < out.copyCount(); ++i)
            ++found[std::size_t(ofCopies<std::int32_t>(out, "shape")[i] * 4 + ofCopies<std::int32_t>(out, "material")[i] * 2 +
                                (length(out.copies()->place[i].x) > 0.5f))];
        for (int n : found) QVERIFY2(std::abs(n - 500) < 90, qPrintable(QString::number(n)));
    }

    void copiesCarryTheirPointsAttributes() {
        Geometry at = made("formula", {{"text", "tone = position.x;"}}, {points(40)});
        const Geometry out = placed(at, {box()}, {{"where", {{"formula", "position.x > 0"}}}});
        QVERIFY(out.copyCount() > 5 && out.copyCount() < 35);
        for (std::size_t i = 0; i < out.copyCount(); ++i)
            QVERIFY(ofCopies<float>(out, "tone")[i] == out.copies()->place[i].move.x && ofCopies<float>(out, "tone")[i] > 0);
        const Geometry baked = bakeCopies(out);
        QCOMPARE(baked.values<float>(Element::face, "tone")->at(7), ofCopies<float>(out, "tone")[1]);
        QVERIFY(!baked.column(Element::face, "normal"));
    }

    void copiesCanBeDeleted() {
        const Geometry in = placed(points(60), {box(0.1), box(0.2)}, {{"choose", "random"}});
        const Geometry out = made("delete", {{"of", "copies"}, {"where", {{"formula", "shape == 1"}}}}, {in}),
                       other = made("delete", {{"of", "copies"}, {"keep_instead", true}, {"where", {{"formula", "shape == 1"}}}}, {in});
        QCOMPARE(out.copyCount() + other.copyCount(), std::size_t(60));
        QVERIFY(out.copyCount() > 10 && other.copyCount() > 10);
        for (std::int32_t shape : ofCopies<std::int32_t>(out, "shape")) QCOMPARE(shape, 0);
        QCOMPARE(out.copies()->shapes.size(), std::size_t(1));
        QCOMPARE(boundsOf(*other.copies()->shapes[0]).size().x, 0.2f);
    }

    /// What works on faces says that it leaves copies alone.
    void copiesThatAreLeftAloneAreTold() {
        const Geometry in = placed(points(5), {box()});
        for (const char* op : {"bend", "noise_displace"}) {
            const OperatorOutcome out = runOp(op, {}, {in});
            QVERIFY2(!out.failed, op);
            QCOMPARE(lastCode(out), std::string("copies.untouched"));
            QCOMPARE(digestOf(out.geometry), digestOf(in));
        }
        // What can't go on without faces says where they are.
        const Geometry point = made("point_list", {{"points", {{0, 0, 0}}}});
        for (const char* op : {"extrude", "subdivide"}) {
            const OperatorOutcome out = runOp(op, {}, {in});
            QVERIFY2(out.failed, op);
            QCOMPARE(digestOf(out.geometry), digestOf(in));
            QCOMPARE(lastCode(out), std::string("surface.none"));
            QVERIFY2(out.notices.back().text.ends_with("What is here: 5 copies. Put Bake copies before this step to work on their faces."), op);
            QVERIFY2(!runOp(op, {}, {point}).notices.back().text.ends_with("their faces."), op);
        }
        QVERIFY(runOp("bend", {}, {placed(point, {box()})}).notices.back().text.starts_with("Left as they are: 1 copy."));
        // A setting that can't be used is no question of copies.
        QCOMPARE(runOp("subdivide", {{"levels", -1}}, {in}).notices.back().text.find("copies"), std::string::npos);
        QVERIFY(runOp("transform", {{"move", {1, 0, 0}}}, {in}).notices.empty());
        const OperatorOutcome mirrored = runOp("mirror", {{"offset", -9}}, {in});
        QVERIFY(mirrored.notices.empty() && mirrored.geometry.copyCount() == 10);
    }

    void piecesCanBeShapes() {
        const Geometry both = combine({box(0.1, 0.1, 0.1), made("transform", {{"move", {1, 0, 0}}}, {box(0.3, 0.3, 0.3)})});
        const Geometry out = placed(points(10), {both}, {{"by_piece", true}, {"stand", "middle"}, {"align", "none"}});
        QCOMPARE(out.copies()->shapes.size(), std::size_t(2));
        const Geometry at = points(10);
        for (std::size_t i = 0; i < 10; ++i) {
            const Bounds bounds = boundsOf(takeCopies(out, {Index(i)}));
            QVERIFY(near(double(bounds.size().y), i % 2 ? 0.3 : 0.1, 1e-5) && length(bounds.centre() - at.positions()[i]) < 1e-5f);
        }
    }

    void copiesNowhereAreLeftOut() {
        Geometry at = points(10);
        std::vector<Vec3> places = at.positions();
        places[3].x = NAN;
        at.setPositions(places);
        const OperatorOutcome out = runPorts("place_copies", {{at}, {box()}});
        QVERIFY(!out.failed);
        QCOMPARE(out.geometry.copyCount(), std::size_t(9));
        QCOMPARE(lastCode(out), std::string("copies.nowhere"));
    }

    void pointsComeFromEverything() {
        const Geometry g = box();
        const std::pair<const char*, int> counts[] = {{"points", 8}, {"edges", 12}, {"face centres", 6}, {"corners", 24}, {"piece centres", 1}};
        for (const auto& [of, count] : counts) {
            const Geometry out = made("points_from", {{"of", of}}, {g});
            QCOMPARE(int(out.pointCount()), count);
            QCOMPARE(out.faceCount(), std::size_t(0));
            for (Vec3 n : *out.values<Vec3>(Element::point, "normal")) QVERIFY(near(double(length(n)), 1, 1e-5));
        }
        const Geometry edges = made("points_from", {{"of", "edges"}}, {g}), centres = made("points_from", {{"of", "face centres"}}, {g});
        for (std::size_t i = 0; i < 12; ++i)
            QVERIFY(near(std::abs(double(dot(edges.values<Vec3>(Element::point, "tangent")->at(i), edges.positions()[i] - boundsOf(g).centre()))), 0, 1e-6));
        for (std::size_t i = 0; i < 6; ++i)
            QVERIFY(dot(centres.positions()[i] - boundsOf(g).centre(), centres.values<Vec3>(Element::point, "normal")->at(i)) > 0.09f);
        const Geometry nails = made("points_from", {{"of", "corners"}, {"inset", 0.05}}, {g});
        for (Vec3 p : nails.positions()) QVERIFY(std::abs(p.x) < 0.0999f || std::abs(p.z) < 0.0999f || std::abs(p.y - boundsOf(g).centre().y) < 0.0999f);
        const Geometry copies = placed(points(9), {g});
        QCOMPARE(made("points_from", {{"of", "copies"}}, {copies}).pointCount(), std::size_t(9));
        QCOMPARE(made("points_from", {{"of", "face centres"}, {"where", {{"formula", "normal.y > 0.5"}}}}, {g}).pointCount(), std::size_t(1));
    }

    void materialsAreSharedOut() {
        const Json slots{{{"name", "cork"}, {"color", {0.7, 0.5, 0.3}}, {"share", 3}}, {{"name", "tar"}, {"color", {0.1, 0.1, 0.1}}}};
        const Geometry out = made("material", {{"slots", slots}}, {placed(points(4000), {box()})});
        const auto& number = ofCopies<std::int32_t>(out, "material");
        const auto cork = std::count(number.begin(), number.end(), 0);
        QVERIFY(std::abs(double(cork) - 3000) < 120 && cork + std::count(number.begin(), number.end(), 1) == 4000);
        QCOMPARE(materialsOf(out).size(), std::size_t(2));
        QCOMPARE(materialsOf(out)[1].name, std::string("tar"));
        const Geometry baked = bakeCopies(out);
        QCOMPARE(baked.values<std::int32_t>(Element::face, "material")->at(6), number[1]);
        QCOMPARE(materialsOf(baked).size(), std::size_t(2));
        const Geometry faces = made("material", {{"slots", slots}, {"choose", "in turn"}, {"where", {{"formula", "normal.y > 0.5"}}}}, {box()});
        const auto& ofFaces = *faces.values<std::int32_t>(Element::face, "material");
        QCOMPARE(std::count(ofFaces.begin(), ofFaces.end(), -1), 5);
    }

    void materialsOfPartsMeetInOneList() {
        const auto one = [](const char* name) { return made("material", {{"slots", {{{"name", name}}}}}, {box()}); };
        const Geometry both = combine({one("cork"), one("tar"), one("cork")});
        QCOMPARE(materialsOf(both).size(), std::size_t(2));
        const auto& number = *both.values<std::int32_t>(Element::face, "material");
        QCOMPARE(number[0], 0);
        QCOMPARE(number[6], 1);
        QCOMPARE(number[12], 0);
        const Geometry copies = placed(points(4), {one("cork"), one("tar")});
        const Geometry baked = bakeCopies(copies);
        QCOMPARE(materialsOf(baked).size(), std::size_t(2));
        QCOMPARE(baked.values<std::int32_t>(Element::face, "material")->at(6), 1);
        for (const char* wrong :
             {R"([])", R"([{"color":[1,1,1]}])", R"([{"name":"a","share":-1}])", R"([{"name":"a","color":[1]}])", R"("cork")", R"([{"name":"a","share":0}])"})
            QVERIFY2(runOp("material", {{"slots", Json::parse(wrong)}}, {box()}).failed, wrong);
    }

    /// Copies go into glTF as instances, with their ids and materials, and come back in their places; elsewhere they are baked.
    void filesHoldEveryCopy() {
        const Json slots{{{"name", "cork"}, {"color", {0.7, 0.5, 0.3}}}, {{"name", "tar"}, {"color", {0.1, 0.1, 0.1}}, {"roughness", 0.25}}};
        const Geometry out = made("material", {{"slots", slots}},
                                  {placed(points(2000, 0), {made("sphere", {{"radius", 0.1}, {"sides", 24}, {"rings", 16}}), box()},
                                          {{"choose", "random"},
                                           {"turn", {{"random", {{"range", {0, 360}}}}}},
                                           {"size", {{"formula", "vec3(index % 2 == 0 ? 1.0 : -1.0, 1.0, 2.0)"}}}})});
        QCOMPARE(out.copyCount(), std::size_t(2000));
        const Geometry baked = bakeCopies(out);
        const QTemporaryDir folder;
        const auto path = [&](const char* name) { return std::filesystem::path(folder.path().toStdString()) / name; };
        for (const char* name : {"a.glb", "a.gltf", "a.obj", "a.ply", "a.stl"}) {
            QVERIFY2(!writeMesh(out, path(name)), name);
            const auto back = readMesh(path(name));
            QVERIFY2(bool(back), name);
            QVERIFY2(near(signedVolume(*back), signedVolume(baked), 2e-3 * signedVolume(baked)), name);
            std::uint64_t triangles = 0;
            for (std::size_t f = 0; f < back->faceCount(); ++f) triangles += back->topology().face(f).size() - 2;
            QCOMPARE(triangles, bakedCounts(out).triangles);
            const double guess = double(estimateFile(out, path(name)).bytes), size = double(std::filesystem::file_size(path(name)));
            QVERIFY2(guess > size * 0.4 && guess < size * 2.5, qPrintable(QStringLiteral("%1 %2 %3").arg(QString::fromLatin1(name)).arg(guess).arg(size)));
        }
        QVERIFY(std::filesystem::file_size(path("a.glb")) * 10 < std::filesystem::file_size(path("a.stl")));
        const auto back = readMesh(path("a.glb"));
        std::set<std::int32_t> ids(ofCopies<std::int32_t>(out, "id").begin(), ofCopies<std::int32_t>(out, "id").end());
        const auto* found = back->values<std::int32_t>(Element::face, "id");
        QVERIFY(found);
        QCOMPARE(std::set<std::int32_t>(found->begin(), found->end()), ids);
        const auto materials = materialsOf(*back);
        QCOMPARE(materials.size(), std::size_t(2));
        for (const Material& m : materials)
            QVERIFY(m.name == "cork" ? near(double(m.color.x), 0.7, 1e-3) : m.name == "tar" && near(double(m.roughness), 0.25, 1e-6));
        // Leaning frames have no turn and size of their own, and come back all the same.
        Geometry leaning = placed(points(3), {box()});
        auto copies = std::make_shared<Copies>(*leaning.copies());
        copies->place[1].x = {1, 0.7f, 0};
        leaning.setCopies(copies);
        QVERIFY(!writeMesh(leaning, path("b.glb")));
        QVERIFY(near(signedVolume(*readMesh(path("b.glb"))), 3 * 0.008, 1e-5));
    }

    void instancesThatLieAreRefused() {
        const QTemporaryDir folder;
        const auto path = std::filesystem::path(folder.path().toStdString()) / "a.gltf";
        QVERIFY(!writeMesh(placed(points(5), {box()}), path));
        QFile file(QString::fromStdString(path.string()));
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray text = file.readAll();
        const auto broken = Json::parse(text.toStdString());
        const auto reads = [](const Json& json) { return bool(gltfFromBytes(json.dump())); };
        QVERIFY(reads(broken));
        const auto attributes = [](Json& json) -> Json& { return json["nodes"][0]["extensions"]["EXT_mesh_gpu_instancing"]["attributes"]; };
        for (const char* name : {"TRANSLATION", "ROTATION"}) {
            Json other = broken;
            attributes(other)[name] = attributes(other)["_ID"];
            QVERIFY(!reads(other));
            attributes(other)[name] = 9999;
            QVERIFY(!reads(other));
        }
        Json shorter = broken;
        shorter["accessors"][attributes(shorter)["SCALE"].get<std::size_t>()]["count"] = 4;
        QVERIFY(!reads(shorter));
    }

    void checkupsOfCopiesAgreeWithBakedOnes() {
        const Geometry out = placed(points(50, 1),
                                    {box(), made("delete", {{"of", "faces"}, {"where", {{"formula", "index == 0"}}}},
                                                 {made("sphere", {{"sides", 8}, {"rings", 6}, {"radius", 0.2}})})},
                                    {{"size", {{"formula", "vec3(1.0 + 0.1 * position.x, 1.0, 2.0)"}}}});
        const Checkup plain = checkupOf(bakeCopies(out)), quick = checkupUnbaked(out, RunContext());
        QCOMPARE(quick.openEdges, plain.openEdges);
        QCOMPARE(quick.closed, plain.closed);
        QCOMPARE(quick.manifold, plain.manifold);
        QCOMPARE(quick.doubledPoints, plain.doubledPoints);
        QVERIFY(near(quick.area, plain.area, plain.area * 1e-4));
        const Geometry solid = placed(points(50, 1), {box()}, {{"size", {{"formula", "vec3(1.0 + 0.1 * position.x, 1.0, 2.0)"}}}});
        QVERIFY(near(checkupUnbaked(solid, RunContext()).volume, signedVolume(bakeCopies(solid)), 1e-5));
        QCOMPARE(intersectionsUnbaked(out), std::uint64_t(0));
    }

    void hugeBakesAreRefused() {
        Limits few;
        few.elements = 1000;
        QCOMPARE(lastCode(runOp("bake_copies", {}, {placed(points(200), {box()})}, few)), std::string("limit.elements"));
        QVERIFY(made("bake_copies", {}, {box()}).faceCount() == 6);
    }

    /// Memory grows with the geometry, not with pieces × points: 14 400 pieces of one shape.
    void everyPieceOfManyIsAShapeOfItsOwn() {
        const Geometry plates = madeOf("place_copies", {{made("grid", {{"size", {240, 240}}, {"cells", {119, 119}}})}, {box(0.5, 0.5, 0.5)}});
        const Geometry pieces = made("bake_copies", {}, {plates});
        QCOMPARE(pieces.faceCount(), 6u * 14400u);
        const Geometry out = placed(points(14400), {pieces}, {{"by_piece", true}});
        QCOMPARE(out.copyCount(), 14400u);
        QCOMPARE(out.copies()->shapes.size(), std::size_t(14400));
        QVERIFY2(out.byteSize() < 100'000'000, qPrintable(QString::number(out.byteSize())));
        for (std::size_t i : {0u, 7000u, 14399u}) {
            QCOMPARE(out.copies()->shapes[i]->faceCount(), 6u);
            QCOMPARE(out.copies()->shapes[i]->pointCount(), 8u);
        }
        // The order is that of the pieces' first points.
        QVERIFY(boundsOf(*out.copies()->shapes[0]).centre() == boundsOf(made("bake_copies", {}, {takeCopies(plates, {0})})).centre());
        Limits few;
        few.elements = 200'000;
        QCOMPARE(lastCode(runPorts("place_copies", {{points(10)}, {pieces}}, {{"by_piece", true}}, few)), std::string("limit.elements"));
    }
};

QTEST_APPLESS_MAIN(TestCopies)
#include "test_copies.moc"

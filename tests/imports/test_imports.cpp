// import_mesh, and the formats that come from others: what a file holds, where its data lies, and what is said of a bad one.
#include "files/FileIo.h"
#include "geometry/Digest.h"
#include "meshes/Base64.h"
#include "meshes/MeshFile.h"
#include "support/Sound.h"
#include "support/StoredZip.h"

#include <fmt/format.h>

#include <QDir>
#include <QTemporaryDir>

#include <random>

using namespace seedloom;
using namespace seedloom::test;

namespace {

template <class T> std::string errorText(const Result<T>& r) { return r ? std::string() : r.error().text; }

/// A glTF of one triangle whose data lies at `uri`.
Json triangleGltf(const std::string& uri) {
    return {{"asset", {{"version", "2.0"}}},
            {"scene", 0},
            {"scenes", {{{"nodes", {0}}}}},
            {"nodes", {{{"mesh", 0}, {"translation", {0, 5, 0}}}}},
            {"meshes", {{{"primitives", {{{"attributes", {{"POSITION", 0}}}}}}}}},
            {"buffers", {{{"byteLength", 36}, {"uri", uri}}}},
            {"bufferViews", {{{"buffer", 0}, {"byteLength", 36}}}},
            {"accessors", {{{"bufferView", 0}, {"componentType", 5126}, {"count", 3}, {"type", "VEC3"}}}}};
}
std::string triangleData() {
    const std::array<float, 9> numbers{0, 0, 0, 1, 0, 0, 0, 1, 0};
    return {reinterpret_cast<const char*>(numbers.data()), sizeof numbers};
}

/// A 3MF with the given model part.
std::string threeMf(const std::string& model) {
    return storedZip(
        {{"[Content_Types].xml", R"(<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">)"
                                 R"(<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>)"
                                 R"(<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>)"},
         {"_rels/.rels",
          R"(<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">)"
          R"(<Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>)"},
         {"3D/3dmodel.model", model}});
}
/// A brick of 20 × 10 × 40 units standing on z = 0, placed by `build`.
std::string brick(const std::string& unit, const std::string& resources, const std::string& build) {
    std::string out =
        R"(<?xml version="1.0" encoding="UTF-8"?><model unit=")" + unit +
        R"(" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices>)";
    for (int i = 0; i < 8; ++i) out += fmt::format(R"(<vertex x="{}" y="{}" z="{}"/>)", i & 1 ? 20 : 0, i & 2 ? 10 : 0, i & 4 ? 40 : 0);
    out += "</vertices><triangles>";
    for (const auto& t :
         {std::array{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4}, {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}})
        out += fmt::format(R"(<triangle v1="{}" v2="{}" v3="{}"/>)", t[0], t[1], t[2]);
    return out + "</triangles></mesh></object>" + resources + "</resources><build>" + build + "</build></model>";
}

}  // namespace

class TestImports : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::string file(const char* name) const { return folder_.filePath(QString::fromLatin1(name)).toStdString(); }
    std::string written(const char* name, std::string_view bytes) const {
        const auto problem = writeFileAtomically(file(name), bytes);
        Q_ASSERT(!problem);
        return file(name);
    }
    OperatorOutcome imported(const std::string& path, Json settings = Json::object()) const {
        settings["file"] = path;
        return runOp("import_mesh", settings);
    }
    static bool said(const OperatorOutcome& out, const char* code) {
        return std::any_of(out.notices.begin(), out.notices.end(), [&](const Notice& n) { return n.code == code; });
    }

private Q_SLOTS:
    void base64IsThatOfTheStandard() {
        // The test vectors of RFC 4648, section 10.
        const std::vector<std::pair<std::string, std::string>> vectors{
            {"", ""}, {"f", "Zg=="}, {"fo", "Zm8="}, {"foo", "Zm9v"}, {"foob", "Zm9vYg=="}, {"fooba", "Zm9vYmE="}, {"foobar", "Zm9vYmFy"}};
        for (const auto& [plain, coded] : vectors) {
            QCOMPARE(base64Encoded(plain), coded);
            QCOMPARE(*base64Decoded(coded), plain);
        }
        std::string all;
        for (int i = 0; i < 256; ++i) all += static_cast<char>(i);
        QCOMPARE(*base64Decoded(base64Encoded(all)), all);
        for (const char* bad : {"Z", "Zm9v!", "Zm 9v", "Zg=a"}) QVERIFY2(!base64Decoded(bad), bad);
        QCOMPARE(percentDecoded("dune%20post%2ebin%2"), std::string("dune post.bin%2"));
    }

    void gltfTakesItsDataFromTextOrBeside() {
        const std::string data = triangleData();
        const std::string inText = written("in-text.gltf", triangleGltf("data:application/octet-stream;base64," + base64Encoded(data)).dump());
        written("the data.bin", data);
        const std::string beside = written("beside.gltf", triangleGltf("the%20data.bin").dump());
        for (const std::string& path : {inText, beside}) {
            const auto g = readMesh(path);
            QVERIFY2(bool(g), errorText(g).c_str());
            QCOMPARE(g->faceCount(), 1u);
            QCOMPARE(g->positions(), (std::vector<Vec3>{{0, 5, 0}, {1, 5, 0}, {0, 6, 0}}));
        }
    }

    void gltfNeverReadsOutsideOfItsFolder() {
        const QString inner = folder_.filePath("inner");
        QVERIFY(QDir().mkpath(inner));
        written("secret.bin", triangleData());
        for (const std::string& uri : {std::string("../secret.bin"), file("secret.bin"), "file://" + file("secret.bin"), std::string("a/../../secret.bin")}) {
            const std::string path = written("inner/reaching.gltf", triangleGltf(uri).dump());
            QVERIFY2(errorText(readMesh(path)).find("not in its folder") != std::string::npos, uri.c_str());
        }
        const std::string lost = written("lost.gltf", triangleGltf("gone.bin").dump());
        QVERIFY(errorText(readMesh(lost)).find("'gone.bin'") != std::string::npos);
        QVERIFY(errorText(gltfFromBytes(triangleGltf("data:;base64,@@").dump())).find("base64") != std::string::npos);
        written("short.bin", triangleData().substr(0, 35));
        QVERIFY(errorText(readMesh(written("short.gltf", triangleGltf("short.bin").dump()))).find("beyond its buffer") != std::string::npos);
    }

    void gltfAsTextHoldsTheSameAsBinary() {
        const Geometry ball = made("sphere");
        const auto text = gltfFromBytes(gltfToText(ball)), binary = gltfFromBytes(glbToBytes(ball));
        QVERIFY2(bool(text), errorText(text).c_str());
        QCOMPARE(digestOf(*text), digestOf(*binary));
        QVERIFY(Json::parse(gltfToText(Geometry())).contains("scenes"));
    }

    void threeMfComesInUprightAndInMetres_data() {
        QTest::addColumn<QString>("unit");
        QTest::addColumn<double>("metres");
        QTest::newRow("mm") << "millimeter" << 1e-3;
        QTest::newRow("cm") << "centimeter" << 1e-2;
        QTest::newRow("inch") << "inch" << 0.0254;
        QTest::newRow("foot") << "foot" << 0.3048;
        QTest::newRow("m") << "meter" << 1.0;
        QTest::newRow("micron") << "micron" << 1e-6;
    }
    void threeMfComesInUprightAndInMetres() {
        QFETCH(QString, unit);
        QFETCH(double, metres);
        const auto g = threeMfFromBytes(threeMf(brick(unit.toStdString(), "", R"(<item objectid="1"/>)")));
        QVERIFY2(bool(g), errorText(g).c_str());
        verifySolid(*g);
        QVERIFY(near(checkupOf(*g).volume / (8000 * metres * metres * metres), 1, 1e-4));
        const Bounds b = boundsOf(*g);
        // Its z is our y, its y our −z.
        QVERIFY(near(b.min.y, 0, 1e-9) && near(b.max.y / (40 * metres), 1, 1e-5) && near(b.min.z / (-10 * metres), 1, 1e-5) &&
                near(b.max.x / (20 * metres), 1, 1e-5));
    }

    void threeMfPlacesItemsAndComponents() {
        // Two bricks side by side in an object of components, one of them mirrored; the whole once more, moved up by 100.
        const std::string parts =
            R"(<object id="2" type="model"><components><component objectid="1"/><component objectid="1" transform="-1 0 0 0 1 0 0 0 1 -5 0 0"/></components>)"
            R"(</object>)";
        const auto g =
            threeMfFromBytes(threeMf(brick("millimeter", parts, R"(<item objectid="2"/><item objectid="2" transform="1 0 0 0 1 0 0 0 1 0 0 100"/>)")));
        QVERIFY2(bool(g), errorText(g).c_str());
        QCOMPARE(g->faceCount(), 48u);
        verifySolid(*g);
        QVERIFY(near(checkupOf(*g).volume, 4 * 8e-6, 1e-9));
        const Bounds b = boundsOf(*g);
        QVERIFY(near(b.min.x, -0.025, 1e-6) && near(b.max.x, 0.02, 1e-6) && near(b.max.y, 0.14, 1e-6));
    }

    void damagedThreeMfIsAnError() {
        const std::string good = threeMf(brick("millimeter", "", R"(<item objectid="1"/>)"));
        std::mt19937 random(5);
        int refused = 0;
        for (int i = 0; i < 400; ++i) {
            std::string bytes = good;
            if (i % 4 == 0) bytes.resize(random() % good.size());
            for (unsigned k = 0; i % 4 != 0 && k <= random() % 4; ++k) bytes[random() % bytes.size()] = static_cast<char>(random());
            const auto g = threeMfFromBytes(bytes);
            refused += !g;
            QCOMPARE(g ? std::string(g->topology().problem()) : g.error().code, g ? std::string() : std::string("mesh.format"));
        }
        QVERIFY(refused > 100);
        for (const char* bytes : {"", "PK", "no zip at all"}) QVERIFY(!threeMfFromBytes(bytes));
        QVERIFY(!threeMfFromBytes(threeMf("<model/>")));
    }

    void componentsThatMultiplyAreRefused() {
        // Each object holds the one before ten times: a million bricks in a file of some kilobytes.
        std::string nested;
        for (int id = 2; id <= 7; ++id) {
            nested += fmt::format(R"(<object id="{}" type="model"><components>)", id);
            for (int i = 0; i < 10; ++i) nested += fmt::format(R"(<component objectid="{}"/>)", id - 1);
            nested += "</components></object>";
        }
        QVERIFY(errorText(threeMfFromBytes(threeMf(brick("millimeter", nested, R"(<item objectid="7"/>)")))).find("more components") != std::string::npos);
    }

    void endingsSayWhatCanBeDone() {
        QVERIFY(isReadable("A.3MF") && !isWritable("a.3mf") && isReadable("a.gltf") && isWritable("a.GLTF") && !isReadable("a.txt"));
        QCOMPARE(writeMesh(Geometry(), file("a.3mf"))->code, std::string("mesh.ending"));
        QCOMPARE(readMesh(file("a.txt")).error().code, std::string("mesh.ending"));
    }

    void aTextStlThatBreaksOffIsAnError() {
        QVERIFY(errorText(stlFromBytes("solid quay\nfacet normal 0 0 1\nouter loop\n")).find("breaks off") != std::string::npos);
        QVERIFY(errorText(stlFromBytes("solid quay\nfacet\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n")).find("not complete") != std::string::npos);
        QCOMPARE(stlFromBytes("solid nothing\nendsolid nothing\n")->faceCount(), 0u);
    }

    void anEmptyFileIsToldOf() { QVERIFY(said(imported(written("nothing.stl", "solid nothing\nendsolid nothing\n")), "import.empty")); }

    void axesKeepHandednessAndTurnUp_data() {
        QTest::addColumn<QString>("up");
        QTest::addColumn<int>("axis");
        QTest::addColumn<int>("sign");
        QTest::newRow("y") << "y" << 1 << 1;
        QTest::newRow("z") << "z" << 2 << 1;
        QTest::newRow("x") << "x" << 0 << 1;
        QTest::newRow("-y") << "-y" << 1 << -1;
    }
    void axesKeepHandednessAndTurnUp() {
        QFETCH(QString, up);
        QFETCH(int, axis);
        QFETCH(int, sign);
        // A box that reaches furthest along the axis that is up.
        Vec3 size{1, 2, 3}, middle{};
        (&size.x)[axis] = 8, (&middle.x)[axis] = float(4 * sign);
        const Geometry box = made("transform", {{"move", {middle.x, middle.y, middle.z}}}, {made("box", {{"size", {size.x, size.y, size.z}}})});
        QVERIFY(!writeMesh(box, file("box.obj")));
        const auto out = imported(file("box.obj"), {{"up", up.toStdString()}, {"scale", 0.5}});
        QVERIFY(!out.failed);
        const Bounds b = boundsOf(out.geometry);
        QVERIFY(near(b.min.y, 0, 1e-6) && near(b.max.y, 4, 1e-6));
        verifySolid(out.geometry);  // a mirroring map would turn the volume negative
        QVERIFY(near(checkupOf(out.geometry).volume, double(size.x) * size.y * size.z / 8, 1e-4));
    }

    void windingIsMadeConsistent() {
        const Geometry ball = made("sphere");
        std::vector<std::uint8_t> turn(ball.faceCount(), 0);
        for (std::size_t f = 0; f < turn.size(); f += 3) turn[f] = 1;
        Geometry mixed = made("flip", {{"where", {{"attribute", "turned"}}}}, {[&] {
                                  Geometry g = ball;
                                  g.setColumn(Element::face, "turned", Column(std::vector<std::uint8_t>(turn)));
                                  return g;
                              }()});
        QVERIFY(!checkupOf(mixed).consistentWinding);
        QVERIFY(!writeMesh(mixed, file("mixed.ply")));
        QVERIFY(!checkupOf(imported(file("mixed.ply"), {{"winding", "keep"}}).geometry).consistentWinding);
        const auto out = imported(file("mixed.ply"), {{"winding", "make consistent"}});
        verifySolid(out.geometry);
        QVERIFY(said(out, "import.turned"));
        QVERIFY(!writeMesh(ball, file("ball.ply")));
        QVERIFY(checkupOf(imported(file("ball.ply"), {{"winding", "flip"}}).geometry).volume < 0);
    }

    void pointsOnTopOfOthersAreWeldedWithinTheDistance() {
        const Geometry apart = made("separate", {{"by", "each face"}}, {made("box")});
        QCOMPARE(apart.pointCount(), 24u);
        QVERIFY(!writeMesh(apart, file("apart.obj")));
        QCOMPARE(imported(file("apart.obj"), {{"weld", false}}).geometry.pointCount(), 24u);
        const auto joined = imported(file("apart.obj"));
        QCOMPARE(joined.geometry.pointCount(), 8u);
        QVERIFY(said(joined, "import.welded"));
        // Corners that miss each other by a tenth of a millimetre.
        Geometry loose = apart;
        std::vector<Vec3> moved = loose.positions();
        for (std::size_t p = 0; p < moved.size(); ++p) moved[p] += Vec3{1e-4f, 0, 0} * float(p / 4 % 2);
        loose.setPositions(std::move(moved));
        QVERIFY(!writeMesh(loose, file("loose.obj")));
        QVERIFY(imported(file("loose.obj")).geometry.pointCount() > 8u);
        QCOMPARE(imported(file("loose.obj"), {{"weld_distance", 1e-3}}).geometry.pointCount(), 8u);
    }

    void unlikelySizesAndMissingFilesAreToldOf() {
        QVERIFY(!writeMesh(made("box", {{"size", {2000, 1, 1}}}), file("large.obj")));
        QVERIFY(said(imported(file("large.obj")), "import.size"));
        QVERIFY(!said(imported(file("large.obj"), {{"scale", 0.001}}), "import.size"));
        QCOMPARE(lastCode(imported("")), std::string("input.missing"));
        QCOMPARE(lastCode(imported(file("none.obj"))), std::string("file.read"));
        QCOMPARE(lastCode(imported(file("none.doc"))), std::string("mesh.ending"));
        QVERIFY(!writeMesh(made("sphere", {{"sides", 200}, {"rings", 100}}), file("fine.obj")));
        Limits few;
        few.elements = 1000;
        QVERIFY(runOp("import_mesh", {{"file", file("fine.obj")}}, {}, few).failed);
    }

    void theTreatmentOfAScanEndsInASolid() {
        // A ball with a hole, its faces unjoined and some turned over, in millimetres with z up, as STL: then consistent, voxel remesh, even remesh.
        Geometry ball =
            made("delete", {{"of", "faces"}, {"where", {{"formula", "position.y > 45.0"}}}}, {made("sphere", {{"radius", 50}, {"sides", 48}, {"rings", 32}})});
        QVERIFY(!checkupOf(ball).closed);
        QVERIFY(!writeMesh(made("flip", {{"where", {{"formula", "float(index % 5 == 0)"}}}}, {ball}), file("scan.stl")));
        const auto in = imported(file("scan.stl"), {{"up", "z"}, {"scale", 0.001}, {"winding", "make consistent"}});
        QVERIFY(!in.failed);
        QVERIFY(checkupOf(in.geometry).consistentWinding && !checkupOf(in.geometry).closed);
        const Geometry closed = made("voxel_remesh", {{"voxel", 0.004}, {"close", 0.05}}, {in.geometry});
        verifySolid(closed);
        QVERIFY(near(checkupOf(closed).volume / (4.0 / 3 * M_PI * 1.25e-4), 1, 0.06));
        verifySolid(made("remesh", {{"edge_length", 0.005}}, {closed}));
    }
};

QTEST_APPLESS_MAIN(TestImports)
#include "test_imports.moc"

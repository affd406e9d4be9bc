// Loom documents and mesh files: round trips, damaged input, atomic writing.
#include "files/FileIo.h"
#include "formats/Journal.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "meshes/MeshFile.h"
#include "support/Run.h"

#include <set>
#include <thread>

#include <QtCore/QTemporaryDir>

#include <random>

using namespace seedloom;
using namespace seedloom::test;

namespace {

constexpr const char* kFull = R"({
  "seedloom": 1,
  "name": "Mooring bollard",
  "author": "Gull Rock harbour",
  "controls": [
    {"id": "height", "label": "Height", "type": "number", "default": 0.9, "min": 0.3, "max": 2.0, "unit": "m", "section": "Body", "help": "From the quay.",
"tint": 3}
  ],
  "presets": [{"name": "Stout", "values": {"height": 0.6}, "starred": true}],
  "nodes": [
    {"id": "outline", "op": "point_list", "cell": [0, 0], "settings": {"points": [[0,0,0],[0.4,0,0],[0.3,0.9,0]], "join": "open curve"}},
    {"id": "shine", "op": "polish_from_tomorrow", "cell": [1, 0], "skip": true, "weight": 2.5, "settings": {"gloss": {"moon": 1}}},
    {"id": "out", "op": "output", "cell": [2, 0], "settings": {}}
  ],
  "links": [["outline", "shine"], {"from": "shine", "out": "pieces", "to": "out", "in": "in", "cut": true, "slack": 1}],
  "notes": [{"id": "n", "text": "Keep the eye below the cap.", "cell": [0, 1], "columns": 2}],
  "output": "out"
})";

Geometry sampleMesh() {
    Geometry g = made("box", {{"cells", {2, 2, 2}}});
    std::vector<float> mask;
    std::vector<Vec3> color;
    for (Vec3 p : g.positions()) mask.push_back(p.y + 0.5f), color.push_back({p.x + 0.5f, 0.25f, 1});
    g.setColumn(Element::point, "mask", Column(mask));
    g.setColumn(Element::point, "color", Column(color));
    return g;
}

std::string formatError(const Result<Geometry>& result) { return result ? std::string() : result.error().code; }

}  // namespace

class TestFormats : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void loomRoundTripKeepsEverything() {
        const auto loom = loomFromText(kFull);
        QVERIFY2(bool(loom), loom ? "" : loom.error().text.c_str());
        const std::string text = loomToText(*loom);
        const auto again = loomFromText(text);
        QVERIFY(bool(again));
        QVERIFY(*again == *loom);
        QCOMPARE(loomToText(*again), text);
        // Nothing of the original is missing, known or not.
        const Json before = Json::parse(kFull), now = Json::parse(text);
        for (const auto& [key, value] : before.items()) QVERIFY2(now.contains(key), key.c_str());
        QCOMPARE(now["author"], before["author"]);
        QCOMPARE(now["controls"][0]["tint"], Json(3));
        QCOMPARE(now["presets"][0]["starred"], Json(true));
        QCOMPARE(now["nodes"][1]["settings"]["gloss"]["moon"], Json(1));
        QCOMPARE(now["nodes"][1]["weight"], Json(2.5));
        QCOMPARE(now["links"][1]["slack"], Json(1));
        QCOMPARE(now["links"][1]["cut"], Json(true));
        // What is not cut is written as short as before.
        Loom joined = *loomFromText(kFull);
        QVERIFY(joined.links[1].cut && !joined.links[0].cut);
        joined.links[1].cut = false;
        QVERIFY(!Json::parse(loomToText(joined))["links"][1].contains("cut"));
        QVERIFY(!loomFromText(QString::fromUtf8(kFull).replace("\"cut\": true", "\"cut\": 1").toStdString()));
        QCOMPARE(now["links"][0], before["links"][0]);
    }

    void oneSettingALine() {
        auto loom = *loomFromText(kFull);
        const std::string before = loomToText(loom);
        loom.nodes[0].settings["join"] = "closed curve";
        const QStringList a = QString::fromStdString(before).split('\n'), b = QString::fromStdString(loomToText(loom)).split('\n');
        QCOMPARE(a.size(), b.size());
        int changed = 0;
        for (int i = 0; i < a.size(); ++i) changed += a[i] != b[i];
        QCOMPARE(changed, 1);
    }

    void badLoomsSayWhere_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("code");
        QTest::addColumn<QString>("part");
        const auto row = [](const char* text, const char* code, const char* part) { QTest::newRow(part) << text << code << part; };
        row("", "loom.syntax", "Line 1, column 1");
        row("{\n  \"seedloom\": 1,\n  nodes\n}", "loom.syntax", "Line 3, column");
        row("[]", "loom.structure", "'seedloom' is missing");
        row(R"({"seedloom": 99})", "loom.version", "format 99");
        row(R"({"seedloom": "1"})", "loom.structure", "number of the format");
        row(R"({"seedloom": 1, "nodes": {}})", "loom.structure", "nodes");
        row(R"({"seedloom": 1, "nodes": [{"id": "a"}]})", "loom.structure", "'op' is missing");
        row(R"({"seedloom": 1, "nodes": [{"id": "a", "op": "line", "cell": [1.5, 0]}]})", "loom.structure", "nodes[0].cell");
        row(R"({"seedloom": 1, "nodes": [{"id": "a", "op": "line"}, {"id": "a", "op": "box"}]})", "loom.structure", "'a' is there twice");
        row(R"({"seedloom": 1, "links": [["a"]]})", "loom.structure", "links[0]");
        row(R"({"seedloom": 1, "controls": [{"label": "x"}]})", "loom.structure", "controls[0]");
    }
    void badLoomsSayWhere() {
        QFETCH(QString, text);
        QFETCH(QString, code);
        QFETCH(QString, part);
        const auto loom = loomFromText(text.toStdString());
        QVERIFY(!loom);
        QCOMPARE(QString::fromStdString(loom.error().code), code);
        QVERIFY2(QString::fromStdString(loom.error().text).contains(part), loom.error().text.c_str());
    }

    void deepNestingIsAnError() {
        const std::string deep = "{\"seedloom\": 1, \"x\": " + std::string(100000, '[') + std::string(100000, ']') + "}";
        QCOMPARE(loomFromText(deep).error().code, std::string("loom.syntax"));
    }

    /// The document with bytes changed, cut and doubled: read, or refused with a text; what is read can be written again.
    void loomFuzz() {
        std::mt19937 random(31);
        for (int i = 0; i < 3000; ++i) {
            std::string text = kFull;
            for (unsigned k = 0; k <= random() % 4; ++k) {
                const std::size_t at = random() % text.size();
                switch (random() % 4) {
                    case 0: text[at] = static_cast<char>(random()); break;
                    case 1: text.erase(at, random() % 20); break;
                    case 2: text.insert(at, text.substr(random() % text.size(), random() % 30)); break;
                    default: text.insert(at, std::string(1, "{}[]\",:0-e"[random() % 10])); break;
                }
                if (text.empty()) text = "{";
            }
            const auto loom = loomFromText(text);
            if (!loom) {
                QVERIFY(!loom.error().text.empty());
                continue;
            }
            QVERIFY(bool(loomFromText(loomToText(*loom))));
            loomProblems(*loom, {});
        }
    }

    void problemsAreFoundWithoutBuilding() {
        auto loom = *loomFromText(kFull);
        std::set<std::string> codes;
        for (const LoomProblem& p : loomProblems(loom, {})) codes.insert(p.code);
        QCOMPARE(codes, (std::set<std::string>{"operator.unknown"}));
        loom.nodes[1].op = "weld";
        loom.nodes[1].settings = {{"distanze", 1}, {"distance", {{"control", "nope"}}}, {"where", {{"formula", "(("}}}};
        loom.links[1] = {"shine", "", "nowhere", "", Json::object()};
        loom.links.push_back({"out", "", "shine", "", Json::object()});
        loom.links.push_back({"shine", "", "out", "", Json::object()});
        loom.presets[0].values["height"] = 99;
        codes.clear();
        for (const LoomProblem& p : loomProblems(loom, {})) codes.insert(p.code);
        for (const char* code : {"setting.unknown", "setting.unknown_control", "formula.syntax", "link.nowhere", "graph.cycle", "control.range"})
            QVERIFY2(codes.count(code), code);
    }

    void conditionsAreTriedWithoutBuilding() {
        Loom loom;
        Control control;
        control.id = "height", control.shownWhen = "ctl.height > 0.5";
        loom.controls = {control};
        QVERIFY(loomProblems(loom, {}).empty());
        loom.controls[0].shownWhen = "ctl.hieght > 0.5";
        QCOMPARE(loomProblems(loom, {}).front().code, std::string("formula.unknown_name"));
        loom.controls[0].shownWhen.clear();
        loom.controls[0].allowedWhen = "ctl.height > 0.5";
        QCOMPARE(loomProblems(loom, {}).front().code, std::string("control.not_allowed"));
    }

    void plainValuesAreHeldAgainstTheDeclaration_data() {
        QTest::addColumn<QString>("setting");
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("code");
        const auto row = [](const char* what, const char* setting, const char* value, const char* code) { QTest::newRow(what) << setting << value << code; };
        row("yes", "ridged", "true", "");
        row("one for yes", "ridged", "1", "");
        row("text for yes", "ridged", "\"yes\"", "setting.type");
        row("list for yes", "ridged", "[1, 0]", "setting.type");
        row("number", "size", "0.5", "");
        row("text for a number", "size", "\"large\"", "setting.type");
        row("null for a number", "size", "null", "setting.type");
        row("the least", "blend", "0", "");
        row("the most", "blend", "1", "");
        row("under the least", "blend", "-0.01", "setting.range");
        row("over the most", "blend", "1.01", "setting.range");
        row("one number for three", "stretch", "2", "");
        row("three numbers", "stretch", "[1, 2, 3]", "");
        row("two numbers for three", "stretch", "[1, 2]", "setting.type");
        row("one of three out of range", "stretch", "[1, -2, 3]", "setting.range");
        row("a choice", "kind", "\"cells\"", "");
        row("no choice", "kind", "\"marble\"", "setting.choice");
        row("number of a choice", "kind", "0", "");
        row("number of no choice", "kind", "99", "setting.choice");
        row("number for a text", "attribute", "3", "setting.type");
        row("text", "attribute", "\"tone\"", "");
    }

    // The same in the file's problems as in a build, so that nothing is taken in silence.
    void plainValuesAreHeldAgainstTheDeclaration() {
        QFETCH(QString, setting);
        QFETCH(QString, value);
        QFETCH(QString, code);
        Loom loom;
        Node node;
        node.id = "bumps";
        node.op = "noise_displace";
        node.settings.edit()[setting.toStdString()] = Json::parse(value.toStdString());
        loom.nodes.push_back(node);
        const auto problems = loomProblems(loom, {});
        QCOMPARE(problems.empty() ? std::string() : problems.front().code, code.toStdString());
        if (setting == "attribute") return;  // read only where the bumps go along one
        QCOMPARE(lastCode(runOp("noise_displace", node.settings.get(), {made("box")})), code.toStdString());
        if (!code.isEmpty()) QVERIFY(problems.front().text.find(findOperator("noise_displace")->setting(setting.toStdString())->label) != std::string::npos);
    }

    void savingIsAtomicAndKeepsTheLastCopy() {
        QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("post.loom").toStdString();
        Loom loom = *loomFromText(kFull);
        QVERIFY(!writeLoom(loom, file));
        loom.name = "Second";
        QVERIFY(!writeLoom(loom, file));
        QCOMPARE(readLoom(file)->name, std::string("Second"));
        QCOMPARE(loomFromText(*readFile(file.string() + "~"))->name, std::string("Mooring bollard"));
        // A place that can't be written: an error that says so, and the old file as it was.
        const auto error = writeLoom(loom, folder.filePath("missing/post.loom").toStdString());
        QVERIFY(error && error->code == "file.write" && error->text.find("missing") != std::string::npos);
        QCOMPARE(readLoom(folder.filePath("none.loom").toStdString()).error().code, std::string("file.read"));
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files).filter(".part").size(), 0);
    }

    void fullDisksLeaveTheOldFile() {
        // /dev/full takes no byte: writing beside it fails the same way as on a full disk.
        QVERIFY(writeFileAtomically("/dev/full/x", "text"));
        QTemporaryDir folder;
        const std::filesystem::path file = folder.filePath("a.obj").toStdString();
        QVERIFY(!writeFileAtomically(file, "old"));
        QVERIFY(writeMesh(sampleMesh(), folder.filePath("a.xyz").toStdString())->code == "mesh.ending");
        QCOMPARE(*readFile(file), std::string("old"));
    }

    void meshesRoundTrip_data() {
        QTest::addColumn<QString>("ending");
        for (const char* ending : {".obj", ".ply", ".stl", ".glb", ".gltf"}) QTest::newRow(ending) << ending;
    }
    void meshesRoundTrip() {
        QFETCH(QString, ending);
        QTemporaryDir folder;
        const std::filesystem::path file = (folder.path() + "/box" + ending).toStdString();
        const Geometry box = sampleMesh();
        QVERIFY(!writeMesh(box, file));
        const auto back = readMesh(file);
        QVERIFY2(bool(back), back ? "" : back.error().text.c_str());
        QCOMPARE(back->pointCount(), box.pointCount());
        const Checkup c = checkupOf(*back);
        QVERIFY(c.sound());
        QVERIFY(near(c.volume, 1, 1e-5));
        const bool triangles = ending != ".obj" && ending != ".ply";
        QCOMPARE(back->faceCount(), box.faceCount() * (triangles ? 2 : 1));
        if (ending != ".stl") QCOMPARE(back->column(Element::corner, "uv") != nullptr, true);
        if (ending.startsWith(".gl") || ending == ".ply") {
            QVERIFY(back->column(Element::point, "mask"));
            QVERIFY(back->column(Element::point, "color") || back->column(Element::corner, "color"));
        }
        // The same geometry, the same bytes.
        const std::string first = *readFile(file);
        QVERIFY(!writeMesh(box, file));
        QCOMPARE(*readFile(file), first);
    }

    void objKeepsPointsInOrderToTheBit() {
        Geometry g = made("noise_displace", Json::object(), {made("sphere")});
        const auto back = objFromBytes(objToBytes(g));
        QCOMPARE(back->positions(), g.positions());
        QCOMPARE(back->topology().cornerPoint(), g.topology().cornerPoint());
    }

    void objTakesWhatOthersWrite() {
        const auto g = objFromBytes(
            "# x\r\nv 0 0 0\r\nv +1 0 0 1.0\nv 1 1 \\\n 0\nvt 0 0\nvn 0 0 1\ng part\nusemtl red\nf 1/1/1 2/1/1 -1/1/1\nf 1//1 2//1 3//1\nl 1 2 3 1\ns off\n");
        QVERIFY2(bool(g), g ? "" : g.error().text.c_str());
        QCOMPARE(g->faceCount(), 2u);
        QCOMPARE(g->curveCount(), 1u);
        QVERIFY(g->topology().curveClosed(0));
        QVERIFY(g->column(Element::corner, "normal"));
        const auto bad = objFromBytes("v 0 0 0\nf 1 2 3\n");
        QVERIFY(bad.error().text.find("Line 2") != std::string::npos);
    }

    void curvesAndPointsSurvive() {
        const Geometry curve = made("polygon");
        for (const auto& back : {objFromBytes(objToBytes(curve)), gltfFromBytes(glbToBytes(curve))}) {
            QCOMPARE(back->curveCount(), 1u);
            QCOMPARE(back->pointCount(), 6u);
        }
        QCOMPARE(gltfFromBytes(glbToBytes(Geometry(std::vector<Vec3>{{1, 2, 3}, {4, 5, 6}})))->pointCount(), 2u);
        QCOMPARE(gltfFromBytes(glbToBytes(Geometry()))->pointCount(), 0u);
        QCOMPARE(plyFromBytes(plyToBytes(curve))->curveCount(), 6u);
    }

    void glbIsAsTheStandardSays() {
        const std::string bytes = glbToBytes(sampleMesh());
        const auto word = [&](std::size_t at) {
            std::uint32_t v;
            std::memcpy(&v, bytes.data() + at, 4);
            return v;
        };
        QCOMPARE(word(8), std::uint32_t(bytes.size()));
        QCOMPARE(bytes.size() % 4, 0u);
        const Json root = Json::parse(bytes.substr(20, word(12)));
        QCOMPARE(root["asset"]["version"], Json("2.0"));
        const Json& attributes = root["meshes"][0]["primitives"][0]["attributes"];
        for (const char* name : {"POSITION", "NORMAL", "TEXCOORD_0", "COLOR_0", "_MASK", "_TOP"}) QVERIFY2(attributes.contains(name), name);
        const Json& positions = root["accessors"][attributes["POSITION"].get<std::size_t>()];
        QCOMPARE(positions["min"], Json({-0.5, -0.5, -0.5}));
        for (const auto& [name, accessor] : attributes.items()) QCOMPARE(root["accessors"][accessor.get<std::size_t>()]["count"], positions["count"]);
    }

    void stlTextAndTrickyBinaries() {
        const char* text = "solid quay\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1e0 0\nendloop\nendfacet\nendsolid quay\n";
        QCOMPARE(stlFromBytes(text)->faceCount(), 1u);
        std::string binary = stlToBytes(made("box"));
        std::memcpy(binary.data(), "solid lies", 10);
        QCOMPARE(stlFromBytes(binary)->faceCount(), 12u);
        QCOMPARE(formatError(stlFromBytes(binary.substr(0, 400))), std::string("mesh.format"));
    }

    void plyTextBigEndianAndLies() {
        const char* text =
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty double x\nproperty double y\nproperty double z\nproperty uchar red\nproperty uchar "
            "green\nproperty uchar blue\n"
            "element face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0 255 0 0\n1 0 0 0 255 0\n0 1 0 0 0 255\n3 0 1 2\n";
        const auto g = plyFromBytes(text);
        QVERIFY2(bool(g), g ? "" : g.error().text.c_str());
        QCOMPARE(g->values<Vec3>(Element::point, "color")->at(0), (Vec3{1, 0, 0}));
        std::string big = "ply\nformat binary_big_endian 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n";
        big += std::string("\x3f\x80\0\0\x40\0\0\0\x40\x40\0\0", 12);
        QCOMPARE(plyFromBytes(big)->positions()[0], (Vec3{1, 2, 3}));
        QCOMPARE(formatError(plyFromBytes("ply\nformat ascii 1.0\nelement vertex 99999999999\nproperty float x\nend_header\n1\n")), std::string("mesh.format"));
        QCOMPARE(formatError(plyFromBytes("ply\nformat ascii 1.0\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n3 0 1 2\n")),
                 std::string("mesh.format"));
    }

    /// Good files with bytes changed and cut: a geometry that holds together or an error, for every reader.
    void meshFuzz_data() {
        QTest::addColumn<int>("format");
        for (int i = 0; i < 5; ++i) QTest::newRow(std::array{"obj", "stl", "ply", "glb", "gltf"}[std::size_t(i)]) << i;
    }
    void meshFuzz() {
        QFETCH(int, format);
        const auto write = std::array{objToBytes, stlToBytes, plyToBytes, glbToBytes, gltfToText}[std::size_t(format)];
        const auto gltf = [](std::string_view bytes) { return gltfFromBytes(bytes); };
        const auto read = std::array<Result<Geometry> (*)(std::string_view), 5>{objFromBytes, stlFromBytes, plyFromBytes, gltf, gltf}[std::size_t(format)];
        const std::string good = write(made("merge", Json::object(), {sampleMesh(), made("polygon")}));
        std::mt19937 random(77);
        int refused = 0;
        for (int i = 0; i < 2500; ++i) {
            std::string bytes = good;
            for (unsigned k = 0; k <= random() % 6; ++k) {
                if (bytes.empty()) bytes = good;
                const std::size_t at = random() % 3 ? random() % std::min<std::size_t>(bytes.size(), 1500) : random() % bytes.size();
                switch (random() % 4) {
                    case 0: bytes[at] = static_cast<char>(random()); break;
                    case 1: bytes[at] = "0123456789-{}[],\" "[random() % 18]; break;
                    case 2: bytes.erase(at, 1 + random() % 40); break;
                    default: bytes.resize(at + 1); break;
                }
            }
            const auto result = read(bytes);
            if (result) {
                QCOMPARE(result->topology().problem(), "");
            } else {
                QVERIFY(!result.error().text.empty());
                ++refused;
            }
        }
        QVERIFY(refused > 100);
    }

    void tintsAndNotesAreKept() {
        const char* text =
            R"({"seedloom": 1, "nodes": [{"id": "a", "op": "box", "tint": 4},
{"id": "b", "op": "box", "tint": 99}], "notes": [{"id": "n", "text": "Mind the tide", "cell": [1, 2], "columns": 3}]})";
        const auto loom = loomFromText(text);
        QVERIFY(loom);
        QCOMPARE(loom->nodes[0].tint, 4);
        QCOMPARE(loom->nodes[1].tint, kTints);
        const auto again = loomFromText(loomToText(*loom));
        QVERIFY(again && *again == *loom);
        QVERIFY(!loomFromText(R"({"seedloom": 1, "nodes": [{"id": "a", "op": "box", "tint": "red"}]})"));
    }

    /// A journal of any bytes gives an error or what is whole in it.
    void journalsOfAnyBytesAreRead() {
        const QTemporaryDir folder;
        Loom base;
        base.name = "Post";
        const auto file = std::filesystem::path(folder.filePath("any.journal").toStdString());
        auto writer = JournalWriter::start(file, "", base);
        QVERIFY(writer);
        for (int i = 0; i < 5; ++i) {
            const Edit edit = renameLoom(base, "Post " + std::to_string(i));
            QVERIFY(!writer->append(edit));
            base = *applied(base, edit);
        }
        const std::string good = *readFile(file);
        std::mt19937 random(4);
        for (int round = 0; round < 400; ++round) {
            std::string bytes = good;
            for (unsigned k = 0; k < 1 + random() % 4; ++k) {
                const std::size_t at = random() % bytes.size();
                switch (random() % 3) {
                    case 0: bytes[at] = char(random()); break;
                    case 1: bytes.erase(at, random() % 20); break;
                    default: bytes.insert(at, std::string(random() % 9, char(random()))); break;
                }
            }
            QVERIFY(!writeFileAtomically(file, bytes));
            const auto content = readJournal(file);
            if (content) QVERIFY(content->edits.size() <= 5);
        }
    }
};

QTEST_APPLESS_MAIN(TestFormats)
#include "test_formats.moc"

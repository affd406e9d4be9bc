// The command line as scripts see it: exit statuses, streams, files.
#include "cli/Commands.h"
#include "fields/Source.h"
#include "files/FileIo.h"
#include "formats/Pack.h"
#include "operators/Catalogue.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

#include <sstream>

using namespace seedloom;

namespace {

struct Ran {
    int status;
    std::string out, err;
    Json json() const { return Json::parse(out); }
};

Ran run(std::vector<std::string> arguments) {
    std::ostringstream out, err;
    std::atomic<bool> stop{false};
    const int status = runCommandLine(arguments, out, err, stop);
    return {status, out.str(), err.str()};
}

const std::string kDemo = SEEDLOOM_SOURCE "/demo/mooring-bollard.loom";

}  // namespace

class TestCli : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::string path(const char* name) const { return folder_.filePath(name).toStdString(); }
    std::string loom(const char* name, const std::string& text) const {
        writeFileAtomically(path(name), text);
        return path(name);
    }

private Q_SLOTS:
    /// What the issue of the bollard asks for, with every preset.
    void theDemoIsSoundAndFollowsItsControls() {
        const Ran built = run({"build", kDemo, "--json"});
        QCOMPARE(built.status, 0);
        const Json s = built.json();
        QVERIFY2(s["notices"].empty(), s["notices"].dump().c_str());
        for (const char* key : {"closed", "manifold", "consistent_winding"}) QVERIFY2(s["checkup"][key].get<bool>(), key);
        for (const char* key : {"open_edges", "nonmanifold_edges", "degenerate_faces", "doubled_points", "self_intersections"})
            QVERIFY2(s["checkup"][key] == 0, key);
        QVERIFY(s["checkup"]["volume"].get<double>() > 0.01);
        for (double height : {0.6, 0.9, 1.4, 2.0}) {
            const Json tall = run({"build", kDemo, "--json", "--set", "height=" + std::to_string(height)}).json();
            const double size = tall["bounds"]["max"][1].get<double>() - tall["bounds"]["min"][1].get<double>();
            QVERIFY(std::abs(size - height) <= height * 0.001);
            QCOMPARE(tall["bounds"]["min"][1].get<double>(), 0.0);
        }
        for (const char* preset : {"Stout", "Tall", "Storm-worn"}) {
            const Json p = run({"build", kDemo, "--json", "--preset", preset}).json();
            QVERIFY2(p["ok"].get<bool>() && p["notices"].empty() && p["checkup"]["closed"].get<bool>(), preset);
        }
    }

    void theFootStaysFlatWhereTheMaskIsZero() {
        const Ran worn = run({"build", kDemo, "--at", "wobble", "-o", path("profile.obj"), "--set", "wear=1"});
        const Ran even = run({"build", kDemo, "--at", "even", "-o", path("even.obj")});
        QCOMPARE(worn.status + even.status, 0);
        const QStringList a = QString::fromStdString(*readFile(path("profile.obj"))).split('\n'),
                          b = QString::fromStdString(*readFile(path("even.obj"))).split('\n');
        QCOMPARE(a[1], b[1]);  // the foot, to the digit
        QCOMPARE(a[2], b[2]);
        QVERIFY(a[9] != b[9]);  // the waist is worn
    }

    void digestsDoNotDependOnThreads() {
        const std::string one = run({"build", kDemo, "--json", "--threads", "1"}).json()["digest"];
        for (const char* threads : {"2", "8", "0"}) QCOMPARE(run({"build", kDemo, "--json", "--threads", threads}).json()["digest"].get<std::string>(), one);
        QCOMPARE(one.size(), 32u);
        QVERIFY(run({"build", kDemo, "--json", "--set", "seed=3"}).json()["digest"] != one);
    }

    void everyFormatIsAClosedSolidAgain() {
        const int triangles = run({"build", kDemo, "--json"}).json()["counts"]["triangles"].get<int>();
        QVERIFY(triangles > 10000);
        for (const char* ending : {"glb", "obj", "ply", "stl"}) {
            const std::string file = path("bollard.") + ending;
            QCOMPARE(run({"build", kDemo, "-o", file}).status, 0);
            const Ran checked = run({"check", file, "--json"});
            QVERIFY2(checked.status == 0, ending);
            QVERIFY(checked.json()["ok"].get<bool>());
            QCOMPARE(run({"info", file, "--json"}).json()["counts"]["triangles"].get<int>(), triangles);
        }
        QCOMPARE(run({"convert", path("bollard.glb"), path("again.stl")}).status, 0);
        QCOMPARE(run({"check", path("again.stl")}).status, 0);
    }

    void openMeshesFailTheCheck() {
        writeFileAtomically(path("open.obj"), "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
        const Ran checked = run({"check", path("open.obj"), "--json"});
        QCOMPARE(checked.status, 3);
        QCOMPARE(checked.json()["checkup"]["open_edges"].get<int>(), 3);
        QVERIFY(checked.err.find("3 open edges") != std::string::npos);
    }

    void wrongCallsExitWith1() {
        QCOMPARE(run({}).status, 1);
        QCOMPARE(run({"bild", kDemo}).status, 1);
        QCOMPARE(run({"build", kDemo, "--fast"}).status, 1);
        QCOMPARE(run({"build", kDemo, "-o", path("x.dwg")}).status, 1);
        QCOMPARE(run({"build", kDemo, "--set", "heigth=1"}).status, 1);
        QVERIFY(run({"build", kDemo, "--set", "heigth=1"}).err.find("height") != std::string::npos);
        QCOMPARE(run({"build", kDemo, "--set", "height=99"}).status, 1);
        QCOMPARE(run({"build", kDemo, "--set", "height=tall"}).status, 1);
        QCOMPARE(run({"build", kDemo, "--set", "height"}).status, 1);
        QCOMPARE(run({"build", kDemo, "--preset", "Giant"}).status, 1);
        QCOMPARE(run({"build", kDemo, "--at", "nobody"}).status, 1);
        QCOMPARE(run({"operators", "nonsense"}).status, 1);
        QCOMPARE(run({"--help"}).status, 0);
    }

    void unreadableFilesExitWith2() {
        QCOMPARE(run({"build", path("none.loom")}).status, 2);
        QCOMPARE(run({"info", path("none.obj")}).status, 2);
        QCOMPARE(run({"build", loom("bad.loom", "{ nope")}).status, 2);
        QCOMPARE(run({"build", loom("later.loom", R"({"seedloom": 7})")}).status, 2);
        writeFileAtomically(path("bad.glb"), "glTF nonsense");
        const Ran bad = run({"info", path("bad.glb"), "--json"});
        QCOMPARE(bad.status, 2);
        QVERIFY(!bad.json()["ok"].get<bool>());
        QVERIFY(bad.err.rfind("seedloom-cli: ", 0) == 0);
    }

    void validateFindsWithoutBuilding() {
        QCOMPARE(run({"validate", kDemo}).status, 0);
        QCOMPARE(run({"validate", loom("unknown.loom", R"({"seedloom":1,"nodes":[{"id":"a","op":"polish","settings":{}}],"output":"a"})")}).status, 2);
        QCOMPARE(run({"validate", loom("nowhere.loom", R"({"seedloom":1,"nodes":[{"id":"a","op":"output"}],"links":[["b","a"]],"output":"a"})")}).status, 2);
        const Ran ring =
            run({"validate",
                 loom("ring.loom", R"({"seedloom":1,"nodes":[{"id":"a","op":"weld"},{"id":"b","op":"flip"}],"links":[["a","b"],["b","a"]],"output":"b"})")});
        QCOMPARE(ring.status, 2);
        QVERIFY(ring.err.find("a → b → a") != std::string::npos);
    }

    void failedNodesExitWith3AndLeaveOldFiles() {
        const std::string huge = loom("huge.loom", R"({"seedloom":1,"nodes":[{"id":"g","op":"grid","settings":{"cells":[1e6,1e6]}}],"output":"g"})");
        writeFileAtomically(path("old.obj"), "old");
        const Ran failed = run({"build", huge, "-o", path("old.obj"), "--json"});
        QCOMPARE(failed.status, 3);
        QCOMPARE(*readFile(path("old.obj")), std::string("old"));
        QVERIFY(failed.err.find(": g: Grid:") != std::string::npos);
        QCOMPARE(failed.json()["notices"][0]["code"].get<std::string>(), std::string("limit.elements"));
        QCOMPARE(failed.json()["nodes"][0]["state"].get<std::string>(), std::string("failed"));
        const std::string small = loom("small.loom", R"({"seedloom":1,"nodes":[{"id":"g","op":"grid","settings":{"cells":[100,100]}}],"output":"g"})");
        QCOMPARE(run({"build", small, "--max-elements", "1000"}).status, 3);
        QCOMPARE(run({"build", small}).status, 0);
    }

    void stoppingExitsWith4() {
        std::ostringstream out, err;
        std::atomic<bool> stop{true};
        QCOMPARE(runCommandLine({"build", kDemo, "--json"}, out, err, stop), 4);
        QVERIFY(!Json::parse(out.str())["ok"].get<bool>());
        // Alone this takes many seconds; the limit ends it.
        const std::string slow = loom("slow.loom",
                                      R"({"seedloom":1,"nodes":[{"id":"l","op":"line","settings":{"points":2000000}},
{"id":"s","op":"smooth_curve","settings":{"iterations":10000}}],"links":[["l","s"]],"output":"s"})");
        QCOMPARE(run({"build", slow, "--time-limit", "0.3"}).status, 4);
    }

    /// A picture is a PNG of the size that was asked for, the same every time, and shows what is at a node.
    void picturesAreDrawnWithoutADisplay() {
        const Ran drawn = run({"picture", kDemo, "-o", path("a.png"), "--size", "160x120", "--quality", "draft"});
        QVERIFY2(drawn.status == 0, drawn.err.c_str());
        QVERIFY(run({"picture", kDemo, "-o", path("b.png"), "--size", "160x120", "--quality", "draft"}).status == 0);
        const std::string a = *readFile(path("a.png"));
        QCOMPARE(a.substr(0, 8), std::string("\x89PNG\r\n\x1a\n"));
        QCOMPARE(int(static_cast<unsigned char>(a[19])), 160);
        QCOMPARE(int(static_cast<unsigned char>(a[23])), 120);
        QCOMPARE(*readFile(path("b.png")), a);
        QVERIFY(run({"picture", kDemo, "-o", path("c.png"), "--size", "160x120", "--quality", "draft", "--set", "height=2"}).status == 0);
        QVERIFY(*readFile(path("c.png")) != a);
        QVERIFY(run({"picture", kDemo, "-o", path("d.png"), "--size", "160x120", "--quality", "draft", "--yaw", "200"}).status == 0);
        QVERIFY(*readFile(path("d.png")) != a);
        QVERIFY(run({"build", kDemo, "-o", path("m.stl")}).status == 0);
        QVERIFY(run({"picture", path("m.stl"), "-o", path("e.png"), "--size", "64x64", "--quality", "draft"}).status == 0);
    }

    void wrongPictureCallsSayWhatToDo_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<int>("status");
        QTest::addColumn<QString>("says");
        const QString demo = QString::fromStdString(kDemo);
        QTest::newRow("ending") << QStringList{"picture", demo, "-o", "x.jpg"} << 1 << "png";
        QTest::newRow("size") << QStringList{"picture", demo, "-o", "x.png", "--size", "huge"} << 1 << "size";
        QTest::newRow("far too large") << QStringList{"picture", demo, "-o", "x.png", "--size", "1000000x1000000"} << 1 << "size";
        QTest::newRow("node") << QStringList{"picture", demo, "-o", "x.png", "--at", "nowhere"} << 1 << "nowhere";
        QTest::newRow("control") << QStringList{"picture", demo, "-o", "x.png", "--set", "heigth=1"} << 1 << "heigth";
        QTest::newRow("no file") << QStringList{"picture", "-o", "x.png"} << 1 << "name a .loom";
        QTest::newRow("lost file") << QStringList{"picture", "/nowhere.loom", "-o", "x.png"} << 2 << "nowhere.loom";
        QTest::newRow("no folder") << QStringList{"picture", demo, "-o", "/nowhere/at/all/x.png", "--size", "32x32", "--quality", "draft"} << 2
                                   << "/nowhere/at/all";
    }
    void wrongPictureCallsSayWhatToDo() {
        QFETCH(QStringList, arguments);
        QFETCH(int, status);
        QFETCH(QString, says);
        std::vector<std::string> words;
        for (const QString& word : arguments) words.push_back(word.toStdString());
        const Ran ran = run(words);
        QVERIFY2(ran.err.find(says.toStdString()) != std::string::npos, ran.err.c_str());
        QCOMPARE(ran.status, status);
        QVERIFY(ran.out.empty());
    }

    void textGltfAndAssetsComeThroughTheCommandLine() {
        QCOMPARE(run({"build", kDemo, "-o", path("b.gltf")}).status, 0);
        const Json s = run({"check", path("b.gltf"), "--json"}).json();
        QVERIFY(s["checkup"]["closed"].get<bool>());
        const Ran unwritable = run({"convert", path("b.gltf"), path("b.3mf")});
        QCOMPARE(unwritable.status, 1);
        QVERIFY2(unwritable.err.find("can't be written") != std::string::npos && unwritable.err.find(".glb") != std::string::npos, unwritable.err.c_str());
        const std::string demo = SEEDLOOM_SOURCE "/demo/shingled-turret.loom";
        QCOMPARE(run({"validate", demo}).status, 0);
        const Ran built = run({"build", demo, "--json", "--at", "unit"});
        QVERIFY2(built.status == 0, built.err.c_str());
        QVERIFY(built.json()["counts"]["faces"].get<int>() > 100);
        const std::string lost = loom("lost.loom",
                                      R"({"seedloom":1,"name":"L","nodes":[{"id":"a","op":"asset","asset":{"file":"gone.loom"},"settings":{}},
{"id":"o","op":"output","settings":{}}],"links":[["a","o"]],"output":"o"})");
        const Ran failed = run({"build", lost});
        QCOMPARE(failed.status, 3);
        QVERIFY2(failed.err.find("gone.loom") != std::string::npos, failed.err.c_str());
        QCOMPARE(run({"validate", lost}).status, 2);
    }

    void operatorsAreListed() {
        const Json all = run({"operators", "--json"}).json()["operators"];
        QCOMPARE(all.size(), catalogue().size());
        for (const Json& op : all)
            for (const char* key : {"id", "label", "family", "sentence", "inputs", "outputs", "settings"}) QVERIFY2(op.contains(key), key);
        const Json one = run({"operators", "--json", "thicken"}).json()["operators"];
        QCOMPARE(one.size(), 1u);
        const Json& thickness = one[0]["settings"][0];
        for (const char* key : {"id", "label", "type", "unit", "default", "min", "max", "choices", "per_element"}) QVERIFY2(thickness.contains(key), key);
        QVERIFY(thickness["per_element"].get<bool>());
        QVERIFY(run({"operators"}).out.find("revolve") != std::string::npos);
    }

    void theSummaryHasTheContractsShape() {
        const Json s = run({"build", kDemo, "--json"}).json();
        for (const char* key : {"ok", "file", "seconds", "counts", "bounds", "attributes", "checkup", "nodes", "notices", "digest"})
            QVERIFY2(s.contains(key), key);
        for (const char* key : {"points", "corners", "faces", "triangles", "curves", "copies", "pieces"}) QVERIFY2(s["counts"].contains(key), key);
        for (const Json& a : s["attributes"])
            QVERIFY(a.contains("name") && a.contains("element") && a.contains("type") && a.contains("min") && a.contains("max"));
        // People get text, and nothing of it is JSON.
        QVERIFY(run({"build", kDemo}).out.find("closed and sound") != std::string::npos);
    }

    /// Many copies are written at once; what would take long to count is left out, and said.
    void costlyFiguresHaveABudget() {
        const std::string many =
            loom("many.loom", R"({"seedloom":1,"name":"Many","nodes":[{"id":"g","op":"grid","settings":{"size":[400,400],"cells":[159,159]}},
{"id":"b","op":"box","settings":{"size":[0.2,0.2,0.2]}},{"id":"p","op":"place_copies","settings":{}},{"id":"o","op":"output"}],
"links":[{"from":"g","to":"p","in":"points"},{"from":"b","to":"p","in":"shapes"},["p","o"]],"output":"o"})");
        const Json s = run({"build", many, "--json", "-o", path("many.glb")}).json();
        QVERIFY(s["ok"].get<bool>());
        QCOMPARE(s["counts"]["copies"].get<int>(), 25600);
        QVERIFY(s["checkup"]["overlapping_copies"].is_null());
        QCOMPARE(s["checkup"]["not_counted"], (Json{"overlapping_copies", "doubled_copies"}));
        QVERIFY(s["checkup"]["closed"].get<bool>());
        QVERIFY(std::filesystem::file_size(path("many.glb")) > 25600 * 12);
        const Json all = run({"check", many, "--json"}).json();
        QCOMPARE(all["checkup"]["overlapping_copies"].get<int>(), 0);
        QVERIFY(!all["checkup"].contains("not_counted"));
        // The limit holds for what comes after the build, too.
        const std::string slow = loom("slow.loom", R"({"seedloom":1,"name":"Slow","nodes":[{"id":"s","op":"geodesic_sphere","settings":{"frequency":300}},
{"id":"o","op":"output"}],"links":[["s","o"]],"output":"o"})");
        const Ran stopped = run({"build", slow, "--time-limit", "0.000001"});
        QCOMPARE(stopped.status, 4);
    }

    /// Copies in the summary: how many, what they come to in faces, and how they stand in each other.
    void copiesAreSummed() {
        const auto text = [](const char* spacing, const char* extra) {
            return std::string(
                       R"({"seedloom":1,"name":"Pegs","nodes":[{"id":"g","op":"grid","settings":{"size":[4,4]}},
{"id":"s","op":"scatter","settings":{"mode":"spacing","spacing":)") +
                   spacing + R"(}},{"id":"b","op":"box","settings":{"size":[0.2,0.2,0.2]}},{"id":"p","op":"place_copies","settings":{)" + extra +
                   R"(}},{"id":"o","op":"output"}],"links":[["g","s"],{"from":"s","to":"p","in":"points"},
{"from":"b","to":"p","in":"shapes"},["p","o"]],"output":"o"})";
        };
        const Json apart = run({"build", loom("apart.loom", text("0.3", "")), "--json"}).json();
        const auto copies = apart["counts"]["copies"].get<std::size_t>();
        QVERIFY(copies > 80);
        QCOMPARE(apart["counts"]["faces"].get<std::size_t>(), copies * 6);
        QCOMPARE(apart["counts"]["pieces"].get<std::size_t>(), copies);
        QVERIFY(apart["checkup"]["closed"].get<bool>());
        QCOMPARE(apart["checkup"]["overlapping_copies"].get<int>(), 0);
        QCOMPARE(apart["checkup"]["overlap_by"].get<std::string>(), std::string("meshes"));
        QVERIFY(std::abs(apart["checkup"]["volume"].get<double>() - double(copies) * 0.008) < 1e-4);
        const Ran check = run({"check", loom("crowd.loom", text("0.1", "")), "--json"});
        QCOMPARE(check.status, 3);
        QVERIFY(check.json()["checkup"]["overlapping_copies"].get<int>() > 100);
        QVERIFY2(check.err.find("stand in each other") != std::string::npos, check.err.c_str());
        // A file that knows copies is small, and the other holds them all.
        for (const char* name : {"pegs.glb", "pegs.stl"}) QCOMPARE(run({"build", loom("apart.loom", text("0.3", "")), "-o", path(name)}).status, 0);
        QCOMPARE(run({"info", path("pegs.stl"), "--json"}).json()["counts"]["triangles"].get<std::size_t>(), copies * 12);
        QCOMPARE(run({"info", path("pegs.glb"), "--json"}).json()["counts"]["triangles"].get<std::size_t>(), copies * 12);
        // A mistyped word is told, with those that are known.
        const Json wrong = run({"build", loom("wrong.loom", text("0.3", R"("turn":{"random":{"low":0,"high":90}})")), "--json"}).json();
        bool told = false;
        for (const Json& notice : wrong["notices"])
            told |= notice["code"] == "setting.source_key" && notice["text"].get<std::string>().find("'low', 'high'") != std::string::npos &&
                    notice["text"].get<std::string>().find("range, seed, by") != std::string::npos;
        QVERIFY2(told, wrong["notices"].dump().c_str());
    }

    /// A loom is tried at many settings; only what is fit becomes a pack, and packs are taken as looms are.
    void loomsArePublished() {
        const std::string pack = path("bollard.loompack");
        const Ran published = run({"publish", kDemo, "-o", pack, "--random", "4", "--json"});
        QVERIFY2(published.status == 0, published.err.c_str());
        const Json report = published.json();
        QVERIFY(report["fit"] == true && report["advice"].empty() && report["output"] == pack);
        for (const Json& row : report["rows"]) QCOMPARE(row["state"], Json("slow"));  // on a busy machine
        QVERIFY(report["trials"].get<int>() > 20);
        const Json loom = run({"build", kDemo, "--json", "--set", "height=1.2"}).json(), packed = run({"build", pack, "--json", "--set", "height=1.2"}).json();
        QCOMPARE(packed["digest"], loom["digest"]);
        QCOMPARE(run({"validate", pack}).status, 0);
        QCOMPARE(run({"info", pack, "--json"}).json()["counts"], run({"info", kDemo, "--json"}).json()["counts"]);
        QCOMPARE(run({"picture", pack, "-o", path("pack.png"), "--size", "40x30", "--quality", "draft"}).status, 0);
        QCOMPARE(run({"format", pack}).status, 1);
    }

    void whatIsNotFitIsNotPublished() {
        const std::string bad = loom("spoiled.loom", R"({"seedloom": 1, "name": "Post", "version": "1.0.0",
            "controls": [{"id": "height", "label": "Height", "type": "number", "default": 1, "min": 0.5, "max": 2}],
            "nodes": [{"id": "box", "op": "box", "settings": {"size": {"formula": "vec3(1, ctl.height, 1) "}}},
                      {"id": "less", "op": "delete", "settings": {"where": {"formula": "ctl.height > 1.5 && normal.y > 0.5"}}}, {"id": "out", "op": "output"}],
            "links": [["box", "less"], ["less", "out"]], "output": "out"})");
        const std::string pack = path("spoiled.loompack");
        const Ran refused = run({"publish", bad, "-o", pack, "--random", "0", "--shrink", "--json"});
        QCOMPARE(refused.status, 3);
        QVERIFY(!std::filesystem::exists(pack));
        const Json rows = refused.json()["rows"];
        QCOMPARE(rows.size(), std::size_t(1));
        QVERIFY(rows[0]["state"] == "unsound" && rows[0]["values"] == (Json{{"height", 2.0}}) && rows[0]["faults"] == Json::array({"4 open edges"}));
        const double smallest = rows[0]["smallest"]["height"].get<double>();
        QVERIFY2(smallest > 1.5 && smallest < 1.53, std::to_string(smallest).c_str());
        QVERIFY(run({"publish", bad, "--check-only", "--random", "0"}).out.find("unsound end: {\"height\":2.0}") != std::string::npos);
        // Open surfaces that are meant are fit; a budget of triangles is held.
        QCOMPARE(run({"publish", bad, "-o", pack, "--random", "0", "--open"}).status, 0);
        QVERIFY(std::filesystem::exists(pack));
        QCOMPARE(run({"publish", bad, "--check-only", "--random", "0", "--open", "--max-triangles", "11"}).status, 3);
        QCOMPARE(run({"publish", bad, "--check-only", "--random", "0", "--open", "--max-triangles", "12"}).status, 0);
    }

    void callsOfPublishThatAreWrongAreSaid() {
        QCOMPARE(run({"publish", kDemo}).status, 1);
        QCOMPARE(run({"publish", kDemo, "-o", path("bollard.zip")}).status, 1);
        QCOMPARE(run({"publish", kDemo, "--check-only", "--random", "-1"}).status, 1);
        QCOMPARE(run({"publish", path("none.loom"), "--check-only"}).status, 2);
        QCOMPARE(run({"publish", loom("nameless.loom", R"({"seedloom": 1, "nodes": [], "links": [], "output": ""})"), "-o", path("n.loompack")}).status, 2);
        QCOMPARE(run({"publish", kDemo, "-o", path("gone/b.loompack"), "--random", "0"}).status, 2);
        QCOMPARE(run({"publish", kDemo, "--check-only", "--random", "5000", "--time-limit", "0.3"}).status, 4);
    }

    void sheetShowsALoomOrPack() {
        const std::string box = loom("plank.loom", R"({"seedloom": 1, "name": "Plank", "version": "1.0.0", "controls": [
            {"id": "long", "label": "Long", "type": "number", "default": 1, "min": 0.5, "max": 2, "help": "How long.", "allowed_when": "ctl.long < 1.9"}],
            "presets": [{"name": "Short", "values": {"long": 0.6}}],
            "nodes": [{"id": "b", "op": "box", "settings": {"size": {"formula": "vec3(ctl.long, 0.1, 0.2) "}}}, {"id": "o", "op": "output"}],
            "links": [["b", "o"]], "output": "o"})");
        const Ran page = run({"sheet", box, "-o", path("plank.html"), "--json"});
        QVERIFY2(page.status == 0, page.err.c_str());
        QVERIFY(page.json()["controls"] == 1 && page.json()["presets"] == 1 && page.json()["failed"] == 1);
        const std::string html = *readFile(path("plank.html"));
        QVERIFY(html.find("<h1>Plank</h1>") != std::string::npos && html.find("0.5 to 2") != std::string::npos && html.find("must hold") != std::string::npos);
        const Ran picture = run({"sheet", box, "-o", path("plank.png"), "--threads", "1"});
        QVERIFY2(picture.status == 0 && picture.out.find("1 controls and 1 presets") != std::string::npos, picture.out.c_str());
        QVERIFY(readFile(path("plank.png"))->starts_with("\x89PNG"));
        // With a pack: beside it and in it. It does not change what is built.
        const std::string fit = loom("beam.loom", std::string(R"({"seedloom": 1, "name": "Beam", "version": "1.0.0", "nodes": [{"id": "b", "op": "box"},
            {"id": "o", "op": "output"}], "links": [["b", "o"]], "output": "o"})")
                                                      .c_str());
        const Ran published = run({"publish", fit, "-o", path("beam.loompack"), "--sheet", path("sheets"), "--json"});
        QVERIFY2(published.status == 0, published.err.c_str());
        QVERIFY(published.json()["sheet"] == path("sheets"));
        const auto pack = readPack(path("beam.loompack"));
        QVERIFY(bool(pack));
        for (const char* name : {"sheet.html", "sheet.png"}) QVERIFY(*pack->files->read(std::string("sheet/") + name) == *readFile(path("sheets/") + name));
        QCOMPARE(run({"sheet", path("beam.loompack"), "-o", path("again.html")}).status, 0);
        QVERIFY(*readFile(path("again.html")) == *readFile(path("sheets/sheet.html")));
        // Wrong calls.
        QCOMPARE(run({"sheet", box}).status, 1);
        QCOMPARE(run({"sheet", box, "-o", path("plank.pdf")}).status, 1);
        QCOMPARE(run({"sheet", box, "-o", path("plank.html"), "--threads", "-2"}).status, 1);
        QCOMPARE(run({"sheet", path("none.loom"), "-o", path("none.html")}).status, 2);
        QCOMPARE(run({"sheet", box, "-o", path("gone/plank.html")}).status, 2);
        QCOMPARE(run({"sheet", loom("nothing.loom", R"({"seedloom": 1, "nodes": [{"id": "o", "op": "output"}], "links": [], "output": "o"})"), "-o",
                      path("no.html")})
                     .status,
                 3);
        QCOMPARE(run({"sheet", kDemo, "-o", path("slow.html"), "--time-limit", "0.05"}).status, 4);
        QVERIFY(!std::filesystem::exists(path("slow.html")));
    }

    void manyVariationsAreMadeListedAndGathered() {
        const std::string plank = loom("planks.loom", R"({"seedloom": 1, "name": "Plank", "controls": [
            {"id": "long", "label": "Long", "type": "number", "default": 1, "min": 0.5, "max": 2},
            {"id": "word", "label": "Word", "type": "text", "default": "a"}],
            "presets": [{"name": "Short one", "values": {"long": 0.6}}],
            "nodes": [{"id": "b", "op": "box", "settings": {"size": {"formula": "vec3(ctl.long, 0.1, 0.2) "}}},
                      {"id": "s", "op": "simplify", "settings": {"target": {"formula": "ctl.long > 1.9 ? -1 : 12"}}}, {"id": "o", "op": "output"}],
            "links": [["b", "s"], ["s", "o"]], "output": "o"})");
        const std::string folder = path("planks");
        const Ran made = run({"vary", plank, "--out-dir", folder, "--grid", "long=0.5:1.5:3", "--format", "stl", "--json"});
        QVERIFY2(made.status == 0, made.err.c_str());
        QVERIFY(made.json()["made"] == 3 && made.json()["rows"][2]["values"]["long"] == 1.5 && made.json()["rows"][0]["file"] == "Plank-0001.stl");
        for (const char* name : {"Plank-0003.stl", "index.csv", "contact.png", "contact.html", "pictures/00003.png"})
            QVERIFY2(std::filesystem::exists(folder + "/" + name), name);
        QVERIFY(readFile(folder + "/index.csv")->starts_with("n,file,long,word,ok,problem,"));
        // Not into a folder that has some, unless it goes on there.
        QCOMPARE(run({"vary", plank, "--out-dir", folder, "--grid", "long=0.5:1.5:3", "--format", "stl"}).status, 1);
        QVERIFY(run({"vary", plank, "--out-dir", folder, "--grid", "long=0.5:1.5:3", "--format", "stl", "--resume", "--json"}).json()["kept"] == 3);
        // What fails is a row, and told by the status; others are made.
        const std::string table = path("planks.csv");
        QVERIFY(!writeFileAtomically(table, "long,word,preset\n2,it's,\n,\"a b\",Short one\n"));
        const Ran failed = run({"vary", plank, "--out-dir", path("table"), "--table", table, "--format", "none"});
        QCOMPARE(failed.status, 3);
        QVERIFY(failed.err.find("variation 1: s: ") != std::string::npos && failed.out.find("2 variations, 2 made, 0 kept, 1 failed") != std::string::npos);
        // Each line of a list is whole in itself; together they make the same.
        const Ran list = run({"vary", plank, "--out-dir", path("lines"), "--table", table, "--list", "--format", "ply", "--pattern", "{n}-{word}"});
        QCOMPARE(list.status, 0);
        QVERIFY(!std::filesystem::exists(path("lines")));
        QVERIFY(list.out.starts_with("seedloom-cli vary '/") && list.out.find("--out-dir '/") != std::string::npos);  // from any folder
        QVERIFY(list.out.find("--row 1 ") != std::string::npos && list.out.find("--set 'word=it'\\''s'") != std::string::npos &&
                list.out.find("--preset 'Short one'") != std::string::npos);
        QCOMPARE(std::count(list.out.begin(), list.out.end(), '\n'), std::ptrdiff_t(2));
        QCOMPARE(run({"vary", plank, "--out-dir", path("lines"), "--row", "2", "--format", "ply", "--pattern", "{n}-{word}", "--preset", "Short one", "--set",
                      "word=a b"})
                     .status,
                 0);
        QVERIFY(std::filesystem::exists(path("lines/0002-a-b.ply")) && !std::filesystem::exists(path("lines/index.csv")));
        QCOMPARE(run({"vary", plank, "--out-dir", path("lines"), "--row", "1", "--set", "long=2"}).status, 3);
        const Ran gathered = run({"vary", plank, "--out-dir", path("lines"), "--gather", "--json"});
        QVERIFY(gathered.status == 3 && gathered.json()["rows"].size() == 2 && gathered.json()["failed"] == 1);
        QVERIFY(std::filesystem::exists(path("lines/index.csv")));
        // By chance: the same every time.
        const Json first = run({"vary", plank, "--out-dir", path("c1"), "--count", "4", "--format", "none", "--json"}).json(),
                   second = run({"vary", plank, "--out-dir", path("c2"), "--count", "4", "--format", "none", "--no-pictures", "--jobs", "1", "--json"}).json();
        for (int i = 0; i < 4; ++i) QCOMPARE(first["rows"][i]["digest"], second["rows"][i]["digest"]);
    }

    void filesVaryAnInput() {
        const std::string asked = loom("asked.loom", R"({"seedloom": 1, "name": "Asked",
            "nodes": [{"id": "i", "op": "input_geometry", "settings": {"name": "way", "kind": "curve"}},
                      {"id": "s", "op": "sweep", "settings": {"form": "tube"}}, {"id": "o", "op": "output"}],
            "links": [["i", "s"], ["s", "o"]], "output": "o"})");
        QVERIFY(!writeFileAtomically(path("one.obj"), "v 0 0 0\nv 1 0 0\nl 1 2\n") && !writeFileAtomically(path("two.obj"), "v 0 0 0\nv 8 0 0\nl 1 2\n"));
        const Json made = run({"vary", asked, "--out-dir", path("ways"), "--grid", "way=one.obj,two.obj,three.obj", "--format", "none", "--json"}).json();
        QVERIFY(made["rows"][0]["ok"] == true && made["rows"][1]["ok"] == true && made["rows"][2]["ok"] == false && made["failed"] == 1);
        QVERIFY(made["rows"][1]["size"][0].get<double>() > 7.9);
        // An index can be varied again, and each line of a list names its file.
        const Ran list = run({"vary", asked, "--out-dir", path("more"), "--table", path("ways/index.csv"), "--list"});
        QCOMPARE(list.status, 0);
        QVERIFY(list.out.find("--row 2") != std::string::npos && list.out.find("--set 'way=two.obj'") != std::string::npos);
        QVERIFY(run({"vary", asked, "--out-dir", path("more"), "--grid", "way=two.obj", "--list"}).out.find("--set 'way=two.obj'") != std::string::npos);
        QCOMPARE(run({"vary", asked, "--out-dir", path("more"), "--row", "1", "--set", "way=two.obj"}).status, 0);
    }

    void callsOfVaryThatAreWrongAreSaid() {
        const std::string out = path("never");
        const auto status = [&](std::vector<std::string> more) {
            more.insert(more.begin(), {"vary", kDemo});
            return run(more).status;
        };
        QCOMPARE(status({"--out-dir", out}), 1);
        QCOMPARE(status({"--count", "3"}), 1);
        QCOMPARE(status({"--out-dir", out, "--count", "3", "--grid", "height=1:2:2"}), 1);
        QCOMPARE(status({"--out-dir", out, "--count", "1000000000"}), 1);
        QCOMPARE(status({"--out-dir", out, "--count", "3", "--format", "zip"}), 1);
        QCOMPARE(status({"--out-dir", out, "--count", "3", "--jobs", "-1"}), 1);
        QCOMPARE(status({"--out-dir", out, "--count", "3", "--pattern", "{name}"}), 1);
        QCOMPARE(status({"--out-dir", out, "--grid", "height=1:9:3"}), 1);
        QCOMPARE(status({"--out-dir", out, "--grid", "nothing=1"}), 1);
        QCOMPARE(status({"--out-dir", out, "--row", "1", "--set", "nothing=1"}), 1);
        QCOMPARE(status({"--out-dir", out, "--row", "1", "--preset", "Nobody"}), 1);
        QCOMPARE(status({"--out-dir", out, "--table", path("none.csv")}), 2);
        QVERIFY(!writeFileAtomically(path("wrong.csv"), "height\n1\n99\n"));
        QVERIFY(run({"vary", kDemo, "--out-dir", out, "--table", path("wrong.csv")}).err.find("Row 2, column 1") != std::string::npos);
        QVERIFY(!writeFileAtomically(path("empty.csv"), "height\n"));
        QCOMPARE(status({"--out-dir", out, "--table", path("empty.csv")}), 1);
        QCOMPARE(status({"--out-dir", out, "--gather"}), 2);
        QCOMPARE(run({"vary", path("none.loom"), "--out-dir", out, "--count", "1"}).status, 2);
        QCOMPARE(status({"--out-dir", path("slow"), "--count", "500", "--time-limit", "0.3"}), 4);
    }

    void validateTellsWhatIsUnused() {
        const std::string idle = loom("idle.loom", R"({"seedloom": 1, "controls": [{"id": "idle", "label": "Idle", "type": "number", "default": 1}],
            "nodes": [{"id": "b", "op": "box"}, {"id": "o", "op": "output"}], "links": [["b", "o"]], "output": "o"})");
        const Ran told = run({"validate", idle, "--json"});
        QCOMPARE(told.status, 0);
        QVERIFY(told.json()["ok"] == true && told.json()["notices"].size() == 1 && told.json()["notices"][0]["code"] == "control.unused");
        QVERIFY(run({"validate", idle}).out.find("Nothing reads the control Idle") != std::string::npos);
        for (const auto& entry : std::filesystem::directory_iterator(std::filesystem::path(kDemo).parent_path()))
            if (entry.path().extension() == ".loom") QVERIFY2(run({"validate", entry.path(), "--json"}).json()["notices"].empty(), entry.path().c_str());
    }
};

QTEST_APPLESS_MAIN(TestCli)
#include "test_cli.moc"

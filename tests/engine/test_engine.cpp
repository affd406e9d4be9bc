// The engine: what is asked for last counts, nothing ends the program, and every step's key holds all that the step reads.
#include "engine/Engine.h"

#include "files/FileIo.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "graph/Controls.h"
#include "meshes/MeshFile.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// An asset whose output goes through a nest that asks for what is plugged in.
constexpr const char* kThrough = R"({"seedloom": 1, "name": "Through", "nodes": [
    {"id": "n", "op": "nest", "cell": [0, 0], "settings": {}, "graph": {"nodes": [
        {"id": "asked", "op": "input_geometry", "settings": {"name": "shape"}}, {"id": "r", "op": "output", "settings": {}}],
        "links": [["asked", "r"]], "output": "r"}},
    {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["n", "out"]], "output": "out"})";

constexpr const char* kTwice = R"({"seedloom": 1, "name": "Twice", "nodes": [
    {"id": "box", "op": "box", "settings": {}}, {"id": "ball", "op": "sphere", "settings": {"sides": 32, "rings": 16}},
    {"id": "a", "op": "asset", "asset": {"file": "through.loom"}, "settings": {}},
    {"id": "b", "op": "asset", "asset": {"file": "through.loom"}, "settings": {}},
    {"id": "both", "op": "merge", "settings": {}}, {"id": "out", "op": "output", "settings": {}}],
    "links": [{"from": "box", "to": "a", "in": "shape"}, {"from": "ball", "to": "b", "in": "shape"}, ["a", "both"], ["b", "both"], ["both", "out"]],
    "output": "out"})";

}  // namespace

class TestEngine : public QObject {
    Q_OBJECT

private:
    std::unique_ptr<QTemporaryDir> folder_;

    std::filesystem::path at(const std::string& name) const { return folder_->filePath(QString::fromStdString(name)).toStdString(); }
    void write(const std::string& name, const std::string& text) const { QVERIFY(!writeFileAtomically(at(name), text)); }
    RebuildRequest requestOf(const std::string& name) const {
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(*readLoom(at(name)));
        request.controls = *controlValues(*request.loom);
        request.folder = folder_->path().toStdString();
        request.assets = assetsOf(*request.loom, request.folder);
        return request;
    }

private Q_SLOTS:
    void init() { folder_ = std::make_unique<QTemporaryDir>(); }

    /// Two uses of one asset with different shapes plugged in are two results, on every run.
    void whatIsPluggedInAroundANestIsPartOfItsKey() {
        write("through.loom", kThrough);
        write("twice.loom", kTwice);
        for (int run = 0; run < 8; ++run) {
            Engine engine({.memoBytes = std::size_t(1) << 26, .workers = 1});
            const RebuildResult result = engine.build(requestOf("twice.loom"));
            QVERIFY(!result.failed());
            QCOMPARE(result.geometry("a")->faceCount(), 6u);
            QCOMPARE(result.geometry("b")->faceCount(), 512u);
            QCOMPARE(result.geometry("out")->faceCount(), 518u);
        }
    }

    /// The file that a control names is read again when the control, or the file, changes.
    void filesNamedByControlsArePartOfTheKey() {
        QVERIFY(!writeMesh(made("box"), at("one.obj")));
        QVERIFY(!writeMesh(made("sphere", {{"sides", 8}, {"rings", 4}}), at("two.obj")));
        write("reader.loom", R"({"seedloom": 1, "name": "R", "controls": [{"id": "which", "type": "text", "default": "one.obj"}], "nodes": [
            {"id": "m", "op": "import_mesh", "settings": {"file": {"control": "which"}}},
            {"id": "n", "op": "nest", "settings": {"which": {"control": "which"}}, "graph": {"controls": [{"id": "which", "type": "text", "default": ""}],
                "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": {"control": "which"}}}, {"id": "r", "op": "output", "settings": {}}],
                "links": [["m", "r"]], "output": "r"}},
            {"id": "out", "op": "output", "settings": {}}], "links": [["m", "out"]], "output": "out"})");
        Engine engine;
        const auto faces = [&](const char* which, const char* node) {
            RebuildRequest request = requestOf("reader.loom");
            request.controls["which"] = which;
            const RebuildResult result = engine.build(request);
            return result.geometry(node) ? result.geometry(node)->faceCount() : 0;
        };
        for (const char* node : {"m", "n"}) {
            QCOMPARE(faces("one.obj", node), 6u);
            QCOMPARE(faces("two.obj", node), made("sphere", {{"sides", 8}, {"rings", 4}}).faceCount());
        }
        QTest::qSleep(20);
        QVERIFY(!writeMesh(made("box", {{"cells", {2, 1, 1}}}), at("one.obj")));
        for (const char* node : {"m", "n"}) QCOMPARE(faces("one.obj", node), 10u);
    }

    /// A formula's text that a control holds may read time, other controls and words.
    void formulasFromControlsArePartOfTheKey() {
        write("clock.loom", R"({"seedloom": 1, "name": "C", "controls": [{"id": "text", "type": "text", "default": "position.y += time + ctl.more;"},
            {"id": "more", "type": "number", "default": 0}], "nodes": [{"id": "b", "op": "box", "settings": {}},
            {"id": "f", "op": "formula", "settings": {"text": {"control": "text"}}}, {"id": "out", "op": "output", "settings": {}}],
            "links": [["b", "f"], ["f", "out"]], "output": "out"})");
        Engine engine;
        const auto top = [&](double time, double more) {
            RebuildRequest request = requestOf("clock.loom");
            request.time = time;
            request.controls["more"] = more;
            const RebuildResult result = engine.build(request);
            return result.failed() ? -1.0 : double(boundsOf(*result.geometry("out")).max.y);
        };
        const double start = top(0, 0);
        QVERIFY(near(top(2, 0), start + 2, 1e-5));
        QVERIFY(near(top(2, 3), start + 5, 1e-5));
        QVERIFY(near(top(0, 0), start, 1e-5));
    }

    void theNewestRequestCounts() {
        Engine engine;
        std::atomic<int> last{0}, told{0};
        std::atomic<std::size_t> points{0};
        {
            Engine::Client client(engine, Priority::hand,
                                  {[](int, const std::string&, const NodeReport&) {},
                                   [&](int generation, auto result) {
                                       last = generation;
                                       points = result->geometry("l")->pointCount();
                                       ++told;
                                   }});
            int newest = 0;
            for (int i = 1; i <= 30; ++i) {
                Loom loom;
                loom.nodes = {node("l", "line", {0, 0}, {{"points", 1000 + i}})};
                RebuildRequest request;
                request.loom = std::make_shared<const Loom>(loom);
                const int generation = client.request(std::move(request));
                QVERIFY(generation > newest);
                newest = generation;
            }
            QTRY_COMPARE(last.load(), newest);
            QCOMPARE(points.load(), std::size_t(1030));
        }
        QVERIFY(told >= 1 && told <= 30);
    }

    /// A client that goes away is waited for, and hears nothing afterwards.
    void clientsMayLeaveAtAnyTime() {
        Engine engine;
        for (int i = 0; i < 20; ++i) {
            std::atomic<bool> gone{false};
            auto client = std::make_unique<Engine::Client>(engine, i % 2 ? Priority::background : Priority::hand,
                                                           Engine::Callbacks{[&](int, const std::string&, const NodeReport&) { QVERIFY(!gone); },
                                                                             [&](int, auto) { QVERIFY(!gone); }});
            Loom loom;
            loom.nodes = {node("l", "line", {0, 0}, {{"points", 200000}}), node("s", "smooth_curve", {1, 0}, {{"iterations", 2000}})};
            loom.links = {{"l", "", "s", "", Json::object()}};
            RebuildRequest request;
            request.loom = std::make_shared<const Loom>(loom);
            client->request(std::move(request));
            QTest::qSleep(i % 5);
            const QElapsedTimer timer = [] {
                QElapsedTimer t;
                t.start();
                return t;
            }();
            client.reset();
            gone = true;
            QVERIFY(timer.elapsed() < 5000);
        }
    }
};

QTEST_GUILESS_MAIN(TestEngine)
#include "test_engine.moc"

// Steps whose frames follow from each other, proved with a small operator: a thousand frames, scrubbing, undo, cancel, memory.
#include "engine/Engine.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "graph/NodeSpec.h"
#include "operators/Catalogue.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <QtTest/QtTest>

#include <chrono>
#include <fstream>
#include <thread>

using namespace seedloom;
using namespace seedloom::test;

namespace {

std::atomic<int> advances{0};
std::atomic<bool>* stopAt = nullptr;
int stopWhen = 0;

/// Moves what comes in on by a way each frame; its state counts the frames.
OperatorSpec driftOperator() {
    OperatorSpec spec;
    spec.id = "drift";
    spec.label = "Drift";
    spec.family = Family::motion;
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {vec3Setting("by", "By", Unit::metre, {0, 0.5f, 0})};
    spec.start = [](OperatorCall& call) { return FrameState{call.in(), std::make_shared<int>(0), sizeof(int)}; };
    spec.advance = [](OperatorCall& call, const FrameState& before) {
        if (stopAt && ++advances == stopWhen) *stopAt = true;
        else if (!stopAt) ++advances;
        call.run().poll();
        const int count = *std::static_pointer_cast<const int>(before.own) + 1;
        Geometry next = transformed(before.geometry, Affine{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, call.vec3("by")});
        next.setColumn(Element::model, "count", Column(std::vector<std::int32_t>{count}));
        return FrameState{std::move(next), std::make_shared<int>(count), sizeof(int)};
    };
    return spec;
}

Loom driftLoom(Json by = {0, 0.5, 0}) {
    Loom loom;
    loom.nodes = {node("box", "box", {0, 0}), node("drift", "drift", {1, 0}, {{"by", by}}), node("after", "transform", {2, 0}, {{"move", {1, 0, 0}}}),
                  node("out", "output", {3, 0})};
    loom.links = {linked("box", "drift"), linked("drift", "after"), linked("after", "out")};
    loom.output = "out";
    return loom;
}

double lowest(const RebuildResult& result, const char* node = "out") { return double(boundsOf(*result.geometry(node)).min.y); }

}  // namespace

class TestFrames : public QObject {
    Q_OBJECT

private:
    std::unique_ptr<ExtraOperator> drift_;
    Engine engine_;

    /// How many frames were computed for it.
    int built(const RebuildRequest& request, RebuildResult* result = nullptr) {
        advances = 0;
        RebuildResult made = engine_.build(request);
        if (result) *result = std::move(made);
        return advances;
    }

private Q_SLOTS:
    void initTestCase() { drift_ = std::make_unique<ExtraOperator>(driftOperator()); }
    void cleanupTestCase() { drift_.reset(); }

    void aThousandFramesFollowFromEachOther() {
        FrameCache frames;
        RebuildResult result;
        QCOMPARE(built(requestOf(driftLoom(), 1000, frames), &result), 1000);
        QVERIFY(!result.failed());
        QVERIFY(near(lowest(result), lowest(engine_.build(requestOf(driftLoom(), 0, frames))) + 500, 1e-3));
        QCOMPARE((*result.geometry("drift")->values<std::int32_t>(Element::model, "count"))[0], 1000);
        QCOMPARE(frames.entries(), std::size_t(1001));
        // Scrubbing computes nothing again, back or forth.
        for (double frame : {500.0, 0.0, 999.0, 1.0, 250.7}) {
            QCOMPARE(built(requestOf(driftLoom(), frame, frames), &result), 0);
            const int count = int(std::floor(frame));
            if (count > 0) QCOMPARE((*result.geometry("drift")->values<std::int32_t>(Element::model, "count"))[0], count);
        }
        QCOMPARE(built(requestOf(driftLoom(), 1010, frames), &result), 10);
        // Before the first frame there is nothing but it.
        QCOMPARE(built(requestOf(driftLoom(), -5, frames), &result), 0);
    }

    void changesBeginAnewAndUndoFindsWhatWasThere() {
        FrameCache frames;
        RebuildResult result;
        QCOMPARE(built(requestOf(driftLoom(), 40, frames)), 40);
        QCOMPARE(built(requestOf(driftLoom({0, 1, 0}), 40, frames), &result), 40);
        QVERIFY(near(lowest(result), 40 + lowest(engine_.build(requestOf(driftLoom(), 0, frames))), 1e-4));
        QCOMPARE(built(requestOf(driftLoom(), 40, frames)), 0);
        // A step behind it changes nothing of it.
        Loom moved = driftLoom();
        moved.nodes[2].settings["move"] = {5, 0, 0};
        QCOMPARE(built(requestOf(moved, 30, frames)), 0);
    }

    /// A setting that differs from frame to frame, and what comes in that does: each frame has its own.
    void settingsAndInputsAreThoseOfEachFrame() {
        FrameCache frames;
        RebuildResult result;
        // 0.5 a frame up to frame 10, nothing from there on.
        built(requestOf(driftLoom({{"formula", "vec3(0, frame <= 10 ? 0.5 : 0, 0)"}}), 30, frames), &result);
        const double ground = lowest(engine_.build(requestOf(driftLoom(), 0, frames)));
        QVERIFY(near(lowest(result), ground + 5, 1e-4));
        QVERIFY(near(lowest(engine_.build(requestOf(driftLoom({{"formula", "vec3(0, frame <= 10 ? 0.5 : 0, 0)"}}), 5, frames))), ground + 2.5, 1e-4));
        // Two in a row: the second moves what the first has moved at its frame.
        Loom two = driftLoom();
        two.nodes.insert(two.nodes.begin() + 2, node("second", "drift", {2, 1}));
        two.links = {linked("box", "drift"), linked("drift", "second"), linked("second", "after"), linked("after", "out")};
        QCOMPARE(built(requestOf(two, 20, frames), &result), 40 - 0);
        QVERIFY(!result.failed());
        QVERIFY(near(lowest(result), ground + 10, 1e-4));  // a state takes its input at frame 0 only
        QCOMPARE(built(requestOf(two, 12, frames)), 0);
    }

    /// What was finished when a rebuild is given up stays, and the next one goes on from there.
    void finishedFramesOutliveACancel() {
        FrameCache frames;
        std::atomic<bool> stop{false};
        RebuildRequest request = requestOf(driftLoom(), 300, frames);
        request.cancel = &stop;
        stopAt = &stop, stopWhen = 121;
        advances = 0;
        const RebuildResult cancelled = engine_.build(request);
        stopAt = nullptr;
        QVERIFY(cancelled.cancelled);
        QCOMPARE(frames.entries(), std::size_t(121));  // frame 0 and 120 that were finished
        RebuildRequest again = requestOf(driftLoom(), 300, frames);
        again.lastFrame = 400;
        RebuildResult result;
        QCOMPARE(built(again, &result), 180);
        const auto& kept = result.nodes.at("drift").frames;
        QCOMPARE(kept.size(), std::size_t(401));
        for (std::size_t f = 0; f < kept.size(); ++f) QCOMPARE(bool(kept[f]), f <= 300);
        QVERIFY(result.nodes.at("box").frames.empty());
    }

    /// Shapes of copies that only move are counted once, and the budget holds.
    void memoryIsThatOfThePlaces() {
        const std::size_t shape = made("sphere", {{"sides", 200}, {"rings", 100}}).byteSize(), budget = shape + (std::size_t(1) << 20);
        FrameCache frames(budget);
        Loom loom = driftLoom();
        loom.nodes[0] = node("box", "place_copies", {0, 0});
        loom.nodes.push_back(node("grid", "grid", {0, 1}, {{"cells", {9, 9}}}));
        loom.nodes.push_back(node("ball", "sphere", {0, 2}, {{"sides", 200}, {"rings", 100}}));
        loom.links.push_back(linked("grid", "box"));
        loom.links.push_back({"ball", "", "box", "shapes", Json::object()});
        RebuildResult result;
        QCOMPARE(built(requestOf(loom, 60, frames), &result), 60);
        QVERIFY(!result.failed());
        QCOMPARE(frames.entries(), std::size_t(61));
        QVERIFY(shape > std::size_t(1) << 20);
        QVERIFY2(frames.bytes() < shape + 61 * 20000, qPrintable(QString::number(frames.bytes())));
        built(requestOf(loom, 400, frames), &result);
        QVERIFY(frames.bytes() <= budget);
        QVERIFY(frames.entries() > 10 && frames.entries() < 401);
        // What was dropped is computed again, and is the same.
        const auto before = digestOf(*result.geometry("out"));
        built(requestOf(loom, 3, frames));
        built(requestOf(loom, 400, frames), &result);
        QCOMPARE(digestOf(*result.geometry("out")), before);
    }

    /// In containers whose inputs are the same at all frames, steps have their frames as outside; in others it is said where they belong.
    void insideOfAContainer() {
        Loom loom = driftLoom();
        loom.nodes[1] = node("drift", "nest", {1, 0});
        loom.nodes[1].graph = row({node("d", "drift", {1, 0})});
        for (const char* op : {"nest", "each_piece"}) {
            FrameCache frames;
            loom.nodes[1].op = op;
            const double ground = lowest(engine_.build(requestOf(loom, 0, frames)));
            RebuildResult result;
            QCOMPARE(built(requestOf(loom, 5, frames), &result), op == std::string("nest") ? 5 : 30);
            QVERIFY(!result.failed());
            QVERIFY(near(lowest(result), ground + 2.5, 1e-4));
            QCOMPARE(built(requestOf(loom, 3, frames), &result), 0);
            QVERIFY(near(lowest(result), ground + 1.5, 1e-4));
            // One in the other.
            Loom deep = loom;
            Node around = node("drift", "nest", {1, 0});
            around.graph = row({deep.nodes[1]});
            deep.nodes[1] = around;
            QVERIFY(near(lowest(engine_.build(requestOf(deep, 4, frames))), ground + 2, 1e-4));
        }
        const auto saysWhere = [&](const Loom& wrong) {
            FrameCache frames;
            const RebuildResult result = engine_.build(requestOf(wrong, 5, frames));
            return result.failed() && result.notices(wrong).front().text.find("outside") != std::string::npos;
        };
        Loom repeats = loom;
        repeats.nodes[1].op = "repeat";
        QVERIFY(saysWhere(repeats));
        // The same nest, with the same input: what it gave there is not what it gives outside.
        Loom twice = loom;
        twice.nodes[1].op = "nest";
        Loom inRepeat = twice;
        Node repeat = node("drift", "repeat", {1, 0}, {{"times", 1}});
        repeat.graph = row({twice.nodes[1]});
        inRepeat.nodes[1] = repeat;
        QVERIFY(saysWhere(inRepeat));
        FrameCache other;
        QVERIFY(!engine_.build(requestOf(twice, 5, other)).failed());
        Loom moves = loom;
        moves.nodes[1].op = "nest";
        moves.nodes[0] = node("box", "box", {0, 0}, {{"size", {{"formula", "vec3(1, 1 + frame, 1)"}}}});
        QVERIFY(saysWhere(moves));
        // A setting of the container's own that reads the frame.
        Loom set = loom;
        Loom inner = *set.nodes[1].graph;
        Control by;
        by.id = "by", by.fallback = 1.0;
        inner.controls = {by};
        inner.nodes[1].settings["by"] = {{"formula", "vec3(0, ctl.by, 0)"}};
        set.nodes[1].op = "nest";
        set.nodes[1].graph = InnerGraph(inner);
        set.nodes[1].settings["by"] = 2;
        FrameCache frames;
        const double ground = lowest(engine_.build(requestOf(set, 0, frames)));
        QVERIFY(near(lowest(engine_.build(requestOf(set, 5, frames))), ground + 10, 1e-4));
        set.nodes[1].settings["by"] = {{"formula", "frame"}};
        QVERIFY(saysWhere(set));
        // Skipped, it is as if it were not there.
        Loom skipped = driftLoom();
        skipped.nodes[1].skipped = true;
        QCOMPARE(built(requestOf(skipped, 9, frames)), 0);
    }

    void aFrameThatFailsPassesItsInputThrough() {
        FrameCache frames;
        const RebuildResult result = engine_.build(requestOf(driftLoom({{"formula", "vec3(0, frame > 3 ? nothing : 0.5, 0)"}}), 8, frames));
        QVERIFY(result.failed());
        QCOMPARE(result.nodes.at("drift").state, NodeState::failed);
        QCOMPARE(result.geometry("drift")->faceCount(), 6u);
    }

    void framesOnDisk() {
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("frames").toStdString();
        const auto key = [](std::uint64_t i) { return Digest{i, ~i}; };
        {
            FrameStore store(path, 1000, "one");
            QVERIFY(!store.has(key(1)) && !store.load(key(1)));
            store.store(key(1), "first");
            store.store(key(2), std::string("a\0b", 3));
            store.store(key(1), "ignored");
            QCOMPARE(store.load(key(1)).value_or(""), std::string("first"));
            QCOMPARE(store.load(key(2)).value_or(""), std::string("a\0b", 3));
            QCOMPARE(store.entries(), std::size_t(2));
            QCOMPARE(store.bytes(), std::uintmax_t(2 * (17 + 16) + 8));
        }
        // Another program finds them; what was damaged or went away is not there.
        FrameStore again(path, 1000, "one");
        QCOMPARE(again.entries(), std::size_t(2));
        QCOMPARE(again.load(key(2)).value_or(""), std::string("a\0b", 3));
        QFile file(QString::fromStdString((path / (key(2).hex() + ".frame")).string()));
        QVERIFY(file.open(QIODevice::ReadWrite) && file.seek(file.size() - 1) && file.write("x") == 1);
        file.close();
        QVERIFY(!again.load(key(2)) && !again.has(key(2)) && !file.exists());
        std::filesystem::remove(path / (key(1).hex() + ".frame"));
        QVERIFY(!again.load(key(1)));
        QCOMPARE(again.bytes(), std::uintmax_t(0));
        // Over the budget those that were not used for longest go.
        for (std::uint64_t i = 10; i < 20; ++i) again.store(key(i), std::string(50, 'x'));
        for (int i = 0; i < 15; ++i) QVERIFY(again.load(key(10)).has_value());
        for (std::uint64_t i = 20; i < 23; ++i) again.store(key(i), std::string(50, 'x'));
        QVERIFY(again.bytes() <= 900 && again.entries() >= 9);
        QVERIFY(again.has(key(10)) && again.has(key(22)) && !again.has(key(11)));
        // Nothing at all is something; and where a file can't be put in its place, it is not there.
        again.store(key(30), {});
        QCOMPARE(again.load(key(30)), std::optional<std::string>(std::string()));
        std::filesystem::create_directories(path / (key(31).hex() + ".frame") / "in the way");
        again.store(key(31), "lost");
        QVERIFY(!again.has(key(31)));
        QVERIFY(QDir(QString::fromStdString(path.string())).entryList({"*.part*"}).isEmpty());
        // What a program that died has left is cleared away, what one still writes is not.
        const auto left = [&](const char* name) {
            const std::filesystem::path file = path / name;
            std::ofstream(file) << "half";
            return file;
        };
        const auto old = left("0123.part7-1"), young = left("0123.part8-1");
        std::filesystem::last_write_time(old, std::filesystem::file_time_type::clock::now() - std::chrono::hours(2));
        QVERIFY(FrameStore(path, 1000, "one").has(key(30)));
        QVERIFY(!std::filesystem::exists(old) && std::filesystem::exists(young));
        std::filesystem::remove(young);
        // What another build wrote is not taken.
        FrameStore other(path, 1000, "two");
        QCOMPARE(other.entries(), std::size_t(0));
        QVERIFY(QDir(QString::fromStdString(path.string())).entryList({"*.frame"}, QDir::Files).isEmpty());
        // Where nothing can be written, nothing is kept.
        FrameStore nowhere("/proc/nothing/here", 1000, "one");
        nowhere.store(key(1), "first");
        QVERIFY(!nowhere.has(key(1)));
    }

    void threadsWriteTheSameFrames() {
        const QTemporaryDir folder;
        FrameStore store(folder.filePath("frames").toStdString(), 1 << 24, "one");
        const auto write = [&] {
            for (std::uint64_t i = 0; i < 60; ++i) store.store({i, i}, std::string(20000, char('a' + i % 26)));
        };
        std::thread one(write), two(write);
        one.join(), two.join();
        QCOMPARE(store.entries(), std::size_t(60));
        for (std::uint64_t i = 0; i < 60; ++i) QVERIFY(store.load({i, i}) == std::string(20000, char('a' + i % 26)));
        QCOMPARE(QDir(folder.filePath("frames")).entryList({"*.part*"}).size(), 0);
    }

    void threadsChangeNothing() {
        std::vector<Digest> digests;
        for (int threads : {1, 8}) {
            FrameCache frames;
            RebuildRequest request = requestOf(driftLoom({{"formula", "vec3(0, sin(frame), 0)"}}), 50, frames);
            request.threads = threads;
            digests.push_back(digestOf(*engine_.build(request).geometry("out")));
        }
        QCOMPARE(digests[0], digests[1]);
    }
};

QTEST_APPLESS_MAIN(TestFrames)
#include "test_frames.moc"

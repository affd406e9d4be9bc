// The rebuild service alone: which of many wishes are built, and what is told of them.
#include "app/session/Pictures.h"
#include "app/session/RebuildService.h"
#include "graph/OperatorSample.h"
#include "support/OwnApplication.h"
#include "support/Run.h"

#include <QtTest/QSignalSpy>

using namespace seedloom;
using namespace seedloom::app;

namespace {

using Mode = RebuildService::Mode;

/// A box of that size, divided finely enough to take a while.
std::shared_ptr<const Loom> boxOf(double size, int levels = 6) {
    Loom out;
    Node box, fine;
    box.id = box.op = "box";
    box.settings = {{"size", {size, 1, 1}}};
    fine.id = fine.op = "subdivide";
    fine.settings = {{"form", "flat"}, {"levels", levels}};
    fine.cell = {1, 0};
    out.nodes = {box, fine};
    out.links.push_back({"box", "", "subdivide", "", Json::object()});
    out.output = "subdivide";
    return std::make_shared<const Loom>(out);
}

}  // namespace

class TestRebuilds : public QObject {
    Q_OBJECT

    std::unique_ptr<RebuildService> service_;
    std::set<double> built_;  ///< sizes of boxes whose fine node came

    double sizeNow() {
        const auto outcome = service_->outcome("subdivide");
        return outcome ? double(boundsOf(outcome->geometry.positions()).size().x) : 0;
    }
    void ask(double size, Mode mode) { service_->request(boxOf(size), {}, {}, 0, 24, mode); }

private Q_SLOTS:
    void init() {
        built_.clear();
        service_ = std::make_unique<RebuildService>();
        service_->setSlowMs(1e9);  // what is slow here is so by the machine or by a sanitizer
        connect(service_.get(), &RebuildService::stateChanged, this, [this] { built_.insert(std::round(sizeNow() * 1000) / 1000); });
    }
    void cleanup() { service_.reset(); }

    /// A node of another document may have the same name; its card shows nothing until its own picture is there.
    void picturesAreOfThisDocument() {
        Pictures pictures;
        const auto outcome = std::make_shared<NodeOutcome>();
        outcome->geometry = operatorSample("box");
        const Digest key{3, 4}, other{1, 2};
        pictures.ofNode("out", key, outcome);
        QTRY_VERIFY(pictures.drawn("out", key));
        QVERIFY(!pictures.ofNode("out", other, nullptr).isNull());
        QTRY_VERIFY(!pictures.ofOperator("box").isNull());
        pictures.forgetNodes();
        QVERIFY(pictures.ofNode("out", other, nullptr).isNull());
        QVERIFY(!pictures.ofNode("out", key, nullptr).isNull());
        QVERIFY(!pictures.ofOperator("box").isNull());
    }
    /// Pictures that wait: the newest first, of each node only the newest, never more than so many.
    void picturesWaitNewestFirst() {
        PictureQueue queue;
        const auto wish = [](const char* node, std::uint64_t state) { return PictureWish{{node, Digest{state, 0}}, [] { return Geometry(); }, {}}; };
        QVERIFY(queue.put(wish("a", 1)) && queue.put(wish("b", 1)) && queue.put(wish("c", 1)));
        QVERIFY(!queue.put(wish("b", 1)));  // waits already, and comes first now
        QVERIFY(queue.put(wish("a", 2)));   // overtakes what was wished for it
        const auto first = queue.take();
        QVERIFY(first && first->key == (PictureKey{"a", Digest{2, 0}}));
        QVERIFY(!queue.put(wish("a", 2)));  // is being drawn
        queue.done(first->key);
        QVERIFY(queue.put(wish("a", 2)));
        QCOMPARE(queue.take()->key.first, std::string("a"));
        QCOMPARE(queue.take()->key.first, std::string("b"));
        QCOMPARE(queue.take()->key.first, std::string("c"));
        QVERIFY(!queue.take());
        for (int i = 0; i < int(PictureQueue::kMostWaiting) + 50; ++i) queue.put(wish(std::to_string(i).c_str(), 1));
        int waiting = 0;
        while (queue.take()) ++waiting;
        QCOMPARE(waiting, int(PictureQueue::kMostWaiting));
    }

    void theFirstAndTheNewestOfManyMovesAreBuilt() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        // All before the event loop runs once: none of them can have come back.
        for (int i = 1; i <= 50; ++i) ask(i, Mode::sliding);
        QVERIFY(service_->running());
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QVERIFY(!service_->running());
        QVERIFY2(built_.count(1) && built_.count(50), "the first and the last");
        for (double size : built_) QVERIFY2(size <= 1 || size == 50, qPrintable(QString::number(size)));
        QTest::qWait(100);
        QCOMPARE(finished.count(), 1);
    }
    void lettingGoCancelsWhatMovesBegan() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        for (int i = 1; i <= 5; ++i) ask(i, Mode::sliding);
        ask(9, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QCOMPARE(sizeNow(), 9.0);
        QVERIFY(!built_.count(1) && !built_.count(5));
        QVERIFY(!service_->incomplete());
    }
    void otherEditsCancelEachOther() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        for (int i = 1; i <= 5; ++i) ask(i, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QCOMPARE(sizeNow(), 5.0);
        QVERIFY(!built_.count(1));
        // A move cancels a full rebuild as well: what the hand does now is wanted first.
        ask(6, Mode::full);
        ask(7, Mode::sliding);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2, 30000);
        QCOMPARE(sizeNow(), 7.0);
        QVERIFY(!built_.count(6));
    }
    void cancellingEndsWhatRunsAndWhatWaits() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        ask(1, Mode::sliding);
        ask(2, Mode::sliding);
        service_->cancel();
        QCOMPARE(finished.count(), 1);
        QVERIFY(!service_->running() && service_->wasCancelled());
        QTest::qWait(300);
        QCOMPARE(finished.count(), 1);
        QVERIFY(!built_.count(1) && !built_.count(2));
        ask(3, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2, 30000);
        QCOMPARE(sizeNow(), 3.0);
        QVERIFY(!service_->wasCancelled());
    }
    /// Somebody who hears of a result may wish for the next one at once.
    void aWishMayComeFromAResult() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        bool asked = false;
        connect(service_.get(), &RebuildService::stateChanged, this, [&] {
            if (asked || sizeNow() != 1.0) return;
            asked = true;
            ask(4, Mode::full);
        });
        ask(1, Mode::sliding);
        ask(2, Mode::sliding);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QVERIFY(asked);
        QCOMPARE(sizeNow(), 4.0);
        QVERIFY(!built_.count(2));
        QTest::qWait(100);
        QCOMPARE(finished.count(), 1);
    }
    void whatIsGoneIsForgotten() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        ask(1, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QVERIFY(service_->outcome("box") && service_->outcome("subdivide"));
        QCOMPARE(service_->doneCount(), 2);
        const auto fine = service_->outcome("subdivide");
        Loom without = *boxOf(1);
        without.nodes.pop_back();
        without.links.clear();
        without.output = "box";
        service_->request(std::make_shared<const Loom>(without), {}, {});
        QVERIFY(!service_->outcome("subdivide"));
        QVERIFY(service_->outcome("box"));  // the last result is kept until the next one comes
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2, 30000);
        QCOMPARE(service_->report("subdivide").state, NodeState::waiting);
        QCOMPARE(service_->totalCount(), 1);
        // What was computed before is remembered.
        ask(1, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 3, 30000);
        QCOMPARE(service_->outcome("subdivide"), fine);
        QCOMPARE(sizeNow(), 1.0);
    }
    void failuresAndTimeAreTold() {
        Loom wrong = *boxOf(1);
        wrong.nodes[1].settings = {{"levels", -3}};
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        service_->request(std::make_shared<const Loom>(wrong), {}, {{"height", 2.5}}, 36, 24, Mode::sliding);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QVERIFY(service_->anyFailed());
        QCOMPARE(service_->report("subdivide").state, NodeState::failed);
        QVERIFY(!service_->notices().empty());
        QCOMPARE(service_->frame(), 36.0);
        QCOMPARE(service_->time(), 1.5);
        QCOMPARE(service_->controls().at("height").get<double>(), 2.5);
        ask(1, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2, 30000);
        QVERIFY(!service_->anyFailed() && service_->notices().empty());
        QVERIFY(service_->controls().empty());
    }
    void slowStepsWaitWhileAHandSlides() {
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        ask(1, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        service_->setSlowMs(service_->outcome("subdivide")->ms * 0.5);
        ask(2, Mode::sliding);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2, 30000);
        QVERIFY(service_->incomplete());
        QCOMPARE(sizeNow(), 1.0);  // what was there is still shown
        QCOMPARE(service_->report("subdivide").state, NodeState::waiting);
        QCOMPARE(double(boundsOf(service_->outcome("box")->geometry.positions()).size().x), 2.0);
        ask(2, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 3, 30000);
        QVERIFY(!service_->incomplete());
        QCOMPARE(sizeNow(), 2.0);
    }
    /// A step with a coarse answer gives that, and goes on doing so: that it was quick does not make the whole quick.
    void aCoarseAnswerFollowsTheHand() {
        const auto broken = [](double size) {
            Loom out;
            Node box, shatter;
            box.id = box.op = "box";
            box.settings = {{"size", {size, 1, 1}}};
            shatter.id = shatter.op = "shatter";
            shatter.settings = {{"pieces", 100}};
            shatter.cell = {1, 0};
            out.nodes = {box, shatter};
            out.links.push_back({"box", "", "shatter", "", Json::object()});
            out.output = "shatter";
            return std::make_shared<const Loom>(out);
        };
        const auto pieces = [&] {
            const auto* piece = service_->outcome("shatter")->geometry.values<std::int32_t>(Element::face, "piece");
            return piece ? *std::max_element(piece->begin(), piece->end()) + 1 : 0;
        };
        QSignalSpy finished(service_.get(), &RebuildService::finished);
        service_->request(broken(1), {}, {}, 0, 24, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 1, 30000);
        QCOMPARE(pieces(), 100);
        service_->setSlowMs(service_->outcome("shatter")->ms * 0.5);
        for (int i = 0; i < 3; ++i) {
            service_->request(broken(2 + i), {}, {}, 0, 24, Mode::sliding);
            QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 2 + i, 30000);
            QVERIFY(service_->incomplete() && service_->outcome("shatter")->coarse);
            QCOMPARE(pieces(), 24);
            QCOMPARE(double(boundsOf(service_->outcome("shatter")->geometry.positions()).size().x), 2.0 + i);
        }
        service_->request(broken(4), {}, {}, 0, 24, Mode::full);
        QTRY_COMPARE_WITH_TIMEOUT(finished.count(), 5, 30000);
        QVERIFY(!service_->incomplete() && !service_->outcome("shatter")->coarse);
        QCOMPARE(pieces(), 100);
    }
};

int main(int argc, char** argv) {
    const OwnApplication application(argc, argv);
    TestRebuilds test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_rebuilds.moc"

// Coarse answers: what slow steps give while a hand slides, and that nothing of them is left when it rests.
#include "geometry/Digest.h"
#include "geometry/Rows.h"
#include "support/Looms.h"
#include "support/Pieces.h"
#include "support/Run.h"

#include <algorithm>

namespace {

using namespace seedloom;
using namespace seedloom::test;

std::int32_t pieceCount(const Geometry& g) {
    const auto* piece = g.values<std::int32_t>(Element::face, "piece");
    return piece && !piece->empty() ? *std::max_element(piece->begin(), piece->end()) + 1 : 0;
}

/// A box broken into 60 rough pieces, crumbled, roughened, and spread.
Loom brokenBox() {
    Loom loom;
    loom.nodes = {node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}),
                  node("broken", "shatter", {1, 0}, {{"pieces", {{"control", "pieces"}}}, {"roughness", 0.01}}),
                  node("crumbled", "crumble_edges", {2, 0}, {{"width", 0.03}, {"crumbs", 2}}),
                  node("grainy", "roughen_breaks", {3, 0}, {{"amount", 0.005}, {"detail", 0.08}}),
                  node("apart", "spread_pieces", {4, 0}, {{"amount", 0.5}}),
                  node("out", "output", {5, 0})};
    loom.links = {linked("box", "broken"), linked("broken", "crumbled"), linked("crumbled", "grainy"), linked("grainy", "apart"), linked("apart", "out")};
    loom.controls = {{}};
    loom.controls[0].id = "pieces";
    loom.controls[0].type = "integer";
    loom.controls[0].fallback = 60;
    loom.output = "out";
    return loom;
}

class TestCoarse : public QObject {
    Q_OBJECT

    std::unique_ptr<Memo> memo_;
    const std::shared_ptr<const Loom> loom_ = std::make_shared<const Loom>(brokenBox());

    RebuildResult run(int pieces, std::set<std::string> deferred, Memo* memo = nullptr) {
        RebuildRequest request;
        request.loom = loom_;
        request.controls = {{"pieces", pieces}};
        request.deferred = std::move(deferred);
        return rebuild(request, memo ? *memo : *memo_);
    }

private Q_SLOTS:
    void init() { memo_ = std::make_unique<Memo>(); }

    void slowStepsGiveLessAtOnce() {
        const RebuildResult quick = run(60, {"broken", "crumbled", "grainy"});
        QVERIFY(quick.incomplete && !quick.failed());
        QCOMPARE(pieceCount(*quick.geometry("broken")), 24);
        QVERIFY(quick.geometry("broken")->faceCount() * 8 < run(24, {}).geometry("broken")->faceCount());  // the walls are flat
        // Crumbs and grain are for the whole; what follows may read their tags all the same.
        QCOMPARE(pieceCount(*quick.geometry("grainy")), 24);
        QVERIFY(quick.geometry("grainy")->column(Element::face, "crumb"));
        for (const char* id : {"broken", "crumbled", "grainy", "apart", "out"}) {
            QVERIFY2(quick.nodes.at(id).outcome->coarse, id);
            QCOMPARE(quick.nodes.at(id).state, NodeState::fresh);
        }
        QVERIFY(!quick.nodes.at("box").outcome->coarse);
        QVERIFY(std::abs(signedVolume(*quick.geometry("broken")) - 1) < 1e-5);
    }

    void theWholeComesAfterwards() {
        const RebuildResult quick = run(60, {"broken"});
        const RebuildResult whole = run(60, {});
        Memo fresh;
        const RebuildResult alone = run(60, {}, &fresh);
        QVERIFY(!whole.incomplete && !whole.failed());
        for (const auto& [id, report] : whole.nodes) {
            QVERIFY2(!report.outcome->coarse, id.c_str());
            QVERIFY2(digestOf(report.outcome->geometry) == digestOf(alone.nodes.at(id).outcome->geometry), id.c_str());
            QCOMPARE(report.key.digest == quick.nodes.at(id).key.digest, id == "box");
        }
        QCOMPARE(pieceCount(*whole.geometry("broken")), 60);
        // The step after it was not deferred: it crumbled what it got.
        QVERIFY(pieceCount(*quick.geometry("crumbled")) > 24);
    }

    void whatIsKnownIsGivenWhole() {
        const RebuildResult whole = run(30, {});
        const RebuildResult again = run(30, {"broken", "crumbled", "grainy"});
        QVERIFY(!again.incomplete);
        for (const auto& [id, report] : again.nodes)
            QVERIFY2(!report.outcome->coarse && report.remembered && report.key.digest == whole.nodes.at(id).key.digest, id.c_str());
        // The same coarse answer twice is remembered as well.
        const RebuildResult first = run(31, {"broken"}), second = run(31, {"broken"});
        QVERIFY(!first.nodes.at("broken").remembered && second.nodes.at("broken").remembered && second.nodes.at("broken").outcome->coarse && second.incomplete);
    }

    void stepsWithoutACoarseAnswerWait() {
        const RebuildResult result = run(12, {"apart"});
        QVERIFY(result.incomplete);
        QCOMPARE(result.nodes.at("apart").state, NodeState::waiting);
        QVERIFY(!result.nodes.at("apart").outcome && !result.nodes.at("out").outcome);
        QVERIFY(!result.nodes.at("grainy").outcome->coarse);
    }

    void aSkippedStepHasNoCoarseAnswer() {
        Loom loom = *loom_;
        loom.nodes[1].skipped = true;
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.controls = {{"pieces", 60}};
        request.deferred = {"broken"};
        const RebuildResult skipped = rebuild(request, *memo_);
        QCOMPARE(skipped.nodes.at("broken").state, NodeState::waiting);
        QVERIFY(skipped.incomplete);
    }

    void fewerCellsAreTheFirstOfAll() {
        std::vector<Vec3> seeds;
        for (int i = 0; i < 50; ++i) seeds.push_back({0.02f * float(i) - 0.49f, 0.1f * float(i % 7) - 0.3f, 0.1f * float(i % 5) - 0.2f});
        const Geometry box = made("box"), all(seeds), first(std::vector<Vec3>(seeds.begin(), seeds.begin() + 24));
        const auto coarse = [&](const char* op, const std::vector<Geometry>& from) {
            const auto spec = operatorFor(op, Json::object());
            OperatorInput input = inputFor(*spec, {{"pieces", 100}}, {box});
            input.ports[1] = from;
            return digestOf(runOperator(*spec, input, RunContext(nullptr, {}), spec->coarse).geometry);
        };
        for (const char* op : {"shatter", "crack_shell"}) {
            QVERIFY2(coarse(op, {}) == digestOf(made(op, {{"pieces", 24}}, {box})), op);
            QVERIFY2(coarse(op, {all}) == digestOf(madeOf(op, {{box}, {first}})), op);
        }
    }
};

}  // namespace

QTEST_APPLESS_MAIN(TestCoarse)
#include "test_coarse.moc"

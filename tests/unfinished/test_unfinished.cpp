// Entries that a hand still makes: as good as written ones, and whatever was there before is worked out once for all moves.
#include "engine/Engine.h"
#include "geometry/Digest.h"
#include "graph/Controls.h"
#include "support/Chance.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Node node(const char* id, const char* op, Json settings = Json::object()) {
    Node out;
    out.id = id, out.op = op, out.settings = std::move(settings);
    return out;
}

/// `op` over a wavy sheet, with the entries so far.
Loom loomWith(const char* op, Json settings, const Json& entries) {
    settings["strokes"] = entries;
    Loom loom;
    loom.nodes = {node("sheet", "grid", {{"size", {2, 2}}, {"cells", {40, 40}}}), node("waves", "noise_displace", {{"amount", 0.2}}),
                  node("hand", op, std::move(settings)), node("out", "output")};
    loom.links = {{"sheet", "", "waves", "", Json::object()}, {"waves", "", "hand", "", Json::object()}, {"hand", "", "out", "", Json::object()}};
    loom.output = "out";
    return loom;
}

Digest resultOf(Engine& engine, const Loom& loom, const Unfinished& unfinished = {}) {
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(loom);
    request.controls = *controlValues(loom);
    request.unfinished = unfinished;
    const RebuildResult made = engine.build(request);
    return made.failed() ? Digest() : digestOf(*made.geometry("out"));
}

Json strokeOf(Chance& chance, const char* op, int points) {
    const bool line = std::string_view(op) == "drawn_curve";
    Json places = Json::array();
    Vec3 at = chance.place();
    for (int i = 0; i < points; ++i) {
        at += chance.place(0.2f);
        places.push_back(line ? Json{at.x, 0, at.z} : Json{at.x, 0, at.z, 0, 1, 0});
    }
    if (line) return places;
    const bool shape = std::string_view(op) == "hand_shape";
    const char* modes[] = {shape ? "grab" : "add", shape ? "push" : "add", shape ? "pinch" : "remove", "smooth"};
    Json out{{"points", places}, {"radius", 0.3}, {"strength", 0.4 + 0.05 * chance.below(10)}, {"soft", 0.6}, {"mode", modes[chance.below(4)]}};
    if (chance.below(3) == 0) out["mirror"] = "xz";
    return out;
}
Json& placesOf(Json& stroke) { return stroke.is_array() ? stroke : stroke["points"]; }

}  // namespace

class TestUnfinished : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void asGoodAsWritten_data() {
        QTest::addColumn<QByteArray>("op");
        QTest::addColumn<QByteArray>("settings");
        QTest::newRow("mask") << QByteArray("paint_mask") << QByteArray("{}");
        QTest::newRow("masked mask") << QByteArray("paint_mask") << QByteArray(R"({"where": {"formula": "position.x > 0"}, "blend": 0.5, "start": 0.25})");
        QTest::newRow("shape") << QByteArray("hand_shape") << QByteArray(R"({"amount": 0.8, "where": {"formula": "position.x > -0.3 ? 1 : 0.5"}})");
        QTest::newRow("density") << QByteArray("scatter") << QByteArray(R"({"count": 300})");
        QTest::newRow("ground lines") << QByteArray("drawn_curve") << QByteArray(R"({"plane": "ground"})");
        QTest::newRow("lines on a surface") << QByteArray("drawn_curve") << QByteArray(R"({"plane": "surface", "spacing": 0.02})");
    }
    void asGoodAsWritten() {
        QFETCH(QByteArray, op);
        QFETCH(QByteArray, settings);
        Chance chance(9);
        Engine engine, other;
        Json entries = Json::array();
        std::set<Digest> seen;
        for (int stroke = 0; stroke < 5; ++stroke) {
            Json whole = strokeOf(chance, op.constData(), 12), made = whole;
            placesOf(made) = Json::array();
            for (const Json& place : placesOf(whole)) {
                placesOf(made).push_back(place);
                const Loom loom = loomWith(op.constData(), Json::parse(settings.toStdString()), entries);
                Json written = entries;
                written.push_back(made);
                const Digest moving = resultOf(engine, loom, {"hand", "strokes", made});
                QVERIFY(moving != Digest());
                QCOMPARE(moving.hex(), resultOf(other, loomWith(op.constData(), Json::parse(settings.toStdString()), written)).hex());
                seen.insert(moving);
            }
            entries.push_back(whole);
        }
        QVERIFY(seen.size() > 10);
    }

    /// A slider that moves under the hand is followed: what was there before is worked out anew.
    void followsWhatElseChanges() {
        Chance chance(4);
        const Json first = strokeOf(chance, "paint_mask", 10), more = strokeOf(chance, "paint_mask", 10);
        Engine engine, other;
        for (double start : {0.0, 0.5, 0.0, 0.25}) {
            const Loom before = loomWith("paint_mask", {{"start", start}}, Json::array({first})),
                       written = loomWith("paint_mask", {{"start", start}}, Json::array({first, more}));
            QCOMPARE(resultOf(engine, before, {"hand", "strokes", more}).hex(), resultOf(other, written).hex());
            QVERIFY(resultOf(engine, before) != resultOf(other, written) && resultOf(engine, before) != Digest());
        }
    }

    /// What was there before is made once for all moves of a hand.
    void theWorkIsKept() {
        UnfinishedWork work;
        const Digest a{1, 2}, b{3, 4};
        QVERIFY(!work.find<int>(a));
        work.keep<int>(a, std::make_shared<const int>(7));
        QCOMPARE(*work.find<int>(a), 7);
        QVERIFY(!work.find<int>(b) && !work.find<float>(a));
        const auto held = work.find<int>(a);
        QCOMPARE(work.find<int>(a), held);
        work.keep<int>(b, std::make_shared<const int>(8));
        QVERIFY(!work.find<int>(a));
        QCOMPARE(*work.find<int>(b), 8);
        work.clear();
        QVERIFY(!work.find<int>(b));

        const auto spec = operatorFor("paint_mask", Json::object());
        OperatorInput input = inputFor(*spec, {{"strokes", Json::array()}}, {made("grid")});
        input.unfinished = {"strokes", Json::object(), a, &work};
        const RunContext run;
        const OperatorCall call(*spec, input, run);
        int times = 0;
        for (int move = 0; move < 5; ++move) QCOMPARE(*call.withoutUnfinished<int>([&] { return ++times; }), 1);
        QCOMPARE(times, 1);
        input.unfinished.without = b;
        QCOMPARE(*OperatorCall(*spec, input, run).withoutUnfinished<int>([&] { return ++times; }), 2);
        QVERIFY(call.unfinished("strokes") && !call.unfinished("name"));
    }

    /// The operators take what is kept instead of reading the other strokes: a mask that was put there shows through.
    void operatorsTakeWhatIsKept() {
        const Geometry sheet = made("grid", {{"cells", {10, 10}}});
        const Json aside{{"points", {{50, 0, 50}}}, {"radius", 0.1}};  // reaches no point
        for (const char* op : {"paint_mask", "scatter"}) {
            const auto spec = operatorFor(op, Json::object());
            Json settings{{"strokes", Json::array({Json(3)})}};
            if (spec->setting("density")) settings["mode"] = "density", settings["density"] = 200;
            OperatorInput input = inputFor(*spec, settings, {sheet});
            UnfinishedWork work;
            input.unfinished = {"strokes", aside, Digest{1, 2}, &work};
            QVERIFY2(runOperator(*spec, input, RunContext()).failed, op);  // the other stroke can't be read
            work.keep<std::vector<float>>(Digest{1, 2}, std::make_shared<const std::vector<float>>(sheet.pointCount(), 1.0f));
            const OperatorOutcome made = runOperator(*spec, input, RunContext());
            QVERIFY2(!made.failed && made.geometry.pointCount() > 100, op);
            if (const auto* mask = made.geometry.values<float>(Element::point, "mask"))
                for (float value : *mask) QCOMPARE(value, 1.0f);
        }
    }

    /// A stroke that can't be read is told, and the model before it stays.
    void badEntriesAreTold() {
        Engine engine;
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loomWith("paint_mask", Json::object(), Json::array()));
        for (const Json& bad : {Json(3), Json{{"radius", 1}}, Json{{"points", {{1, 2}}}}}) {
            request.unfinished = {"hand", "strokes", bad};
            const RebuildResult made = engine.build(request);
            QVERIFY(made.failed());
            QCOMPARE(made.nodes.at("hand").outcome->notices.front().code, std::string("setting.type"));
            QCOMPARE(made.geometry("hand")->pointCount(), std::size_t(41 * 41));
        }
    }
};

QTEST_APPLESS_MAIN(TestUnfinished)
#include "test_unfinished.moc"

// Time step: each frame from the one before by the steps inside; and the ways that moving things make.
#include "engine/Engine.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <QtTest/QtTest>

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Node moved(Json by) { return node("move", "transform", {1, 0}, {{"move", std::move(by)}}); }

/// A box that something happens to, frame by frame.
Loom stepped(InnerGraph inside, Json settings = Json::object()) {
    Loom loom;
    loom.nodes = {node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}), node("step", "time_step", {1, 0}, std::move(settings)), node("out", "output", {2, 0})};
    loom.nodes[1].graph = std::move(inside);
    loom.links = {linked("box", "step"), linked("step", "out")};
    loom.output = "out";
    return loom;
}

Bounds boundsAt(const Loom& loom, double frame, FrameCache& frames, Engine& engine) {
    const RebuildResult result = engine.build(requestOf(loom, frame, frames));
    if (result.failed()) QTest::qFail(result.notices(loom).front().text.c_str(), __FILE__, __LINE__);
    return boundsOf(*result.geometry("out"));
}

/// Copies in a row that a time step moves, each by its own way, and their tracks.
Loom tracked(Json by, Json settings = Json::object()) {
    Loom loom = stepped(row({node("move", "random_transform", {1, 0}, {{"move", std::move(by)}})}));
    loom.nodes[0] = node("box", "place_copies", {0, 0}, {{"align", "none"}});
    loom.nodes.push_back(node("line", "line", {0, 1}, {{"direction", {1, 0, 0}}, {"length", 4}, {"points", 5}}));
    loom.nodes.push_back(node("ball", "box", {0, 2}));
    loom.nodes.push_back(node("track", "track", {2, 0}, std::move(settings)));
    loom.links = {linked("line", "box"), linked("ball", "box", "shapes"), linked("box", "step"), linked("step", "track"), linked("track", "out")};
    return loom;
}

}  // namespace

class TestTimestep : public QObject {
    Q_OBJECT

private:
    Engine engine_;
    double topAt(const Loom& loom, double frame, FrameCache& frames) { return double(boundsAt(loom, frame, frames, engine_).max.y); }

private Q_SLOTS:
    void eachFrameIsMadeFromTheOneBefore() {
        FrameCache frames;
        const Loom loom = stepped(row({node("grow", "transform", {1, 0}, {{"scale", 1.1}})}));
        for (const int frame : {0, 1, 7, 30, 3})
            QVERIFY(near(double(boundsAt(loom, frame, frames, engine_).size().x), std::pow(1.1, frame), 1e-4 * std::pow(1.1, frame)));
        QVERIFY(near(double(boundsAt(loom, -3, frames, engine_).size().x), 1, 1e-6));
        QCOMPARE(frames.entries(), std::size_t(31));
    }

    /// Up to Start it is what comes in.
    void itStartsWhenItIsToldTo() {
        FrameCache frames;
        const Loom loom = stepped(row({moved({0, 1, 0})}), {{"start", 10}});
        const double top = topAt(loom, 0, frames);
        QCOMPARE(topAt(loom, 10, frames), top);
        QVERIFY(near(topAt(loom, 11, frames), top + 1, 1e-5));
        QVERIFY(near(topAt(loom, 25, frames), top + 15, 1e-4));
    }

    /// Inside, frame and time run on through the steps of a frame; what moves by speed and step is as fast with any number of them.
    void wordsInsideTellWhereItIs() {
        for (const int parts : {1, 2, 5}) {
            FrameCache frames;
            const Json settings{{"substeps", parts}};
            const Loom even = stepped(row({moved({{"formula", "vec3(0, 12 * step, 0)"}})}), settings);
            const double top = topAt(even, 0, frames);
            QVERIFY(near(topAt(even, 48, frames) - top, 24, 1e-3));
            // The sum of frame over all steps: n(n + 1)/2 where there is one a frame.
            const Loom rising = stepped(row({moved({{"formula", "vec3(0, frame, 0)"}})}), settings);
            double sum = 0;
            for (int k = 1; k <= 4 * parts; ++k) sum += double(k) / parts;
            QVERIFY(near(topAt(rising, 4, frames) - top, sum, 1e-4));
            const Loom timed = stepped(row({moved({{"formula", "vec3(0, time, 0)"}})}), settings);
            QVERIFY(near(topAt(timed, 4, frames) - top, sum / 24, 1e-5));
        }
    }

    /// How long a frame takes is part of what its frames are remembered by.
    void aFrameTakesAsLongAsTheDocumentSays() {
        FrameCache frames;
        const Loom loom = stepped(row({moved({{"formula", "vec3(0, step, 0)"}})}));
        const double top = topAt(loom, 0, frames);
        QVERIFY(near(topAt(loom, 12, frames) - top, 0.5, 1e-5));
        RebuildRequest slow = requestOf(loom, 12, frames);
        slow.secondsPerFrame = 0.5;
        QVERIFY(near(double(boundsOf(*engine_.build(slow).geometry("out")).max.y) - top, 6, 1e-4));
    }

    void furtherInputsComeAsTheyAreAtThatFrame() {
        Loom inner = *row({});
        inner.nodes.push_back(node("other", "inner_input", {0, 1}, {{"name", "more"}}));
        inner.nodes.push_back(node("both", "merge", {1, 0}));
        inner.links = {linked("part", "both"), linked("other", "both"), linked("both", "result")};
        Loom loom = stepped(InnerGraph(inner));
        loom.nodes.push_back(node("mark", "box", {0, 1}, {{"size", {0.1, 0.1, 0.1}}}));
        loom.nodes.push_back(node("at", "transform", {1, 1}, {{"move", {{"formula", "vec3(frame, 0, 0)"}}}}));
        loom.links.push_back(linked("mark", "at"));
        loom.links.push_back(linked("at", "step", "more"));
        FrameCache frames;
        const RebuildResult result = engine_.build(requestOf(loom, 6, frames));
        QVERIFY2(!result.failed(), result.failed() ? result.notices(loom).front().text.c_str() : "");
        const Geometry& out = *result.geometry("out");
        QCOMPARE(out.faceCount(), 7u * 6);
        // One a frame, where it was then: 1 to 6.
        std::set<int> places;
        for (std::size_t p = 8; p < out.pointCount(); ++p) places.insert(int(std::lround(double(out.positions()[p].x))));
        QCOMPARE(places, (std::set<int>{1, 2, 3, 4, 5, 6}));
        QCOMPARE(boundsAt(loom, 3, frames, engine_).max.x, 3.05f);
    }

    void aKeptFrameStays() {
        FrameCache frames;
        const Loom follows = stepped(row({moved({0, 1, 0})})), kept = stepped(row({moved({0, 1, 0})}), {{"at_frame", 8}});
        const double top = topAt(follows, 0, frames);
        for (const int frame : {0, 8, 30}) QVERIFY(near(topAt(kept, frame, frames), top + 8, 1e-4));
        for (const int frame : {0, 9}) QCOMPARE(topAt(stepped(row({moved({0, 1, 0})}), {{"at_frame", 0}}), frame, frames), top);
        // Which one is kept makes none of them another.
        topAt(follows, 12, frames);
        QCOMPARE(frames.entries(), std::size_t(13));
        const RebuildResult again = engine_.build(requestOf(kept, 5, frames));
        QVERIFY(!again.nodes.at("step").outcome->failed && again.nodes.at("step").remembered);
        QCOMPARE(frames.entries(), std::size_t(13));
    }

    /// Inside of other containers as outside; where that repeats, a kept frame is computed there, and what follows the frames says what to do.
    void insideOfAContainer() {
        FrameCache frames;
        Node nest = node("step", "nest", {1, 0});
        Node inside = node("steps", "time_step", {1, 0}, {{"at_frame", 5}, {"start", 1}, {"substeps", 2}});
        inside.graph = row({moved({0, 1, 0})});
        nest.graph = row({inside});
        Loom loom = stepped(row({}));
        loom.nodes[1] = nest;
        const double top = topAt(stepped(row({})), 0, frames);
        QVERIFY(near(topAt(loom, 0, frames), top + 8, 1e-4));
        inside.settings = Json::object();
        loom.nodes[1].graph = row({inside});
        QVERIFY(near(topAt(loom, 3, frames), top + 3, 1e-4));
        loom.nodes[1].op = "repeat";
        loom.nodes[1].settings = {{"times", 2}};
        Loom kept = loom;
        inside.settings = {{"at_frame", 5}};
        kept.nodes[1].graph = row({inside});
        QVERIFY(near(topAt(kept, 0, frames), top + 10, 1e-4));
        const RebuildResult failed = engine_.build(requestOf(loom, 3, frames));
        QVERIFY(failed.failed());
        QCOMPARE(failed.nodes.at("step").outcome->notices.front().code, std::string("state.inside"));
    }

    /// A change inside makes all frames anew, one behind it none.
    void whatChangesIsMadeAnew() {
        FrameCache frames;
        const Loom loom = stepped(row({moved({0, 1, 0})})), other = stepped(row({moved({0, 2, 0})}));
        const double top = topAt(loom, 0, frames);
        topAt(loom, 20, frames);
        QVERIFY(near(topAt(other, 20, frames), top + 40, 1e-4));
        QCOMPARE(frames.entries(), std::size_t(42));
        Loom behind = loom;
        behind.nodes[2].label = "Elsewhere";
        topAt(behind, 20, frames);
        QCOMPARE(frames.entries(), std::size_t(42));
        // Skipped, it is as if it were not there.
        behind.nodes[1].skipped = true;
        QCOMPARE(topAt(behind, 20, frames), top);
    }

    void whoLooksInsideSeesHowTheFrameIsMade() {
        FrameCache frames;
        const Loom loom = stepped(row({moved({0, 1, 0})}), {{"start", 2}});
        const double top = topAt(loom, 0, frames);
        const auto inside = [&](double frame) {
            RebuildRequest request = requestOf(loom, frame, frames);
            request.watch = Watch{{std::string("step")}, {0}};
            const RebuildResult result = engine_.build(request);
            const Geometry* before = result.geometry("step/part");
            const Geometry* after = result.geometry("step/move");
            return before && after ? std::pair(double(boundsOf(*before).max.y) - top, double(boundsOf(*after).max.y) - top) : std::pair(-1.0, -1.0);
        };
        QVERIFY(near(inside(9).first, 6, 1e-4) && near(inside(9).second, 7, 1e-4));
        QVERIFY(near(inside(3).first, 0, 1e-4) && near(inside(3).second, 1, 1e-4));
        // Before the first one it is shown how that will be made.
        QVERIFY(near(inside(0).first, 0, 1e-4) && near(inside(0).second, 1, 1e-4));
    }

    void faultsInsideAreTold() {
        FrameCache frames;
        const Loom loom = stepped(row({moved({{"formula", "vec3(0, frame > 3 ? nothing : 1, 0)"}})}));
        const RebuildResult result = engine_.build(requestOf(loom, 8, frames));
        QVERIFY(result.failed());
        QVERIFY(result.nodes.at("step").outcome->notices.front().text.find("nothing") != std::string::npos);
        QCOMPARE(result.geometry("out")->faceCount(), 6u);
        // No output inside.
        Loom inner = *row({});
        inner.output.clear();
        const Loom without = stepped(InnerGraph(inner));
        QCOMPARE(engine_.build(requestOf(without, 2, frames)).nodes.at("step").outcome->notices.front().code, std::string("container.output"));
        for (const Json& wrong : {Json{{"substeps", 0}}, Json{{"start", -1}}, Json{{"substeps", 5000}}, Json{{"start", "soon"}}})
            QVERIFY(engine_.build(requestOf(stepped(row({moved({0, 1, 0})}), wrong), 2, frames)).failed());
    }

    void threadsChangeNothing() {
        std::vector<Digest> digests;
        for (const int threads : {1, 4}) {
            FrameCache frames;
            RebuildRequest request =
                requestOf(stepped(row({node("n", "noise_displace", {1, 0}, {{"amount", 0.1}}), node("s", "smooth", {2, 0})}), {{"substeps", 2}}), 20, frames);
            request.threads = threads;
            digests.push_back(digestOf(*engine_.build(request).geometry("out")));
        }
        QCOMPARE(digests[0], digests[1]);
    }

    void tracksLeadWhereEachWas() {
        FrameCache frames;
        Loom loom = tracked({0, 0, 0});
        loom.nodes[1].graph = row({moved({{"formula", "vec3(0, 1, 0)"}})});
        const RebuildResult result = engine_.build(requestOf(loom, 10, frames));
        QVERIFY2(!result.failed(), result.failed() ? result.notices(loom).front().text.c_str() : "");
        const Geometry& out = *result.geometry("out");
        QCOMPARE(out.curveCount(), 5u);
        const auto& ids = *out.values<std::int32_t>(Element::curve, "id");
        const auto &along = *out.values<float>(Element::point, "along"), &age = *out.values<float>(Element::point, "age");
        for (std::size_t c = 0; c < 5; ++c) {
            const auto points = out.topology().curve(c);
            QCOMPARE(points.size(), std::size_t(11));
            QCOMPARE(ids[c], int(c));
            for (std::size_t i = 0; i < points.size(); ++i) {
                const Vec3 at = out.positions()[points[i]];
                QVERIFY(near(double(at.x), double(c), 1e-5) && near(double(at.y), double(i), 1e-4));
                QVERIFY(near(double(along[points[i]]), double(i) / 10, 1e-5));
                QCOMPARE(age[points[i]], float(10 - int(i)));
            }
        }
        // From a frame on, every fourth, and always up to now.
        loom.nodes[5].settings = {{"from", 3}, {"every", 4}};
        const Geometry few = *engine_.build(requestOf(loom, 12, frames)).geometry("out");
        QCOMPARE(few.topology().curve(0).size(), std::size_t(4));
        for (std::size_t i = 0; i < 4; ++i) QVERIFY(near(double(few.positions()[i].y), std::array{3, 7, 11, 12}[i], 1e-4));
        QCOMPARE((*few.values<float>(Element::point, "age"))[3], 0.0f);
        for (const int before : {0, 2, 3}) QCOMPARE(engine_.build(requestOf(loom, before, frames)).geometry("out")->curveCount(), 0u);
    }

    /// What a frame of tracks takes: its places, and where those before are.
    void tracksTakeLittleMemory() {
        const OperatorSpec& spec = *findOperator("track");
        const OperatorInput input = inputFor(spec, Json::object(), {made("box")});
        const RunContext run;
        OperatorCall call(spec, input, run);
        FrameState state = spec.start(call);
        QCOMPARE(state.ownBytes, sizeof(Vec3) + 16);
        state = spec.advance(call, state);
        QCOMPARE(state.ownBytes, sizeof(Vec3) + 32);
        OperatorInput late = inputFor(spec, {{"from", 4}}, {made("box")});
        OperatorCall before(spec, late, run);
        QCOMPARE(spec.start(before).ownBytes, std::size_t(0));
    }

    /// Pieces by the mean of their points, points by themselves; what stands adds nothing.
    void piecesAndPoints() {
        FrameCache frames;
        Loom loom = stepped(row({moved({{"formula", "vec3(frame <= 4 ? 1 : 0, 0, 0)"}})}));
        loom.nodes.push_back(node("track", "track", {2, 0}));
        loom.links = {linked("box", "step"), linked("step", "track"), linked("track", "out")};
        const Geometry piece = *engine_.build(requestOf(loom, 9, frames)).geometry("out");
        QCOMPARE(piece.curveCount(), 1u);
        QCOMPARE(piece.pointCount(), 5u);
        QVERIFY(near(double(piece.positions()[4].x - piece.positions()[0].x), 4, 1e-5) && near(double(piece.positions()[0].x), 0, 1e-5));
        QCOMPARE((*piece.values<float>(Element::point, "age"))[4], 5.0f);  // since then it stands
        // What creeps by next to nothing stands; what creeps on gets there in the end.
        loom.nodes[1].graph = row({moved({{"formula", "vec3(frame <= 4 ? 1 : 0.000003, 0, 0)"}})});
        QCOMPARE(engine_.build(requestOf(loom, 14, frames)).geometry("out")->pointCount(), 5u);
        loom.nodes[1].graph = row({moved({{"formula", "vec3(frame <= 4 ? 1 : 0.00002, 0, 0)"}})});
        const Geometry creeps = *engine_.build(requestOf(loom, 14, frames)).geometry("out");
        QVERIFY(creeps.pointCount() > 6 && creeps.pointCount() < 12);
        loom.nodes[1].graph = row({moved({{"formula", "vec3(frame <= 4 ? 1 : 0, 0, 0)"}})});
        loom.nodes[3].settings = {{"of", "points"}};
        QCOMPARE(engine_.build(requestOf(loom, 9, frames)).geometry("out")->curveCount(), 8u);
        loom.nodes[3].settings = {{"of", "copies"}};
        QCOMPARE(engine_.build(requestOf(loom, 9, frames)).geometry("out")->curveCount(), 0u);
    }

    /// By their numbers, whatever their order; what was gone begins anew.
    void numbersTellWhoIsWho() {
        FrameCache frames;
        Loom loom = stepped(row({moved({0, 1, 0})}));
        loom.nodes[0] = node("box", "point_list", {0, 0}, {{"points", {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {3, 0, 0}}}, {"join", "none"}});
        loom.nodes.push_back(node("gone", "delete", {2, 0}, {{"of", "points"}, {"where", {{"formula", "(frame == 3 && id == 1) || id == 3"}}}}));
        loom.nodes.push_back(node("number", "set_attribute", {1, 1}, {{"name", "id"}, {"type", "int"}, {"value", {{"formula", "index"}}}}));
        loom.nodes.push_back(node("track", "track", {3, 0}));
        loom.links = {linked("box", "number"), linked("number", "step"), linked("step", "gone"), linked("gone", "track"), linked("track", "out")};
        const RebuildResult result = engine_.build(requestOf(loom, 6, frames));
        QVERIFY2(!result.failed(), result.failed() ? result.notices(loom).front().text.c_str() : "");
        const Geometry& out = *result.geometry("out");
        QCOMPARE(out.curveCount(), 4u);
        std::multiset<int> lengths;
        for (std::size_t c = 0; c < 4; ++c) {
            const auto points = out.topology().curve(c);
            lengths.insert(int(points.size()));
            for (const Index p : points) QVERIFY(near(double(out.positions()[p].x), (*out.values<std::int32_t>(Element::curve, "id"))[c], 1e-6));
        }
        QCOMPARE(lengths, (std::multiset<int>{3, 3, 7, 7}));
        // Two with one number: the first is followed, and it is told.
        loom.nodes[4].settings["value"] = {{"formula", "index == 3 ? 3 : index > 0 ? 1 : 0"}};
        const RebuildResult doubled = engine_.build(requestOf(loom, 2, frames));
        QCOMPARE(doubled.geometry("out")->curveCount(), 2u);
        QCOMPARE(doubled.nodes.at("track").outcome->notices.front().code, std::string("track.doubled"));
    }

    /// Each frame of what is followed is computed once.
    void framesOfWhatIsFollowedAreRemembered() {
        Loom loom = tracked({0, 0, 0});
        loom.nodes[1].graph = row({moved({{"formula", "vec3(0, 1, 0)"}})});
        FrameCache frames;
        QVERIFY(!engine_.build(requestOf(loom, 30, frames)).failed());
        QCOMPARE(frames.entries(), std::size_t(62));
        // An engine keeps them by itself.
        Engine own;
        RebuildRequest request = requestOf(loom, 30, frames);
        request.frames = nullptr;
        request.lastFrame = 30;
        const RebuildResult result = own.build(request);
        for (const char* node : {"step", "track"}) {
            const auto& kept = result.nodes.at(node).frames;
            QCOMPARE(std::count(kept.begin(), kept.end(), 1), 31);
        }
    }

    void whatStandsStillIsTold() {
        FrameCache frames;
        Loom loom = stepped(row({}), {{"at_frame", 3}});
        loom.nodes.push_back(node("track", "track", {2, 0}));
        loom.links = {linked("box", "step"), linked("step", "track"), linked("track", "out")};
        const RebuildResult result = engine_.build(requestOf(loom, 5, frames));
        QCOMPARE(result.nodes.at("track").outcome->notices.front().code, std::string("track.still"));
        QCOMPARE(result.geometry("out")->pointCount(), 0u);
        for (const Json& wrong : {Json{{"every", 0}}, Json{{"from", -2}}, Json{{"of", "wheels"}}}) {
            loom.nodes[3].settings = wrong;
            QVERIFY(engine_.build(requestOf(loom, 5, frames)).failed());
        }
    }
};

QTEST_APPLESS_MAIN(TestTimestep)
#include "test_timestep.moc"

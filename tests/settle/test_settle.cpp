// Pieces and copies that fall and come to rest: shapes and attributes stay, nothing stands in another, a kept frame is the result.
#include "engine/Engine.h"
#include "geometry/Bake.h"
#include "geometry/Digest.h"
#include "geometry/NearestPlace.h"
#include "motion/RigidScene.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <limits>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Broken pieces of a ball above the floor.
Geometry piecesAbove(int pieces = 8) {
    return made("shatter", {{"pieces", pieces}, {"seed", 3}},
                {made("transform", {{"move", {0, 1.2, 0}}}, {made("geodesic_sphere", {{"radius", 0.5}, {"frequency", 6}})})});
}

OperatorOutcome settled(std::vector<Geometry> in, Json settings, std::vector<Geometry> ground = {}) {
    return runPorts("settle", {std::move(in), std::move(ground)}, settings);
}

Geometry copiesAbove(int count) {
    std::vector<Vec3> at;
    for (int i = 0; i < count; ++i) at.push_back({float(i % 3) * 0.5f, 0.4f + 0.4f * float(i / 3), 0.05f * float(i)});
    Geometry points(at);
    return madeOf("place_copies", {{points}, {made("box", {{"size", {0.3, 0.2, 0.25}}})}});
}

std::int32_t settledAt(const Geometry& g) { return (*g.values<std::int32_t>(Element::model, "settled_at"))[0]; }

std::int32_t bonds(const Geometry& g) { return (*g.values<std::int32_t>(Element::model, "bonds"))[0]; }

bool hasCode(const OperatorOutcome& out, const char* code) {
    return std::any_of(out.notices.begin(), out.notices.end(), [&](const Notice& n) { return n.code == code; });
}

Loom settleLoom(Json settings) {
    Loom loom;
    loom.nodes = {node("box", "box", {0, 0}, {{"size", {0.4, 0.4, 0.4}}}), node("up", "transform", {1, 0}, {{"move", {0, 2, 0}}}),
                  node("fall", "settle", {2, 0}, std::move(settings)), node("out", "output", {3, 0})};
    loom.links = {linked("box", "up"), linked("up", "fall"), linked("fall", "out")};
    loom.output = "out";
    return loom;
}

double lowest(const Geometry& g) { return double(boundsOf(g).min.y); }

}  // namespace

class TestSettle : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void frameZeroIsWhatComesIn() {
        const Geometry in = piecesAbove();
        const auto out = settled({in}, {{"at_frame", 0}});
        QVERIFY(!out.failed);
        QCOMPARE(out.geometry.positions(), in.positions());
        QVERIFY(hasCode(out, "settle.floor") && !hasCode(out, "settle.start"));
        QCOMPARE(settledAt(out.geometry), -1);
        for (const Vec3 v : *out.geometry.values<Vec3>(Element::point, "velocity")) QVERIFY(length(v) < 0.05f);
    }

    void piecesKeepTheirShapeAndComeToRest() {
        const Geometry in = piecesAbove();
        const auto out = settled({in}, {{"at_frame", 200}});
        QVERIFY2(!out.failed, out.failed ? out.notices.back().text.c_str() : "");
        const Geometry& g = out.geometry;
        QVERIFY(settledAt(g) > 20 && settledAt(g) <= 200);
        QVERIFY2(lowest(g) > -0.01 && boundsOf(g).max.y < 1.1f, qPrintable(QStringLiteral("%1 to %2").arg(lowest(g)).arg(double(boundsOf(g).max.y))));
        QVERIFY(!hasCode(out, "settle.inside"));
        // Bodies: each distance within a piece is what it was, and so is all that is known of elements.
        QCOMPARE(g.topology().cornerPoint(), in.topology().cornerPoint());
        const auto& pieceOfFace = *in.values<std::int32_t>(Element::face, "piece");
        std::vector<std::vector<Index>> points(8);
        for (Index f = 0; f < in.faceCount(); ++f)
            for (const Index p : in.topology().face(f)) points[std::size_t(pieceOfFace[f])].push_back(p);
        for (const auto& piece : points)
            for (std::size_t i = 1; i < piece.size(); i += 3)
                QVERIFY(near(double(distance(g.positions()[piece[0]], g.positions()[piece[i]])),
                             double(distance(in.positions()[piece[0]], in.positions()[piece[i]])), 1e-5));
        for (const Element element : {Element::point, Element::corner, Element::face})
            for (const auto& [name, column] : in.table(element))
                if (name != "position") QVERIFY2(g.column(element, name)->storage() == column.storage(), name.c_str());
        QVERIFY(near(signedVolume(g), signedVolume(in), 1e-5));
        QVERIFY(checkupOf(g).closed);
        for (const Vec3 v : *g.values<Vec3>(Element::point, "velocity")) QCOMPARE(v, (Vec3{0, 0, 0}));
        // From there on nothing changes.
        QCOMPARE(digestOf(settled({in}, {{"at_frame", 230}}).geometry), digestOf(g));
    }

    void copiesFallAsCopies() {
        const Geometry in = copiesAbove(9);
        const auto out = settled({in}, {{"at_frame", 180}});
        QVERIFY(!out.failed);
        QCOMPARE(out.geometry.copyCount(), std::size_t(9));
        QCOMPARE(out.geometry.copies()->shapes.front().get(), in.copies()->shapes.front().get());  // once
        for (const Affine& place : out.geometry.copies()->place) QVERIFY(near(place.determinant(), 1, 1e-4));
        QVERIFY(lowest(bakeCopies(out.geometry)) > -0.01);
        QVERIFY(settledAt(out.geometry) > 0);
        QCOMPARE(out.geometry.values<Vec3>(Element::copy, "velocity")->size(), std::size_t(9));
        // The same baked: the same bodies.
        const auto baked = settled({bakeCopies(in)}, {{"at_frame", 180}});
        QVERIFY(near(double(boundsOf(baked.geometry).max.y), double(boundsOf(bakeCopies(out.geometry)).max.y), 0.25));
    }

    void gluedPiecesFallAsOne() {
        const Geometry in = piecesAbove();
        const auto glued = settled({in}, {{"at_frame", 120}, {"glue", 1e5}}), loose = settled({in}, {{"at_frame", 120}});
        QVERIFY(!glued.failed && !hasCode(glued, "settle.unglued") && !hasCode(glued, "settle.inside") && !hasCode(glued, "settle.start"));
        QVERIFY(bonds(glued.geometry) >= 8);
        QCOMPARE(bonds(glued.geometry), bonds(settled({in}, {{"at_frame", 0}, {"glue", 1e5}}).geometry));
        QCOMPARE(bonds(loose.geometry), 0);
        // As one: all distances are what they were.
        const auto &before = in.positions(), &after = glued.geometry.positions();
        for (std::size_t i = 1; i < before.size(); i += 7) QVERIFY(near(double(distance(after[0], after[i])), double(distance(before[0], before[i])), 2e-5));
        QVERIFY2(lowest(glued.geometry) > -0.01, qPrintable(QString::number(lowest(glued.geometry))));
        QVERIFY(boundsOf(glued.geometry).max.y > 0.95f && boundsOf(loose.geometry).max.y < 0.95f);
    }

    void weakGlueBreaksWhereItHits() {
        const auto heldAfter = [&](double height) {
            const Geometry in = made("transform", {{"move", {0, height, 0}}}, {piecesAbove(12)});
            const auto out = settled({in}, {{"at_frame", 110}, {"glue", 900}});
            if (out.failed || !near(signedVolume(out.geometry), signedVolume(in), 1e-4)) return -1;
            return bonds(out.geometry);
        };
        const auto [fewest, most] = std::minmax({heldAfter(5), heldAfter(10), heldAfter(20)});
        QVERIFY2(fewest >= 0 && most < heldAfter(0), qPrintable(QString::number(most)));
        // In the air nothing breaks.
        const Geometry high = made("transform", {{"move", {0, 20, 0}}}, {piecesAbove(12)});
        const auto falling = settled({high}, {{"at_frame", 20}, {"glue", 0.01}});
        QCOMPARE(bonds(falling.geometry), bonds(settled({high}, {{"at_frame", 0}, {"glue", 0.01}}).geometry));
    }

    void glueHoldsAWallThatIsHeldAtOneEnd() {
        // A beam of six cubes that sticks out of something held: its root is pulled by the moment of all the others.
        const auto beam = [](double glue) {
            std::vector<Geometry> all;
            for (int i = 0; i < 6; ++i) all.push_back(made("transform", {{"move", {i, 5, 0}}}, {made("box", {{"size", {1, 1, 1}}, {"cells", {1, 1, 1}}})}));
            const Geometry together = runPorts("merge", {all}, Json::object()).geometry;
            return settled({together}, {{"at_frame", 60}, {"glue", glue}, {"held", {{"formula", "position.x < 0.6 ? 1 : 0"}}}, {"density", 2000}}).geometry;
        };
        // 5 m of it weigh 98 kN; bending alone is 6 · 98.1 · 2.5 kPa.
        const Geometry stands = beam(1600), falls = beam(1300);
        QCOMPARE(bonds(stands), 5);
        QVERIFY(lowest(stands) > 4.4);
        QVERIFY(bonds(falls) < 5 && lowest(falls) < 1);
    }

    void whatHangsFallsWhereGravityGrows() {
        // Weight that was borne is not asked again, but a heavier one is.
        std::vector<Geometry> all;
        for (int i = 0; i < 3; ++i) all.push_back(made("transform", {{"move", {i, 5, 0}}}, {made("box", {{"size", {1, 1, 1}}})}));
        const Geometry beam = runPorts("merge", {all}, Json::object()).geometry;
        const Json settings{{"glue", 300}, {"held", {{"formula", "position.x < 0.6 ? 1 : 0"}}}, {"density", 2000}};
        const auto after = [&](int frame, const Json& gravity) {
            Json own = settings;
            own["at_frame"] = frame, own["gravity"] = gravity;
            return bonds(settled({beam}, own).geometry);
        };
        QCOMPARE(after(30, Json{0, -9.81, 0}), 2);
        const Json later{{"formula", "frame < 10 ? vec3(0, -9.81, 0) : vec3(0, -30, 0)"}};
        QCOMPARE(after(9, later), 2);
        QVERIFY(after(30, later) < 2);
    }

    void glueMayBeWeakerSomewhere() {
        const Geometry in = piecesAbove(12);
        const int all = bonds(settled({in}, {{"at_frame", 0}, {"glue", 100}}).geometry);
        const int half = bonds(settled({in}, {{"at_frame", 0}, {"glue", {{"formula", "position.x > 0 ? 100 : 0"}}}}).geometry);
        QVERIFY2(half > 0 && half < all, qPrintable(QStringLiteral("%1 of %2").arg(half).arg(all)));
    }

    void nothingToGlueIsTold() {
        QVERIFY(hasCode(settled({copiesAbove(4)}, {{"at_frame", 2}, {"glue", 100}}), "settle.unglued"));
        QVERIFY(!hasCode(settled({copiesAbove(4)}, {{"at_frame", 2}}), "settle.unglued"));
        const auto negative = settled({piecesAbove()}, {{"at_frame", 2}, {"glue", {{"formula", "0 - 5"}}}});
        QVERIFY(negative.failed && hasCode(negative, "setting.range"));
    }

    void copiesThatTouchAreGlued() {
        std::vector<Vec3> at;
        for (int i = 0; i < 4; ++i) at.push_back({0, 0.5f + float(i) * 0.25f, 0});
        const Geometry tower = madeOf("place_copies", {{Geometry(at)}, {made("box", {{"size", {0.3, 0.25, 0.3}}})}}, {{"align", "none"}});
        const auto out = settled({tower}, {{"at_frame", 60}, {"glue", 1e5}});
        QCOMPARE(bonds(out.geometry), 3);
        const auto& place = out.geometry.copies()->place;
        for (std::size_t i = 1; i < 4; ++i) QVERIFY(near(double(distance(place[i].move, place[i - 1].move)), 0.25, 1e-5));
    }

    void heldHollowsAreExact() {
        // A ball in a held block with a round hollow in its top: by the block's hull it would lie on top.
        const Geometry hollow = madeOf("boolean",
                                       {{made("box", {{"size", {1, 0.6, 1}}})},
                                        {made("transform", {{"move", {0, 0.3, 0}}}, {made("geodesic_sphere", {{"radius", 0.4}, {"frequency", 8}})})}},
                                       {{"form", "subtract"}});
        const Geometry block = made("transform", {{"move", {0, 1, 0}}}, {hollow});
        const Geometry ball = made("transform", {{"move", {0.1, 1.8, 0}}}, {made("geodesic_sphere", {{"radius", 0.15}, {"frequency", 4}})});
        const Geometry both = runPorts("merge", {{block, ball}}, Json::object()).geometry;
        const Json settings{{"at_frame", 200}, {"held", {{"formula", "position.y < 1.5 ? 1 : 0"}}}, {"friction", 0.3}};
        const auto heightOfBall = [&](const char* collision) {
            Json all = settings;
            all["collision"] = collision;
            const auto out = settled({both}, all);
            float low = 1e9f;
            for (std::size_t p = block.pointCount(); p < both.pointCount(); ++p) low = std::min(low, out.geometry.positions()[p].y);
            return double(low);
        };
        QVERIFY2(near(heightOfBall("parts"), 0.9, 0.02), qPrintable(QString::number(heightOfBall("parts"))));
        QVERIFY2(near(heightOfBall("hull"), 1.3, 0.02), qPrintable(QString::number(heightOfBall("hull"))));
    }

    void theGroundCarriesThem() {
        const Geometry ground = made("noise_displace", {{"amount", 0.4}, {"size", 2.0}}, {made("grid", {{"size", {10, 10}}, {"cells", {40, 40}}})});
        for (const char* shape : {"hull", "box", "parts"}) {
            const auto out = settled({piecesAbove(12)}, {{"at_frame", 200}, {"collision", shape}}, {ground});
            QVERIFY2(!out.failed, shape);
            QVERIFY(!hasCode(out, "settle.floor"));
            const NearestPlace under(ground, NearestPlace::On::faces);
            const std::vector<Vec3> normals = faceNormals(ground);
            std::size_t deep = 0;
            for (const Vec3 p : out.geometry.positions()) {
                const Place place = under.find(p);
                deep += dot(p - place.position, normals[place.element]) < -0.02f;
            }
            QVERIFY2(deep < out.geometry.pointCount() / 100,
                     qPrintable(QStringLiteral("%1: %2 of %3").arg(QLatin1String(shape)).arg(deep).arg(out.geometry.pointCount())));
            QVERIFY(lowest(out.geometry) > -0.6);
        }
    }

    void settingsDoWhatTheySay() {
        const Geometry box = made("transform", {{"move", {0, 1, 0}}}, {made("box", {{"size", {0.4, 0.4, 0.4}}})});
        const auto middle = [](const Geometry& g) { return boundsOf(g).centre(); };
        const Geometry pushed = settled({box}, {{"at_frame", 8}, {"push", {3, 0, 0}}}).geometry;
        QVERIFY(near(double(middle(pushed).x), 3 * 8.0 / 24, 1e-3));
        const Geometry up = settled({box}, {{"at_frame", 10}, {"gravity", {0, 9.81, 0}}}).geometry;
        QVERIFY(near(double(middle(up).y), double(middle(box).y) + 0.5 * 9.81 * (10.0 / 24) * (10.0 / 24), 1e-3));
        const auto held = settled({box}, {{"at_frame", 30}, {"held", 1}});
        QCOMPARE(held.geometry.positions(), box.positions());
        QCOMPARE(settledAt(held.geometry), 1);
        QVERIFY(near(double(boundsOf(settled({box}, {{"at_frame", 120}}).geometry).min.y), 0, 0.005));
        // No longer than Frames says.
        QCOMPARE(digestOf(settled({box}, {{"at_frame", 50}, {"frames", 6}}).geometry), digestOf(settled({box}, {{"at_frame", 6}}).geometry));
        const auto high = boundsOf(settled({box}, {{"at_frame", 18}, {"bounce", 0.8}}).geometry).min.y,
                   low = boundsOf(settled({box}, {{"at_frame", 18}, {"bounce", 0}}).geometry).min.y;
        QVERIFY(high > low + 0.1f);
    }

    void theFrameThatIsKeptIsTheResult() {
        FrameCache frames;
        Engine engine;
        const auto at = [&](Json settings, double frame) {
            const RebuildResult built = engine.build(requestOf(settleLoom(std::move(settings)), frame, frames));
            return *built.geometry("out");
        };
        const Geometry twenty = at(Json::object(), 20);
        QVERIFY(near(lowest(twenty), 0, 0.01));
        const std::size_t kept = frames.entries();
        QVERIFY(kept >= 21);
        // Keeping one makes none of the frames anew, and the frame all around means nothing any more.
        QCOMPARE(digestOf(at({{"at_frame", 20}}, 0)), digestOf(twenty));
        QCOMPARE(digestOf(at({{"at_frame", 20}}, 77)), digestOf(twenty));
        QCOMPARE(frames.entries(), kept);
        QVERIFY(near(lowest(at({{"at_frame", 10}}, 77)), 1.8 - 0.5 * 9.81 * 100 / 576, 1e-3));
        QCOMPARE(frames.entries(), kept);
        // Another setting makes other frames.
        QVERIFY(digestOf(at({{"at_frame", 20}, {"push", {1, 0, 0}}}, 0)) != digestOf(twenty));
        QVERIFY(frames.entries() > kept);
    }

    void whileAHandSlidesFinishedFramesAreShown() {
        FrameCache frames;
        Engine engine;
        const auto at = [&](double frame) {
            RebuildRequest request = requestOf(settleLoom(Json::object()), frame, frames);
            request.deferred = {"fall"};
            return engine.build(request);
        };
        QVERIFY(at(20).incomplete);
        (void)engine.build(requestOf(settleLoom(Json::object()), 20, frames));
        const RebuildResult done = at(12);
        QVERIFY(!done.incomplete && done.geometry("out"));
        QVERIFY(at(21).incomplete);
    }

    void anEngineKeepsFramesFromBuildToBuild() {
        Engine engine;
        const auto framesAt = [&](double frame) {
            FrameCache unused;
            RebuildRequest request = requestOf(settleLoom(Json::object()), frame, unused);
            request.frames = nullptr;
            request.lastFrame = 30;
            return engine.build(request).nodes.at("fall").frames;
        };
        QCOMPARE(framesAt(25)[25], std::uint8_t(1));
        const auto later = framesAt(3);
        QVERIFY(later[3] && later[25] && !later[26]);
    }

    void whatIsHeldForAWhileFallsThen() {
        FrameCache frames;
        Engine engine;
        const Json settings{{"held", {{"formula", "frame < 12 ? 1.0 : 0.0"}}}};
        const auto low = [&](double frame) { return lowest(*engine.build(requestOf(settleLoom(settings), frame, frames)).geometry("out")); };
        QVERIFY(near(low(11), 1.8, 1e-6));
        // Let go at the twelfth: as far as from rest, a step's rounding apart.
        QVERIFY2(near(low(20), 1.8 - 0.5 * 9.81 * 81 / 576, 0.02), qPrintable(QString::number(low(20))));
    }

    void whoStandsInWhomIsToldFromThereOn() {
        // They have not parted yet when it ends.
        const Geometry two =
            madeOf("merge", {{made("transform", {{"move", {0, 3, 0}}}, {made("box")}), made("transform", {{"move", {0.5, 3, 0}}}, {made("box")})}});
        const auto toldAt = [&](Json settings) {
            const auto out = settled({two}, std::move(settings));
            const auto told = std::find_if(out.notices.begin(), out.notices.end(), [](const Notice& n) { return n.code == "settle.inside"; });
            return told == out.notices.end() ? std::string() : told->text;
        };
        for (const int frame : {1, 2, 9}) {
            const std::string told = toldAt({{"at_frame", frame}, {"frames", 1}});
            QVERIFY2(told.starts_with("1 pair stands in each other: piece 0 in piece 1 by 0."), told.c_str());
        }
        // Those that are held stand as somebody wants them.
        QCOMPARE(toldAt({{"at_frame", 3}, {"held", 1}}), std::string());
    }

    void framesTakeLittleMemory() {
        FrameCache frames;
        Engine engine;
        Loom loom = settleLoom(Json::object());
        loom.nodes[0].settings = Json{{"size", {0.4, 0.4, 0.4}}, {"cells", {40, 40, 40}}};
        const auto built = [&](double frame) { (void)engine.build(requestOf(loom, frame, frames)); };
        built(1);
        const std::size_t one = frames.bytes();
        built(41);
        QVERIFY2(frames.bytes() - one < 40 * 2000,
                 qPrintable(QString::number(frames.bytes() - one)));  // one body: 120 bytes of state, and a frame's own keeping
    }

    /// Another program finds on disk what was computed before: only frame 0 is made again, and what follows goes on to the bit.
    void framesAreFoundOnDisk() {
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("frames").toStdString();
        Loom loom = settleLoom({{"glue", 2000}, {"friction", 0.3}});
        loom.nodes[0] = node("box", "shatter", {0, 0}, {{"pieces", 12}, {"seed", 3}});
        loom.nodes.push_back(node("ball", "geodesic_sphere", {0, 1}, {{"radius", 0.5}, {"frequency", 6}}));
        loom.links.push_back(linked("ball", "box"));
        const auto store = [&] { return std::make_unique<FrameStore>(path, std::uintmax_t(1) << 30, "test"); };
        FrameCache first(std::size_t(1) << 30, store()), third;
        Memo memo;
        const RebuildResult there = rebuild(requestOf(loom, 60, first), memo);
        QVERIFY2(!there.failed(), there.failed() ? there.notices(loom).front().text.c_str() : "");
        QCOMPARE(first.disk()->entries(), std::size_t(60));
        FrameCache again(std::size_t(1) << 30, store());
        RebuildRequest request = requestOf(loom, 60, again);
        request.lastFrame = 80;
        Memo other;
        const RebuildResult found = rebuild(request, other);
        QCOMPARE(digestOf(*found.geometry("out")), digestOf(*there.geometry("out")));
        QCOMPARE(again.entries(), std::size_t(2));
        const auto& kept = found.nodes.at("fall").frames;
        for (std::size_t f = 0; f < kept.size(); ++f) QCOMPARE(bool(kept[f]), f <= 60);
        // It goes on from there, as it would have without.
        const RebuildResult on = rebuild(requestOf(loom, 75, again), other);
        QCOMPARE(again.entries(), std::size_t(17));
        Memo alone;
        QCOMPARE(digestOf(*on.geometry("out")), digestOf(*rebuild(requestOf(loom, 75, third), alone).geometry("out")));
        // What is no frame of these bodies is computed.
        const auto key = found.nodes.at("fall").key.digest;
        for (const std::string& bytes : {std::string(), std::string("nonsense"), std::string(5000, 'x')}) {
            std::filesystem::remove_all(path);
            FrameCache damaged(std::size_t(1) << 30, store());
            damaged.disk()->store(key, bytes);
            Memo fresh;
            QCOMPARE(digestOf(*rebuild(requestOf(loom, 60, damaged), fresh).geometry("out")), digestOf(*there.geometry("out")));
            QCOMPARE(damaged.entries(), std::size_t(61));
            QVERIFY(damaged.disk()->load(key).value_or("") != bytes);
        }
    }

    /// Which frame is kept must be a frame, in and out of containers, for all that build on earlier ones.
    void aFrameThatIsNoneIsSaid() {
        for (const char* op : {"settle", "track", "time_step"})
            for (const Json& wrong : {Json(1000000000), Json(-7), Json("soon"), Json{{"formula", "nothing + 1"}}, Json{{"formula", "0.0 / 0.0"}}}) {
                Loom loom = settleLoom({{"at_frame", wrong}});
                loom.nodes[2].op = op;
                if (op == std::string("time_step")) loom.nodes[2].graph = row({node("turn", "transform", {1, 0}, {{"rotate", {0, 9, 0}}})});
                Loom inside = loom;
                inside.nodes[2] = node("fall", "repeat", {2, 0}, {{"times", 1}});
                inside.nodes[2].graph = row({loom.nodes[2]});
                for (const Loom& one : {loom, inside}) {
                    FrameCache frames;
                    Engine engine;
                    const RebuildResult result = engine.build(requestOf(one, 3, frames));
                    QVERIFY2(result.failed(), (op + wrong.dump()).c_str());
                    const auto notices = result.notices(one);
                    QVERIFY2(std::any_of(notices.begin(), notices.end(), [](const Notice& n) { return n.text.find("At frame") != std::string::npos; }),
                             (op + wrong.dump() + notices.front().text).c_str());
                    QCOMPARE(result.geometry("out")->faceCount(), 6u);
                }
            }
    }

    /// A frame as bytes, and again; what is cut off, or speaks of bodies that there are not, is no frame.
    void framesAreWrittenAndRead() {
        const OperatorSpec& spec = *findOperator("settle");
        Geometry in = copiesAbove(2);
        auto copies = std::make_shared<Copies>(*in.copies());
        copies->place[0].move = {0, 0.1f, 0}, copies->place[1].move = {0.1f, 0.12f, 0.02f};
        in.setCopies(std::move(copies));
        const OperatorInput input = inputFor(spec, {{"frames", 1}}, {in});
        const RunContext run;
        OperatorCall call(spec, input, run);
        const FrameState first = spec.start(call), state = spec.advance(call, first);
        const std::string bytes = spec.save(state);
        const auto again = spec.restore(first, bytes);
        QVERIFY(again);
        QVERIFY(spec.save(*again) == bytes);
        const auto shownAs = [&](const FrameState& frame) {
            OperatorCall shows(spec, input, run);
            const Digest digest = digestOf(spec.show(shows, frame));
            std::string told;
            for (const Notice& notice : shows.takeNotices()) told += notice.code + " " + notice.text + "\n";
            return std::pair(digest, told);
        };
        QCOMPARE(shownAs(*again), shownAs(state));
        QVERIFY(shownAs(state).second.find("settle.inside") != std::string::npos);
        for (std::size_t size = 0; size < bytes.size(); ++size)
            QVERIFY2(!spec.restore(first, bytes.substr(0, size)) || (bytes.size() - size) % 16 == 0, qPrintable(QString::number(size)));
        QVERIFY(!spec.restore(first, bytes + "x"));
        // After what is of one size come how many press, those, and pairs that stand in each other.
        const std::size_t presses = 40 + 2 * 109, pair = bytes.size() - 16;
        const auto with = [&](std::size_t at, std::uint32_t number) {
            std::string out = bytes;
            std::memcpy(out.data() + at, &number, sizeof number);
            return spec.restore(first, out).has_value();
        };
        QVERIFY(!with(presses, 5000));
        for (const std::size_t a : {presses + 8, pair}) QVERIFY(with(a, 1) && !with(a, 2) && !with(a, kGroundBody));
        for (const std::size_t b : {presses + 12, pair + 4}) QVERIFY(with(b, 1) && !with(b, 2) && with(b, kGroundBody));
    }

    void insideOfAContainerAKeptFrameIsComputed() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}, {{"size", {0.4, 0.4, 0.4}}}), node("up", "transform", {1, 0}, {{"move", {0, 2, 0}}}),
                      node("nest", "nest", {2, 0}), node("out", "output", {3, 0})};
        loom.links = {linked("box", "up"), linked("up", "nest"), linked("nest", "out")};
        loom.output = "out";
        const auto inside = [&](Json settings) {
            Loom inner;
            inner.nodes = {node("in", "inner_input", {0, 0}), node("fall", "settle", {1, 0}, std::move(settings)), node("o", "output", {2, 0})};
            inner.links = {linked("in", "fall"), linked("fall", "o")};
            inner.output = "o";
            loom.nodes[2].graph = InnerGraph(inner);
            FrameCache frames;
            Engine engine;
            return engine.build(requestOf(loom, 5, frames));
        };
        FrameCache frames;
        Engine engine;
        const RebuildResult outside = engine.build(requestOf(settleLoom({{"at_frame", 20}}), 0, frames));
        const RebuildResult kept = inside({{"at_frame", 20}}), follows = inside(Json::object());
        QVERIFY(!kept.failed());
        QCOMPARE(digestOf(*kept.geometry("out")), digestOf(*outside.geometry("out")));
        QVERIFY(!follows.failed());
        const RebuildResult fifth = engine.build(requestOf(settleLoom(Json::object()), 5, frames));
        QCOMPARE(digestOf(*follows.geometry("out")), digestOf(*fifth.geometry("out")));
    }

    void badInputIsSaid_data() {
        QTest::addColumn<QString>("settings");
        QTest::addColumn<QString>("code");
        QTest::newRow("no density") << R"({"density": 0})"
                                    << "setting.range";
        QTest::newRow("density of nothing at some") << R"({"density": {"formula": "index * 0"}})"
                                                    << "setting.range";
        QTest::newRow("frames before 0") << R"({"frames": -1, "at_frame": 3})"
                                         << "setting.range";
        QTest::newRow("too many frames") << R"({"frames": 1000000000, "at_frame": 3})"
                                         << "setting.range";
        QTest::newRow("a push of nothing") << "{\"push\": {\"formula\": \"vec3(0, 1 / (index - index), 0)\"}}"
                                           << "setting.number";
        QTest::newRow("friction below 0") << R"({"friction": -1, "at_frame": 3})"
                                          << "setting.range";
    }
    void badInputIsSaid() {
        QFETCH(QString, settings);
        QFETCH(QString, code);
        const auto out = settled({piecesAbove(3)}, Json::parse(settings.toStdString()));
        QVERIFY(out.failed);
        QCOMPARE(QString::fromStdString(lastCode(out)), code);
        QVERIFY(out.notices.back().text.size() > 15);
    }

    void oddInputIsSaidOrBorne() {
        const auto none = settled({made("delete", {{"where", true}}, {made("box")})}, Json::object());
        QVERIFY2(!none.failed && lastCode(none) == "input.empty", lastCode(none).c_str());
        QCOMPARE(lastCode(settled({Geometry({{0, 0, 0}})}, Json::object())), std::string("settle.none"));
        Geometry nowhere = made("box");
        auto positions = nowhere.positions();
        positions[3].y = std::numeric_limits<float>::quiet_NaN();
        nowhere.setPositions(positions);
        QCOMPARE(lastCode(settled({nowhere}, Json::object())), std::string("settle.nowhere"));
        QCOMPARE(lastCode(settled({made("box")}, Json::object(), {Geometry({{0, 0, 0}})})), std::string("settle.ground"));
        // One triangle, and a ground of one.
        const Geometry triangle({{0, 1, 0}, {1, 1, 0}, {0, 1, 1}}, Topology(3, {0, 3}, {0, 2, 1}, {0}, {}, {}));
        const auto leaf = settled({triangle}, {{"at_frame", 120}});
        QVERIFY(!leaf.failed && lowest(leaf.geometry) > -0.01 && boundsOf(leaf.geometry).max.y < 0.1f);
        // Two that stand in each other, and one under the floor.
        const Geometry a = made("box"), b = made("transform", {{"move", {0.3, 0, 0}}}, {made("box")});
        const auto told = settled({madeOf("merge", {{a, b}})}, Json::object());
        QVERIFY(!told.failed && hasCode(told, "settle.start") && !hasCode(told, "settle.fitted"));
        // Two angles that lie in each other's hollows: just their hulls overlap.
        const Geometry corner =
            made("extrude", {{"distance", 0.2}, {"keep_back", true}},
                 {made("point_list", {{"points", {{0, 0, 0}, {0, 0, 1}, {0.2, 0, 1}, {0.2, 0, 0.2}, {1, 0, 0.2}, {1, 0, 0}}}, {"join", "filled"}})});
        const auto fitted = settled({madeOf("merge", {{corner, made("transform", {{"move", {0.3, 0, 0.3}}}, {corner})}})}, Json::object());
        QVERIFY(!fitted.failed && hasCode(fitted, "settle.fitted") && !hasCode(fitted, "settle.start"));
        const auto crossed = settled({madeOf("merge", {{corner, made("transform", {{"move", {0.1, 0, 0.1}}}, {corner})}})}, Json::object());
        QVERIFY(hasCode(crossed, "settle.start") && !hasCode(crossed, "settle.fitted"));
        FrameCache frames;
        Engine engine;
        Loom sunk = settleLoom({{"at_frame", 9}});
        sunk.nodes[1].settings = Json{{"move", {0, 0, 0}}};
        // Also where another frame is looked at, in a graph as well.
        const auto later = engine.build(requestOf(sunk, 0, frames)).notices(sunk);
        QVERIFY(std::count_if(later.begin(), later.end(), [](const Notice& n) { return n.code == "settle.start" && n.node == "fall"; }) == 1);
        const auto buried = settled({made("transform", {{"move", {0, -3, 0}}}, {made("box")})}, Json::object());
        QVERIFY(!buried.failed && hasCode(buried, "settle.under"));
        // Far too many.
        const Geometry many = madeOf("place_copies", {{made("grid", {{"cells", {200, 200}}})}, {made("box")}});
        QCOMPARE(lastCode(settled({many}, Json::object())), std::string("settle.many"));
    }
};

QTEST_APPLESS_MAIN(TestSettle)
#include "test_settle.moc"

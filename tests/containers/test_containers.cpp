// Containers: each part alone, turns, nests; their files, edits and the folding of nodes.
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "graph/Controls.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "support/Looms.h"
#include "support/Run.h"
#include "support/Sound.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

RebuildResult built(const Loom& loom, Memo& memo, int threads = 2, Watch watch = {}) {
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(loom);
    if (const auto values = controlValues(loom)) request.controls = *values;
    request.threads = threads;
    request.watch = std::move(watch);
    return rebuild(request, memo);
}

Geometry resultOf(const Loom& loom, int threads = 2) {
    Memo memo;
    const RebuildResult result = built(loom, memo, threads);
    for (const Notice& notice : result.notices(loom))
        if (notice.level == NoticeLevel::error) QTest::qFail(notice.text.c_str(), __FILE__, __LINE__);
    const Geometry* out = result.geometry(loom.output);
    return out ? *out : Geometry();
}

/// source → container → out.
Loom around(Node source, Node container) {
    Loom loom;
    loom.nodes = {std::move(source), std::move(container), node("out", "output", {2, 0})};
    loom.links = {linked(loom.nodes[0].id, loom.nodes[1].id), linked(loom.nodes[1].id, "out")};
    loom.output = "out";
    return loom;
}

Loom panels(const Json& settings, std::vector<Node> inside) {
    Node each = node("panels", "each_piece", {1, 0}, settings);
    each.graph = row(std::move(inside));
    return around(node("ball", "geodesic_sphere", {0, 0}, {{"form", "panels"}, {"frequency", 2}, {"radius", 1}}), each);
}

const Node kRaise = node("raise", "extrude", {1, 0}, {{"distance", 0.1}, {"inset", 0.05}});

}  // namespace

class TestContainers : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void everyPanelAloneIsAsExtrudingEachFace() {
        const Geometry g = resultOf(panels(Json::object(), {kRaise}));
        verifySolid(g);
        const Geometry ball = made("geodesic_sphere", {{"form", "panels"}, {"frequency", 2}, {"radius", 1}});
        const Geometry other = made("extrude", {{"of", "each face"}, {"distance", 0.1}, {"inset", 0.05}}, {ball});
        QCOMPARE(g.faceCount(), other.faceCount());
        QVERIFY(near(signedVolume(g), signedVolume(other), 1e-5));
        const auto& piece = *g.values<std::int32_t>(Element::face, "piece");
        QCOMPARE(*std::max_element(piece.begin(), piece.end()), std::int32_t(ball.faceCount()) - 1);
        // Not welded: open along every panel.
        QVERIFY(checkupOf(resultOf(panels({{"weld", false}}, {kRaise}))).openEdges > 0);
    }

    void wordsOfThePart() {
        Node write = node("write", "set_attribute", {1, 0}, {{"name", "share"}, {"element", "face"}, {"value", {{"formula", "number / parts"}}}});
        Node height = node("height", "set_attribute", {2, 0}, {{"name", "height"}, {"element", "face"}, {"value", {{"formula", "centre.y + size.y * 0"}}}});
        Node third = node("third", "set_attribute", {3, 0}, {{"name", "third"}, {"element", "face"}, {"value", {{"attribute", "number"}, {"scale", 3}}}});
        const Geometry g = resultOf(panels(Json::object(), {write, height, third}));
        const auto &share = *g.values<float>(Element::face, "share"), &y = *g.values<float>(Element::face, "height"),
                   &thrice = *g.values<float>(Element::face, "third");
        for (std::size_t f = 0; f < g.faceCount(); ++f) {
            QVERIFY(near(double(share[f]), double(f) / double(g.faceCount()), 1e-6));
            QCOMPARE(thrice[f], float(3 * f));
            Bounds bounds;
            for (Index p : g.topology().face(f)) bounds.add(g.positions()[p]);
            QVERIFY(near(double(y[f]), double(bounds.centre().y), 1e-5));
        }
    }

    void partsByPieceTagAndCurve() {
        Node lift = node("lift", "transform", {1, 0}, {{"move", {{"formula", "vec3(0, number, 0)"}}}});
        Node each = node("each", "each_piece", {1, 0}, {{"by", "piece"}});
        each.graph = row({lift});
        Loom two = around(node("pair", "merge", {0, 0}), each);
        two.nodes.push_back(node("a", "box", {0, 1}));
        two.nodes.push_back(node("b", "box", {0, 2}));
        two.nodes.push_back(node("far", "transform", {0, 3}, {{"move", {5, 0, 0}}}));
        two.links.push_back(linked("b", "far")), two.links.push_back(linked("a", "pair")), two.links.push_back(linked("far", "pair"));
        const Geometry lifted = resultOf(two);
        QCOMPARE(lifted.topology().connection().pieces, 2u);
        QVERIFY(near(double(boundsOf(lifted.positions()).size().y), double(boundsOf(made("box").positions()).size().y) + 1, 1e-5));
        // A tag chooses its faces; the rest goes through bit for bit.
        Node top = node("top", "each_piece", {1, 0}, {{"by", "tag"}, {"tag", "top"}, {"weld", false}});
        top.graph = row({node("up", "transform", {1, 0}, {{"move", {0, 1, 0}}})});
        const Geometry open = resultOf(around(node("box", "box", {0, 0}), top));
        QCOMPARE(checkupOf(open).openEdges, std::size_t(8));
        Node curves = node("curves", "each_piece", {1, 0}, {{"by", "curve"}});
        curves.graph = row({node("tube", "sweep", {1, 0}, {{"form", "tube"}, {"width", {{"formula", "0.01 * (number + 1)"}}}})});
        const Geometry tubes = resultOf(around(node("cut", "spiral", {0, 0}), curves));
        QVERIFY(checkupOf(tubes).closed);
        // What Where leaves out is not touched.
        const Geometry some = resultOf(panels({{"where", {{"formula", "pentagon"}}}}, {kRaise}));
        verifySolid(some);
        QCOMPARE(tagged(some, "front"), std::size_t(12));
    }

    void turnsFeedEachOther() {
        Node repeat = node("repeat", "repeat", {1, 0}, {{"times", 4}});
        repeat.graph = row({node("grow", "transform", {1, 0}, {{"scale", 2}}),
                            node("mark", "set_attribute", {2, 0}, {{"name", "turns"}, {"value", {{"formula", "turn + times * 10"}}}})});
        const Geometry g = resultOf(around(node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}), repeat));
        QVERIFY(near(double(boundsOf(g.positions()).size().x), 16, 1e-4));
        QCOMPARE(g.values<float>(Element::point, "turns")->front(), 43.0f);
        repeat.settings["times"] = 0;
        QCOMPARE(digestOf(resultOf(around(node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}), repeat))), digestOf(made("box", {{"size", {1, 1, 1}}})));
    }

    void furtherInputsAndOwnSettings() {
        Node nest = node("nest", "nest", {1, 0}, {{"strength", {{"control", "much"}}}});
        Loom inner = *row({node("move", "transform", {1, 0}, {{"move", {{"formula", "vec3(0, ctl.strength, 0)"}}}})}).get();
        inner.nodes.push_back(node("guide", "inner_input", {0, 1}, {{"name", "guide"}}));
        inner.nodes.push_back(node("both", "merge", {2, 0}));
        inner.links.pop_back();
        inner.links.push_back(linked("move", "both")), inner.links.push_back(linked("guide", "both")), inner.links.push_back(linked("both", "result"));
        Control strength;
        strength.id = "strength", strength.label = "Strength", strength.fallback = 0.5, strength.min = 0, strength.max = 5, strength.unit = "m";
        inner.controls.push_back(strength);
        nest.graph = InnerGraph(inner);
        const auto spec = specOf(nest, {});
        QVERIFY(spec->input("guide") && spec->setting("strength"));
        QCOMPARE(spec->setting("strength")->unit, Unit::metre);
        Loom loom = around(node("box", "box", {0, 0}, {{"anchor", "middle"}}), nest);
        loom.nodes.push_back(node("line", "line", {0, 1}));
        loom.links.push_back(linked("line", "nest", "guide"));
        loom.controls.push_back(heightControl(0, 10));
        loom.controls.back().id = "much", loom.controls.back().fallback = 2.0;
        const Geometry g = resultOf(loom);
        QCOMPARE(g.curveCount(), 1u);
        const Bounds box = boundsOf(made("box", {{"anchor", "middle"}}).positions());
        QVERIFY(near(double(boundsOf(g.positions()).max.y), double(box.max.y) + 2, 1e-5));
        loom.values["much"] = 3.0;
        QVERIFY(near(double(boundsOf(resultOf(loom).positions()).max.y), double(box.max.y) + 3, 1e-5));
        QVERIFY(loomProblems(loom, {}).empty());
    }

    void sameBitsForAnyNumberOfThreads() {
        const Loom loom = panels(Json::object(), {kRaise, node("noise", "noise_displace", {2, 0}, {{"amount", {{"formula", "0.01 * number"}}}})});
        QVERIFY(digestOf(resultOf(loom, 1)) == digestOf(resultOf(loom, 8)));
    }

    void onlyWhatChangedRunsAgain() {
        Memo memo;
        Loom loom = panels(Json::object(), {kRaise, node("shift", "transform", {2, 0}, {{"move", {0, 0, 0}}})});
        built(loom, memo);
        const std::size_t before = memo.entries();
        // A second run is known as a whole; a changed last step keeps the first step of all parts.
        QVERIFY(built(loom, memo).nodes.at("panels").remembered);
        QCOMPARE(memo.entries(), before);
        Loom inner = *loom.nodes[1].graph;
        inner.nodes[2].settings["move"] = {0.0, 0.1, 0.0};
        loom.nodes[1].graph = InnerGraph(inner);
        const RebuildResult again = built(loom, memo, 2, {{"panels"}, {3}});
        QVERIFY(!again.nodes.at("panels").remembered);
        QVERIFY(again.nodes.at("panels/raise").remembered);
        // Ball, container, output; shift and result of every part.
        const std::size_t parts = std::size_t(again.nodes.at("panels").outcome->parts);
        QCOMPARE(memo.entries(), before + 2 + 2 * parts);
    }

    void watchedPartsAreReported() {
        const Loom loom = panels(Json::object(), {kRaise});
        Memo memo;
        const RebuildResult plain = built(loom, memo);
        QVERIFY(!plain.nodes.count("panels/raise"));
        const int parts = plain.nodes.at("panels").outcome->parts;
        QCOMPARE(parts, 42);
        // Also where the container's own result comes from the memo; a part beyond the last is the last.
        const RebuildResult fifth = built(loom, memo, 2, {{"panels"}, {5}}), beyond = built(loom, memo, 2, {{"panels"}, {9999}});
        const Geometry *one = fifth.geometry("panels/raise"), *last = beyond.geometry("panels/raise");
        QVERIFY(one && last);
        QVERIFY(one->faceCount() > 1);
        QVERIFY(!(digestOf(*one) == digestOf(*last)));
        QVERIFY(fifth.nodes.at("panels/part").state == NodeState::fresh);
    }

    /// A hand that is inside may take the output away; what stands before it goes on being shown.
    void whatHasNoOutputCanBeWatched() {
        for (const std::string op : {"repeat", "nest", "each_piece"}) {
            Node container = node("c", op, {1, 0}, op == "repeat" ? Json{{"times", 3}} : Json::object());
            Loom inner = *row({node("grow", "transform", {1, 0}, {{"scale", 2}})});
            inner.nodes.pop_back();
            inner.links.pop_back();
            if (op == "nest") inner.nodes[0] = node("part", "box", {0, 0});
            container.graph = InnerGraph(std::move(inner));
            Memo memo;
            const RebuildResult result = built(around(node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}), container), memo, 2, {{"c"}, {2}});
            QVERIFY(result.geometry("c/grow"));
            QVERIFY(near(double(boundsOf(result.geometry("c/grow")->positions()).size().x), 2, 1e-4));
            QCOMPARE(result.nodes.at("c").outcome->notices[0].code, std::string("container.output"));
        }
    }

    void errorsInsideAreToldOutside() {
        const Loom loom = panels(Json::object(), {node("bad", "extrude", {1, 0}, {{"distance", {{"attribute", "nothing"}}}})});
        Memo memo;
        const RebuildResult result = built(loom, memo);
        QVERIFY(result.failed());
        const auto& notices = result.nodes.at("panels").outcome->notices;
        QCOMPARE(notices.size(), std::size_t(1));
        QVERIFY2(notices[0].text.find("Extrude") == 0 && notices[0].text.find("part 0 and 41 more") != std::string::npos, notices[0].text.c_str());
        // The parts went through, so the model is still there.
        QCOMPARE(result.geometry("panels")->faceCount(), std::size_t(42));
        // A limit, a missing output, an unknown operator: one clean error each.
        Loom none = loom;
        Loom inner = *none.nodes[1].graph;
        inner.output = "nowhere";
        none.nodes[1].graph = InnerGraph(inner);
        QCOMPARE(built(none, memo).nodes.at("panels").outcome->notices[0].code, std::string("container.output"));
        QVERIFY(!loomProblems(none, {}).empty());
    }

    /// Values that are no numbers are one part; as keys they have no order.
    void partsByValuesThatAreNoNumbers() {
        Loom loom;
        Node each = node("each", "each_piece", {1, 0}, {{"by", "tag"}, {"tag", "kind"}, {"weld", false}});
        each.graph = row({node("up", "transform", {1, 0}, {{"move", {{"formula", "vec3(0, number, 0)"}}}})});
        loom.nodes = {node("grid", "grid", {0, 0}, {{"cells", {6, 1}}}),
                      node("kind", "set_attribute", {1, 0},
                           {{"name", "kind"}, {"element", "face"}, {"value", {{"formula", "index < 4 ? sqrt(-1.0) : index"}}}}),
                      each};
        loom.links = {linked("grid", "kind"), linked("kind", "each")};
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        Memo memo;
        const RebuildResult result = rebuild(request, memo);
        QVERIFY2(!result.failed(), result.failed() ? result.notices(loom).front().text.c_str() : "");
        QCOMPARE(result.nodes.at("each").outcome->parts, 3);  // what is no number, 4 and 5
        QCOMPARE(result.geometry("each")->faceCount(), 6u);
    }

    void nestedContainers() {
        Node inside = node("faces", "each_piece", {1, 0});
        inside.graph = row({node("raise", "extrude", {1, 0}, {{"distance", {{"formula", "0.1 + 0.05 * turn"}}}, {"inset", 0.1}})});
        Node repeat = node("repeat", "repeat", {1, 0}, {{"times", 2}});
        repeat.graph = row({inside});
        const Loom loom = around(node("box", "box", {0, 0}, {{"size", {1, 1, 1}}}), repeat);
        verifySolid(resultOf(loom));
        Memo memo;
        const RebuildResult result = built(loom, memo, 2, {{"repeat", "faces"}, {1, 2}});
        QVERIFY(result.geometry("repeat/faces/raise"));
        QCOMPARE(result.nodes.at("repeat/faces").outcome->parts, 30);
    }

    void filesKeepWhatIsInside() {
        Loom loom = panels({{"by", "face"}}, {kRaise});
        loom.name = "Dome";
        Loom inner = *loom.nodes[1].graph;
        inner.extra["later"] = {1, 2, 3};
        inner.notes.push_back({"note_1", "Each panel", {1, 1}, 2, Json::object()});
        loom.nodes[1].graph = InnerGraph(inner);
        const std::string text = loomToText(loom);
        const auto read = loomFromText(text);
        QVERIFY2(bool(read), read ? "" : read.error().text.c_str());
        QVERIFY(*read == loom);
        QCOMPARE(loomToText(*read), text);
        QVERIFY(text.find("\n          \"distance\": 0.1") != std::string::npos || text.find("\"distance\": 0.1") != std::string::npos);
        // Wrong inside: the place is named.
        const auto wrong = loomFromText(R"({"seedloom": 1, "nodes": [{"id": "n", "op": "nest", "graph": {"nodes": [{"id": 5, "op": "box"}]}}]})");
        QVERIFY(!wrong);
        QVERIFY2(wrong.error().text.find("nodes[0].graph.nodes[0].id") == 0, wrong.error().text.c_str());
        const auto problems = loomProblems(
            *loomFromText(R"({"seedloom": 1, "nodes": [{"id": "n", "op": "nest", "graph": {"nodes": [{"id": "a", "op": "nonsense"}], "output": "a"}}]})"), {});
        QCOMPARE(problems.size(), std::size_t(1));
        QCOMPARE(problems[0].node, std::string("n/a"));
    }

    void editsInsideAreEditsOfTheDocument() {
        const Loom loom = panels(Json::object(), {kRaise});
        const std::vector<std::string> path{"panels"};
        const Edit inner = setSetting(*loomAt(loom, path), "raise", "distance", 0.3);
        const Edit edit = lifted(loom, path, inner);
        QCOMPARE(edit.label, inner.label);
        const auto changed = applied(loom, edit);
        QVERIFY(bool(changed));
        QCOMPARE(loomAt(*changed, path)->node("raise")->settings["distance"], Json(0.3));
        QCOMPARE(loom.nodes[1].graph->node("raise")->settings["distance"], Json(0.1));  // the old one is as it was
        const auto back = applied(*changed, inverse(edit));
        QVERIFY(bool(back) && *back == loom);
        QVERIFY(!loomAt(loom, {"ball"}));
        QCOMPARE(validPath(loom, {"panels", "nothing"}), path);
        // A new container works at once: what goes in comes out.
        std::string id;
        const auto added = applied(loom, addNodeAfter(loom, "each_piece", "ball", &id));
        QVERIFY(bool(added) && added->node(id)->graph);
        verifySolid(resultOf(*added));
    }

    void foldingKeepsTheResult() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}),
                      node("other", "sphere", {0, 1}),
                      node("a", "transform", {1, 0}, {{"scale", 1.5}}),
                      node("b", "noise_displace", {2, 0}, {{"amount", 0.1}}),
                      node("both", "merge", {3, 0}),
                      node("out", "output", {4, 0})};
        loom.links = {linked("box", "a"), linked("a", "b"), linked("b", "both"), linked("other", "both"), linked("both", "out")};
        loom.output = "out";
        const Digest before = digestOf(resultOf(loom));
        for (const std::vector<std::string>& chosen : {std::vector<std::string>{"a", "b"}, {"b", "both"}, {"box", "a"}, {"a", "b", "both", "other"}}) {
            std::string nest;
            const auto folded = applied(loom, foldIntoNest(loom, chosen, &nest));
            QVERIFY(bool(folded));
            QCOMPARE(folded->nodes.size(), loom.nodes.size() - chosen.size() + 1);
            QVERIFY(digestOf(resultOf(*folded)) == before);
            std::vector<std::string> ids;
            const auto unfolded = applied(*folded, unfoldNest(*folded, nest, &ids));
            QVERIFY(bool(unfolded));
            QCOMPARE(unfolded->nodes.size(), loom.nodes.size());
            QCOMPARE(ids.size(), chosen.size());
            QVERIFY(digestOf(resultOf(*unfolded)) == before);
            std::set<Cell> cells;
            for (const Node& n : unfolded->nodes) QVERIFY2(cells.insert(n.cell).second, n.id.c_str());
        }
        QCOMPARE(foldProblem(loom, {"b", "out"})->code, std::string("fold.output"));
        QCOMPARE(foldProblem(loom, {})->code, std::string("fold.none"));
        QCOMPARE(foldProblem(loom, {"a", "both"})->code, std::string("fold.ring"));
        Loom two = loom;
        two.nodes.push_back(node("also", "transform", {2, 2}));
        two.links.push_back(linked("a", "also")), two.links.push_back(linked("also", "both"));
        QCOMPARE(foldProblem(two, {"a", "b"})->code, std::string("fold.results"));
        QVERIFY(foldIntoNest(two, {"a", "b"}, nullptr).empty());
    }

    void unfoldingWritesTheNestsSettings() {
        Node nest = node("nest", "nest", {1, 0}, {{"much", 0.7}});
        Loom inner = *row({node("move", "transform", {1, 0}, {{"move", {{"formula", "vec3(0, ctl.much * 2, 0)"}}}}),
                           node("twist", "twist", {2, 0}, {{"angle", {{"control", "much"}}}})})
                          .get();
        Control much;
        much.id = "much", much.fallback = 0.1;
        inner.controls.push_back(much);
        nest.graph = InnerGraph(inner);
        const Loom loom = around(node("box", "box", {0, 0}), nest);
        const auto unfolded = applied(loom, unfoldNest(loom, "nest", nullptr));
        QVERIFY(bool(unfolded));
        QCOMPARE(unfolded->node("twist")->settings["angle"], Json(0.7));
        QVERIFY(digestOf(resultOf(*unfolded)) == digestOf(resultOf(loom)));
    }

    void unfoldingReachesFormulasAndContainersFurtherIn() {
        Node each = node("each", "each_piece", {3, 0});
        each.graph = row({node("lift", "extrude", {1, 0}, {{"distance", {{"formula", "ctl.much * 0.5"}}}})});
        Node own = node("own", "nest", {4, 0});
        Loom shadowing = *row({node("up", "transform", {1, 0}, {{"move", {{"formula", "vec3(0, ctl.much, 0)"}}}})}).get();
        Control much;
        much.id = "much", much.label = "Much", much.fallback = 0.25;
        shadowing.controls.push_back(much);
        own.graph = InnerGraph(shadowing);
        const Node statements = node("statements", "formula", {2, 0}, {{"text", "position.y += ctl.much * position.x;"}});
        Node nest = node("nest", "nest", {1, 0}, {{"much", {{"formula", "ctl.height * 0.1"}}}});
        Loom inner = *row({statements, each, own}).get();
        inner.controls.push_back(much);
        inner.notes.push_back({"note_1", "Leans, then rises", {1, 1}, 2, Json::object()});
        nest.graph = InnerGraph(inner);
        Loom loom = around(node("box", "box", {0, 0}), nest);
        loom.controls.push_back(heightControl(0, 10));
        loom.notes.push_back({"note_1", "Outside", {0, 5}, 2, Json::object()});
        const auto unfolded = applied(loom, unfoldNest(loom, "nest", nullptr));
        QVERIFY(bool(unfolded));
        QVERIFY(loomProblems(*unfolded, {}).empty());
        for (double height : {0.5, 3.0}) {
            loom.values["height"] = height;
            Loom same = *unfolded;
            same.values["height"] = height;
            QVERIFY(digestOf(resultOf(same)) == digestOf(resultOf(loom)));
        }
        // What a container further in calls by the same name is its own.
        QCOMPARE(unfolded->node("own")->graph->node("up")->settings["move"]["formula"], Json("vec3(0, ctl.much, 0)"));
        // The note came out as well, with a name of its own.
        QCOMPARE(unfolded->notes.size(), std::size_t(2));
        QCOMPARE(unfolded->notes[1].text, std::string("Leans, then rises"));
        QVERIFY(unfolded->notes[0].id != unfolded->notes[1].id);
        const auto back = applied(*unfolded, inverse(unfoldNest(loom, "nest", nullptr)));
        loom.values.clear();
        QVERIFY(bool(back) && *back == loom);
    }

    void unfoldingThatWouldChangeTheResultIsRefused() {
        Control much;
        much.id = "much", much.label = "Much", much.fallback = 0.1;
        for (const Json& source : {Json{{"attribute", "along"}}, Json{{"formula", "along * 2"}},
                                   Json{{"ramp", {{"over", "along"}, {"knots", {{0, 0}, {1, 1}}}}}}, Json{{"noise", {{"size", 0.3}}}}}) {
            Node nest = node("nest", "nest", {1, 0}, {{"much", source}});
            Loom inner = *row({node("twist", "twist", {1, 0}, {{"angle", {{"control", "much"}}}})}).get();
            inner.controls.push_back(much);
            nest.graph = InnerGraph(inner);
            const Loom loom = around(node("box", "box", {0, 0}), nest);
            const auto problem = unfoldProblem(loom, "nest");
            QVERIFY2(problem && problem->code == "fold.setting" && problem->text.find("Much") == 0, source.dump().c_str());
            QVERIFY(unfoldNest(loom, "nest", nullptr).empty());
        }
        QCOMPARE(unfoldProblem(around(node("box", "box", {0, 0}), node("fit", "fit", {1, 0})), "fit")->code, std::string("fold.nest"));
        QCOMPARE(unfoldProblem(Loom(), "nothing")->code, std::string("fold.nest"));
    }

    void aSkippedNestUnfoldsToSkippedNodes() {
        Node nest = node("nest", "nest", {1, 0});
        nest.skipped = true;
        nest.graph = row({node("grow", "transform", {1, 0}, {{"scale", 2}}), node("turn", "transform", {2, 0}, {{"rotate", {0, 30, 0}}})});
        const Loom loom = around(node("box", "box", {0, 0}), nest);
        const auto unfolded = applied(loom, unfoldNest(loom, "nest", nullptr));
        QVERIFY(bool(unfolded) && unfolded->node("grow")->skipped && unfolded->node("turn")->skipped);
        QVERIFY(digestOf(resultOf(*unfolded)) == digestOf(resultOf(loom)));
        QVERIFY(digestOf(resultOf(loom)) == digestOf(made("box")));
    }

    void aTurnThatFailsIsTheLast() {
        Node repeat = node("repeat", "repeat", {1, 0}, {{"times", 100000}});
        repeat.graph = row({node("finer", "subdivide", {1, 0}, {{"levels", 1}})});
        Memo memo;
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(around(node("box", "box", {0, 0}), repeat));
        request.limits.elements = 20000;
        const RebuildResult result = rebuild(request, memo);
        const NodeOutcome& outcome = *result.nodes.at("repeat").outcome;
        QVERIFY(outcome.failed);
        // What the turns before made is still there: 6 faces, four times as many each turn.
        QCOMPARE(outcome.geometry.faceCount(), std::size_t(6 * 256));
        QVERIFY2(outcome.notices.size() == 1 && outcome.notices[0].text.find("turn 4") != std::string::npos, outcome.notices[0].text.c_str());
    }

    void nestsWithinNestsCanBeSavedAndRead() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}), node("grow", "transform", {1, 0}, {{"scale", 1.1}}), node("out", "output", {2, 0})};
        loom.links = {linked("box", "grow"), linked("grow", "out")};
        loom.output = "out";
        const Digest before = digestOf(resultOf(loom));
        std::string inside = "grow";
        for (int depth = 0; depth < 30; ++depth) {
            const auto folded = applied(loom, foldIntoNest(loom, {inside}, &inside));
            QVERIFY(bool(folded));
            loom = *folded;
        }
        QVERIFY(digestOf(resultOf(loom)) == before);
        const auto read = loomFromText(loomToText(loom));
        QVERIFY2(bool(read), read ? "" : read.error().text.c_str());
        QVERIFY(*read == loom);
    }

    void cancellingStopsBetweenParts() {
        // Cancelled by a report from inside, while other parts wait: nothing of it is kept as a result.
        const Loom loom = panels(Json::object(), {node("fine", "subdivide", {1, 0}, {{"levels", 3}})});
        std::atomic<bool> stop{false};
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.cancel = &stop;
        request.threads = 1;
        request.onNode = [&](const std::string& id, const NodeReport& report) {
            if (id == "panels" && report.state == NodeState::rebuilding) stop = true;
        };
        Memo memo;
        const RebuildResult result = rebuild(request, memo);
        QVERIFY(result.cancelled);
        QVERIFY(!result.geometry("panels"));
        stop = false;
        request.onNode = nullptr;
        verifySolid(*rebuild(request, memo).geometry("panels"));
    }

    void controlsOfTheDocumentReachPartsOnlyWhereRead() {
        Loom loom = panels(Json::object(), {node("raise", "extrude", {1, 0}, {{"distance", {{"control", "height"}}}, {"inset", 0.05}})});
        loom.controls.push_back(heightControl(0, 1));
        Control idle = heightControl(0, 1);
        idle.id = "idle";
        loom.controls.push_back(idle);
        Memo memo;
        loom.values["height"] = 0.1;
        built(loom, memo);
        loom.values["idle"] = 0.7;
        QVERIFY(built(loom, memo).nodes.at("panels").remembered);
        loom.values["height"] = 0.2;
        const RebuildResult changed = built(loom, memo);
        QVERIFY(!changed.nodes.at("panels").remembered);
        QVERIFY(changed.nodes.at("ball").remembered);
    }
};

QTEST_APPLESS_MAIN(TestContainers)
#include "test_containers.moc"

// What a loom's controls take, when they are shown and allowed, where they are read, and what changing them does.
#include "formats/LoomFile.h"
#include "graph/ControlReadings.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "graph/LoomNotices.h"
#include "graph/PresetBlend.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Control control(const char* id, const char* type, Json fallback) {
    Control out;
    out.id = id, out.label = id, out.type = type, out.fallback = std::move(fallback);
    return out;
}

Control number(const char* id, double fallback, std::optional<double> least = {}, std::optional<double> most = {}) {
    Control out = control(id, "number", fallback);
    out.min = least, out.max = most;
    return out;
}

Node node(const char* id, const char* op, Json settings) {
    Node out;
    out.id = id, out.op = op, out.settings = SharedJson(std::move(settings));
    return out;
}

/// A float with a hole: `hole` must stay below `radius`, and a lid is asked for only where there is one.
Loom floatLoom() {
    Loom loom;
    loom.controls = {number("radius", 1, 0.1, 4), number("hole", 0.25, 0, 4), control("lid", "boolean", false), number("lid_height", 0.5, 0, 1)};
    loom.controls[1].allowedWhen = "ctl.hole < ctl.radius";
    loom.controls[3].shownWhen = "ctl.lid == true";
    loom.nodes = {node("ball", "sphere", {{"radius", {{"control", "radius"}}}, {"at", {{"formula", "vec3(0, ctl.radius + ctl.radius2, 0) /* ctl.radius */"}}}}),
                  node("shape", "formula", {{"text", "let r = ctl.radius; position.y *= r;\n// ctl.radius is kept in a remark\nmask = ctl.radius;"}}),
                  node("push", "move", {{"where", {{"ramp", {{"over", "position.y / ctl.radius"}, {"knots", {{0, 0}, {1, 1}}}}}}}})};
    Loom inner, hiding;
    inner.nodes = {node("deep", "sphere", {{"radius", {{"control", "radius"}}}})};
    hiding.controls = {number("radius", 9)};
    hiding.nodes = {node("own", "sphere", {{"radius", {{"control", "radius"}}}})};
    loom.nodes.push_back(node("nest", "nest", Json::object()));
    loom.nodes.back().graph = InnerGraph(inner);
    loom.nodes.push_back(node("other", "nest", {{"radius", {{"control", "radius"}}}}));
    loom.nodes.back().graph = InnerGraph(hiding);
    return loom;
}

Loom after(const Loom& loom, const Edit& edit) {
    const auto out = applied(loom, edit);
    if (!out) qFatal("%s", out.error().text.c_str());
    // Whatever an edit does can be taken back.
    const auto back = applied(*out, inverse(edit));
    if (!back || !(*back == loom)) qFatal("an edit can't be taken back");
    return *out;
}

Loom loomOf(const Json& json) {
    auto loom = loomFromText(json.dump());
    if (!loom) qFatal("%s", loom.error().text.c_str());
    return *loom;
}

std::string codeOf(const auto& result) { return result ? std::string() : result.error().code; }
std::string codeOf(const std::optional<Error>& error) { return error ? error->code : std::string(); }

}  // namespace

class TestControls : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void eachTypeTakesItsOwn_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<QString>("good");
        QTest::addColumn<QString>("bad");
        const auto row = [](const char* type, const char* good, const char* bad) { QTest::newRow(type) << type << good << bad; };
        row("number", "0.5", "\"half\"");
        row("integer", "3", "3.5");
        row("boolean", "true", "1");
        row("choice", "\"round\"", "\"flat\"");
        row("text", "\"any\"", "4");
        row("vec2", "[1, 2]", "[1, 2, 3]");
        row("vec3", "[1, 2, 3]", "[1, 2]");
        row("color", "[0.2, 0.4, 1]", "\"#336699\"");
        row("ramp", R"({"knots": [[0, 0], [1, 2, "smooth"]]})", R"({"knots": []})");
        row("file", "\"post.obj\"", "[1]");
    }
    void eachTypeTakesItsOwn() {
        QFETCH(QString, type);
        QFETCH(QString, good);
        QFETCH(QString, bad);
        Control c = control("c", "", 0);
        c.type = type.toStdString();
        c.choices = {"square", "round"};
        const Json right = Json::parse(good.toStdString()), wrong = Json::parse(bad.toStdString());
        QVERIFY(checkedControlValue(c, right));
        const auto refused = checkedControlValue(c, wrong);
        QVERIFY(!refused && (refused.error().code == "control.type" || refused.error().code == "control.range"));
        // What comes nearest is taken, and what is right already stays.
        QVERIFY(checkedControlValue(c, fittedValue(c, wrong)));
        QCOMPARE(fittedValue(c, right), right);
        QVERIFY(std::find(controlTypes().begin(), controlTypes().end(), c.type) != controlTypes().end());
    }

    void whatComesNearestKeepsWhatItCan() {
        const auto as = [](const char* type, Json value, std::optional<double> least = {}, std::optional<double> most = {}) {
            Control c = control("c", type, 0);
            c.min = least, c.max = most;
            c.choices = {"square", "round"};
            return fittedValue(c, value);
        };
        QCOMPARE(as("number", 5.0, 0, 2), Json(2.0));
        QCOMPARE(as("number", -5.0, 0.5, 2), Json(0.5));
        QCOMPARE(as("number", Json::array({0.7, 1}), 0, 2), Json(0.7));
        QCOMPARE(as("integer", 2.6), Json(3));
        QCOMPARE(as("integer", 9, 0.5, 2.5), Json(2));
        QCOMPARE(as("integer", -9, 0.5, 2.5), Json(1));
        QCOMPARE(as("boolean", 2), Json(true));
        QCOMPARE(as("boolean", 0), Json(false));
        QCOMPARE(as("vec3", 0.5), Json::array({0.5, 0.5, 0.5}));
        QCOMPARE(as("vec3", Json::array({1.0, 2.0})), Json::array({1.0, 2.0, 0.0}));
        QCOMPARE(as("color", "red"), Json::array({1.0, 1.0, 1.0}));
        QCOMPARE(as("text", 4), Json("4"));
        QCOMPARE(as("choice", 1), Json("square"));
        QVERIFY(rampFromJson(as("ramp", 1))->at(0.25) == 0.25);
    }

    void slidersRunWithinTheLimits() {
        Control c = number("c", 1, 0, 10);
        QCOMPARE(*sliderRange(c), std::pair(0.0, 10.0));
        c.low = 2, c.high = 4;
        QCOMPARE(*sliderRange(c), std::pair(2.0, 4.0));
        c.low = -5, c.high = 50;
        QCOMPARE(*sliderRange(c), std::pair(0.0, 10.0));
        c = number("c", 1);
        QVERIFY(!sliderRange(c));
        c.low = 3;
        QVERIFY(!sliderRange(c));
        c.high = 3;
        QVERIFY(!sliderRange(c));
        c.high = 3.5;
        QCOMPARE(*sliderRange(c), std::pair(3.0, 3.5));
    }

    void conditionsShowAndAllow() {
        const Loom loom = floatLoom();
        auto values = *controlValues(loom);
        QVERIFY(!controlShown(*loom.control("lid_height"), values));
        QVERIFY(controlShown(*loom.control("radius"), values));
        values["lid"] = true;
        QVERIFY(controlShown(*loom.control("lid_height"), values));
        const auto refused = controlValues(loom, {{}, {{"hole", 2.0}}});
        QCOMPARE(codeOf(refused), std::string("control.not_allowed"));
        for (const char* said : {"hole", "2.0", "ctl.hole < ctl.radius"}) QVERIFY2(refused.error().text.find(said) != std::string::npos, said);
        QVERIFY(controlValues(loom, {{}, {{"hole", 2.0}, {"radius", 3.0}}}));
        // A condition that can't be computed is told, and hides nothing.
        Loom broken = loom;
        broken.controls[1].allowedWhen = "ctl.nothing > 1";
        QCOMPARE(codeOf(controlValues(broken)), std::string("formula.unknown_name"));
        broken.controls[3].shownWhen = "((";
        QVERIFY(controlShown(broken.controls[3], values));
        QCOMPARE(codeOf(conditionHolds("vec3(1, 2, 3)", values)), std::string("control.condition"));
        // Words can be asked for as well.
        Control kind = control("kind", "choice", "round");
        kind.choices = {"round", "square"};
        broken = loom;
        broken.controls.push_back(kind);
        broken.controls[3].shownWhen = "ctl.kind == \"square\"";
        QVERIFY(!controlShown(broken.controls[3], *controlValues(broken)));
        QVERIFY(controlShown(broken.controls[3], *controlValues(broken, {{}, {{"kind", "square"}}})));
    }

    void aHandStopsWhereItIsNoLongerAllowed() {
        Loom loom = floatLoom();
        QCOMPARE(allowedValue(loom, "hole", 0.75), Json(0.75));
        const double held = allowedValue(loom, "hole", 3.0).get<double>();
        QVERIFY2(held < 1 && held > 0.98, std::to_string(held).c_str());
        // The other way round: the radius stops at the hole.
        const double least = allowedValue(loom, "radius", 0.1).get<double>();
        QVERIFY2(least > 0.25 && least < 0.26, std::to_string(least).c_str());
        // Whole numbers stay whole, words stay as they are.
        loom.controls.push_back(control("count", "integer", 2));
        loom.controls.back().allowedWhen = "ctl.count < 7.5";
        QCOMPARE(allowedValue(loom, "count", 20), Json(7));
        Control kind = control("kind", "choice", "round");
        kind.choices = {"round", "square"};
        kind.allowedWhen = "ctl.kind == \"round\"";
        loom.controls.push_back(kind);
        QCOMPARE(allowedValue(loom, "kind", "square"), Json("round"));
        // Vectors go along a line.
        loom.controls.push_back(control("place", "vec2", Json::array({0.0, 0.0})));
        loom.controls.back().allowedWhen = "ctl.place.x + ctl.place.y < 1.0";
        const Json place = allowedValue(loom, "place", Json::array({4.0, 4.0}));
        QVERIFY(place[0] == place[1] && place[0].get<double>() < 0.5 && place[0].get<double>() > 0.499);
        // What is wrong already can be left in any direction.
        loom.values["hole"] = 3.5;
        QCOMPARE(allowedValue(loom, "hole", 2.0), Json(2.0));
    }

    void readingsAreFoundWhereverTheyAre() {
        const auto all = controlReadings(floatLoom());
        const std::vector<ControlReading> wanted{{{}, "ball", "at", true},    {{}, "ball", "radius", false},       {{}, "shape", "text", true},
                                                 {{}, "push", "where", true}, {{"nest"}, "deep", "radius", false}, {{}, "other", "radius", false}};
        QCOMPARE(all.at("radius").size(), wanted.size());
        for (const ControlReading& reading : wanted)
            QVERIFY2(std::count(all.at("radius").begin(), all.at("radius").end(), reading) == 1, (reading.node + reading.setting).c_str());
        QVERIFY(all.contains("radius2") && !all.contains("hole"));
        QCOMPARE(controlsReading(floatLoom(), "radius"), std::vector<std::string>{"hole"});
        QCOMPARE(controlsReading(floatLoom(), "lid"), std::vector<std::string>{"lid_height"});
        QCOMPARE(controlsReading(floatLoom(), "hole"), std::vector<std::string>{});
    }

    void anotherIdIsFollowedEverywhere() {
        Loom loom = floatLoom();
        loom.values["radius"] = 1.5;
        loom.presets = {{"Wide", {{"radius", 3.0}, {"hole", 1.0}}}};
        loom.controls.push_back(control("twice", "number", Json{{"formula", "ctl.radius * 2.0"}}));
        const Loom renamed = after(loom, renameControl(loom, "radius", "reach"));
        QVERIFY(!renamed.control("radius") && renamed.control("reach"));
        QCOMPARE(renamed.values.at("reach"), Json(1.5));
        QVERIFY(!renamed.values.contains("radius"));
        QCOMPARE(renamed.presets[0].values, (std::map<std::string, Json>{{"reach", 3.0}, {"hole", 1.0}}));
        QCOMPARE(renamed.control("hole")->allowedWhen, std::string("ctl.hole < ctl.reach"));
        QCOMPARE(renamed.control("twice")->fallback["formula"], Json("ctl.reach * 2.0"));
        QCOMPARE(renamed.node("ball")->settings["radius"], (Json{{"control", "reach"}}));
        QCOMPARE(renamed.node("ball")->settings["at"]["formula"], Json("vec3(0, ctl.reach + ctl.radius2, 0) /* ctl.radius */"));
        QCOMPARE(renamed.node("shape")->settings["text"], Json("let r = ctl.reach; position.y *= r;\n// ctl.radius is kept in a remark\nmask = ctl.reach;"));
        QCOMPARE(renamed.node("push")->settings["where"]["ramp"]["over"], Json("position.y / ctl.reach"));
        QCOMPARE(renamed.node("nest")->graph->node("deep")->settings["radius"], (Json{{"control", "reach"}}));
        // A container's own setting of that name is another one.
        QCOMPARE(renamed.node("other")->graph->node("own")->settings["radius"], (Json{{"control", "radius"}}));
        QCOMPARE(renamed.node("other")->settings["radius"], (Json{{"control", "reach"}}));
        QCOMPARE(controlReadings(renamed)["reach"].size(), controlReadings(loom)["radius"].size());
        QVERIFY(controlValues(renamed));
    }

    void idsThatCantBeAreRefused() {
        const Loom loom = floatLoom();
        for (const char* bad : {"", "2nd", "two words", "a-b", "ctl.x", "Maß", "hole"}) {
            QCOMPARE(codeOf(renameProblem(loom, "radius", bad)), std::string("control.id"));
            QVERIFY(renameControl(loom, "radius", bad).empty());
        }
        QCOMPARE(codeOf(renameProblem(loom, "nothing", "x")), std::string("control.unknown"));
        QVERIFY(!renameProblem(loom, "radius", "radius") && renameControl(loom, "radius", "radius").empty());
        // Inside of `nest` another control of that id would be read instead.
        Loom inner = *loom.node("nest")->graph;
        inner.controls = {number("reach", 1)};
        Loom hiding = loom;
        hiding.nodes[3].graph = InnerGraph(inner);
        QCOMPARE(codeOf(renameProblem(hiding, "radius", "reach")), std::string("control.id"));
    }

    void aRemovedControlLeavesItsValue() {
        Loom loom = floatLoom();
        loom.values["radius"] = 2.0;
        loom.presets = {{"Wide", {{"radius", 3.0}}}};
        const Loom without = after(loom, removeControl(loom, "radius"));
        QCOMPARE(without.node("ball")->settings["radius"], Json(2.0));
        QCOMPARE(without.node("push")->settings["where"]["ramp"]["over"], Json("position.y / 2.0"));
        QCOMPARE(without.node("nest")->graph->node("deep")->settings["radius"], Json(2.0));
        QCOMPARE(without.node("other")->settings["radius"], Json(2.0));
        QCOMPARE(without.control("hole")->allowedWhen, std::string("ctl.hole < 2.0"));
        QVERIFY(without.presets[0].values.empty() && !controlReadings(without).contains("radius"));
        // A negative number, a vector and a word can stand in a formula.
        QCOMPARE(formulaOf(-1.5), std::string("(-1.5)"));
        QCOMPARE(formulaOf(Json::array({1, 2, 3})), std::string("vec3(1, 2, 3)"));
        QCOMPARE(formulaOf("round"), std::string("\"round\""));
        QCOMPARE(formulaOf(true), std::string("true"));
    }

    void anotherTypeTakesValuesAlong() {
        Loom loom = floatLoom();
        loom.values["hole"] = 0.6;
        loom.presets = {{"Wide", {{"hole", 3.7}}}};
        Control whole = *loom.control("hole");
        whole.type = "integer", whole.max = 2;
        const Loom changed = after(loom, changeControl(loom, whole));
        QCOMPARE(changed.values.at("hole"), Json(1));
        QCOMPARE(changed.presets[0].values.at("hole"), Json(2));
        QCOMPARE(changed.control("hole")->fallback, Json(0));
        // A computed default stays one.
        whole.fallback = {{"formula", "ctl.radius"}};
        QCOMPARE(after(loom, changeControl(loom, whole)).control("hole")->fallback, (Json{{"formula", "ctl.radius"}}));
    }

    void whatIsWrongWithAControlIsSaid_data() {
        QTest::addColumn<QString>("key");
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("code");
        QTest::newRow("nothing") << "id"
                                 << "hole"
                                 << "";
        QTest::newRow("another id") << "id"
                                    << "bore"
                                    << "";
        QTest::newRow("id") << "id"
                            << "4th"
                            << "control.id";
        QTest::newRow("taken") << "id"
                               << "radius"
                               << "control.id";
        QTest::newRow("limits") << "min"
                                << "9"
                                << "control.range";
        QTest::newRow("slider") << "low"
                                << "9"
                                << "control.range";
        QTest::newRow("step") << "step"
                              << "0"
                              << "control.range";
        QTest::newRow("fine step") << "step"
                                   << "0.1"
                                   << "";
        QTest::newRow("no choices") << "type"
                                    << "choice"
                                    << "control.choices";
        QTest::newRow("condition") << "allowed"
                                   << "ctl.hole <"
                                   << "formula.syntax";
        QTest::newRow("never allowed") << "allowed"
                                       << "ctl.hole > 99"
                                       << "control.not_allowed";
        QTest::newRow("ring") << "formula"
                              << "ctl.hole + 1"
                              << "control.cycle";
    }
    void whatIsWrongWithAControlIsSaid() {
        QFETCH(QString, key);
        QFETCH(QString, value);
        QFETCH(QString, code);
        const Loom loom = floatLoom();
        Control c = *loom.control("hole");
        c.high = 3;
        const std::string text = value.toStdString();
        if (key == "id") c.id = text;
        if (key == "min") c.min = value.toDouble();
        if (key == "low") c.low = value.toDouble();
        if (key == "step") c.step = value.toDouble();
        if (key == "type") c.type = text;
        if (key == "allowed") c.allowedWhen = text;
        if (key == "formula") c.fallback = {{"formula", text}};
        const auto problem = controlProblem(loom, "hole", c);
        QCOMPARE(codeOf(problem), code.toStdString());
        if (problem) return;
        const Loom edited = after(loom, editControl(loom, "hole", c));
        QVERIFY(edited.control(c.id) && edited.controls.size() == loom.controls.size());
        QVERIFY(*edited.control(c.id) == c || c.id != "hole");
    }

    void whatWasWrongElsewhereIsNoReasonToRefuse() {
        Loom loom = floatLoom();
        loom.controls[3].allowedWhen = "ctl.gone == 1";
        Control c = *loom.control("hole");
        c.label = "Bore";
        QVERIFY(!controlProblem(loom, "hole", c));
        c.allowedWhen = "ctl.other_gone";
        QVERIFY(controlProblem(loom, "hole", c));
    }

    void whatIsUnusedOrBrokenIsToldWithWhatHelps_data() {
        QTest::addColumn<QString>("change");
        QTest::addColumn<QString>("code");
        QTest::addColumn<QString>("of");
        QTest::addColumn<int>("fixes");
        const auto row = [](const char* name, const char* change, const char* code, const char* of, int fixes) {
            QTest::newRow(name) << change << code << of << fixes;
        };
        row("unused", R"([{"op": "add", "path": "/controls/-", "value": {"id": "idle", "label": "Idle", "type": "number", "default": 1}}])", "control.unused",
            "idle", 1);
        row("default", R"([{"op": "replace", "path": "/controls/0/default", "value": 9}])", "control.default", "radius", 1);
        row("shown when", R"([{"op": "add", "path": "/controls/1/shown_when", "value": "ctl.gone > 1"}])", "control.condition", "hole", 1);
        row("allowed when", R"([{"op": "add", "path": "/controls/1/allowed_when", "value": "ctl.hole <"}])", "control.condition", "hole", 1);
        row("contradiction",
            R"([{"op": "add", "path": "/controls/1/allowed_when", "value": "ctl.hole > 1"},
                  {"op": "add", "path": "/controls/0/allowed_when", "value": "ctl.hole < 1"}])",
            "control.not_allowed", "hole", 1);
        row("ring", R"([{"op": "replace", "path": "/controls/0/default", "value": {"formula": "ctl.hole"}},
                        {"op": "replace", "path": "/controls/1/default", "value": {"formula": "ctl.radius"}}])",
            "control.cycle", "", 0);
        row("preset", R"([{"op": "add", "path": "/presets/-", "value": {"name": "Huge", "values": {"radius": 40, "hole": "no", "gone": 1}}}])",
            "preset.unknown", "", 1);
        row("preset value", R"([{"op": "add", "path": "/presets/-", "value": {"name": "Huge", "values": {"radius": 40}}}])", "preset.value", "radius", 1);
        row("missing", R"([{"op": "replace", "path": "/nodes/0/settings/radius", "value": {"control": "gone"}}])", "control.missing", "", 2);
        row("missing in a formula", R"([{"op": "replace", "path": "/nodes/0/settings/radius", "value": {"formula": "ctl.gone * 2"}}])", "control.missing", "",
            1);
    }
    /// Each fix, alone, does away with what it is offered for.
    void whatIsUnusedOrBrokenIsToldWithWhatHelps() {
        QFETCH(QString, change);
        QFETCH(QString, code);
        QFETCH(QString, of);
        QFETCH(int, fixes);
        const Json sound = Json::parse(R"({"seedloom": 1, "name": "Float",
            "controls": [{"id": "radius", "label": "Radius", "type": "number", "default": 1, "min": 0.1, "max": 4},
                         {"id": "hole", "label": "Hole", "type": "number", "default": 0.25, "min": 0, "max": 4}],
            "presets": [{"name": "Small", "values": {"radius": 0.5}}],
            "nodes": [{"id": "ball", "op": "sphere", "cell": [0, 0], "settings": {"radius": {"control": "radius"}}},
                      {"id": "up", "op": "transform", "cell": [1, 0], "settings": {"move": {"formula": "vec3(0, ctl.hole, 0) "}}},
                      {"id": "out", "op": "output", "cell": [2, 0], "settings": {}}],
            "links": [["ball", "up"], ["up", "out"]], "output": "out"})");
        QVERIFY(loomNotices(loomOf(sound)).empty());
        const Loom broken = loomOf(sound.patch(Json::parse(change.toStdString())));
        const auto all = loomNotices(broken);
        const auto told = std::find_if(all.begin(), all.end(), [&](const LoomNotice& n) { return n.code == code.toStdString(); });
        QVERIFY2(told != all.end(), all.empty() ? "nothing told" : all.front().code.c_str());
        QCOMPARE(QString::fromStdString(told->control), of);
        QCOMPARE(int(told->fixes.size()), fixes);
        QVERIFY(told->text.size() > 20);
        for (const LoomFix& fix : told->fixes) {
            const auto left = loomNotices(after(broken, fix.edit));
            const bool mended = std::none_of(left.begin(), left.end(), [&](const LoomNotice& n) { return n.code == code.toStdString(); });
            QVERIFY2(mended, left.empty() ? "" : left.front().text.c_str());
        }
        if (code != "preset.unknown") return;
        const auto kept = after(broken, told->fixes[0].edit).presets.back().values;
        QCOMPARE(kept, (std::map<std::string, Json>{{"hole", 0}, {"radius", 4.0}}));
    }

    void aMissingControlInANestIsMendedThere() {
        Loom inner;
        inner.nodes = {node("deep", "sphere", {{"radius", {{"control", "gone"}}}}), node("own", "sphere", {{"radius", {{"control", "size"}}}})};
        inner.controls = {number("size", 2)};
        Loom loom;
        loom.nodes = {node("nest", "nest", Json::object())};
        loom.nodes[0].graph = InnerGraph(inner);
        const auto told = loomNotices(loom);
        QCOMPARE(told.size(), std::size_t(1));
        QCOMPARE(told[0].path, std::vector<std::string>{"nest"});
        QCOMPARE(told[0].node, std::string("deep"));
        // A control that gives the radius it would have without one; or that radius itself.
        const Loom made = after(loom, told[0].fixes[0].edit);
        QCOMPARE(made.controls.size(), std::size_t(1));
        QCOMPARE(made.controls[0].fallback, findOperator("sphere")->setting("radius")->fallback);
        QVERIFY(!after(loom, told[0].fixes[1].edit).nodes[0].graph->node("deep")->settings.contains("radius"));
    }

    void presetsAreKeptRenamedAndMoved() {
        Loom loom = floatLoom();
        loom.values["hole"] = 0.5;
        loom = after(loom, savePreset(loom, "Wide"));
        loom = after(loom, savePreset(loom, "Narrow"));
        loom = after(loom, savePreset(loom, "Plain"));
        QVERIFY(renamePreset(loom, "Wide", "Plain").empty() && renamePreset(loom, "Wide", "").empty() && renamePreset(loom, "None", "Some").empty());
        loom = after(loom, renamePreset(loom, "Wide", "Broad"));
        loom = after(loom, movePreset(loom, "Broad", 2));
        QVERIFY(movePreset(loom, "Broad", 9).empty());
        std::vector<std::string> names;
        for (const Preset& p : loom.presets) names.push_back(p.name);
        QCOMPARE(names, (std::vector<std::string>{"Narrow", "Plain", "Broad"}));
    }

    void presetsAreBlended() {
        Loom loom = floatLoom();
        loom.controls.push_back(control("count", "integer", 2));
        loom.controls.push_back(control("tone", "color", Json::array({0.0, 0.0, 0.0})));
        loom.controls.push_back(control("profile", "ramp", Json{{"knots", {{0, 0}, {1, 1}}}}));
        loom.controls.push_back(control("name", "text", "float"));
        const Json rising{{"knots", {{0, 0}, {1, 1}}}}, humped{{"knots", {{0, 1}, {0.5, 3}, {1, 1}}}};
        const Preset a{"A", {{"radius", 1.0}, {"count", 2}, {"tone", {0.0, 0.5, 1.0}}, {"profile", rising}, {"name", "a"}}};
        const Preset b{"B", {{"radius", 3.0}, {"count", 5}, {"tone", {1.0, 0.5, 0.0}}, {"profile", humped}, {"name", "b"}, {"lid", true}}};
        const auto at = [&](double part) { return *blendedValues(loom, a, b, part); };
        QCOMPARE(at(0)["radius"], Json(1.0));
        QCOMPARE(at(1)["radius"], Json(3.0));
        QCOMPARE(at(0.25)["radius"], Json(1.5));
        QCOMPARE(at(0.5)["count"], Json(4));
        QCOMPARE(at(0.25)["tone"], Json::array({0.25, 0.5, 0.75}));
        QCOMPARE(at(0.4)["name"], Json("a"));
        QCOMPARE(at(0.5)["name"], Json("b"));
        // What only one of them sets has its default in the other; what neither sets is left alone.
        QCOMPARE(at(0.25)["lid"], Json(false));
        QCOMPARE(at(0.75)["lid"], Json(true));
        QVERIFY(!at(0.5).contains("hole"));
        const Ramp half = *rampFromJson(at(0.5)["profile"]);
        QCOMPARE(half.at(0), 0.5);
        QCOMPARE(half.at(0.5), 1.75);
        QCOMPARE(half.at(1), 1.0);
        QCOMPARE(at(0)["profile"], a.values.at("profile"));
        // As an edit it is one step, and ends are the presets themselves.
        const Loom blended = after(loom, blendPresets(loom, a, b, 1));
        QVERIFY(applyPreset(blended, b).empty());
        QVERIFY(applyPreset(after(loom, blendPresets(loom, a, b, 0)), a).empty());
        // What is not allowed between is not taken.
        loom.controls[0].allowedWhen = "ctl.radius < 1.8 || ctl.radius > 2.2";
        QCOMPARE(codeOf(blendedValues(loom, a, b, 0.5)), std::string("control.not_allowed"));
        QVERIFY(blendPresets(loom, a, b, 0.5).empty());
        QVERIFY(!blendPresets(loom, a, b, 0.75).empty());
    }
};

QTEST_GUILESS_MAIN(TestControls)
#include "test_controls.moc"

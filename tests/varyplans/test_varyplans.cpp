// What a person chose to vary: which variations that makes, how they are looked through, which is made first, and what is kept of them.
#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "vary/EvenDraws.h"
#include "vary/VaryBuilds.h"
#include "vary/VaryCache.h"
#include "vary/VaryFacts.h"
#include "vary/VaryPlan.h"
#include "vary/VaryQueue.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

#include <algorithm>
#include <numeric>
#include <set>

using namespace seedloom;

namespace {

using How = VariedControl::How;

/// Of a plan that can be made.
std::vector<Variation> made(const VaryPlan& plan, const Loom& loom) {
    auto out = variationsOf(plan, loom);
    if (!out) qFatal("%s", out.error().text.c_str());
    return std::move(*out);
}

/// A beam: some of its settings don't go together, and it may be open.
constexpr const char* kBeam = R"({"seedloom": 1, "name": "Beam",
"controls": [
 {"id": "long", "label": "Long", "type": "number", "default": 1, "min": 0.5, "max": 2, "unit": "m"},
 {"id": "wide", "label": "Wide", "type": "number", "default": 0.2, "min": 0.1, "max": 0.6, "unit": "m", "allowed_when": "ctl.wide < ctl.long * 0.5"},
 {"id": "count", "label": "Count", "type": "integer", "default": 1, "min": 1, "max": 4},
 {"id": "kind", "label": "Kind", "type": "choice", "default": "oak", "choices": ["oak", "pine", "ash"]},
 {"id": "open", "label": "Open", "type": "boolean", "default": false},
 {"id": "words", "label": "Words", "type": "text", "default": "Quay"},
 {"id": "twice", "label": "Twice", "type": "number", "default": {"formula": "ctl.long * 2.0"}}],
"presets": [{"name": "Short", "values": {"long": 0.6}}, {"name": "Long one", "values": {"long": 1.9, "count": 3}}],
"nodes": [
 {"id": "box", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.long, 0.1, ctl.wide) "},
  "cells": {"formula": "vec3(ctl.count, 1, 1) "}}},
 {"id": "less", "op": "delete", "cell": [1, 0], "settings": {"where": {"formula": "ctl.open ? normal.y > 0.5 : false"}}},
 {"id": "out", "op": "output", "cell": [2, 0]}],
"links": [["box", "less"], ["less", "out"]], "output": "out"})";

Loom beam() { return *loomFromText(kBeam); }

VariedControl steps(const char* id, double from, double to, int count) { return {id, How::steps, {}, from, to, count}; }
VariedControl byChance(const char* id, double from, double to) { return {id, How::random, {}, from, to, 1}; }

template <class T> std::string codeOf(const Result<T>& result) { return result ? std::string() : result.error().code; }

FitSubject subjectOf(Loom loom) {
    FitSubject out;
    out.loom = std::make_shared<const Loom>(std::move(loom));
    return out;
}

}  // namespace

class TestVaryPlans : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void combinationsStandInTheirOrder() {
        const Loom loom = beam();
        VaryPlan plan;
        plan.controls = {steps("long", 1, 2, 3), {"kind", How::values, {"ash", "oak"}, 0, 1, 1}};
        const auto all = variationsOf(plan, loom);
        QVERIFY(all);
        QCOMPARE(all->size(), std::size_t(6));
        QCOMPARE(*plannedCount(plan, loom), 6.0);
        QCOMPARE((*all)[0].given, (ControlValues{{"long", 1.0}, {"kind", "ash"}}));
        QCOMPARE((*all)[1].given, (ControlValues{{"long", 1.0}, {"kind", "oak"}}));
        QCOMPARE((*all)[5].given, (ControlValues{{"long", 2.0}, {"kind", "oak"}}));
        plan.presets = true;
        const auto withPresets = made(plan, loom);
        QCOMPARE(withPresets.size(), std::size_t(12));
        QCOMPARE(*plannedCount(plan, loom), 12.0);
        QVERIFY(withPresets[5].preset == "Short" && withPresets[6].preset == "Long one");
        QCOMPARE(withPresets[6].given, (*all)[0].given);
    }

    void whatDoesNotVaryStaysAsItIsInUse() {
        Loom loom = beam();
        loom.values = {{"wide", 0.3}, {"long", 1.5}};
        VaryPlan plan;
        plan.controls = {steps("long", 1, 2, 2)};
        for (const Variation& one : made(plan, loom)) QCOMPARE(one.given.at("wide"), Json(0.3));
        QCOMPARE(made(plan, loom)[0].given.at("long"), Json(1.0));
        // A preset says itself what its values are.
        plan.presets = true;
        for (const Variation& one : made(plan, loom)) QVERIFY(!one.given.count("wide"));
        plan.presets = false, plan.all = false, plan.count = 5;
        for (const Variation& one : made(plan, loom)) QCOMPARE(one.given.at("wide"), Json(0.3));
    }

    void chanceFillsEachCombinationAndCoversItsRange() {
        const Loom loom = beam();
        VaryPlan plan;
        plan.controls = {steps("long", 1.5, 2, 4), byChance("wide", 0.1, 0.5), {"kind", How::random, {"oak", "ash"}, 0, 1, 1}};
        const auto all = made(plan, loom);
        QCOMPARE(all.size(), std::size_t(4));
        std::set<double> wide;
        for (const Variation& one : all) {
            const double value = one.given.at("wide").get<double>();
            QVERIFY(value >= 0.1 && value <= 0.5);
            QVERIFY(one.given.at("kind") == Json("oak") || one.given.at("kind") == Json("ash"));
            wide.insert(value);
        }
        QCOMPARE(wide.size(), std::size_t(4));
        // One after the other as by chance alone.
        VaryPlan alone;
        alone.controls = {byChance("wide", 0.1, 0.5)};
        alone.count = 4;
        VaryPlan both = plan;
        both.controls.pop_back();
        const auto inSteps = made(both, loom), free = made(alone, loom);
        for (std::size_t i = 0; i < 4; ++i) QCOMPARE(inSteps[i].given.at("wide"), free[i].given.at("wide"));
        plan.seed = 2;
        QVERIFY(made(plan, loom) != all);
        plan.seed = 1;
        QCOMPARE(made(plan, loom), all);
        // A hundred by chance: every eighth of the range has its share, and what the loom refuses is not among them.
        plan.all = false, plan.count = 100;
        const auto many = made(plan, loom);
        QCOMPARE(many.size(), std::size_t(100));
        std::array<int, 8> eighths{};
        std::set<double> lengths;
        for (const Variation& one : many) {
            const double value = one.given.at("wide").get<double>();
            ++eighths[std::size_t(std::min((value - 0.1) / 0.05, 7.0))];
            lengths.insert(one.given.at("long").get<double>());
            QVERIFY(value < one.given.at("long").get<double>() * 0.5);
        }
        for (const int some : eighths) QVERIFY2(some >= 7 && some <= 18, qPrintable(QString::number(some)));
        QCOMPARE(lengths.size(), std::size_t(4));
        // More of them never change the first ones.
        plan.count = 30;
        const auto few = made(plan, loom);
        QVERIFY(std::equal(few.begin(), few.end(), many.begin()));
        plan.controls = {byChance("long", 1, 2)};
        plan.presets = true, plan.count = 40;
        std::set<std::string> presets;
        for (const Variation& one : made(plan, loom)) presets.insert(one.preset);
        QCOMPARE(presets, (std::set<std::string>{"Short", "Long one"}));
    }

    void nothingVariesNothing() {
        const Loom loom = beam();
        QVERIFY(variationsOf({}, loom)->empty());
        QCOMPARE(*plannedCount({}, loom), 0.0);
        QVERIFY(VaryPlan{}.empty() && !VaryPlan{}.combines());
        VaryPlan gone;
        gone.controls = {steps("gone", 0, 1, 3)};
        gone.presets = true;
        QCOMPARE(variationsOf(gone, loom)->size(), std::size_t(2));
        QCOMPARE(fittedPlan(gone, Loom()), VaryPlan{});
    }

    void whatCantBeIsSaid() {
        const Loom loom = beam();
        const auto code = [&](const VariedControl& varied) {
            VaryPlan plan;
            plan.controls = {varied};
            return codeOf(variationsOf(plan, loom));
        };
        QCOMPARE(code(steps("long", 0, 3, 4)), std::string("control.range"));
        QCOMPARE(code(byChance("long", 0, 3)), std::string("control.range"));
        QCOMPARE(code({"long", How::values, {}, 0, 1, 1}), std::string("vary.axis"));
        QCOMPARE(code({"kind", How::values, {"elm"}, 0, 1, 1}), std::string("control.range"));
        QCOMPARE(code(steps("long", 1, 2, 20'000)), std::string("vary.count"));
        QVERIFY(variationsOf(VaryPlan{false, {steps("gone", 0, 1, 2)}}, loom)->empty());
        QVERIFY(axisOf(loom, steps("gone", 0, 1, 2)).error().text.find("long, wide, count") != std::string::npos);
        VaryPlan still;
        still.controls = {byChance("long", 1.5, 1.5)};
        still.count = 3;
        for (const Variation& one : made(still, loom)) QCOMPARE(one.given.at("long"), Json(1.5));
        VaryPlan many;
        many.controls = {steps("long", 1, 2, 5000), steps("wide", 0.1, 0.2, 3)};
        QCOMPARE(codeOf(variationsOf(many, loom)), std::string("vary.count"));
        QCOMPARE(*plannedCount(many, loom), 15'000.0);
        many.controls[1].steps = 2;
        QCOMPARE(variationsOf(many, loom)->size(), kMostVariations);
        many.presets = true;
        QCOMPARE(codeOf(variationsOf(many, loom)), std::string("vary.count"));
        many = {};
        many.controls = {byChance("long", 1, 2)};
        many.count = kMostVariations + 1;
        QCOMPARE(codeOf(variationsOf(many, loom)), std::string("vary.count"));
        QCOMPARE(axisOf(loom, steps("long", 1, 2, int(kMostVariations)))->values.size(), kMostVariations);
        QCOMPARE(variationsByChance(Loom(), 0, 1)->size(), std::size_t(0));
        QCOMPARE(codeOf(variationsByChance(Loom(), 1, 1)), std::string("vary.nothing"));
        QCOMPARE(varyAxis(loom, "count=2")->values, std::vector<Json>{2});
        QCOMPARE(codeOf(varyAxis(loom, "count=")), std::string("vary.axis"));
        QCOMPARE(codeOf(axisOf(loom, steps("gone", 0, 1, 2))), std::string("control.unknown"));
        // A combination that the loom does not allow keeps its place: it says so when it is made.
        VaryPlan tight;
        tight.controls = {steps("long", 0.5, 2, 2), steps("wide", 0.1, 0.6, 2)};
        QCOMPARE(variationsOf(tight, loom)->size(), std::size_t(4));
    }

    void proposalsFitTheControl() {
        Loom loom = beam();
        loom.values = {{"words", "Pier"}};
        const auto proposed = [&](const char* id, How how) { return proposedFor(loom, *loom.control(id), how); };
        QCOMPARE(proposed("long", How::steps).from, 0.5);
        QCOMPARE(proposed("long", How::steps).to, 2.0);
        QCOMPARE(proposed("long", How::values).values, (std::vector<Json>{0.5, 1.25, 2.0}));
        QCOMPARE(proposed("kind", How::values).values, (std::vector<Json>{"oak", "pine", "ash"}));
        QCOMPARE(proposed("open", How::random).values, std::vector<Json>());
        QCOMPARE(proposed("words", How::values).values, std::vector<Json>{"Pier"});
        QCOMPARE(proposed("twice", How::values).values, std::vector<Json>{2.0});
        QCOMPARE(proposed("twice", How::steps).from, 2.0);
        QCOMPARE(proposed("twice", How::steps).to, 3.0);
        const VaryPlan everything = everythingByChance(loom);
        QCOMPARE(everything.controls.size(), std::size_t(5));
        QVERIFY(!everything.all && !everything.combines() && !everything.of("words") && !everything.of("twice"));
        for (const VariedControl& one : everything.controls)
            for (const How how : {How::values, How::random}) QVERIFY(axisOf(loom, proposedFor(loom, *loom.control(one.control), how)) || how == How::random);
        QCOMPARE(variationsOf(everything, loom)->size(), std::size_t(24));
    }

    void valuesAreTypedAndShown() {
        const Loom loom = beam();
        const auto read = [&](const char* id, const char* text) { return valuesFromText(*loom.control(id), text); };
        QCOMPARE(*read("long", "0.6; 1;  1.25 ;"), (std::vector<Json>{0.6, 1.0, 1.25}));
        QCOMPARE(*read("long", "0.6, 1"), (std::vector<Json>{0.6, 1.0}));
        QCOMPARE(*read("count", "1;1;2"), (std::vector<Json>{1, 2}));
        QCOMPARE(*read("words", "Quay, old; Pier"), (std::vector<Json>{"Quay, old", "Pier"}));
        QCOMPARE(read("long", " ")->size(), std::size_t(0));
        QCOMPARE(codeOf(read("long", "0.6; 9")), std::string("control.range"));
        QCOMPARE(codeOf(read("long", "thick")), std::string("control.type"));
        QCOMPARE(valuesText({0.6, 1.0, 1.0 / 3}), std::string("0.6; 1; 0.333333"));
        QCOMPARE(valuesText({"oak", 2, true, Json::array({1.5, 0, 2})}), std::string("oak; 2; true; 1.5, 0, 2"));
        QCOMPARE(shownValue(*loom.control("long"), 1.26666), std::string("1.27 m"));
        QCOMPARE(shownValue(*loom.control("long"), 12345.6), std::string("12346 m"));
        QCOMPARE(shownValue(*loom.control("open"), true), std::string("Open yes"));
    }

    void plansAreKept() {
        VaryPlan plan;
        plan.presets = true, plan.all = false, plan.count = 77, plan.seed = 9;
        plan.controls = {steps("long", 0.5, 1.5, 7), {"kind", How::values, {"oak", "ash"}, 0, 1, 4}, byChance("wide", 0.2, 0.3)};
        plan.controls[2].steps = 4;
        QCOMPARE(planFromJson(planJson(plan)), plan);
        QCOMPARE(planFromJson(Json()), VaryPlan{});
        QCOMPARE(planFromJson(Json::parse("[1]")), VaryPlan{});
        const VaryPlan odd =
            planFromJson(Json::parse(R"({"count": -3, "seed": "x", "presets": 1, "controls": [7, {"control": 3}, {"control": "a", "how": "often"},
            {"control": "b", "how": "steps", "steps": 1e99, "from": "low"}, {"control": "b", "how": "random"}]})"));
        QCOMPARE(odd.count, std::size_t(1));
        QCOMPARE(odd.seed, 1u);
        QVERIFY(!odd.presets && odd.all);
        QCOMPARE(odd.controls, (std::vector<VariedControl>{steps("b", 0, 1, int(kMostVariations))}));
    }

    void evenDrawsCoverTheCube() {
        const EvenDraws draws(3, 5);
        for (std::size_t d = 0; d < 3; ++d) {
            std::array<int, 10> tenths{};
            for (std::size_t n = 1; n <= 200; ++n) {
                const double part = draws.part(n, d);
                QVERIFY(part >= 0 && part < 1);
                ++tenths[std::size_t(part * 10)];
            }
            for (const int some : tenths) QVERIFY2(some >= 16 && some <= 24, qPrintable(QString::number(some)));
        }
        QVERIFY(EvenDraws(3, 6).part(1, 0) != draws.part(1, 0));
        const Control whole{"n", "", "", "integer"};
        const DrawnFrom from{&whole, 2, 4, {}};
        QVERIFY(from.at(0) == Json(2) && from.at(0.34) == Json(3) && from.at(0.999) == Json(4));
        // A range of one value is that value, and a step is kept.
        Control plain{"x", "", ""};
        plain.low = 0.1, plain.high = 2;
        QCOMPARE((DrawnFrom{&plain, 0.7, 0.7, {}}).at(0.3), Json(0.7));
        QCOMPARE((DrawnFrom{&plain, 0, 1, {}}).at(1.0 / 3), Json(0.3333));
        plain.step = 0.25;
        QCOMPARE((DrawnFrom{&plain, 0.1, 2, {}}).at(0.5), Json(1.1));
        const DrawnFrom words{&whole, 0, 0, {"a", "b"}};
        QVERIFY(words.at(0) == Json("a") && words.at(0.5) == Json("b") && words.at(std::nextafter(1.0, 0.0)) == Json("b"));
    }

    void factsAreFilteredAndOrdered() {
        VaryRow row;
        row.number = 3, row.faces = 1200, row.closed = true, row.ok = true, row.size = {1, 2, 3}, row.volume = 0.5;
        row.values = {{"long", 1.5}, {"kind", "oak"}, {"open", true}, {"volume", 7}};
        const auto meets = [&](const char* condition) {
            const auto result = rowMeets(condition, row);
            if (!result) qFatal("%s", result.error().text.c_str());
            return *result;
        };
        QVERIFY(meets("faces < 2000") && !meets("faces > 2000"));
        QVERIFY(meets("size_y > size_x") && !meets("size_z < size_y"));
        QVERIFY(meets("long > 1.4 && ctl.long < 1.6") && meets("closed") && meets("open > 0") && meets("n == 3"));
        QVERIFY(meets("volume > 6"));  // the control of that name
        QCOMPARE(codeOf(rowMeets("vec3(1, 2, 3)", row)), std::string("control.condition"));
        QVERIFY(!rowMeets("colour > 1", row));
        QVERIFY(!rowMeets("faces <", row));
        for (const auto& [word, value] : factsOf(row)) QCOMPARE(factOf(row, word), std::optional(value));
        QVERIFY(!factOf(row, "colour") && !factOf(row, "kind") && factOf(row, "volume") == 7.0);
        VaryRow small = row, large = row;
        small.faces = 10, large.faces = 5000;
        const std::vector<const VaryRow*> rows{&row, nullptr, &large, &small, &row};
        QCOMPARE(orderedBy("faces", false, rows), (std::vector<std::size_t>{3, 0, 4, 2, 1}));
        QCOMPARE(orderedBy("faces", true, rows), (std::vector<std::size_t>{2, 0, 4, 3, 1}));
        QCOMPARE(orderedBy("colour", true, rows), (std::vector<std::size_t>{0, 1, 2, 3, 4}));
    }

    void whatIsSeenComesFirst() {
        VaryQueue queue;
        QVERIFY(!queue.take());
        std::vector<std::size_t> all(20);
        std::iota(all.begin(), all.end(), std::size_t(0));
        queue.fill(all);
        QCOMPARE(*queue.take(), std::size_t(0));
        queue.look({11, 10, 12});
        std::vector<std::size_t> order;
        for (int i = 0; i < 7; ++i) order.push_back(*queue.take());
        QCOMPARE(order, (std::vector<std::size_t>{11, 10, 12, 13, 9, 14, 8}));
        queue.look({19});
        QCOMPARE(*queue.take(), std::size_t(19));
        QCOMPARE(*queue.take(), std::size_t(18));
        queue.fill({4});
        QCOMPARE(*queue.take(), std::size_t(4));
        QVERIFY(!queue.take());
    }

    void theSameIsFoundAgain() {
        const QTemporaryDir place;
        const VaryCache cache(place.path().toStdString());
        const FitSubject subject = subjectOf(beam());
        std::atomic<bool> stop = false;
        VaryBuilds builds(subject, std::size_t(64) << 20, &stop);
        VaryRow row;
        row.variation.given = {{"long", 1.5}};
        const Digest key = builds.keyOf(row.variation);
        QVERIFY(!cache.find(key, 30, 18));
        Picture picture;
        QVERIFY(builds.build(row, [&](const Geometry& model) { picture = variationPicture(model, 40, 30, 30, 18, &stop); }));
        QVERIFY(row.ok && row.closed && row.faces == 6 && std::abs(row.volume - 1.5 * 0.1 * 0.2) < 1e-6 && std::abs(row.size[0] - 1.5) < 1e-6);
        QVERIFY(picture.width == 40 && picture.height == 30);
        QVERIFY(!cache.keep(row, key, picture, 30, 18));
        const auto found = cache.find(key, 30, 18);
        QVERIFY(found && found->digest == row.digest && std::filesystem::exists(found->picture));
        // From another side there is no picture yet, but all else is known; −330° is 30°.
        QVERIFY(cache.find(key, 90, 18)->picture.empty() && cache.find(key, 30, -18)->picture.empty());
        QCOMPARE(cache.find(key, -330, 18)->picture, found->picture);
        QVERIFY(!cache.find(builds.keyOf({{}, {{"long", 1.6}}}), 30, 18));
    }

    void theKeyIsOfTheModelOnly() {
        const Loom loom = beam();
        std::atomic<bool> stop = false;
        const Variation one{{}, {{"long", 1.5}}}, preset{"Short", {}};
        const auto keyOf = [&](const Loom& of, const Variation& variation) { return VaryBuilds(subjectOf(of), 1 << 20, &stop).keyOf(variation); };
        Loom moved = loom;
        moved.nodes[0].cell = {5, 5};
        moved.values = {{"wide", 0.3}};
        moved.notes.push_back({"n", {1, 1}});
        QCOMPARE(keyOf(moved, one), keyOf(loom, one));
        Loom other = loom;
        other.presets[0].values["long"] = 0.7;
        QCOMPARE(keyOf(other, one), keyOf(loom, one));
        QVERIFY(!(keyOf(other, preset) == keyOf(loom, preset)));
        Loom changed = loom;
        changed.nodes[0].settings["anchor"] = "bottom";
        QVERIFY(!(keyOf(changed, one) == keyOf(loom, one)));
        QVERIFY(!(keyOf(loom, {{}, {{"long", 1.6}}}) == keyOf(loom, one)));
    }

    void whatFailsIsARowAsWell() {
        std::atomic<bool> stop = false;
        VaryBuilds builds(subjectOf(beam()), 1 << 20, &stop);
        bool used = false;
        VaryRow row;
        row.variation.given = {{"long", 0.6}, {"wide", 0.5}};
        QVERIFY(builds.build(row, [&](const Geometry&) { used = true; }));
        QVERIFY(!row.ok && !used && row.problem.find("must hold") != std::string::npos);
        QVERIFY(row.values.at("wide") == Json(0.5) && row.values.at("kind") == Json("oak"));
        VaryRow open;
        open.variation.given = {{"open", true}};
        QVERIFY(builds.build(open, [&](const Geometry&) { used = true; }));
        QVERIFY(open.ok && used && !open.closed && open.volume == 0 && open.faces == 5);
        stop = true;
        VaryRow late;
        late.variation.given = {{"long", 1.7}};
        QVERIFY(!builds.build(late, [](const Geometry&) {}));
    }

    void theCacheStaysWithinItsSize() {
        const QTemporaryDir place;
        const VaryCache cache(place.path().toStdString());
        Picture picture{2, 2, std::vector<Colour>(4)};
        std::vector<Digest> keys;
        for (int i = 0; i < 20; ++i) {
            Digester digester;
            digester.add(std::to_string(i));
            keys.push_back(digester.finish());
            VaryRow row;
            QVERIFY(!cache.keep(row, keys.back(), picture, 30, 18));
            VaryRow again;
            QVERIFY(!cache.keep(again, keys.back(), picture, 60, 18));
        }
        QCOMPARE(cache.prune(20), std::size_t(0));
        QTest::qWait(30);
        QVERIFY(cache.find(keys[0], 30, 18));  // used again, so it stays
        QCOMPARE(cache.prune(10), std::size_t(11));
        std::size_t left = 0, pictures = 0;
        for (const Digest& key : keys) left += std::size_t(cache.find(key, 30, 18).has_value());
        for (const auto& entry : std::filesystem::recursive_directory_iterator(place.path().toStdString()))
            pictures += std::size_t(entry.path().extension() == ".png");
        QCOMPARE(left, std::size_t(9));
        QCOMPARE(pictures, std::size_t(18));
        QVERIFY(cache.find(keys[0], 30, 18));
    }
};

QTEST_APPLESS_MAIN(TestVaryPlans)
#include "test_varyplans.moc"

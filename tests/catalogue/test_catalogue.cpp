// Every operator of the catalogue: sound declarations, and no input or setting that breaks it.
#include "geometry/Digest.h"
#include "parallel/Loops.h"
#include "support/Run.h"

#include <tbb/task_arena.h>

#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Inputs that people meet in practice and those that nobody should.
std::vector<std::pair<std::string, Geometry>> zoo() {
    std::vector<std::pair<std::string, Geometry>> out;
    const float nan = std::numeric_limits<float>::quiet_NaN(), infinite = std::numeric_limits<float>::infinity();
    out.push_back({"empty", Geometry()});
    out.push_back({"one point", Geometry({{1, 2, 3}})});
    out.push_back({"one point at infinity", Geometry({{infinite, 0, nan}})});
    out.push_back({"open line", made("line", {{"points", 9}})});
    out.push_back({"closed curve", made("polygon")});
    out.push_back({"curve of one point", Geometry({{0, 0, 0}}, Topology(1, {0}, {}, {0, 1}, {0}, {0}))});
    out.push_back({"curve of no points", Geometry({{0, 0, 0}}, Topology(1, {0}, {}, {0, 0}, {}, {1}))});
    out.push_back({"curve on one spot", Geometry(std::vector<Vec3>(4), Topology(4, {0}, {}, {0, 4}, {0, 1, 2, 3}, {1}))});
    out.push_back({"open sheet", made("grid", {{"cells", {3, 4}}})});
    out.push_back({"solid", made("box", {{"cells", {2, 2, 2}}})});
    out.push_back({"ball", made("sphere", {{"sides", 8}, {"rings", 5}})});
    const Geometry fin({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0, -1, 0}}, Topology(5, {0, 3, 6, 9}, {0, 1, 2, 0, 1, 3, 0, 1, 4}, {0}, {}, {}));
    out.push_back({"three faces at an edge", fin});
    out.push_back({"face without corners", Geometry({{0, 0, 0}, {1, 0, 0}}, Topology(2, {0, 0, 2, 3}, {0, 1, 1}, {0}, {}, {}))});
    out.push_back({"face of one point", Geometry({{0, 0, 0}}, Topology(1, {0, 4}, {0, 0, 0, 0}, {0}, {}, {}))});
    Geometry broken = made("box");
    auto places = broken.positions();
    places[0] = {nan, nan, nan}, places[5].y = infinite;
    broken.setPositions(places);
    out.push_back({"not a number", broken});
    out.push_back({"huge", made("transform", {{"scale", 1e6}}, {made("transform", {{"scale", 1e30}}, {made("box")})})});
    out.push_back({"tiny", made("transform", {{"scale", 1e-30}}, {made("box")})});
    out.push_back({"doubled", made("merge", Json::object(), {made("box"), made("box")})});
    std::vector<std::uint8_t> one(6, 0);
    one[0] = 1;
    out.push_back({"winding mixed", made("flip", {{"where", {{"formula", "index < 3"}}}}, {made("box")})});
    auto copies = std::make_shared<Copies>();
    copies->shapes.push_back(std::make_shared<const Geometry>(made("box")));
    copies->shapeOf = {0, 0};
    copies->place.resize(2);
    Geometry placed;
    placed.setCopies(copies);
    out.push_back({"copies", placed});
    Geometry mixed = made("merge", Json::object(), {made("box"), made("line"), placed, Geometry({{9, 9, 9}})});
    mixed.setColumn(Element::model, "name", Column(std::vector<std::string>{"quay"}));
    mixed.setColumn(Element::point, "text", Column(std::vector<std::string>(mixed.pointCount(), "x")));
    mixed.setColumn(Element::point, "along", Column(std::vector<float>(mixed.pointCount(), nan)));
    out.push_back({"everything at once", mixed});
    return out;
}

/// A setting's value: usual, at its limits, from any source, of the wrong type, or absurd.
Json randomValue(const SettingSpec& spec, std::mt19937& random) {
    const auto pick = [&](std::initializer_list<Json> of) { return *(of.begin() + std::ptrdiff_t(random() % of.size())); };
    switch (random() % 8) {
        case 0: return spec.fallback;
        case 1: return pick({0, -1, 1, 3, 0.001, 1e9, -1e9, 1e300, 7.5});
        case 2:
            return pick({{{"formula", "index * 0.1"}},
                         {{"formula", "1 / 0"}},
                         {{"formula", "position"}},
                         {{"formula", "sqrt(-1)"}},
                         {{"formula", "(("}},
                         {{"formula", "noise(position)"}}});
        case 3:
            return pick({{{"attribute", "along"}}, {{"attribute", "position"}}, {{"attribute", "nothing"}}, {{"attribute", "text"}}, {{"control", "none"}}});
        case 4:
            return pick(
                {{{"ramp", {{"over", "along"}, {"knots", {{0, 0}, {1, 1}}}}}}, {{"ramp", {{"over", "position.y"}, {"knots", {{0, 5, "step"}, {1, -5}}}}}}});
        case 5: return pick({{{"noise", {{"size", 0}}}}, {{"random", {{"range", {-1, 2}}}}}, {{"noise", {{"kind", "cells"}, {"octaves", 3}}}}});
        case 6: return pick({nullptr, "words", true, Json::array(), {1, 2}, {1, 2, 3}, Json::object(), {{1, 2, 3}, {4, 5, 6}, {0, 0, 0}}});
        default:
            if (!spec.choices.empty()) return spec.choices[random() % spec.choices.size()];
            if (spec.low) return *spec.low + (*spec.high - *spec.low) * double(random() % 1000) / 1000;
            return spec.fallback;
    }
}

const char* structureOf(const Geometry& g) {
    if (const char* wrong = g.topology().problem(); *wrong) return wrong;
    for (Element element : kAllElements)
        for (const auto& [name, column] : g.table(element))
            if (column.size() != g.count(element)) return "a column's length is not its element's count";
    if (const Copies* copies = g.copies())
        for (Index shape : copies->shapeOf)
            if (shape >= copies->shapes.size()) return "a copy shows a shape that does not exist";
    return "";
}

OperatorOutcome runOn(const OperatorSpec& spec, const OperatorInput& input, int threads) {
    OperatorOutcome out;
    tbb::task_arena(threads).execute([&] { out = runOperator(spec, input, RunContext(nullptr, {200000})); });
    return out;
}

/// Defaults, and at each port something that the operator works on.
OperatorInput plainInput(const OperatorSpec& spec) {
    std::vector<Geometry> in;
    if (!spec.inputs.empty())
        in.push_back(spec.id == "fill_curve"       ? made("polygon")
                     : spec.takes == Takes::curves ? made("point_list", {{"points", {{1, 0, 0}, {1, 1, 0}}}})
                                                   : made("box"));
    if (spec.family == Family::attribute)
        in = {made("set_attribute", Json::object(), {made("set_attribute", {{"name", "along"}, {"value", {{"formula", "position.y"}}}}, {made("box")})})};
    OperatorInput input = inputFor(spec, Json::object(), in);
    for (std::size_t p = 1; p < input.ports.size(); ++p)
        input.ports[p] = spec.inputs[p].id.starts_with("curve") ? std::vector{made("line")}
                       : spec.inputs[p].id == "beads"           ? std::vector{made("box", {{"size", {0.1, 0.1, 0.1}}})}
                       : spec.inputs[p].id == "target"          ? std::vector{made("uv_project", Json::object(), {made("box")})}
                                                                : in;
    return input;
}

}  // namespace

class TestCatalogue : public QObject {
    Q_OBJECT

private:
    /// Every error offers a change; where it sets a setting, that error does not come again.
    void offersWhatHelps(const OperatorSpec& spec, const OperatorInput& input, Json settings, const Notice& notice, const std::string& at) {
        QVERIFY2(!notice.fixes.empty(), (at + ": " + notice.text).c_str());
        for (const NoticeFix& fix : notice.fixes) {
            QVERIFY2(fix.label.size() > 4, at.c_str());
            if (fix.kind == NoticeFix::Kind::insert || fix.kind == NoticeFix::Kind::add) QVERIFY2(findOperator(fix.op), fix.op.c_str());
            if (!fix.port.empty()) QVERIFY2(spec.input(fix.port), at.c_str());
            // A limit may be passed by the input itself.
            if (fix.kind != NoticeFix::Kind::set || notice.code.starts_with("limit.")) continue;
            QVERIFY2(spec.setting(fix.setting), at.c_str());
            if (fix.value.is_null()) settings.erase(fix.setting);
            else settings[fix.setting] = fix.value;
            OperatorInput mended = inputFor(spec, settings, {});
            mended.ports = input.ports;
            const OperatorOutcome out = runOn(spec, mended, 8);
            QVERIFY2(!out.failed || out.notices.back().text != notice.text, (at + ": " + notice.text + " " + fix.label).c_str());
        }
    }

private Q_SLOTS:
    void idsAreUniqueAndTextsThere() {
        std::set<std::string> ids, labels;
        for (const OperatorSpec& spec : catalogue()) {
            QVERIFY2(ids.insert(spec.id).second, spec.id.c_str());
            QVERIFY2(labels.insert(spec.label).second, spec.label.c_str());
            QVERIFY2(spec.sentence.size() > 20 && spec.sentence.back() == '.', spec.id.c_str());
            QVERIFY2(spec.help.size() > 20 && spec.help.back() == '.', spec.id.c_str());
            QVERIFY2(!spec.synonyms.empty(), spec.id.c_str());
            QVERIFY(spec.compute || (spec.start && spec.advance));
            QVERIFY(!spec.outputs.empty());
            QCOMPARE(findOperator(spec.id), &spec);
        }
        QVERIFY(!findOperator("nonsense"));
    }

    void settingsHaveDefaultsInRange() {
        for (const OperatorSpec& spec : catalogue()) {
            std::set<std::string> ids;
            for (const SettingSpec& s : spec.settings) {
                const std::string at = spec.id + "." + s.id;
                QVERIFY2(ids.insert(s.id).second, at.c_str());
                QVERIFY2(s.help.size() > 10 && s.help.back() == '.', at.c_str());
                QVERIFY2(bool(sourceFromJson(s.fallback)), at.c_str());
                if (s.fallback.is_number()) {
                    const double v = s.fallback.get<double>();
                    QVERIFY2((!s.min || v >= *s.min) && (!s.max || v <= *s.max), at.c_str());
                    QVERIFY2(!s.low || (v >= *s.low && v <= *s.high), at.c_str());
                }
                if (s.low) QVERIFY2((!s.min || *s.low >= *s.min) && (!s.max || *s.high <= *s.max), at.c_str());
                if (s.type == SettingType::choice)
                    QVERIFY2(std::find(s.choices.begin(), s.choices.end(), s.fallback.get<std::string>()) != s.choices.end(), at.c_str());
                if (!s.shownWhenSetting.empty()) QVERIFY2(spec.setting(s.shownWhenSetting), at.c_str());
            }
        }
    }

    void defaultsWorkOnAPlainInput() {
        for (const OperatorSpec& spec : catalogue()) {
            const OperatorOutcome out = runOperator(spec, plainInput(spec), RunContext());
            // There is no file by default; tests/imports, tests/drawings and tests/assets read some.
            if (std::any_of(spec.settings.begin(), spec.settings.end(), [](const SettingSpec& s) { return s.type == SettingType::file && s.id != "sample"; }))
                continue;
            QVERIFY2(!out.failed, spec.id.c_str());
            // They give nothing outside of a container, before anything is drawn, and where nothing moves.
            if (spec.id != "inner_input" && spec.id != "drawn_curve" && spec.id != "track") QVERIFY2(!out.geometry.empty(), spec.id.c_str());
        }
    }

    /// Where a count or a density is 0, what comes behind it has nothing to do, and says no more than that.
    void nothingInNothingOut() {
        for (const OperatorSpec& spec : catalogue()) {
            if (spec.inputs.empty() || spec.inputs.front().optional) continue;
            OperatorInput input = plainInput(spec);
            input.ports[0] = {Geometry()};
            const OperatorOutcome out = runOperator(spec, input, RunContext());
            const std::string at = spec.id + (out.notices.empty() ? "" : ": " + out.notices.back().text);
            QVERIFY2(!out.failed, at.c_str());
            for (const Notice& notice : out.notices) QVERIFY2(notice.level == NoticeLevel::info, at.c_str());
            // United with nothing, the others are what is left.
            if (spec.id != "boolean") QVERIFY2(out.geometry.empty(), at.c_str());
        }
    }

    /// Nothing crashes, results hold together, failures say why and pass the input on, and 8 threads give the bits of one.
    void hostileInputsAndSettings() {
        const SmallChunks split(64);  // the zoo is small: as if it were large
        const auto animals = zoo();
        const unsigned seed = 4711;
        std::mt19937 random(seed);
        for (const OperatorSpec& spec : catalogue()) {
            for (const auto& [name, geometry] : animals) {
                if (spec.inputs.empty() && name != "empty") continue;
                for (int run = 0; run < (spec.inputs.empty() ? 120 : 14); ++run) {
                    Json settings = Json::object();
                    for (const SettingSpec& s : spec.settings)
                        if (run > 0 && random() % 2) settings[s.id] = randomValue(s, random);
                    if (!spec.frameSetting.empty()) settings[spec.frameSetting] = int(random() % 6);  // many frames tell no more
                    const std::string at = spec.id + " on " + name + " with " + settings.dump() + ", seed " + std::to_string(seed);
                    OperatorInput input = inputFor(spec, settings, {geometry});
                    for (std::size_t p = 1; p < input.ports.size(); ++p)
                        if (!spec.inputs[p].optional || random() % 2) input.ports[p] = {animals[random() % animals.size()].second};
                    const OperatorOutcome one = runOn(spec, input, 1), many = runOn(spec, input, 8);
                    QVERIFY2(!*structureOf(one.geometry), at.c_str());
                    QVERIFY2(digestOf(one.geometry) == digestOf(many.geometry), at.c_str());
                    QCOMPARE(one.failed, many.failed);
                    if (one.failed) {
                        QVERIFY2(one.notices.back().level == NoticeLevel::error && one.notices.back().text.size() > 15, at.c_str());
                        QVERIFY2(one.notices.back().code != "operator.internal", (at + ": " + one.notices.back().text).c_str());
                        if (!spec.inputs.empty()) QVERIFY2(digestOf(one.geometry) == digestOf(geometry), at.c_str());
                        offersWhatHelps(spec, input, settings, one.notices.back(), at);
                        if (QTest::currentTestFailed()) return;
                    }
                }
            }
        }
    }

    void hugeNumbersAreErrorsNotDeadMachines_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        const std::pair<const char*, const char*> rows[] = {{"grid", R"({"cells":[1e9,1e9]})"},
                                                            {"box", R"({"cells":[1e6,1e6,1e6]})"},
                                                            {"sphere", R"({"sides":1000000,"rings":1000000})"},
                                                            {"line", R"({"points":2000000000})"},
                                                            {"polygon", R"({"sides":1e9})"},
                                                            {"resample", R"({"count":1000000000})"},
                                                            {"resample", R"({"mode":"spacing","spacing":0.000001})"},
                                                            {"revolve", R"({"sides":1900000000})"},
                                                            {"cut_curve", R"({"mode":"length","length":0.000001})"},
                                                            {"geodesic_sphere", R"({"frequency":100000})"},
                                                            {"torus", R"({"sides":1000000,"tube_sides":1000000})"},
                                                            {"spiral", R"({"turns":1000000,"points_per_turn":1000000})"},
                                                            {"sweep", R"({"form":"tube","columns":100000000})"},
                                                            {"scatter", R"({"in":"along curves","count":2000000000})"},
                                                            {"scatter", R"({"in":"along curves","mode":"density","density":1e12})"},
                                                            {"scatter", R"({"in":"along curves","mode":"spacing","spacing":0.000001})"}};
        for (const auto& [op, settings] : rows) QTest::newRow((std::string(op) + settings).c_str()) << op << settings;
    }
    void hugeNumbersAreErrorsNotDeadMachines() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        const Geometry profile = made("transform", {{"scale", 1000}}, {made("point_list", {{"points", {{1, 0, 0}, {1, 1, 0}}}})});
        const OperatorOutcome out = runOp(qPrintable(op), Json::parse(settings.toStdString()), {profile});
        QVERIFY(out.failed);
        QVERIFY2(lastCode(out) == "limit.elements" || lastCode(out) == "setting.range", lastCode(out).c_str());
    }

    void cancellingGivesNoPartialResult() {
        const std::atomic<bool> stop{true};
        for (const char* op : {"noise_displace", "subdivide", "smooth_curve", "resample", "thicken"}) {
            const OperatorSpec* spec = findOperator(op);
            const bool curve = spec->family == Family::curve;
            const OperatorInput input = inputFor(*spec, Json::object(), {curve ? made("line") : made("box")});
            QVERIFY_EXCEPTION_THROWN(runOperator(*spec, input, RunContext(&stop)), Cancelled);
        }
    }
};

QTEST_APPLESS_MAIN(TestCatalogue)
#include "test_catalogue.moc"

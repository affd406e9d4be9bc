#include "fields/Evaluate.h"
#include "fields/Formula.h"
#include "fields/Random.h"

#include <tbb/task_arena.h>
#include <QtTest/QtTest>

#include <random>

using namespace seedloom;

namespace {

Geometry pointsAlongX(std::size_t n) {
    std::vector<Vec3> p(n);
    std::vector<float> along(n);
    for (std::size_t i = 0; i < n; ++i) along[i] = float(i) / float(n - 1), p[i] = {along[i] * 2, 0, 0};
    Geometry g(std::move(p));
    g.setColumn(Element::point, "along", Column(along));
    return g;
}

double value(const std::string& text, const ControlValues& controls = {}) {
    FieldContext context;
    context.controls = &controls;
    context.time = 2;
    context.frame = 48;
    const Numbers n = evaluate(FormulaSource{text}, context);
    return n.components == 1 ? n.value[0] : std::nan("");
}

std::string errorOf(const std::string& text, const Geometry* geometry = nullptr) {
    FieldContext context;
    context.geometry = geometry;
    context.perElement = geometry != nullptr;
    try {
        evaluate(FormulaSource{text}, context);
    } catch (const FieldError& error) {
        return error.code() + ": " + error.what();
    }
    return {};
}

FieldContext on(const Geometry& g) {
    FieldContext context;
    context.geometry = &g;
    context.perElement = true;
    return context;
}

}  // namespace

class TestFields : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void formulaArithmetic_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<double>("expected");
        const std::pair<const char*, double> rows[] = {{"1 + 2 * 3", 7},
                                                       {"(1 + 2) * 3", 9},
                                                       {"1/2", 0.5},
                                                       {"-2 * -3", 6},
                                                       {"7 % 3", 1},
                                                       {"2 < 3", 1},
                                                       {"2 >= 3", 0},
                                                       {"1 == 1 && 2 != 3", 1},
                                                       {"true ? 4 : 5", 4},
                                                       {"false ? 4 : 1 > 2 ? 6 : 7", 7},
                                                       {"!true", 0},
                                                       {"true ^^ true", 0},
                                                       {"clamp(5, 0, 2)", 2},
                                                       {"mix(2, 4, 0.25)", 2.5},
                                                       {"smoothstep(0, 1, 0.5)", 0.5},
                                                       {"step(0.5, 0.6)", 1},
                                                       {"fract(2.25)", 0.25},
                                                       {"mod(-1, 3)", 2},
                                                       {"sign(-3)", -1},
                                                       {"max(min(3, 2), 1)", 2},
                                                       {"length(vec3(2, 3, 6))", 7},
                                                       {"dot(vec2(1, 2), vec2(3, 4))", 11},
                                                       {"cross(vec3(1, 0, 0), vec3(0, 1, 0)).z", 1},
                                                       {"normalize(vec3(0, 0, 5)).z", 1},
                                                       {"distance(vec2(0, 0), vec2(3, 4))", 5},
                                                       {"vec3(1, 2, 3).zyx.x", 3},
                                                       {"vec3(7).y", 7},
                                                       {"vec4(vec2(1, 2), 3, 4).w", 4},
                                                       {"pow(2, 10)", 1024},
                                                       {"sqrt(16) + abs(-2)", 6},
                                                       {"radians(180)", 3.14159265358979},
                                                       {"degrees(atan(1, 1))", 45},
                                                       {"floor(2.7) + ceil(2.2)", 5},
                                                       {"time + frame", 50},
                                                       {".5e1", 5},
                                                       {"reflect(vec2(1, -1), vec2(0, 1)).y", 1},
                                                       {"vec2(1, 2) == vec2(1, 2)", 1},
                                                       {"normalize(vec3(0)).x", 0},
                                                       {"round(2.5)", 3},
                                                       {"exp2(3)", 8}};
        for (const auto& [text, expected] : rows) QTest::newRow(text) << QString::fromLatin1(text) << expected;
    }
    void formulaArithmetic() {
        QFETCH(QString, text);
        QFETCH(double, expected);
        QVERIFY2(std::abs(value(text.toStdString()) - expected) < 1e-12, text.toUtf8());
    }

    void formulaReadsControls() {
        QCOMPARE(value("ctl.height * 2", {{"height", 0.9}}), 1.8);
        QCOMPARE(value("ctl.place.y", {{"place", {1, 5, 3}}}), 5.0);
        QCOMPARE(value("ctl.on ? 1 : 2", {{"on", false}}), 2.0);
    }

    void formulaErrorsNameThePlace_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("part");
        const std::pair<const char*, const char*> rows[] = {{"1 +", "formula.syntax: Formula, line 1, column 4"},
                                                            {"(1", "')' is missing"},
                                                            {"1 +\n 2 )", "line 2, column 4"},
                                                            {"foo", "formula.unknown_name"},
                                                            {"sinn(1)", "Did you mean sign, sin"},
                                                            {"vec3(1, 2)", "needs 3 numbers"},
                                                            {"vec2(1, 2).z", "asks for a component"},
                                                            {"vec2(1, 2) + vec3(1)", "can't join 2 components with 3"},
                                                            {"mix(1, 2)", "takes 3 values, not 2"},
                                                            {"", "is empty"},
                                                            {"ctl.", "name of a control"},
                                                            {"ctl.nope", "no control 'nope'"},
                                                            {"a $ b", "has no meaning"},
                                                            {"1 2", "was not expected"}};
        for (const auto& [text, part] : rows) QTest::newRow(text[0] ? text : "empty") << QString::fromLatin1(text) << QString::fromLatin1(part);
    }
    void formulaErrorsNameThePlace() {
        QFETCH(QString, text);
        QFETCH(QString, part);
        const QString found = QString::fromStdString(errorOf(text.toStdString()));
        QVERIFY2(found.contains(part), qPrintable(found));
    }

    void misspeltAttributesSuggestTheNearest() {
        const Geometry g = pointsAlongX(5);
        QVERIFY(errorOf("alnog * 2", &g).find("along") != std::string::npos);
    }

    void deepAndLongFormulasAreErrorsNotCrashes() {
        QVERIFY(!errorOf(std::string(5000, '(') + "1" + std::string(5000, ')')).empty());
        std::string chain = "1";
        for (int i = 0; i < 20000; ++i) chain += "+1";
        QVERIFY(!errorOf(chain).empty());
        QVERIFY(!errorOf(std::string(100000, '-') + "1").empty());
        std::string sum = "1";
        for (int i = 0; i < 199; ++i) sum += "+1";
        QCOMPARE(value(sum), 200.0);
    }

    /// Random texts from the language's own pieces: each gives a value or an error, never anything else.
    void formulaFuzz() {
        const char* pieces[] = {"1", ".5", "along", "position", "(",   ")",    "+",     "-",      "*",   "/", "<",     "==", "?",    ":",
                                ",", ".x", ".yzw",  "sin",      "mix", "vec3", "noise", "random", "ctl", ".", "index", "\n", "\xff", "1e999"};
        std::mt19937 random(20261123);
        const Geometry g = pointsAlongX(300);
        for (int i = 0; i < 4000; ++i) {
            std::string text;
            for (unsigned k = 0, n = random() % 14; k < n; ++k) text += pieces[random() % std::size(pieces)];
            try {
                const Numbers n = evaluate(FormulaSource{text}, on(g));
                QVERIFY(n.components >= 1 && n.components <= 4);
                if (!n.uniform) QCOMPARE(n.columns[0].size(), 300u);
            } catch (const FieldError& error) {
                QVERIFY(std::string(error.what()).size() > 10);
            }
        }
    }

    void formulasRunPerElementOnAnyThreads() {
        const Geometry g = pointsAlongX(50000);
        Numbers one, many;
        tbb::task_arena(1).execute([&] { one = evaluate(FormulaSource{"sin(position.x * 9) + noise(position * 3) * along"}, on(g)); });
        tbb::task_arena(8).execute([&] { many = evaluate(FormulaSource{"sin(position.x * 9) + noise(position * 3) * along"}, on(g)); });
        QVERIFY(!one.uniform);
        QVERIFY(one.columns[0] == many.columns[0]);
        const Numbers plain = evaluate(FormulaSource{"position.x * 3 + index"}, on(g));
        for (std::size_t i : {std::size_t(0), std::size_t(257), std::size_t(49999)}) QCOMPARE(plain.columns[0][i], g.positions()[i].x * 3 + float(i));
        QCOMPARE(evaluate(FormulaSource{"count"}, on(g)).value[0], 50000.0);
    }

    void rampShapes() {
        const Ramp straight({{0, 0}, {1, 10}});
        QCOMPARE(straight.at(0.3), 3.0);
        QCOMPARE(straight.at(-5), 0.0);
        QCOMPARE(straight.at(5), 10.0);
        const Ramp step({{0, 1, RampShape::step}, {0.5, 4}, {1, 4}});
        QCOMPARE(step.at(0.49), 1.0);
        QCOMPARE(step.at(0.5), 4.0);
        const Ramp smooth({{0, 0, RampShape::smooth}, {1, 1}});
        QCOMPARE(smooth.at(0.5), 0.5);
        QVERIFY(smooth.at(0.1) < 0.1);
        QCOMPARE(Ramp().at(0.5), 0.0);
        // Knots come in any order; equal places make a jump.
        QCOMPARE(Ramp({{1, 10}, {0, 0}}).at(0.5), 5.0);
        QCOMPARE(Ramp({{0, 0}, {0.5, 0}, {0.5, 1}, {1, 1}}).at(0.5000001), 1.0);
    }

    void smoothRampsNeverOvershoot() {
        std::mt19937 random(5);
        for (int run = 0; run < 200; ++run) {
            std::vector<RampKnot> knots;
            for (int k = 0; k < 6; ++k) knots.push_back({k / 5.0, double(random() % 100), RampShape::smooth});
            const Ramp ramp(knots);
            for (int i = 0; i <= 500; ++i) {
                const double x = i / 500.0;
                const auto k = std::min(std::size_t(x * 5), std::size_t(4));
                const double low = std::min(knots[k].y, knots[k + 1].y), high = std::max(knots[k].y, knots[k + 1].y);
                QVERIFY(ramp.at(x) >= low - 1e-9 && ramp.at(x) <= high + 1e-9);
            }
        }
    }

    void noiseStaysInRangeAndVaries_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("gradient") << 0;
        QTest::newRow("cells") << 1;
        QTest::newRow("value") << 2;
    }
    void noiseStaysInRangeAndVaries() {
        QFETCH(int, kind);
        constexpr std::size_t n = 20000;
        std::vector<float> x(n), y(n), z(n), out(n), moved(n), other(n);
        std::mt19937 random(1);
        for (std::size_t i = 0; i < n; ++i)
            x[i] = float(random() % 10000) * 0.01f - 50, y[i] = float(random() % 10000) * 0.01f, z[i] = float(random() % 10000) * 0.01f;
        NoiseOptions options;
        options.kind = static_cast<NoiseKind>(kind);
        options.octaves = 3;
        noise(x, y, z, options, out);
        double mean = 0;
        for (float v : out) {
            QVERIFY(v >= -1 && v <= 1);
            mean += double(v) / n;
        }
        QVERIFY(std::abs(mean) < 0.35);
        QVERIFY(*std::max_element(out.begin(), out.end()) - *std::min_element(out.begin(), out.end()) > 0.8f);
        options.seed = 1;
        noise(x, y, z, options, other);
        QVERIFY(out != other);
        // The offset moves the pattern: looking a metre further with an offset of a metre shows the same.
        options.seed = 0;
        options.octaves = 1;
        noise(x, y, z, options, out);
        options.offset[0] = 1;
        for (float& v : x) v += 1;
        noise(x, y, z, options, moved);
        for (std::size_t i = 0; i < n; ++i) QVERIFY(std::abs(moved[i] - out[i]) < 2e-3f);
    }

    void noiseIsContinuousAndTakesAnything() {
        std::vector<float> x(1000), zero(1000, 0), out(1000);
        for (std::size_t i = 0; i < x.size(); ++i) x[i] = float(i) * 1e-3f;
        noise(x, zero, zero, {}, out);
        for (std::size_t i = 1; i < out.size(); ++i) QVERIFY(std::abs(out[i] - out[i - 1]) < 0.01f);
        const float huge[] = {1e30f, -1e30f, std::nanf(""), INFINITY};
        for (float h : huge) {
            float v = 9, none = 0;
            noise({&h, 1}, {&none, 1}, {&none, 1}, {}, {&v, 1});
            QVERIFY(v >= -1 && v <= 1);
        }
    }

    void randomIsSpreadAndStable() {
        double sum = 0;
        int low = 0;
        for (int i = 0; i < 10000; ++i) {
            const double r = randomOf(i, 3);
            QVERIFY(r >= 0 && r < 1);
            sum += r;
            low += r < 0.1;
        }
        QVERIFY(std::abs(sum / 10000 - 0.5) < 0.02);
        QVERIFY(low > 850 && low < 1150);
        QCOMPARE(randomOf(17, 3), randomOf(17, 3));
        QVERIFY(randomOf(17, 3) != randomOf(17, 4));
    }

    void sourcesRoundTripThroughJson_data() {
        QTest::addColumn<QString>("text");
        for (const char* text :
             {"0.5", "[1,2,3]", "true", "\"open curve\"", R"({"control":"height"})", R"({"formula":"ctl.x * 2"})",
              R"({"attribute":"mask","scale":2.0,"add":1.0})", R"({"ramp":{"over":"along","range":"auto","knots":[[0.0,0.0],[0.2,0.0,"smooth"],[1.0,0.05]]}})",
              R"({"ramp":{"over":"along","range":[0.0,2.0],"knots":[[0.0,0.0,"step"],[1.0,1.0]]}})",
              R"({"noise":{"size":0.3,"octaves":2,"roughness":0.5,"seed":7,"range":[0.0,1.0],"offset":[0.0,1.0,0.0],"kind":"cells"}})",
              R"({"random":{"range":[0.5,1.5],"seed":4.0,"by":"piece"}})"})
            QTest::newRow(text) << QString::fromLatin1(text);
    }
    void sourcesRoundTripThroughJson() {
        QFETCH(QString, text);
        const Json json = Json::parse(text.toStdString());
        const auto source = sourceFromJson(json);
        QVERIFY(bool(source));
        QCOMPARE(QString::fromStdString(sourceToJson(*source).dump()), text);
    }

    void badSourcesSayWhy_data() {
        QTest::addColumn<QString>("text");
        for (const char* text : {"{}", R"({"control":1})", R"({"control":"a","formula":"b"})", R"({"ramp":{"over":"x"}})", R"({"ramp":{"knots":[[0]]}})",
                                 R"({"ramp":{"knots":[[0,0,"wavy"]]}})", R"({"noise":{"size":"big"}})", R"({"noise":{"kind":"foam"}})",
                                 R"({"random":{"range":[1]}})", R"({"noise":5})", R"({"attribute":["a"]})"})
            QTest::newRow(text) << QString::fromLatin1(text);
    }
    void badSourcesSayWhy() {
        QFETCH(QString, text);
        const auto source = sourceFromJson(Json::parse(text.toStdString()));
        QVERIFY(!source);
        QCOMPARE(source.error().code, std::string("setting.source"));
    }

    void everySourceFillsEveryElement() {
        const Geometry g = pointsAlongX(1000);
        const ControlValues controls{{"width", 0.25}};
        FieldContext context = on(g);
        context.controls = &controls;
        const Field<float> control = evaluateFloat(ControlSource{"width"}, context);
        QVERIFY(control.uniform);
        QCOMPARE(control[999], 0.25f);
        const Field<float> attribute = evaluateFloat(AttributeSource{"along", 2, 1}, context);
        QCOMPARE(attribute[999], 3.0f);
        const Field<float> ramp = evaluateFloat(RampSource{"position.x", {}, Ramp({{0, 0}, {1, 5}})}, context);
        QCOMPARE(ramp[999], 5.0f);  // automatic: 0–2 becomes 0–1
        const Field<float> fixedRange = evaluateFloat(RampSource{"position.x", {std::array{0.0, 4.0}, 0}, Ramp({{0, 0}, {1, 5}})}, context);
        QCOMPARE(fixedRange[999], 2.5f);
        // Without a tenth at each end: 0.2–1.8 becomes 0–1, and what lies beyond stays at the ends.
        const Field<float> middle = evaluateFloat(RampSource{"position.x", {{}, 0.1}, Ramp({{0, 0}, {1, 5}})}, context);
        QVERIFY(std::abs(middle[500] - ramp[500]) < 0.01f && middle[250] < ramp[250] - 0.2f && middle[950] == 5.0f && middle[50] == 0.0f);
        const Field<float> random = evaluateFloat(RandomSource{2, 4, 9, ""}, context);
        for (std::size_t i = 0; i < 1000; ++i) QVERIFY(random[i] >= 2 && random[i] <= 4);
        const Field<float> noisy = evaluateFloat(NoiseSource{NoiseOptions{.size = 0.1}, 10, 20}, context);
        for (std::size_t i = 0; i < 1000; ++i) QVERIFY(noisy[i] >= 10 && noisy[i] <= 20);
        const Field<Vec3> filled = evaluateVec3(ControlSource{"width"}, context);
        QCOMPARE(filled[3], (Vec3{0.25f, 0.25f, 0.25f}));
        QVERIFY_EXCEPTION_THROWN(evaluateFloat(AttributeSource{"position"}, context), FieldError);
        QVERIFY_EXCEPTION_THROWN(evaluateFloat(ControlSource{"widht"}, context), FieldError);
    }

    /// Random values are tied to ids: taking half of the elements away does not reshuffle the rest.
    void randomFollowsIds() {
        Geometry all(std::vector<Vec3>(10)), half(std::vector<Vec3>(5));
        std::vector<std::int32_t> ids, even;
        for (int i = 0; i < 10; ++i) ids.push_back(i * 3);
        for (int i = 0; i < 10; i += 2) even.push_back(i * 3);
        all.setColumn(Element::point, "id", Column(ids));
        half.setColumn(Element::point, "id", Column(even));
        const auto a = evaluateFloat(RandomSource{}, on(all)), b = evaluateFloat(RandomSource{}, on(half));
        for (std::size_t i = 0; i < 5; ++i) QCOMPARE(b[i], a[i * 2]);
    }

    void rangesAreOfAllValuesOrOfTheMiddle() {
        QVERIFY(valueRange("auto")->exact());
        QCOMPARE(valueRange("auto 2 %"), std::optional(ValueRange{{}, 0.02}));
        QCOMPARE(valueRange(Json::array({-1, 2.5})), std::optional(ValueRange{std::array{-1.0, 2.5}, 0}));
        for (const char* wrong : {R"("auto2 %")", R"("auto 2%")", R"("auto  %")", R"("auto 50 %")", R"("auto -1 %")", R"("automatic")", R"("auto 2 % ")",
                                  R"(["a", 1])", "[1]", "[1, 2, 3]", "[1, 1e999]", "true", "3"})
            QVERIFY2(!valueRange(Json::parse(wrong, nullptr, false)), wrong);
        for (const char* written : {R"("auto")", R"("auto 2 %")", R"("auto 12.5 %")", "[0.0,4.0]"})
            QCOMPARE(rangeJson(*valueRange(Json::parse(written))), Json::parse(written));
        // One spike among a hundred; what is no number does not count.
        std::vector<float> values{1000, std::numeric_limits<float>::quiet_NaN(), -500};
        for (int i = 0; i < 98; ++i) values.push_back(float(i));
        std::shuffle(values.begin(), values.end(), std::mt19937(4));
        QCOMPARE((ValueRange{}.over(values)), (std::array<double, 2>{-500, 1000}));
        QCOMPARE((ValueRange{{}, 0.01}.over(values)), (std::array<double, 2>{0, 97}));
        QCOMPARE((ValueRange{{}, 0.49}.over(values)), (std::array<double, 2>{48, 49}));
        QCOMPARE((ValueRange{{}, 0.02}.over(std::vector<float>{3})), (std::array<double, 2>{3, 3}));
        for (double leftOut : {0.0, 0.02})
            QCOMPARE((ValueRange{{}, leftOut}.over(std::vector<float>{std::numeric_limits<float>::infinity()})), (std::array<double, 2>{0, 1}));
    }
};

QTEST_APPLESS_MAIN(TestFields)
#include "test_fields.moc"

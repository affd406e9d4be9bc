// The formula language as statements: against an evaluation of its own, its types, its errors, and the operator that runs it.
#include "fields/FormulaText.h"
#include "geometry/Digest.h"
#include "geometry/ElementTransfer.h"
#include "operators/NearWords.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <tbb/task_arena.h>

#include <random>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Points with a float a, a vec3 v, an int n, a bool b and a text word.
Geometry example(std::size_t count = 300) {
    std::mt19937 random(7);
    std::uniform_real_distribution<float> number(-2, 2);
    std::vector<Vec3> at(count), v(count);
    std::vector<float> a(count);
    std::vector<std::int32_t> n(count);
    std::vector<std::uint8_t> b(count);
    std::vector<std::string> word(count);
    for (std::size_t i = 0; i < count; ++i) {
        at[i] = {number(random), number(random), number(random)};
        v[i] = {number(random), number(random), number(random)};
        a[i] = number(random);
        n[i] = int(i % 7) - 3;
        b[i] = i % 3 == 0;
        word[i] = i % 2 ? "plank" : "post";
    }
    Geometry g(std::move(at));
    g.setColumn(Element::point, "a", Column(std::move(a)));
    g.setColumn(Element::point, "v", Column(std::move(v)));
    g.setColumn(Element::point, "n", Column(std::move(n)));
    g.setColumn(Element::point, "b", Column(std::move(b)));
    g.setColumn(Element::point, "word", Column(std::move(word)));
    return g;
}

Geometry run(const std::string& text, const Geometry& in, Json more = Json::object()) {
    more["text"] = text;
    return made("formula", more, {in});
}

std::string failure(const std::string& text, const Geometry& in = example(8), Json more = Json::object()) {
    more["text"] = text;
    const OperatorOutcome out = runOp("formula", more, {in});
    return out.failed ? out.notices.back().code + ": " + out.notices.back().text : std::string();
}

const std::vector<float>& floats(const Geometry& g, const char* name) { return *g.values<float>(Element::point, name); }

/// Writes random expressions, and works them out row by row in plain C++ at the same time.
class Guess {
public:
    Guess(const Geometry& g, unsigned seed) : g_(g), random_(seed) {}

    struct Made {
        std::string text;
        std::vector<double> value;
    };

    Made number(int depth) {
        if (depth == 0 || random_() % 6 == 0) return leaf();
        switch (random_() % 12) {
            case 0: return two("+", depth, [](double x, double y) { return x + y; });
            case 1: return two("-", depth, [](double x, double y) { return x - y; });
            case 2: return two("*", depth, [](double x, double y) { return x * y; });
            case 3: return call("min", depth, [](double x, double y) { return std::fmin(x, y); });
            case 4: return call("max", depth, [](double x, double y) { return std::fmax(x, y); });
            case 5: return one("sin", depth, [](double x) { return std::sin(x); });
            case 6: return one("abs", depth, [](double x) { return std::fabs(x); });
            case 7: return one("floor", depth, [](double x) { return std::floor(x); });
            case 8: return choice(depth);
            case 9: return mixed(depth);
            case 10: return one("atan", depth, [](double x) { return std::atan(x); });
            default: return swizzled(depth);
        }
    }

private:
    template <class F> Made rows(std::string text, F&& f) {
        Made out{std::move(text), std::vector<double>(g_.pointCount())};
        for (std::size_t i = 0; i < out.value.size(); ++i) out.value[i] = f(i);
        return out;
    }
    Made leaf() {
        const auto& a = floats(g_, "a");
        const auto& v = *g_.values<Vec3>(Element::point, "v");
        const auto& n = *g_.values<std::int32_t>(Element::point, "n");
        switch (random_() % 5) {
            case 0: return rows("a", [&](std::size_t i) { return double(a[i]); });
            case 1: return rows("v.y", [&](std::size_t i) { return double(v[i].y); });
            case 2: return rows("n", [&](std::size_t i) { return double(n[i]); });
            case 3: return rows("index", [&](std::size_t i) { return double(i); });
            default: {
                const double value = double(random_() % 40) / 8;
                return rows(std::to_string(value), [&](std::size_t) { return value; });
            }
        }
    }
    template <class F> Made one(const char* name, int depth, F&& f) {
        const Made x = number(depth - 1);
        return rows(std::string(name) + "(" + x.text + ")", [&](std::size_t i) { return f(x.value[i]); });
    }
    template <class F> Made two(const char* sign, int depth, F&& f) {
        const Made x = number(depth - 1), y = number(depth - 1);
        return rows("(" + x.text + " " + sign + " " + y.text + ")", [&](std::size_t i) { return f(x.value[i], y.value[i]); });
    }
    template <class F> Made call(const char* name, int depth, F&& f) {
        const Made x = number(depth - 1), y = number(depth - 1);
        return rows(std::string(name) + "(" + x.text + ", " + y.text + ")", [&](std::size_t i) { return f(x.value[i], y.value[i]); });
    }
    Made choice(int depth) {
        const auto& b = *g_.values<std::uint8_t>(Element::point, "b");
        const Made x = number(depth - 1), y = number(depth - 1);
        return rows("(b || index > 200 ? " + x.text + " : " + y.text + ")", [&](std::size_t i) { return b[i] || i > 200 ? x.value[i] : y.value[i]; });
    }
    Made mixed(int depth) {
        const Made x = number(depth - 1), y = number(depth - 1);
        return rows("mix(" + x.text + ", " + y.text + ", 0.25)", [&](std::size_t i) { return x.value[i] + (y.value[i] - x.value[i]) * 0.25; });
    }
    Made swizzled(int depth) {
        const auto& v = *g_.values<Vec3>(Element::point, "v");
        const Made x = number(depth - 1);
        return rows("dot(v.zyx * " + x.text + ", vec3(1, 2, 3))",
                    [&](std::size_t i) { return x.value[i] * (double(v[i].z) + 2 * double(v[i].y) + 3 * double(v[i].x)); });
    }

    const Geometry& g_;
    std::mt19937 random_;
};

}  // namespace

class TestFormula : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void randomExpressionsAgreeWithPlainCode() {
        const Geometry g = example();
        for (unsigned seed = 0; seed < 500; ++seed) {
            const Guess::Made expected = Guess(g, seed).number(4);
            const Geometry out = run("made = float(" + expected.text + ");", g);
            const auto& got = floats(out, "made");
            double scale = 1;
            for (double v : expected.value) scale = std::max(scale, std::abs(v));
            // floor and ? can fall to the other side by one rounding: such rows are few.
            int off = 0;
            for (std::size_t i = 0; i < got.size(); ++i) off += std::abs(double(got[i]) - expected.value[i]) > 2e-5 * scale;
            const bool jumps = expected.text.find("floor") != std::string::npos;
            QVERIFY2(off <= (jumps ? 6 : 0), expected.text.c_str());
        }
    }

    void statementsMakeAndChangeAttributes() {
        const Geometry g = example(10);
        const Geometry out = run(R"(// lifts what the mask says
            let up = vec3(0, 1, 0); /* a local */
            mask = clamp(a, 0.0, 1.0);
            position += up * mask;
            v.xz = vec2(7.0, index);
            v.y *= 2.0;)",
                                 g);
        const auto& v = *out.values<Vec3>(Element::point, "v");
        const auto& before = *g.values<Vec3>(Element::point, "v");
        for (std::size_t i = 0; i < 10; ++i) {
            const float mask = std::clamp(floats(g, "a")[i], 0.0f, 1.0f);
            QCOMPARE(floats(out, "mask")[i], mask);
            QCOMPARE(out.positions()[i].y, g.positions()[i].y + mask);
            QCOMPARE(out.positions()[i].x, g.positions()[i].x);
            QCOMPARE(v[i], (Vec3{7, before[i].y * 2, float(i)}));
        }
        QVERIFY(!out.column(Element::point, "up"));
        // What is not assigned is shared, not copied.
        QCOMPARE(out.column(Element::point, "a")->storage(), g.column(Element::point, "a")->storage());
    }

    void laterStatementsSeeEarlierOnes() {
        const Geometry out = run("x = 1; x += 2; let y = x * 2; x = y; y = y + 1; z = y;", example(4));
        QCOMPARE(floats(out, "x")[3], 6.0f);
        QCOMPARE(floats(out, "z")[3], 7.0f);
        QVERIFY(!out.column(Element::point, "y"));
    }

    void newAttributesTakeTheirTypeFromTheValue_data() {
        QTest::addColumn<QString>("value");
        QTest::addColumn<QString>("type");
        const std::pair<const char*, const char*> rows[] = {{"1", "float"},
                                                            {"1 + 2", "float"},
                                                            {"index", "int"},
                                                            {"index + 1", "int"},
                                                            {"index * 0.5", "float"},
                                                            {"index / 2", "float"},
                                                            {"int(a)", "int"},
                                                            {"a > 0", "bool"},
                                                            {"!b", "bool"},
                                                            {"b ? 1 : 2", "float"},
                                                            {"b ? index : 2", "int"},
                                                            {"v", "vec3"},
                                                            {"v.xy", "vec2"},
                                                            {"vec4(v, 1)", "vec4"},
                                                            {"\"post\"", "text"},
                                                            {"b ? word : \"none\"", "text"},
                                                            {"count", "int"},
                                                            {"n % 2", "int"},
                                                            {"min(n, 2)", "int"},
                                                            {"bool(n)", "bool"},
                                                            {"float(n)", "float"},
                                                            {"noise(position)", "float"},
                                                            {"random(id, 3)", "float"}};
        for (const auto& [value, type] : rows) QTest::newRow(value) << QString::fromLatin1(value) << QString::fromLatin1(type);
    }
    void newAttributesTakeTheirTypeFromTheValue() {
        QFETCH(QString, value);
        QFETCH(QString, type);
        const Geometry out = run("made = " + value.toStdString(), example(20));
        QCOMPARE(std::string(typeName(out.column(Element::point, "made")->type())), type.toStdString());
    }

    void wholeNumbersStayExact() {
        Geometry g = example(3);
        g.setColumn(Element::point, "id", Column(std::vector<std::int32_t>{16777217, 2147483646, -5}));
        const Geometry out = run("next = id + 1; odd = mod(id, 2) == 1;", g);
        QCOMPARE(*out.values<std::int32_t>(Element::point, "next"), (std::vector<std::int32_t>{16777218, 2147483647, -4}));
        QCOMPARE(*out.values<std::uint8_t>(Element::point, "odd"), (std::vector<std::uint8_t>{1, 0, 1}));
    }

    void textsAreComparedAndChosen() {
        const Geometry out = run(R"(short = word == "post"; word = short ? "stump" : word;)", example(6));
        QCOMPARE(*out.values<std::string>(Element::point, "word"), (std::vector<std::string>{"stump", "plank", "stump", "plank", "stump", "plank"}));
        QCOMPARE((*out.values<std::uint8_t>(Element::point, "short"))[2], std::uint8_t(1));
    }

    void dialsAndRampsAreSettings() {
        const char* text = "dial strength = 0.5 in 0..2; dial on = true; dial low = -1.5; made = on ? strength * ramp(\"edge\", 0.25) + low : 0.0;";
        const auto spec = operatorFor("formula", {{"text", text}});
        QVERIFY(spec->setting("strength") && spec->setting("edge") && spec->setting("on"));
        QCOMPARE(spec->setting("strength")->fallback, Json(0.5));
        QCOMPARE(*spec->setting("strength")->high, 2.0);
        QCOMPARE(spec->setting("on")->type, SettingType::boolean);
        QCOMPARE(spec->setting("edge")->type, SettingType::ramp);
        QVERIFY(!findOperator("formula")->setting("strength"));
        const Geometry g = example(3);
        QCOMPARE(floats(run(text, g), "made")[0], 0.5f * 0.25f - 1.5f);
        QCOMPARE(floats(run(text, g, {{"strength", 2}, {"low", 0}, {"edge", {{"knots", {{0, 1}, {1, 1}}}}}}), "made")[0], 2.0f);
        QCOMPARE(floats(run(text, g, {{"on", false}}), "made")[0], 0.0f);
    }

    void dialsTakeControlsAndStayWithTheNode() {
        Loom loom;
        loom.controls = {heightControl(0.2, 3.0)};
        loom.nodes = {node("plate", "grid", {0, 0}),
                      node("lift", "formula", {1, 0}, {{"text", "dial up = 0.1; position.y += up;"}, {"up", {{"control", "height"}}}})};
        loom.links = {linked("plate", "lift")};
        Memo memo;
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.controls = {{"height", 2.5}};
        const RebuildResult result = rebuild(request, memo);
        QVERIFY(!result.failed());
        QCOMPARE(boundsOf(*result.geometry("lift")).max.y, 2.5f);
        QVERIFY(result.nodes.at("lift").outcome->notices.empty());
        request.controls = {{"height", 1.0}};
        QCOMPARE(boundsOf(*rebuild(request, memo).geometry("lift")).max.y, 1.0f);
    }

    void otherInputsAreRead() {
        const OperatorSpec* spec = findOperator("formula");
        const Geometry box = made("box", {{"size", {2, 2, 2}}, {"cells", {1, 1, 1}}, {"anchor", "middle"}});
        Geometry points(std::vector<Vec3>{{3, 0, 0}, {0.9f, 5, 0.9f}, {0, 0, -4}});
        OperatorInput input =
            inputFor(*spec,
                     {{"text",
                       R"(on = surface(B, position); corner = nearest(B, position); place = at(B, corner, "position"); far = distance(on, position);
none = at(B, -1, "position");)"}},
                     {points});
        input.ports[1] = {box};
        const OperatorOutcome out = runOperator(*spec, input, RunContext());
        QVERIFY2(!out.failed, out.failed ? out.notices.back().text.c_str() : "");
        const Bounds bounds = boundsOf(box);
        const auto& on = *out.geometry.values<Vec3>(Element::point, "on");
        QCOMPARE(on[0], (Vec3{bounds.max.x, 0, 0}));
        QCOMPARE(on[1], (Vec3{0.9f, bounds.max.y, 0.9f}));
        QCOMPARE(floats(out.geometry, "far")[2], 4 + bounds.min.z);
        const auto& corner = *out.geometry.values<std::int32_t>(Element::point, "corner");
        for (std::size_t i = 0; i < 3; ++i) {
            QCOMPARE((*out.geometry.values<Vec3>(Element::point, "place"))[i], box.positions()[std::size_t(corner[i])]);
            for (Vec3 p : box.positions())
                QVERIFY(distance(p, points.positions()[i]) >= distance(box.positions()[std::size_t(corner[i])], points.positions()[i]) - 1e-6f);
        }
        QCOMPARE((*out.geometry.values<Vec3>(Element::point, "none"))[0], Vec3{});
    }

    void statisticsAreNumbersOfAllElements() {
        const Geometry g = example(50);
        double sum = 0, least = 9, most = -9;
        for (float v : floats(g, "a")) sum += double(v), least = std::min(least, double(v)), most = std::max(most, double(v));
        const Geometry out = run(R"(low = stat("a", "min"); high = stat("a", "max"); middle = stat("a", "mean"); all = stat("a", "sum");)", g);
        QCOMPARE(floats(out, "low")[49], float(least));
        QCOMPARE(floats(out, "high")[0], float(most));
        QVERIFY(near(double(floats(out, "middle")[7]), sum / 50, 1e-6));
        QVERIFY(near(double(floats(out, "all")[7]), sum, 1e-4));
    }

    void elementsAndMasks() {
        const Geometry grid = made("grid", {{"size", {4, 4}}, {"cells", {4, 4}}});
        const Geometry faces = run("left = position.x < 0.0; number = index;", grid, {{"element", "face"}});
        QCOMPARE(faces.values<std::uint8_t>(Element::face, "left")->size(), 16u);
        int left = 0;
        for (std::uint8_t v : *faces.values<std::uint8_t>(Element::face, "left")) left += v;
        QCOMPARE(left, 8);
        // Halfway between old and new.
        const Geometry half = run("position.y = 2.0;", grid, {{"blend", 0.5}});
        QCOMPARE(boundsOf(half).max.y, 1.0f);
        const Geometry some = run("position.y = 2.0;", grid, {{"where", {{"formula", "position.x > 0"}}}});
        QCOMPARE(boundsOf(some).max.y, 2.0f);
        QCOMPARE(boundsOf(some).min.y, 0.0f);
        const Geometry whole = run("size = 3; big = stat(\"position\", \"max\");", grid, {{"element", "model"}});
        QCOMPARE(whole.values<float>(Element::model, "size")->size(), 1u);
    }

    void whatIsReadFromAnotherElementIsTold() {
        const Geometry grid = run("height = index;", made("grid"), {{"element", "face"}});
        const OperatorOutcome out = runOp("formula", {{"text", "position.y += height;"}}, {grid});
        QVERIFY(!out.failed);
        QCOMPARE(lastCode(out), std::string("attribute.converted"));
        QVERIFY(out.notices.back().text.find("face") != std::string::npos);
    }

    void errorsNameThePlace_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("part");
        const std::pair<const char*, const char*> rows[] = {{"mask = alph;", "line 1, column 8: there is no attribute 'alph'"},
                                                            {"a = 1;\n  v.q = 2;", "line 2, column 3"},
                                                            {"mask 1;", "'=' was expected"},
                                                            {"let = 2;", "name for the value"},
                                                            {"index = 2;", "formula.assign"},
                                                            {"time = 2;", "can't be given a value"},
                                                            {"dial a = b;", "plain number"},
                                                            {"dial a = 1 in 2..1;", "smaller to a larger"},
                                                            {"dial a = 1; dial a = 2;", "already"},
                                                            {"dial blend = 1; x = blend;", "a setting of every formula"},
                                                            {"dial k = 1; k = 2;", "can't be given a value"},
                                                            {"n = 0.5;", "whole number"},
                                                            {"b = 0.5;", "true or false"},
                                                            {"word = 2;", "holds texts"},
                                                            {"a = word;", "this is a text"},
                                                            {"made = word + 1;", "only be compared"},
                                                            {"made = sin(\"x\");", "texts"},
                                                            {"fresh.x = 1;", "give it a value with = first"},
                                                            {"fresh += 1;", "give it a value with = first"},
                                                            {"v = vec2(1, 2);", "takes a vector of 3"},
                                                            {"a = vec3(1);", "'a' takes one number, and this is a vector of 3"},
                                                            {"made = at(position, 1, \"a\");", "letter of an input"},
                                                            {"made = nearest(B, position);", "nothing is plugged into input B"},
                                                            {"made = at(A, 1, \"aa\");", "Did you mean a"},
                                                            {"made = stat(\"a\", \"most\");", "no statistic"},
                                                            {"made = \"open", "has no end"},
                                                            {"/* open", "no end"},
                                                            {"made = ramp(1);", "name of a ramp"},
                                                            {"made = surface(A, 1);", "takes 3 numbers"},
                                                            {"made = word ? 1 : 2;", "condition of '?'"},
                                                            {"made = b ? 1 : \"x\";", "both sides"},
                                                            {"position = vec3(1) / (a - a);", "no finite number"}};
        for (const auto& [text, part] : rows) QTest::newRow(text) << QString::fromLatin1(text) << QString::fromLatin1(part);
    }
    void errorsNameThePlace() {
        QFETCH(QString, text);
        QFETCH(QString, part);
        const QString found = QString::fromStdString(failure(text.toStdString()));
        QVERIFY2(found.contains(part), qPrintable(found));
        QVERIFY2(found.contains("line") || found.contains("setting of every"), qPrintable(found));
    }

    void divisionByZeroIsFoundAtItsDivision() {
        Geometry g = example(400);
        std::vector<float> width(400, 1.0f);
        width[333] = 0;
        g.setColumn(Element::point, "width", Column(std::move(width)));
        const std::string found = failure("let safe = 1 / (abs(a) + 1);\nlet share = 2 / width;\nposition.x += share * safe;", g);
        QVERIFY2(found.find("line 2, column 15") != std::string::npos, found.c_str());
        QVERIFY(found.find("element 333") != std::string::npos);
        // Beside a position it is a notice, and the rest is there.
        const OperatorOutcome out = runOp("formula", {{"text", "share = 2 / width;"}}, {g});
        QVERIFY(!out.failed);
        QCOMPARE(lastCode(out), std::string("formula.not_finite"));
        QCOMPARE(floats(out.geometry, "share")[0], 2.0f);
    }

    void whatWasNoNumberBeforeIsNotTheFormulasDoing() {
        Geometry g = example(30);
        auto places = g.positions();
        places[7] = {std::numeric_limits<float>::quiet_NaN(), 0, 0};
        g.setPositions(places);
        const OperatorOutcome out = runOp("formula", {{"text", "position.y += 1.0;"}}, {g});
        QVERIFY(!out.failed);
        QCOMPARE(out.geometry.positions()[8].y, places[8].y + 1);
        // Where the mask keeps the formula away, what it would give does not matter.
        QVERIFY(!runOp("formula", {{"text", "position.x = 1.0 / (index - 3.0);"}, {"where", {{"formula", "index != 3"}}}}, {example(30)}).failed);
        QVERIFY(runOp("formula", {{"text", "position.x = 1.0 / (index - 3.0);"}}, {example(30)}).failed);
    }

    void aFailingFormulaPassesItsInputThrough() {
        const Geometry g = example(9);
        const OperatorOutcome out = runOp("formula", {{"text", "position = nowhere;"}}, {g});
        QVERIFY(out.failed);
        QCOMPARE(digestOf(out.geometry), digestOf(g));
    }

    void anyNumberOfThreadsGivesTheSameBits() {
        const Geometry g = example(60000);
        const char* text = "let w = noise(position * 3) + random(id, 2); position += v * w; n = n + int(w * 10); made = sin(a) * w;";
        Geometry one, many;
        tbb::task_arena(1).execute([&] { one = run(text, g); });
        tbb::task_arena(8).execute([&] { many = run(text, g); });
        QCOMPARE(digestOf(one), digestOf(many));
    }

    void emptyInputsAndTextsAreFine() {
        QCOMPARE(digestOf(run("", example(5))), digestOf(example(5)));
        QCOMPARE(digestOf(run(" ;; // nothing\n", example(5))), digestOf(example(5)));
        const Geometry nothing = run("position.y += 1; made = 2;", Geometry());
        QCOMPARE(nothing.pointCount(), 0u);
    }

    /// A slip in a name is mended by the button of its message: in a formula of statements, and in one that gives a setting its value.
    void slipsAreMendedByAButton() {
        const Geometry g = made("set_attribute", {{"name", "height"}, {"value", 2}}, {example(5)});
        const auto mended = [&](const char* op, const char* setting, const Json& written) {
            const OperatorOutcome out = runOp(op, {{setting, written}}, {g});
            if (!out.failed || out.notices.back().fixes.empty()) return Json();
            const NoticeFix& fix = out.notices.back().fixes.front();
            if (fix.kind != NoticeFix::Kind::set || fix.setting != setting || runOp(op, {{setting, fix.value}}, {g}).failed) return Json();
            return fix.value;
        };
        QCOMPARE(mended("formula", "text", "let a = 1;\nposition.y += heigth * a;"), Json("let a = 1;\nposition.y += height * a;"));
        QCOMPARE(mended("formula", "text", "position.y = lenght(position);"), Json("position.y = length(position);"));
        QCOMPARE(mended("formula", "text", "made = stat(\"heigh\", \"max\");"), Json("made = stat(\"height\", \"max\");"));
        QCOMPARE(mended("transform", "move", Json{{"formula", "vec3(0, cosh(1.0) + absolute(2.0), 0)"}}), Json());
        const Json scale = {{"formula", "vec3(1, 1, 1) * abso(2.0)"}};
        QCOMPARE(mended("transform", "scale", scale), (Json{{"formula", "vec3(1, 1, 1) * abs(2.0)"}}));
        // Whole words alone, from the place on; what is unlike everything is not guessed.
        QCOMPARE(*withWordReplaced("ab abc\nabcd abc", 2, 1, "abc", "x"), std::string("ab abc\nabcd x"));
        QCOMPARE(*withWordReplaced("a + a", 1, 2, "a", "b"), std::string("a + b"));
        QVERIFY(!withWordReplaced("a\nb", 1, 1, "b", "x") && !withWordReplaced("a", 3, 1, "a", "x") && !withWordReplaced("_a a1", 1, 1, "a", "x"));
        QVERIFY(isSlipFor("heigth", "height") && isSlipFor("heig", "height") && isSlipFor("sn", "sin"));
        QVERIFY(!isSlipFor("normel", "time") && !isSlipFor("a", "cos") && !isSlipFor("abc", "xyz"));
        const OperatorOutcome odd = runOp("formula", {{"text", "made = zzzzzz;"}}, {g});
        QCOMPARE(odd.notices.back().fixes.front().kind, NoticeFix::Kind::ask);
    }

    /// Random statements from the language's own pieces: a value or an error with a place, never anything else.
    void fuzz() {
        const char* pieces[] = {"1",    ".5",      "a",  "v",     "n",       "b",     "word",   "position", "(",   ")",    "+",     "-",      "*",
                                "/",    "<",       "==", "?",     ":",       ",",     ".x",     ".yz",      "sin", "vec3", "noise", "random", "stat",
                                "at",   "surface", "A",  "\"a\"", "\"max\"", "let q", "dial k", "=",        "+=",  ";",    ";",     "in",     "..",
                                "0..2", "q",       "k",  "index", "true",    "\n",    "//",     "/*",       "\"",  "\xff", "1e999"};
        std::mt19937 random(4);
        const Geometry g = example(40);
        int ran = 0;
        for (int i = 0; i < 6000; ++i) {
            std::string text;
            if (i % 2) text = "made = ";
            for (unsigned k = 0, n = random() % 12; k < n; ++k) text += std::string(pieces[random() % std::size(pieces)]) + " ";
            const OperatorOutcome out = runOp("formula", {{"text", text}}, {g});
            ran += !out.failed;
            QCOMPARE(out.geometry.pointCount(), 40u);
            if (out.failed)
                QVERIFY2(out.notices.back().text.size() > 10 && out.notices.back().code != "operator.internal",
                         (text + " → " + out.notices.back().text).c_str());
        }
        QVERIFY(ran > 100);
    }
};

QTEST_GUILESS_MAIN(TestFormula)
#include "test_formula.moc"

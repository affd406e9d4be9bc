// Noise in all its kinds, and turning one source into another.
#include "fields/Evaluate.h"
#include "fields/SourceChange.h"
#include "geometry/Statistics.h"

#include <QtTest/QtTest>

#include <random>

using namespace seedloom;

namespace {

struct Places {
    std::vector<float> x, y, z;
};

Places somewhere(std::size_t n, float reach) {
    Places out;
    std::mt19937 random(5);
    std::uniform_real_distribution<float> at(-reach, reach);
    for (std::size_t i = 0; i < n; ++i) out.x.push_back(at(random)), out.y.push_back(at(random)), out.z.push_back(at(random));
    return out;
}

std::vector<float> noiseAt(const Places& p, const NoiseOptions& options) {
    std::vector<float> out(p.x.size());
    noise(p.x, p.y, p.z, options, out);
    return out;
}

std::vector<float> ofKind(const Places& p, NoiseKind kind) { return noiseAt(p, {.kind = kind}); }

/// Points on a slope, with `along` from 0 to 1 and `mask` from 1 down to 0.
Geometry slope() {
    constexpr std::size_t n = 101;
    std::vector<Vec3> p(n);
    std::vector<float> along(n), mask(n);
    for (std::size_t i = 0; i < n; ++i) along[i] = float(i) / (n - 1), mask[i] = 1 - along[i], p[i] = {along[i] * 2, along[i] * 4 - 1, 0.3f * along[i]};
    Geometry g(std::move(p));
    g.setColumn(Element::point, "along", Column(along));
    g.setColumn(Element::point, "mask", Column(mask));
    return g;
}

FieldContext on(const Geometry& g) {
    static const ControlValues controls{{"height", 0.75}};
    FieldContext context;
    context.geometry = &g;
    context.perElement = true;
    context.controls = &controls;
    return context;
}

std::vector<float> valuesOf(const Json& json, const Geometry& g) {
    const auto source = sourceFromJson(json);
    if (!source) throw std::runtime_error(source.error().text);
    const Field<float> field = evaluateFloat(*source, on(g));
    std::vector<float> out(g.pointCount());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = field[i];
    return out;
}

SourceSurroundings around(const Json& json, const Geometry& g) {
    SourceSurroundings out;
    out.fallback = 0.5;
    out.attributes = {"along", "mask", "position"};
    out.controls = {"height"};
    const Statistics found = statisticsOf(Column(valuesOf(json, g)), 0, 1);
    out.least[0] = found.least, out.mean[0] = found.mean, out.most[0] = found.most;
    out.rangeOf = [&g](const std::string& over) -> std::optional<std::array<double, 2>> {
        const Statistics values = statisticsOf(Column(valuesOf({{"formula", over}}, g)), 0, 1);
        return std::array{values.least, values.most};
    };
    return out;
}

Json changed(const Json& from, const char* kind, const Geometry& g) { return changedSource(*sourceFromJson(from), kind, around(from, g)); }

float farthest(const std::vector<float>& a, const std::vector<float>& b) {
    float out = a.size() == b.size() ? 0 : INFINITY;
    for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i) out = std::max(out, std::abs(a[i] - b[i]));
    return out;
}

}  // namespace

class TestSources : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // Noise

    void cellNoiseMeasuresDistances() {
        const Places p = somewhere(20000, 40);
        const auto nearest = ofKind(p, NoiseKind::cells), second = ofKind(p, NoiseKind::cellSecond), edge = ofKind(p, NoiseKind::cellEdge);
        for (std::size_t i = 0; i < nearest.size(); ++i) {
            const double d1 = (1 - double(nearest[i])) / 2, d2 = (1 - double(second[i])) / 1.5, e = (double(edge[i]) + 1) / 4;
            if (nearest[i] > -1 && second[i] > -1) QVERIFY(d2 >= d1 - 1e-6);
            // No point of a cell is nearer to its edge than half the gap to the second point allows.
            if (nearest[i] > -1 && second[i] > -1 && edge[i] < 1) QVERIFY(e <= (d1 + d2) / 2 + 1e-5);
            QVERIFY(edge[i] >= -1 && edge[i] <= 1);
        }
        // Moving by d changes each distance by at most d (where all nine neighbours are known: everywhere but at cell faces far away).
        Places moved = p;
        for (float& x : moved.x) x += 0.001f;
        const auto near = ofKind(moved, NoiseKind::cells);
        for (std::size_t i = 0; i < near.size(); ++i) QVERIFY(std::abs(near[i] - nearest[i]) <= 0.002f + 1e-5f);
        const auto edges = ofKind(moved, NoiseKind::cellEdge);
        std::size_t jumps = 0;
        for (std::size_t i = 0; i < edges.size(); ++i) jumps += std::abs(edges[i] - edge[i]) > 0.004f + 1e-4f;
        QVERIFY2(jumps < edges.size() / 200, qPrintable(QString::number(jumps)));
    }

    void cellNumbersAreOneForEachCell() {
        // Along a line, the number changes exactly where the way to the edge goes to nothing.
        Places line;
        for (int i = 0; i < 20000; ++i) line.x.push_back(float(i) * 0.001f), line.y.push_back(0.3f), line.z.push_back(0.7f);
        const auto number = ofKind(line, NoiseKind::cellNumber), edge = ofKind(line, NoiseKind::cellEdge);
        std::size_t changes = 0;
        for (std::size_t i = 1; i < number.size(); ++i) {
            if (number[i] == number[i - 1]) continue;
            ++changes;
            QVERIFY(std::min(edge[i], edge[i - 1]) < -1 + 4 * 0.0011f);
        }
        QVERIFY(changes > 10 && changes < 60);
        // The numbers fill the range evenly: ten bars over many cells.
        const auto many = ofKind(somewhere(50000, 400), NoiseKind::cellNumber);
        std::array<int, 10> bars{};
        for (float v : many) ++bars[std::min<std::size_t>(9, std::size_t((v + 1) * 5))];
        for (int bar : bars) QVERIFY(bar > 4500 && bar < 5500);
    }

    void gradientsDoNotRepeat() {
        // Corners of the lattice pick their directions evenly, whatever the seed: noise half a step beside them says which.
        for (std::uint32_t seed : {0u, 1u, 77u, 4000000000u}) {
            Places p;
            for (int x = -12; x < 12; ++x)
                for (int y = -12; y < 12; ++y)
                    for (int z = -12; z < 12; ++z) p.x.push_back(float(x) + 0.01f), p.y.push_back(float(y) + 0.003f), p.z.push_back(float(z) + 0.001f);
            const auto values = noiseAt(p, {.seed = seed});
            std::map<int, int> kinds;
            for (float v : values) ++kinds[int(std::lround(v * 1000))];
            QVERIFY(kinds.size() >= 12);
            double mean = 0;
            for (float v : values) mean += double(v);
            QVERIFY(std::abs(mean / double(values.size())) < 0.0005);
            // Neighbours along each axis do not go together.
            for (int step : {1, 24, 576}) {
                double together = 0, square = 0;
                for (std::size_t i = 0; i + std::size_t(step) < values.size(); ++i)
                    together += double(values[i]) * double(values[i + std::size_t(step)]), square += double(values[i]) * double(values[i]);
                QVERIFY2(std::abs(together / square) < 0.04, qPrintable(QString("seed %1 step %2: %3").arg(seed).arg(step).arg(together / square)));
            }
        }
    }

    void ridgesFoldEachLayer() {
        const Places p = somewhere(5000, 10);
        for (NoiseKind kind : {NoiseKind::gradient, NoiseKind::value}) {
            const auto plain = noiseAt(p, {.kind = kind}), ridged = noiseAt(p, {.kind = kind, .ridged = true});
            for (std::size_t i = 0; i < plain.size(); ++i) QVERIFY(std::abs(ridged[i] - (1 - 2 * std::abs(plain[i]))) < 1e-6f);
        }
    }

    void stretchMakesBumpsLonger() {
        const Places p = somewhere(2000, 5);
        Places squeezed = p;
        for (float& y : squeezed.y) y /= 4;
        const NoiseOptions long4{.size = 0.5, .octaves = 3, .stretch = {1, 4, 1}};
        QVERIFY(farthest(noiseAt(p, long4), noiseAt(squeezed, {.size = 0.5, .octaves = 3})) < 1e-4f);
        // A stretch of nothing is held at a small one, and gives numbers.
        for (float v : noiseAt(p, {.stretch = {0, 0, 0}})) QVERIFY(v >= -1 && v <= 1);
    }

    void noiseIsWrittenAndReadAgain() {
        for (const std::string_view kind : kNoiseKinds) {
            const Json json{{"noise",
                             {{"size", 0.2},
                              {"octaves", 2},
                              {"roughness", 0.4},
                              {"seed", 5},
                              {"range", {0.0, 2.0}},
                              {"offset", {1.0, 2.0, 3.0}},
                              {"stretch", {1.0, 2.0, 1.0}},
                              {"kind", kind},
                              {"ridged", true}}}};
            QCOMPARE(sourceToJson(*sourceFromJson(json)), json);
        }
        for (const char* wrong : {R"({"noise":{"kind":"bubbles"}})", R"({"noise":{"stretch":[1,2]}})", R"({"noise":{"ridged":1}})"})
            QVERIFY2(!sourceFromJson(Json::parse(wrong)), wrong);
    }

    // Turning into another kind

    void formulasGiveTheSameValues_data() {
        QTest::addColumn<QString>("json");
        for (const char* json : {"0.35", R"({"control":"height"})", R"({"attribute":"along","scale":2,"add":-0.25})", R"({"formula":"along * along"})",
                                 R"({"ramp":{"over":"along","range":"auto","knots":[[0,0.2,"smooth"],[1,0.9]]}})",
                                 R"({"ramp":{"over":"position.y","range":[-1,3],"knots":[[0,1,"straight"],[0.25,0.5,"step"],[0.5,2,"smooth"],[0.8,-1]]}})",
                                 R"({"ramp":{"over":"position.x * 2","range":"auto","knots":[[0.1,1],[0.6,3]]}})", R"({"random":{"range":[2,5],"seed":7}})",
                                 R"({"noise":{"size":0.4,"range":[1,3],"offset":[0.1,0.2,0.3],"stretch":[1,2,1]}})"})
            QTest::newRow(json) << QString(json);
    }
    void formulasGiveTheSameValues() {
        QFETCH(QString, json);
        const Geometry g = slope();
        const Json from = Json::parse(json.toStdString()), to = changed(from, "formula", g);
        QVERIFY(to.contains("formula"));
        QVERIFY2(farthest(valuesOf(from, g), valuesOf(to, g)) < 2e-5f, to.dump().c_str());
    }

    void rampsAndAttributesKeepTheValues() {
        const Geometry g = slope();
        for (const char* text : {"0.35", R"({"control":"height"})", R"({"attribute":"mask","scale":3,"add":1})", R"({"formula":"along * along + 1"})",
                                 R"({"random":{"range":[2,5],"seed":7}})"}) {
            const Json from = Json::parse(text), to = changed(from, "ramp", g);
            QVERIFY(to.contains("ramp"));
            QVERIFY2(farthest(valuesOf(from, g), valuesOf(to, g)) < 1e-4f, to.dump().c_str());
        }
        for (const char* text : {R"({"ramp":{"over":"along","range":"auto","knots":[[0,0.2],[1,0.9]]}})",
                                 R"({"ramp":{"over":"mask","range":[0,2],"knots":[[0,3],[1,-1]]}})", R"({"formula":"mask"})"}) {
            const Json from = Json::parse(text), to = changed(from, "attribute", g);
            QVERIFY(to.contains("attribute"));
            QVERIFY2(farthest(valuesOf(from, g), valuesOf(to, g)) < 1e-5f, to.dump().c_str());
        }
        // From one value for all, an attribute runs up to it.
        QCOMPARE(changed(0.35, "attribute", g), Json({{"attribute", "mask"}, {"scale", 0.35}}));
    }

    void noiseAndRandomStayInTheRange() {
        const Geometry g = slope();
        for (const char* kind : {"noise", "random"}) {
            const Json from = Json::parse(R"({"attribute":"along","scale":2,"add":1})"), to = changed(from, kind, g);
            QCOMPARE(to[kind]["range"], Json({1.0, 3.0}));
            const Statistics found = statisticsOf(Column(valuesOf(to, g)), 0, 1);
            QVERIFY(found.least >= 1 && found.most <= 3 && found.most > found.least);
            // Around one value for all: the mean stays.
            QCOMPARE(changed(0.4, kind, g)[kind]["range"], Json({0.2, 0.6}));
        }
        QCOMPARE(changed(Json::parse(R"({"noise":{"range":[-3,4]}})"), "random", g)["random"]["range"], Json({-3.0, 4.0}));
    }

    void fixedTakesTheMean() {
        const Geometry g = slope();
        QCOMPARE(changed(Json::parse(R"({"attribute":"along","scale":2,"add":1})"), "fixed", g), Json(2.0));
        QCOMPARE(changed(Json::parse(R"({"control":"height"})"), "fixed", g), Json(0.75));
        SourceSurroundings whole = around(0.5, g);
        whole.fallback = 3;
        whole.mean[0] = 6.7;
        QCOMPARE(changedSource(FormulaSource{"6.7"}, "fixed", whole), Json(7));
        SourceSurroundings three;
        three.fallback = {0.0, 0.0, 0.0};
        three.components = 3;
        three.mean = {1, 2, 3, 0};
        QCOMPARE(changedSource(FormulaSource{"vec3(1, 2, 3)"}, "fixed", three), Json({1.0, 2.0, 3.0}));
        QCOMPARE(changedSource(FixedSource{{1.0, 2.0, 3.0}}, "formula", three), Json({{"formula", "vec3(1, 2, 3)"}}));
    }

    void nothingToReadStillGivesASource() {
        SourceSurroundings none;
        none.fallback = 0.0;
        for (const std::string_view kind : {"fixed", "formula", "ramp", "attribute", "noise", "random"})
            for (const char* text : {"0", R"({"formula":"nowhere"})", R"({"ramp":{"over":"nowhere","knots":[[0,1]]}})", R"({"attribute":"nowhere"})"}) {
                const Json made = changedSource(*sourceFromJson(Json::parse(text)), kind, none);
                const auto read = sourceFromJson(made);
                QVERIFY2(bool(read), made.dump().c_str());
                QCOMPARE(sourceKind(*read), kind);
            }
    }
};

QTEST_APPLESS_MAIN(TestSources)
#include "test_sources.moc"

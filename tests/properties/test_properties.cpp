// What all modelling operators have in common: they do not care where, how large, or on how many threads; what faces carried survives them.
#include "geometry/Digest.h"
#include "geometry/ElementTransfer.h"
#include "geometry/Rows.h"
#include "operators/Polyhedra.h"
#include "parallel/Loops.h"
#include "support/Sound.h"

#include <QElapsedTimer>

#include <fmt/format.h>
#include <tbb/task_arena.h>

#include <random>
#include <set>
#include <thread>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// One use of an operator that does something.
struct Use {
    std::string op;
    Json settings = Json::object();
    std::string input = "ball";
};

const std::vector<Use>& uses() {
    static const std::vector<Use> all{{"extrude", {{"distance", 0.1}, {"inset", 0.02}}},
                                      {"extrude", {{"of", "region"}, {"distance", 0.1}, {"where", {{"attribute", "marked"}}}}, "box"},
                                      {"bevel", {{"width", 0.04}, {"angle_over", 10}}, "box"},
                                      {"bevel", {{"of", "points"}, {"width", 0.1}}, "box"},
                                      {"thicken", {{"thickness", 0.08}}, "sheet"},
                                      {"thicken", {{"thickness", 0.05}, {"side", "both"}}, "ball"},
                                      {"subdivide", {{"levels", 1}}, "box"},
                                      {"subdivide", {{"form", "loop"}}, "ball"},
                                      {"weld", {{"distance", 0.001}}, "apart"},
                                      {"flip", Json::object(), "box"},
                                      {"orient", Json::object(), "ball"},
                                      {"delete", {{"where", {{"attribute", "marked"}}}}, "box"},
                                      {"separate", {{"by", "each face"}}, "box"},
                                      {"plane_cut", {{"normal", {1, 0.5, 0.25}}, {"origin", {0.05, 0.5, 0}}}, "box"},
                                      {"mirror", {{"plane", "x"}}, "ball"},
                                      {"fill_holes", Json::object(), "holed"},
                                      {"triangulate", Json::object(), "box"},
                                      {"dual", Json::object(), "ball"},
                                      {"simplify", {{"target", 60}}, "ball"},
                                      {"remesh", {{"edge_length", 0.2}}, "ball"},
                                      {"smooth", {{"iterations", 3}}, "box"},
                                      {"voxel_remesh", {{"voxel", 0.07}}, "ball"},
                                      {"uv_unwrap", Json::object(), "box"},
                                      {"normals", Json::object(), "box"},
                                      {"edge_rods", {{"radius", 0.02}}, "box"},
                                      {"feature_curves", {{"angle", 20}}, "box"},
                                      {"transform", {{"rotate", {10, 20, 30}}, {"scale", {1, 2, 1}}, {"move", {0.1, 0, 0}}}, "box"},
                                      {"bend", {{"angle", 50}}, "box"},
                                      {"twist", {{"angle", 40}}, "box"},
                                      {"taper", {{"scale_end", 0.4}}, "box"},
                                      {"fit", {{"size", {2, 1, 3}}}, "ball"},
                                      {"profile_scale", Json::object(), "box"},
                                      {"spread_points", {{"distance", 0.3}, {"rounds", 5}}, "ball"},
                                      {"morph_to_sphere", {{"amount", 0.7}}, "ball"},
                                      {"cage", {{"offsets", {{0.1, 0.2, 0}}}}, "box"},
                                      {"resample", {{"mode", "spacing"}, {"spacing", 0.05}}, "lines"},
                                      {"smooth_curve", {{"iterations", 4}}, "lines"},
                                      {"round_corners", {{"radius", 0.05}}, "lines"},
                                      {"offset_curve", {{"distance", 0.05}}, "lines"},
                                      {"cut_curve", {{"mode", "length"}, {"length", 0.3}}, "lines"},
                                      {"join_curves", {{"distance", 0.6}}, "lines"},
                                      {"fill_curve", Json::object(), "rings"},
                                      {"sweep", {{"form", "tube"}, {"width", 0.1}}, "lines"},
                                      {"revolve", {{"sides", 12}}, "lines"},
                                      {"curve_directions", Json::object(), "lines"},
                                      {"scatter", {{"in", "along curves"}, {"count", 300}, {"relax", 4}}, "lines"},
                                      {"scatter", {{"in", "along curves"}, {"mode", "spacing"}, {"spacing", 0.05}}, "lines"},
                                      {"points_from", {{"of", "edges"}}, "lines"},
                                      {"thin_out", {{"distance", 0.3}}, "lines"},
                                      {"shatter", {{"pieces", 7}}, "box"},
                                      {"shatter", {{"pieces", 5}, {"roughness", 0.02}, {"gap", 0.01}}, "ball"},
                                      {"crack_shell", {{"pieces", 9}}, "ball"},
                                      {"crack_shell", {{"pieces", 6}, {"gap", 0.02}, {"roughness", 0.02}}, "sheet"},
                                      {"remove_pieces", {{"chance", 0.4}}, "apart"},
                                      {"spread_pieces", {{"amount", 0.5}, {"turn", 20}}, "apart"},
                                      {"number_pieces", Json::object(), "apart"},
                                      {"random_transform", {{"move", {0.1, 0.2, 0}}, {"turn", {10, 20, 30}}, {"size", {0.9, 1.1}}}, "box"}};
    return all;
}

Geometry marked(Geometry g) {
    std::vector<std::uint8_t> every(g.faceCount());
    std::vector<std::int32_t> number(g.faceCount());
    for (std::size_t f = 0; f < every.size(); ++f) every[f] = f % 5 == 0, number[f] = 100 + int(f);
    g.setColumn(Element::face, "marked", Column(std::move(every)));
    g.setColumn(Element::face, "number", Column(std::move(number)));
    std::vector<float> warmth(g.pointCount());
    for (std::size_t p = 0; p < warmth.size(); ++p) warmth[p] = 3 + g.positions()[p].y * 0.25f;
    g.setColumn(Element::point, "warmth", Column(std::move(warmth)));
    return g;
}

Geometry inputNamed(const std::string& name) {
    if (name == "box") return marked(made("box", {{"size", {1, 1.5, 0.75}}, {"cells", {3, 4, 2}}}));
    if (name == "sheet") return marked(made("noise_displace", {{"amount", 0.1}}, {made("grid", {{"cells", {5, 4}}})}));
    if (name == "apart") return marked(made("separate", {{"by", "each face"}}, {made("box", {{"cells", {2, 2, 2}}})}));
    if (name == "holed") return marked(made("delete", {{"where", {{"formula", "index % 9 == 0"}}}}, {geodesicBall(4)}));
    if (name == "lines")
        return made("noise_displace", {{"amount", 0.2}, {"along", "axis mask"}},
                    {made("merge", Json::object(),
                          {made("line", {{"points", 9}, {"length", 2}, {"direction", {1, 0, 0.25}}}),
                           made("transform", {{"move", {0.25, 0, 1}}}, {made("spiral", {{"turns", 1}, {"radius", 0.5}})})})});
    if (name == "rings") return made("merge", Json::object(), {made("polygon", {{"sides", 9}}), made("polygon", {{"sides", 5}, {"radius", 0.2}})});
    return marked(made("noise_displace", {{"amount", 0.15}, {"size", 0.5}}, {geodesicBall(5)}));
}

/// Numbers in metres made larger, as the declaration says which are.
Json enlarged(const OperatorSpec& spec, Json settings, double by) {
    for (const SettingSpec& s : spec.settings) {
        if (s.unit != Unit::metre && s.type != SettingType::points) continue;
        if (!settings.contains(s.id)) settings[s.id] = s.fallback;
        const std::function<void(Json&)> times = [&](Json& v) {
            if (v.is_number()) v = v.get<double>() * by;
            if (v.is_array())
                for (Json& item : v) times(item);
        };
        times(settings[s.id]);
    }
    return settings;
}

Geometry times(const Geometry& g, float by) { return transformed(g, Affine{{by, 0, 0}, {0, by, 0}, {0, 0, by}, {}}); }

OperatorOutcome onThreads(const Use& use, int threads) {
    OperatorOutcome out;
    tbb::task_arena arena(threads);
    arena.execute([&] { out = runOp(use.op.c_str(), use.settings, {inputNamed(use.input)}); });
    return out;
}

void addUses() {
    QTest::addColumn<int>("which");
    for (std::size_t i = 0; i < uses().size(); ++i) QTest::addRow("%s %s %d", uses()[i].op.c_str(), uses()[i].input.c_str(), int(i)) << int(i);
}

}  // namespace

class TestProperties : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// Four times as large with settings four times as large: the same thing, four times as large. So no size is built in.
    void sizeDoesNotMatter_data() { addUses(); }
    void sizeDoesNotMatter() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const Geometry in = inputNamed(use.input), plain = made(use.op.c_str(), use.settings, {in});
        const auto spec = operatorFor(use.op.c_str(), use.settings);
        const Geometry large = made(use.op.c_str(), enlarged(*spec, use.settings, 4), {times(in, 4)});
        QCOMPARE(large.pointCount(), plain.pointCount());
        QCOMPARE(large.topology().cornerPoint(), plain.topology().cornerPoint());
        QCOMPARE(large.topology().curvePoint(), plain.topology().curvePoint());
        const float most = 2e-5f * float(boundsOf(large).diagonal());
        for (std::size_t p = 0; p < plain.pointCount(); ++p) QVERIFY(length(large.positions()[p] - plain.positions()[p] * 4) < most);
    }

    void threadsDoNotMatter_data() { addUses(); }
    void threadsDoNotMatter() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const SmallChunks split(16);  // inputs of a few hundred elements are split as large ones are
        const OperatorOutcome one = onThreads(use, 1), four = onThreads(use, 8);
        QVERIFY(!one.failed && !four.failed);
        QCOMPARE(digestOf(four.geometry), digestOf(one.geometry));
    }

    /// What goes in is never changed, whatever shares its arrays.
    void inputsStayAsTheyWere_data() { addUses(); }
    void inputsStayAsTheyWere() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const Geometry in = inputNamed(use.input);
        const Digest before = digestOf(in);
        made(use.op.c_str(), use.settings, {in});
        QCOMPARE(digestOf(in), before);
    }

    /// Results hold together, are finite, and every column is as long as its element.
    void resultsHoldTogether_data() { addUses(); }
    void resultsHoldTogether() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const Geometry out = made(use.op.c_str(), use.settings, {inputNamed(use.input)});
        QCOMPARE(out.topology().problem(), "");
        QVERIFY(out.pointCount() > 0);
        for (Vec3 p : out.positions()) QVERIFY(isFinite(p));
        for (Element element : {Element::point, Element::corner, Element::face, Element::curve})
            for (const auto& [name, column] : out.table(element)) {
                QVERIFY2(column.size() == out.count(element), name.c_str());
                QVERIFY2(firstNonFinite(column) == column.size(), name.c_str());
            }
    }

    /// Numbers of faces come from faces that were there, mixed values of points stay within theirs.
    void attributesComeFromWhatWasThere_data() {
        QTest::addColumn<int>("which");
        for (std::size_t i = 0; i < uses().size(); ++i)
            if (uses()[i].input != "lines" && uses()[i].input != "rings" && uses()[i].op != "edge_rods" && uses()[i].op != "feature_curves")
                QTest::addRow("%s %d", uses()[i].op.c_str(), int(i)) << int(i);
    }
    void attributesComeFromWhatWasThere() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const Geometry in = inputNamed(use.input), out = made(use.op.c_str(), use.settings, {in});
        const Column* number = use.op == "dual" ? out.column(Element::point, "number") : out.column(Element::face, "number");
        QVERIFY2(number, "face numbers are gone");
        for (std::size_t f = 0; f < number->size(); ++f) {
            const double value = number->component(f, 0);
            QVERIFY2(value == 0 || (value >= 100 && value < 100 + double(in.faceCount())), fmt::format("face {} has {}", f, value).c_str());
        }
        const Column* warmth = use.op == "dual" ? out.column(Element::face, "warmth") : out.column(Element::point, "warmth");
        QVERIFY2(warmth, "point values are gone");
        const auto& before = *in.values<float>(Element::point, "warmth");
        const auto [low, high] = std::minmax_element(before.begin(), before.end());
        const double slack = use.op == "subdivide" ? 0.2 : 1e-4;
        for (std::size_t p = 0; p < warmth->size(); ++p)
            QVERIFY2(warmth->component(p, 0) == 0 || (warmth->component(p, 0) > *low - slack && warmth->component(p, 0) < *high + slack),
                     fmt::format("point {} has {}", p, warmth->component(p, 0)).c_str());
    }

    /// Faces over the very same points as before have the very same uv and tags.
    void untouchedFacesKeepTheirTexture_data() {
        QTest::addColumn<int>("which");
        for (std::size_t i = 0; i < uses().size(); ++i)
            if (uses()[i].input == "box" && uses()[i].op != "uv_unwrap" && uses()[i].op != "subdivide")
                QTest::addRow("%s %d", uses()[i].op.c_str(), int(i)) << int(i);
    }
    void untouchedFacesKeepTheirTexture() {
        QFETCH(int, which);
        const Use& use = uses()[std::size_t(which)];
        const Geometry in = inputNamed(use.input), out = made(use.op.c_str(), use.settings, {in});
        const auto* uv = in.values<Vec2>(Element::corner, "uv");
        const auto* now = out.values<Vec2>(Element::corner, "uv");
        if (out.faceCount() == 0) return;
        if (use.op == "edge_rods") return;  // new faces all over
        QVERIFY(uv && now);
        const auto key = [](const Geometry& g, Index f) {
            std::multiset<std::array<float, 3>> places;
            for (Index p : g.topology().face(f)) places.insert({g.positions()[p].x, g.positions()[p].y, g.positions()[p].z});
            return places;
        };
        std::map<std::multiset<std::array<float, 3>>, Index> faces;
        for (Index f = 0; f < in.faceCount(); ++f) faces[key(in, f)] = f;
        for (Index f = 0; f < out.faceCount(); ++f) {
            const auto found = faces.find(key(out, f));
            if (found == faces.end()) continue;
            for (const char* tag : {"top", "left", "front"})
                QCOMPARE(out.values<std::uint8_t>(Element::face, tag)->at(f), in.values<std::uint8_t>(Element::face, tag)->at(found->second));
            for (Index c = out.topology().faceStart()[f]; c < out.topology().faceStart()[f + 1]; ++c)
                for (Index d = in.topology().faceStart()[found->second]; d < in.topology().faceStart()[found->second + 1]; ++d)
                    if (out.positions()[out.topology().cornerPoint()[c]] == in.positions()[in.topology().cornerPoint()[d]]) QCOMPARE((*now)[c], (*uv)[d]);
        }
    }

    /// Soft masks at 0 leave everything where it was, to the last bit.
    void aMaskOfNothingChangesNothing_data() {
        QTest::addColumn<QString>("op");
        for (const OperatorSpec& spec : catalogue())
            if (spec.family == Family::deform && spec.setting("where")) QTest::newRow(spec.id.c_str()) << QString::fromStdString(spec.id);
    }
    void aMaskOfNothingChangesNothing() {
        QFETCH(QString, op);
        const Geometry in = inputNamed("ball");
        Json settings{{"where", 0}};
        for (const Use& use : uses())
            if (use.op == op.toStdString()) settings.update(use.settings);
        settings["where"] = 0;
        const auto spec = operatorFor(op.toStdString(), settings);
        OperatorInput input = inputFor(*spec, settings, {in});
        for (std::size_t p = 1; p < input.ports.size(); ++p)
            input.ports[p] = {spec->inputs[p].id == "curve" ? made("line") : made("uv_project", {{"form", "plane"}}, {made("grid", {{"size", {4, 4}}})})};
        const OperatorOutcome out = runOperator(*spec, input, RunContext());
        QVERIFY2(!out.failed, out.notices.empty() ? "" : out.notices.back().text.c_str());
        QCOMPARE(out.geometry.positions(), in.positions());
    }

    /// A stop in the middle of work on a large model: it ends soon, and by the exception that says so.
    void workIsGivenUpInTheMiddle_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        QTest::newRow("remesh") << "remesh"
                                << R"({"edge_length": 0.004, "iterations": 10})";
        QTest::newRow("voxel_remesh") << "voxel_remesh"
                                      << R"({"voxel": 0.008})";
        QTest::newRow("spread_points") << "spread_points"
                                       << R"({"distance": 0.1, "rounds": 5000})";
        QTest::newRow("morph_to_sphere") << "morph_to_sphere"
                                         << R"({"amount": 1})";
        QTest::newRow("bevel") << "bevel"
                               << R"({"width": 0.0001, "angle_over": 0})";
        QTest::newRow("scatter") << "scatter"
                                 << R"({"count": 200000, "relax": 1000})";
        QTest::newRow("scatter inside") << "scatter"
                                        << R"({"count": 4000000, "in": "volume"})";
        QTest::newRow("smooth") << "smooth"
                                << R"({"iterations": 5000})";
    }
    void workIsGivenUpInTheMiddle() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        const Json written = Json::parse(settings.toStdString());
        const auto spec = operatorFor(op.toStdString(), written);
        const OperatorInput input = inputFor(*spec, written, {geodesicBall(90)});
        std::atomic<bool> stop = false;
        std::thread later([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(60));
            stop = true;
        });
        bool cancelled = false;
        try {
            runOperator(*spec, input, RunContext(&stop));
        } catch (const Cancelled&) {
            cancelled = true;
        }
        later.join();
        QVERIFY(cancelled);
    }
};

QTEST_APPLESS_MAIN(TestProperties)
#include "test_properties.moc"

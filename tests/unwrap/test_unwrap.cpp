// Laying surfaces flat: charts that are disks, keep their size and never overlap in the square.
#include "geometry/Triangulate.h"
#include "support/Sound.h"
#include "surface/ChartCut.h"
#include "surface/ChartPacking.h"
#include "surface/FlatBorder.h"
#include "surface/Unwrap.h"

#include <random>

using namespace seedloom;
using namespace seedloom::test;

namespace {

double flatArea(Vec2 a, Vec2 b, Vec2 c) { return (double(b.x - a.x) * (c.y - a.y) - double(b.y - a.y) * (c.x - a.x)) / 2; }

const std::vector<Vec2>& uvOf(const Geometry& g) { return *g.values<Vec2>(Element::corner, "uv"); }
const std::vector<std::int32_t>& chartsOf(const Geometry& g) { return *g.values<std::int32_t>(Element::face, "chart"); }
int chartCount(const Geometry& g) { return *std::max_element(chartsOf(g).begin(), chartsOf(g).end()) + 1; }

Geometry unwrapped(const Geometry& in, Json settings = Json::object()) {
    settings["number_charts"] = true;
    return made("uv_unwrap", settings, {in});
}

/// The whole chart of a geometry, all faces held together by all edges with two faces.
ChartFaces wholeChart(const Geometry& g) {
    const Topology& t = g.topology();
    ChartFaces out;
    for (Index f = 0; f < g.faceCount(); ++f) out.faces.push_back(f);
    std::map<Index, Index> first;
    for (Index c = 0; c < t.cornerCount(); ++c) {
        const auto [it, fresh] = first.emplace(t.edges().cornerEdge[c], c);
        if (!fresh) out.inner.push_back({it->first, it->second, c});
    }
    return out;
}

/// points − edges + faces of the faces over the given vertices, one a corner.
long eulerOver(const Geometry& g, const std::vector<Index>& vertexOf) {
    std::set<std::pair<Index, Index>> edges;
    std::size_t corner = 0;
    for (Index f = 0; f < g.faceCount(); ++f) {
        const std::size_t n = g.topology().face(f).size();
        for (std::size_t i = 0; i < n; ++i) edges.insert(std::minmax(vertexOf[corner + i], vertexOf[corner + (i + 1) % n]));
        corner += n;
    }
    return long(*std::max_element(vertexOf.begin(), vertexOf.end())) + 1 - long(edges.size()) + long(g.faceCount());
}

/// True where two triangles of different charts, or two that share no vertex of one chart, cover a sample of the square both.
bool coveredTwice(const Geometry& g, int samples) {
    const Triangles t = triangulate(g);
    const auto& uv = uvOf(g);
    std::mt19937 random(3);
    std::uniform_real_distribution<double> place(0, 1);
    for (int i = 0; i < samples; ++i) {
        const Vec2 p{float(place(random)), float(place(random))};
        int covered = 0;
        for (std::size_t k = 0; k < t.count(); ++k) {
            const Vec2 a = uv[t.corners[k * 3]], b = uv[t.corners[k * 3 + 1]], c = uv[t.corners[k * 3 + 2]];
            covered += flatArea(a, b, p) > 1e-9 && flatArea(b, c, p) > 1e-9 && flatArea(c, a, p) > 1e-9;
        }
        if (covered > 1) return true;
    }
    return false;
}

}  // namespace

class TestUnwrap : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void everySurfaceIsCutToADisk_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        QTest::newRow("grid") << "grid"
                              << R"({"cells": [7, 4]})";
        QTest::newRow("tube") << "cylinder"
                              << R"({"top": false, "bottom": false, "rings": 3})";
        QTest::newRow("torus") << "torus"
                               << "{}";
        QTest::newRow("open box") << "cylinder"
                                  << R"({"top": false})";
    }
    void everySurfaceIsCutToADisk() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        const Geometry g = made(op.toUtf8().constData(), Json::parse(settings.toStdString()));
        const auto vertices = diskVertices(g, wholeChart(g));
        QVERIFY(vertices.has_value());
        QCOMPARE(eulerOver(g, *vertices), 1L);
        QCOMPARE(diskVertices(g, wholeChart(g)).value(), *vertices);
    }

    void aBallHasNoBorderToOpenItFrom() {
        QVERIFY(!diskVertices(made("sphere"), wholeChart(made("sphere"))));
        QVERIFY(!diskVertices(made("box"), wholeChart(made("box"))));
    }

    void splittingGivesTwoConnectedParts() {
        const Geometry ball = made("sphere");
        const auto [a, b] = splitChart(ball, wholeChart(ball));
        QCOMPARE(a.faces.size() + b.faces.size(), ball.faceCount());
        for (const ChartFaces& half : {a, b}) {
            QVERIFY(half.faces.size() > ball.faceCount() / 3);
            std::set<Index> reached{half.faces[0]};
            for (bool grown = true; grown;) {
                grown = false;
                for (const InnerEdge& e : half.inner) {
                    const Index one = ball.topology().faceOfCorner()[e.cornerA], other = ball.topology().faceOfCorner()[e.cornerB];
                    if (reached.count(one) != reached.count(other)) reached.insert(one), reached.insert(other), grown = true;
                }
            }
            QCOMPARE(reached.size(), half.faces.size());
        }
    }

    void whatIsFlatKeepsEveryLength() {
        const Geometry tilted = made("transform", {{"rotate", {33, 20, 70}}}, {made("grid", {{"size", {3, 2}}, {"cells", {6, 4}}})});
        const Geometry g = unwrapped(tilted, {{"size", "metres"}, {"margin", 0}});
        QCOMPARE(chartCount(g), 1);
        const auto& uv = uvOf(g);
        for (Index f = 0; f < g.faceCount(); ++f)
            for (Index c = g.topology().faceStart()[f]; c < g.topology().faceStart()[f + 1]; ++c)
                for (Index d = c + 1; d < g.topology().faceStart()[f + 1]; ++d) {
                    const double real = length(g.positions()[g.topology().cornerPoint()[c]] - g.positions()[g.topology().cornerPoint()[d]]);
                    QVERIFY(near(std::hypot(uv[c].x - uv[d].x, uv[c].y - uv[d].y), real, 1e-5));
                }
    }

    void aTubeRollsOffWithoutStretch() {
        const Geometry g =
            unwrapped(made("cylinder", {{"radius_bottom", 0.5}, {"radius_top", 0.5}, {"height", 2}, {"sides", 64}, {"top", false}, {"bottom", false}}),
                      {{"size", "metres"}, {"margin", 0}});
        QCOMPARE(chartCount(g), 1);
        Vec2 low = uvOf(g)[0], high = low;
        for (Vec2 p : uvOf(g)) low = {std::min(low.x, p.x), std::min(low.y, p.y)}, high = {std::max(high.x, p.x), std::max(high.y, p.y)};
        const double round = 64 * 2 * 0.5 * std::sin(M_PI / 64);
        QVERIFY(near(high.x - low.x, round, 1e-3) && near(high.y - low.y, 2, 1e-3));
    }

    void aBoxComesApartAtItsEdgesOrHangsTogether() {
        const Geometry box = made("box", {{"size", {1, 2, 3}}});
        QCOMPARE(chartCount(unwrapped(box)), 6);
        // Without seams by angle the closed box is split by itself, but into fewer charts.
        const Geometry whole = unwrapped(box, {{"angle", 180}, {"most_stretch", 100}});
        QVERIFY(chartCount(whole) >= 2 && chartCount(whole) < 6);
        // A lid with a tag on its points comes off alone.
        Geometry tagged = box;
        std::vector<std::uint8_t> seam(8, 0);
        for (Index p = 0; p < 8; ++p) seam[p] = box.positions()[p].y > 0;
        tagged.setColumn(Element::point, "seam", Column(std::move(seam)));
        const Geometry opened = unwrapped(tagged, {{"angle", 180}, {"most_stretch", 100}});
        Index lid = 0;
        while (faceNormals(box)[lid].y < 0.9f) ++lid;
        QCOMPARE(std::count(chartsOf(opened).begin(), chartsOf(opened).end(), chartsOf(opened)[lid]), 1);
        QVERIFY(std::count(chartsOf(whole).begin(), chartsOf(whole).end(), chartsOf(whole)[lid]) > 1);
        QCOMPARE(uvOf(unwrapped(tagged, {{"angle", 180}, {"most_stretch", 100}, {"seam", ""}})), uvOf(whole));
    }

    void chartsEndWherePartsChange() {
        Geometry sheet = made("grid", {{"cells", {6, 6}}});
        std::vector<std::int32_t> part(sheet.faceCount());
        for (std::size_t f = 0; f < part.size(); ++f) part[f] = int(f / 12);
        sheet.setColumn(Element::face, "plank", Column(part));
        const Geometry g = unwrapped(sheet, {{"parts", "plank"}});
        QCOMPARE(chartCount(g), 3);
        QCOMPARE(chartsOf(g), part);
        QVERIFY(runOp("uv_unwrap", {{"parts", "planck"}}, {sheet}).failed);
    }

    void nothingIsMirroredOrOverlapsOrLeavesTheSquare_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        QTest::newRow("box") << "box"
                             << R"({"size": [1, 0.3, 2], "cells": [3, 2, 4]})";
        QTest::newRow("ball") << "sphere"
                              << R"({"sides": 40, "rings": 20})";
        QTest::newRow("geodesic") << "geodesic_sphere"
                                  << R"({"frequency": 8})";
        QTest::newRow("panels") << "geodesic_sphere"
                                << R"({"frequency": 5, "form": "panels"})";
        QTest::newRow("ring") << "torus"
                              << "{}";
        QTest::newRow("cone") << "cylinder"
                              << R"({"radius_top": 0, "sides": 40})";
        QTest::newRow("letters") << "text"
                                 << R"({"text": "Quay 8"})";
        QTest::newRow("solid") << "solid"
                               << R"({"kind": "truncated icosahedron"})";
    }
    void nothingIsMirroredOrOverlapsOrLeavesTheSquare() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        Geometry shape = made(op.toUtf8().constData(), Json::parse(settings.toStdString()));
        if (op == "text") shape = made("extrude", {{"distance", 0.2}}, {shape.faceCount() ? shape : made("fill_curve", Json::object(), {shape})});
        const Geometry g = unwrapped(shape);
        const auto& uv = uvOf(g);
        const Triangles t = triangulate(g);
        double flat = 0, real = 0;
        for (std::size_t k = 0; k < t.count(); ++k) {
            const double area = flatArea(uv[t.corners[k * 3]], uv[t.corners[k * 3 + 1]], uv[t.corners[k * 3 + 2]]);
            QVERIFY(area > -1e-9);
            flat += area;
            real += measuredArea(g, t, k);
        }
        QVERIFY2(flat > 0.3 && flat < 1, std::to_string(flat).c_str());
        for (Vec2 p : uv) QVERIFY(p.x >= 0 && p.y >= 0 && p.x <= 1 && p.y <= 1);
        QVERIFY(!coveredTwice(g, 4000));
        // All charts have one scale: the share of a chart in the square is its share in the surface.
        std::map<int, std::pair<double, double>> shares;
        for (std::size_t k = 0; k < t.count(); ++k) {
            auto& [inSquare, inSurface] = shares[chartsOf(g)[t.faceOf[k]]];
            inSquare += flatArea(uv[t.corners[k * 3]], uv[t.corners[k * 3 + 1]], uv[t.corners[k * 3 + 2]]) / flat;
            inSurface += measuredArea(g, t, k) / real;
        }
        for (const auto& [chart, share] : shares) QVERIFY(near(share.first, share.second, 1e-3));
        QCOMPARE(g.positions(), shape.positions());
        QCOMPARE(g.topology().cornerPoint(), shape.topology().cornerPoint());
    }

    void lessStretchMeansMoreCharts() {
        const Geometry ball = made("geodesic_sphere", {{"frequency", 12}});
        int last = 0;
        for (double most : {1.6, 1.2, 1.05}) {
            const int charts = chartCount(unwrapped(ball, {{"most_stretch", most}, {"angle", 180}}));
            QVERIFY(charts > last);
            last = charts;
            UnwrapOptions options;
            options.mostStretch = most;
            QVERIFY(unwrap(ball, options, RunContext()).stretch <= most);
        }
    }

    /// A flat ramp that winds up several turns lies over itself when it is laid flat in one: it must not stay one chart.
    void whatWouldLieOverItselfIsSplit() {
        const Geometry ramp =
            made("sweep", {{"form", "ribbon"}, {"width", 0.3}, {"columns", 2}}, {made("spiral", {{"turns", 3}, {"radius", 1}, {"rise", 0.5}})});
        const Geometry g = unwrapped(ramp, {{"most_stretch", 50}, {"angle", 180}});
        QVERIFY(chartCount(g) >= 2);
        QVERIFY(!coveredTwice(g, 20000));
        // The search itself: a bow tie of two strips crosses, a ring with a cut does not.
        const std::vector<std::array<Index, 3>> two{{0, 1, 2}, {3, 4, 5}};
        QVERIFY(borderCrosses(two, {{0, 0}, {4, 0}, {2, 1}, {1, -1}, {3, -1}, {2, 0.5}}));
        QVERIFY(!borderCrosses(two, {{0, 0}, {4, 0}, {2, 1}, {5, 0}, {6, 0}, {5, 1}}));
        QVERIFY(!borderCrosses(two, {{0, 0}, {4, 0}, {2, 1}, {4, 0}, {0, 0}, {2, -1}}));  // back to back
        const Geometry washer =
            unwrapped(made("fill_curve", Json::object(),
                           {made("merge", Json::object(), {made("polygon", {{"sides", 40}}), made("polygon", {{"sides", 30}, {"radius", 0.2}})})}));
        QCOMPARE(chartCount(washer), 1);
    }

    void facesThatAreNotChosenKeepTheirUv() {
        const Geometry box = made("box");
        const auto before = uvOf(box);
        const Geometry g = unwrapped(box, {{"where", {{"formula", "index < 2"}}}});
        for (Index c = 8; c < g.cornerCount(); ++c) QCOMPARE(uvOf(g)[c], before[c]);
        QCOMPARE(std::count(chartsOf(g).begin(), chartsOf(g).end(), -1), 4);
        QCOMPARE(chartCount(g), 2);
    }

    void chartsKeepTheirDistance() {
        // On each line across the square, what lies between two charts is at least the margin.
        const double margin = 0.02;
        const Geometry g = unwrapped(made("box", {{"size", {1, 2, 3}}}), {{"margin", margin}});
        const auto& uv = uvOf(g);
        std::vector<std::array<float, 4>> boxes;
        for (Index f = 0; f < g.faceCount(); ++f) {
            std::array<float, 4> b{9, 9, -9, -9};
            for (Index c = f * 4; c < f * 4 + 4; ++c) b = {std::min(b[0], uv[c].x), std::min(b[1], uv[c].y), std::max(b[2], uv[c].x), std::max(b[3], uv[c].y)};
            boxes.push_back(b);
            QVERIFY(b[0] >= margin * 0.999 && b[1] >= margin * 0.999 && b[2] <= 1 - margin * 0.999 && b[3] <= 1 - margin * 0.999);
        }
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (std::size_t k = i + 1; k < boxes.size(); ++k) {
                const double across = std::max(boxes[i][0], boxes[k][0]) - std::min(boxes[i][2], boxes[k][2]);
                const double up = std::max(boxes[i][1], boxes[k][1]) - std::min(boxes[i][3], boxes[k][3]);
                QVERIFY(std::max(across, up) >= margin * 0.999);
            }
    }

    void rectanglesThatLieSkewArePackedStraight() {
        std::vector<std::vector<Vec2>> charts;
        for (int i = 0; i < 12; ++i) {
            const float angle = float(i) * 0.3f, c = std::cos(angle), s = std::sin(angle);
            charts.emplace_back();
            for (Vec2 p : {Vec2{0, 0}, Vec2{2, 0}, Vec2{2, 1}, Vec2{0, 1}}) charts.back().push_back({p.x * c - p.y * s + 5, p.x * s + p.y * c - 7});
        }
        const ChartPacking packing = packCharts(charts, 0);
        QVERIFY(packing.side < 6.01);  // three beside each other, four rows
        for (std::size_t i = 0; i < charts.size(); ++i) {
            for (Vec2 p : charts[i]) {
                const Vec2 q = packing.places[i].of(p);
                QVERIFY(q.x > -1e-4 && q.y > -1e-4 && q.x < packing.side + 1e-4 && q.y < packing.side + 1e-4);
            }
            QVERIFY(near(std::hypot(packing.places[i].turn.x, packing.places[i].turn.y), 1, 1e-6));
        }
        QVERIFY(packCharts({}, 0.01).places.empty());
        QCOMPARE(packCharts({{}, {{1, 1}}, {{1, 1}, {1, 1}}}, 0.01).places.size(), 3u);
    }

    void brokenSurfacesDoNotStopIt() {
        // Three faces on one edge, a face without area, a face of unlike winding: charts end there.
        const Geometry odd = [] {
            Topology t(7, {0, 3, 6, 9, 12, 15}, {0, 1, 2, 1, 0, 3, 0, 1, 4, 2, 2, 2, 5, 6, 0}, {0}, {}, {});
            return Geometry({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {0, -1, 0}, {3, 0, 0}, {3, 0, 0}}, t);
        }();
        const OperatorOutcome out = runOp("uv_unwrap", Json::object(), {odd});
        QVERIFY(!out.failed);
        for (Vec2 p : uvOf(out.geometry)) QVERIFY(std::isfinite(p.x) && std::isfinite(p.y));
        QVERIFY(runOp("uv_unwrap", Json::object(), {made("line")}).failed);
        QVERIFY(runOp("uv_unwrap", {{"most_stretch", 0}}, {made("box")}).failed);
    }

private:
    static double measuredArea(const Geometry& g, const Triangles& t, std::size_t k) {
        const auto at = [&](std::size_t i) { return g.positions()[g.topology().cornerPoint()[t.corners[k * 3 + i]]]; };
        return double(length(cross(at(1) - at(0), at(2) - at(0)))) / 2;
    }
};

QTEST_APPLESS_MAIN(TestUnwrap)
#include "test_unwrap.moc"

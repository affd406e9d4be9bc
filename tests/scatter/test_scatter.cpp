// Points at random: how many, how even, where not, and what stays when something changes.
#include "geometry/Digest.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "scatter/Arrivals.h"
#include "scatter/PointGrid.h"
#include "scatter/Spacing.h"
#include "scatter/Streams.h"
#include "support/Chance.h"
#include "support/Run.h"

#include <tbb/global_control.h>

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

const std::vector<std::int32_t>& idsOn(const Geometry& g) { return *g.values<std::int32_t>(Element::point, "id"); }

/// Place by id.
std::map<std::int32_t, Vec3> byId(const Geometry& g) {
    std::map<std::int32_t, Vec3> out;
    for (std::size_t i = 0; i < g.pointCount(); ++i) out[idsOn(g)[i]] = g.positions()[i];
    return out;
}

/// The part of the points of `before` that are in `after` at the same place under the same id.
double kept(const Geometry& before, const Geometry& after) {
    const auto places = byId(after);
    std::size_t same = 0;
    for (const auto& [id, at] : byId(before)) {
        const auto it = places.find(id);
        same += it != places.end() && it->second == at;
    }
    return double(same) / double(before.pointCount());
}

double leastDistance(const std::vector<Vec3>& at, float reach) {
    const PointGrid grid(at, reach);
    double least = double(reach);
    for (Index i = 0; i < at.size(); ++i)
        grid.within(at[i], reach, [&](Index j) {
            if (j != i) least = std::min(least, double(distance(at[i], at[j])));
        });
    return least;
}

/// Σ (found − expected)² / expected over equal cells of a flat square from −half to half.
double chiSquare(const std::vector<Vec3>& at, int cells, float half) {
    std::vector<int> found(std::size_t(cells * cells), 0);
    for (Vec3 p : at) {
        const auto cell = [&](float v) { return std::clamp(int((v + half) / (2 * half) * float(cells)), 0, cells - 1); };
        ++found[std::size_t(cell(p.x) * cells + cell(p.z))];
    }
    const double expected = double(at.size()) / double(found.size());
    double sum = 0;
    for (int n : found) sum += (n - expected) * (n - expected) / expected;
    return sum;
}

constexpr double kChi99 = 148.2;  // one in a thousand is above this by chance, at 99 degrees of freedom

Geometry flat(int cells) { return made("grid", {{"size", {10, 10}}, {"cells", {cells, cells}}}); }

}  // namespace

class TestScatter : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void countIsExact_data() {
        QTest::addColumn<int>("count");
        for (int n : {0, 1, 2, 7, 100, 4321}) QTest::addRow("%d", n) << n;
    }
    void countIsExact() {
        QFETCH(int, count);
        for (const char* in : {"surface", "volume"}) {
            const Geometry out = made("scatter", {{"count", count}, {"in", in}}, {made("sphere")});
            QCOMPARE(int(out.pointCount()), count);
        }
        QCOMPARE(int(made("scatter", {{"count", count}, {"in", "along curves"}}, {made("spiral")}).pointCount()), count);
    }

    void pointsFillTheSurfaceEvenly_data() {
        QTest::addColumn<int>("cells");
        for (int n : {1, 13, 200}) QTest::addRow("%d cells", n) << n;
    }
    void pointsFillTheSurfaceEvenly() {
        QFETCH(int, cells);
        for (int seed : {0, 1, 2}) {
            const Geometry out = made("scatter", {{"count", 10000}, {"seed", seed}}, {flat(cells)});
            QVERIFY2(chiSquare(out.positions(), 10, 5) < kChi99, qPrintable(QString::number(chiSquare(out.positions(), 10, 5))));
        }
    }
    /// A surface of large and small faces gets no more points where faces are small.
    void faceSizesDoNotShow() {
        Geometry g = flat(30);
        std::vector<Vec3> at = g.positions();
        for (Vec3& p : at) p.x = 5 * std::copysign(std::pow(std::abs(p.x) / 5, 3.0f), p.x);
        g.setPositions(at);
        QVERIFY(chiSquare(made("scatter", {{"count", 10000}}, {g}).positions(), 10, 5) < kChi99);
    }

    void densityGivesThePointsItPromises() {
        for (int cells : {1, 20, 300}) {
            const Geometry out = made("scatter", {{"mode", "density"}, {"density", 40}}, {flat(cells)});
            QVERIFY2(std::abs(double(out.pointCount()) - 4000) < 40, qPrintable(QString::number(out.pointCount())));
        }
        // Twice the area, twice the points.
        const Geometry large = made("transform", {{"scale", {2, 1, 1}}}, {flat(20)});
        QVERIFY(std::abs(double(made("scatter", {{"mode", "density"}, {"density", 40}}, {large}).pointCount()) - 8000) < 80);
        const Geometry ball =
            made("scatter", {{"mode", "density"}, {"density", 900}, {"in", "volume"}}, {made("sphere", {{"radius", 1}, {"sides", 64}, {"rings", 48}})});
        QVERIFY2(std::abs(double(ball.pointCount()) - 900 * 4.18) < 60, qPrintable(QString::number(ball.pointCount())));
        const Geometry line = made("scatter", {{"mode", "density"}, {"density", 50}, {"in", "along curves"}}, {made("line", {{"length", 6}, {"points", 200}})});
        QVERIFY(std::abs(double(line.pointCount()) - 300) < 12);
    }
    /// A density that rises from one side to the other is followed, inside of one large face as well as over many.
    void densityMayDiffer() {
        for (int cells : {1, 40}) {
            const Geometry out = made("scatter", {{"mode", "density"}, {"density", {{"formula", "(position.x + 5) * 20"}}}}, {flat(cells)});
            QVERIFY(std::abs(double(out.pointCount()) - 10000) < 150);
            std::size_t left = 0;
            double error = 0;
            const auto& density = *out.values<float>(Element::point, "density");
            for (std::size_t i = 0; i < out.pointCount(); ++i) {
                left += out.positions()[i].x < 0;
                error = std::max(error, std::abs(double(density[i]) - (double(out.positions()[i].x) + 5) * 20));
            }
            QVERIFY2(std::abs(double(left) / double(out.pointCount()) - 0.25) < 0.015, qPrintable(QString::number(double(left))));
            QVERIFY(error < 0.01);
        }
    }

    void pointsLieOnTheSurface() {
        const Geometry ball = made("noise_displace", {{"amount", 0.2}, {"size", 0.5}}, {made("sphere")});
        const NearestPlace nearest(ball, NearestPlace::On::faces);
        for (const char* mode : {"count", "density", "spacing"})
            for (int relax : {0, 5}) {
                const Geometry out = made("scatter", {{"mode", mode}, {"count", 500}, {"density", 100}, {"spacing", 0.08}, {"relax", relax}}, {ball});
                QVERIFY(out.pointCount() > 50);
                for (Vec3 p : out.positions()) QVERIFY(nearest.find(p).squaredDistance < 1e-10f);
                for (Vec3 n : *out.values<Vec3>(Element::point, "normal")) QVERIFY(near(double(length(n)), 1, 1e-4));
            }
    }
    void volumePointsLieInside() {
        const Geometry torus = made("torus", {{"radius", 1}, {"tube", 0.3}});
        for (const char* mode : {"count", "density", "spacing"}) {
            const Geometry out =
                made("scatter", {{"mode", mode}, {"count", 500}, {"density", 200}, {"spacing", 0.15}, {"in", "volume"}, {"relax", 3}}, {torus});
            QVERIFY(out.pointCount() > 100);
            for (Vec3 p : out.positions()) {
                const float ring = std::sqrt(p.x * p.x + p.z * p.z) - 1;
                QVERIFY(std::sqrt(ring * ring + p.y * p.y) < 0.3001f);
            }
        }
    }

    void masksAreHonoured() {
        const Geometry tagged = made("tag", {{"name", "half"}, {"element", "face"}, {"where", {{"formula", "position.x > 0"}}}}, {flat(10)});
        for (const char* mode : {"count", "density", "spacing"}) {
            const Geometry out = made("scatter", {{"mode", mode}, {"count", 300}, {"spacing", 0.3}, {"where", {{"attribute", "half"}}}}, {tagged});
            QVERIFY(out.pointCount() > 100);
            for (Vec3 p : out.positions()) QVERIFY(p.x >= 0);
        }
        // Half a mask is half the points of a density, and of those that found room.
        const auto number = [&](const char* mode, double where) {
            return double(made("scatter", {{"mode", mode}, {"density", 40}, {"spacing", 0.2}, {"where", where}}, {flat(10)}).pointCount());
        };
        QVERIFY(std::abs(number("density", 0.5) / number("density", 1) - 0.5) < 0.03);
        QVERIFY(std::abs(number("spacing", 0.5) / number("spacing", 1) - 0.5) < 0.06);
        for (const char* in : {"surface", "volume"}) {
            const OperatorOutcome none = runOp("scatter", {{"where", 0}, {"in", in}, {"count", 5000}}, {made("sphere")});
            QVERIFY(!none.failed && none.geometry.pointCount() == 0);
        }
        // In a volume a count is exact, too, where only a corner of it may have points.
        const Geometry corner =
            made("scatter", {{"in", "volume"}, {"count", 700}, {"where", {{"formula", "position.x > 0.3 && position.y > 0.3"}}}}, {made("sphere")});
        QCOMPARE(corner.pointCount(), std::size_t(700));
        for (Vec3 p : corner.positions()) QVERIFY(p.x > 0.3f && p.y > 0.3f);
    }
    void paintingChoosesThePlaces() {
        const Json strokes{{{"points", {{0, 0, 0}, {2, 0, 0}}}, {"radius", 1.0}, {"strength", 1.0}, {"soft", 0.2}}};
        const Geometry out = made("scatter", {{"mode", "density"}, {"density", 100}, {"strokes", strokes}}, {flat(100)});
        QVERIFY(out.pointCount() > 500 && out.pointCount() < 800);
        for (Vec3 p : out.positions()) QVERIFY(length(p - Vec3{std::clamp(p.x, 0.0f, 2.0f), 0, 0}) < 1.15f);
        // More paint elsewhere leaves every point that is there.
        Json more = strokes;
        more.push_back({{"points", {{-3, 0, -3}}}, {"radius", 1.0}, {"strength", 1.0}});
        const Geometry painted = made("scatter", {{"mode", "density"}, {"density", 100}, {"strokes", more}}, {flat(100)});
        QVERIFY(painted.pointCount() > out.pointCount() + 150);
        QCOMPARE(kept(out, painted), 1.0);
    }

    void spacingIsKept_data() {
        QTest::addColumn<QString>("in");
        for (const char* in : {"surface", "volume", "along curves"}) QTest::newRow(in) << in;
    }
    void spacingIsKept() {
        QFETCH(QString, in);
        const Geometry ground =
            in == "along curves" ? made("spiral", {{"turns", 6}, {"radius", 1}, {"rise", 0.5}}) : made("sphere", {{"sides", 64}, {"rings", 40}});
        const double spacing = in == "volume" ? 0.12 : 0.05;
        const Geometry out = made("scatter", {{"mode", "spacing"}, {"spacing", spacing}, {"in", qPrintable(in)}}, {ground});
        QVERIFY(out.pointCount() > 50);
        const double least = leastDistance(out.positions(), float(spacing) * 2);
        QVERIFY2(least >= spacing * 0.9999, qPrintable(QString::number(least)));
    }
    /// Nothing is left where another point would fit: hardly any place of the surface is farther than the spacing from a point.
    void spacingFillsTheSurface() {
        const Geometry out = made("scatter", {{"mode", "spacing"}, {"spacing", 0.2}}, {flat(20)});
        const double packed = double(out.pointCount()) * 0.2 * 0.2 / 100;
        QVERIFY2(packed > 0.6 && packed < 0.72, qPrintable(QString::number(packed)));
        const NearestPlace nearest(out, NearestPlace::On::points);
        int far = 0;
        for (int i = 0; i < 4000; ++i) far += nearest.find({float(randomOf(i, 1) * 10 - 5), 0, float(randomOf(i, 2) * 10 - 5)}).squaredDistance > 0.2f * 0.2f;
        QVERIFY2(far < 100, qPrintable(QString::number(far)));
    }
    void spacingMayDiffer() {
        const Geometry out = made("scatter", {{"mode", "spacing"}, {"spacing", {{"formula", "0.1 + 0.05 * (position.x + 5)"}}}}, {flat(20)});
        const auto spacing = [](Vec3 p) { return 0.1f + 0.05f * (p.x + 5); };
        const auto& at = out.positions();
        std::size_t left = 0;
        for (std::size_t i = 0; i < at.size(); ++i) {
            left += at[i].x < 0;
            for (std::size_t j = 0; j < i; ++j) QVERIFY(distance(at[i], at[j]) > std::max(spacing(at[i]), spacing(at[j])) * 0.999f);
        }
        QVERIFY(left > at.size() * 6 / 10);
    }

    void relaxingEvensOut() {
        const auto nearestMean = [](const Geometry& g) {
            double sum = 0, squares = 0;
            const auto& at = g.positions();
            for (std::size_t i = 0; i < at.size(); ++i) {
                double least = 1e9;
                for (std::size_t j = 0; j < at.size(); ++j)
                    if (j != i) least = std::min(least, double(distance(at[i], at[j])));
                sum += least, squares += least * least;
            }
            const double mean = sum / double(at.size());
            return std::array{mean, std::sqrt(std::max(squares / double(at.size()) - mean * mean, 0.0))};
        };
        const auto plain = nearestMean(made("scatter", {{"count", 600}}, {flat(20)})),
                   even = nearestMean(made("scatter", {{"count", 600}, {"relax", 30}}, {flat(20)}));
        const double square = std::sqrt(100.0 / 600);
        QVERIFY2(even[0] > 0.80 * square && even[0] > 1.3 * plain[0], qPrintable(QStringLiteral("%1 %2").arg(even[0] / square).arg(plain[0] / square)));
        QVERIFY(even[1] / even[0] < 0.5 * plain[1] / plain[0]);
        QCOMPARE(made("scatter", {{"count", 600}, {"relax", 30}}, {flat(20)}).pointCount(), std::size_t(600));
    }

    void moreLeaveWhatIsThere() {
        for (const char* in : {"surface", "volume"}) {
            const Geometry few = made("scatter", {{"count", 200}, {"in", in}}, {made("sphere")}),
                           many = made("scatter", {{"count", 900}, {"in", in}}, {made("sphere")});
            for (std::size_t i = 0; i < few.pointCount(); ++i) QVERIFY(few.positions()[i] == many.positions()[i] && idsOn(few)[i] == idsOn(many)[i]);
        }
        const Geometry thin = made("scatter", {{"mode", "density"}, {"density", 3}}, {flat(12)}),
                       dense = made("scatter", {{"mode", "density"}, {"density", 50}}, {flat(12)});
        for (std::size_t i = 0; i < thin.pointCount(); ++i) QVERIFY(thin.positions()[i] == dense.positions()[i]);
    }
    /// Raising one corner of the ground moves only the points there; in count mode a few at the end of the order come or go.
    void aChangeElsewhereLeavesTheRest() {
        const Geometry ground = flat(20), changed = made("move_points", {{"by", {0, 1, 0}}, {"where", {{"formula", "position.x > 3.9"}}}}, {ground});
        for (const char* mode : {"density", "count", "spacing"}) {
            const Json settings{{"mode", mode}, {"density", 10}, {"count", 1000}, {"spacing", 0.25}};
            const Geometry before = made("delete", {{"of", "points"}, {"where", {{"formula", "position.x > 2.9"}}}}, {made("scatter", settings, {ground})});
            const double same = kept(before, made("scatter", settings, {changed}));
            QVERIFY2(same >= (std::string(mode) == "density" ? 1.0 : 0.93), qPrintable(QString::number(same)));
        }
    }
    /// With ids on the faces even a new order of faces changes nothing.
    void idsOfFacesHoldPoints() {
        Geometry ground = flat(8);
        std::vector<std::int32_t> ids(ground.faceCount());
        for (std::size_t f = 0; f < ids.size(); ++f) ids[f] = std::int32_t(f);
        ground.setColumn(Element::face, "id", Column(ids));
        const Geometry fewer = made("delete", {{"of", "faces"}, {"where", {{"formula", "id < 3"}}}}, {ground});
        const Json settings{{"mode", "density"}, {"density", 10}};
        const Geometry before = made("scatter", settings, {ground}), after = made("scatter", settings, {fewer});
        QVERIFY(after.pointCount() < before.pointCount() && after.pointCount() > before.pointCount() * 9 / 10);
        QCOMPARE(kept(after, before), 1.0);
    }
    void idsAreUnique() {
        for (int count : {1000, 200000}) {
            const Geometry out = made("scatter", {{"count", count}}, {flat(10)});
            QCOMPARE(std::set<std::int32_t>(idsOn(out).begin(), idsOn(out).end()).size(), std::size_t(count));
        }
        const std::vector<std::int32_t> same = idsOf(std::vector<std::uint64_t>(1000, 42));
        QCOMPARE(std::set<std::int32_t>(same.begin(), same.end()).size(), std::size_t(1000));
    }

    void attributesAreInherited() {
        Geometry g = made("formula", {{"text", "height = position.x * 2.0;"}}, {flat(4)});
        g.setColumn(Element::face, "plank", Column(std::vector<std::int32_t>(g.faceCount(), 7)));
        const Geometry out = made("scatter", {{"count", 50}}, {g});
        QVERIFY(out.values<Vec2>(Element::point, "uv"));
        QCOMPARE(out.values<std::int32_t>(Element::point, "plank")->at(3), 7);
        for (std::size_t i = 0; i < out.pointCount(); ++i)
            QVERIFY(near(double(out.values<float>(Element::point, "height")->at(i)), double(out.positions()[i].x) * 2, 1e-4));
    }
    void pointsKnowWhereAlongTheirCurveTheyAre() {
        const Geometry ring = made("polygon", {{"sides", 4}, {"radius", 1}}), line = made("line", {{"direction", {1, 0, 0}}, {"length", 4}, {"points", 5}});
        const Geometry onLine = made("scatter", {{"in", "along curves"}, {"count", 200}, {"relax", 2}}, {line});
        for (std::size_t i = 0; i < onLine.pointCount(); ++i) {
            QVERIFY(near(double(onLine.values<float>(Element::point, "along")->at(i)), (double(onLine.positions()[i].x) - double(line.positions()[0].x)) / 4,
                         1e-5));
            QVERIFY(length(onLine.values<Vec3>(Element::point, "tangent")->at(i) - Vec3{1, 0, 0}) < 1e-5f);
        }
        // Even over the closed curve, its last stretch included.
        const Geometry onRing = made("scatter", {{"in", "along curves"}, {"count", 400}}, {ring});
        std::array<int, 4> quarters{};
        for (float along : *onRing.values<float>(Element::point, "along")) ++quarters[std::min(std::size_t(along * 4), std::size_t(3))];
        for (int n : quarters) QVERIFY2(std::abs(n - 100) <= 2, qPrintable(QString::number(n)));
    }
    void insideTheNearestFaceCounts() {
        const Geometry g = made("tag", {{"name", "high"}, {"element", "face"}, {"where", {{"formula", "position.y > 0.75"}}}},
                                {made("box", {{"size", {1, 1, 1}}, {"anchor", "bottom"}, {"cells", {1, 2, 1}}})});
        for (int relax : {0, 5}) {
            const Geometry out = made("scatter", {{"in", "volume"}, {"count", 400}, {"relax", relax}}, {g});
            QVERIFY(!out.column(Element::point, "uv"));
            const auto& high = *out.values<std::uint8_t>(Element::point, "high");
            for (std::size_t i = 0; i < out.pointCount(); ++i)
                if (out.positions()[i].y < 0.45f) QCOMPARE(int(high[i]), 0);
            QVERIFY(std::count(high.begin(), high.end(), 1) > 40);
        }
        // A density may follow an attribute of the skin.
        const Geometry upper = made("scatter", {{"in", "volume"}, {"mode", "density"}, {"density", {{"formula", "high ? 500.0 : 0.0"}}}}, {g});
        QVERIFY(upper.pointCount() > 50);
        for (Vec3 p : upper.positions()) QVERIFY(p.y > 0.45f);
    }
    void theSecondOutputShowsTheDensity() {
        const OperatorOutcome out = runOp("scatter", {{"count", 500}}, {flat(4)});
        QCOMPARE(out.others.size(), std::size_t(1));
        QCOMPARE(out.others[0].faceCount(), std::size_t(16));
        QVERIFY(near(double(out.others[0].values<float>(Element::point, "density")->front()), 5, 1e-4));
    }

    void badInputIsTold() {
        // It takes what comes, unless somebody says what it is to be.
        QCOMPARE(digestOf(made("scatter", {}, {made("line")})), digestOf(made("scatter", {{"in", "along curves"}}, {made("line")})));
        QCOMPARE(lastCode(runOp("scatter", {{"in", "surface"}}, {made("line")})), std::string("scatter.no_faces"));
        QCOMPARE(lastCode(runOp("scatter", {}, {Geometry({{1, 2, 3}})})), std::string("scatter.no_faces"));
        QCOMPARE(lastCode(runOp("scatter", {{"in", "along curves"}}, {made("box")})), std::string("scatter.no_curves"));
        QCOMPARE(lastCode(runOp("scatter", {{"in", "volume"}}, {flat(2)})), std::string("scatter.open"));
        QCOMPARE(lastCode(runOp("scatter", {{"count", -1}}, {flat(2)})), std::string("setting.range"));
        QCOMPARE(lastCode(runOp("scatter", {{"mode", "spacing"}, {"spacing", 0}}, {flat(2)})), std::string("setting.range"));
        QCOMPARE(lastCode(runOp("scatter", {{"mode", "spacing"}, {"spacing", 0.00001}}, {flat(2)})), std::string("limit.elements"));
        QCOMPARE(lastCode(runOp("scatter", {{"mode", "density"}, {"density", 1e30}}, {flat(2)})), std::string("limit.elements"));
        // Places that are no numbers get no points.
        Geometry g = flat(4);
        std::vector<Vec3> at = g.positions();
        at[0].x = NAN;
        g.setPositions(at);
        for (const char* mode : {"count", "density", "spacing"}) {
            const OperatorOutcome out = runOp("scatter", {{"mode", mode}, {"count", 200}, {"spacing", 0.5}, {"relax", 2}}, {g});
            QVERIFY(!out.failed && out.geometry.pointCount() > 100);
            for (Vec3 p : out.geometry.positions()) QVERIFY(isFinite(p));
        }
    }
    void threadsDoNotMatter() {
        for (const char* in : {"surface", "volume"})
            for (const char* mode : {"count", "density", "spacing"}) {
                const Json settings{{"mode", mode}, {"in", in}, {"count", 3000}, {"density", 300}, {"spacing", 0.1}, {"relax", 3}};
                Digest digests[2];
                for (int k = 0; k < 2; ++k) {
                    const tbb::global_control threads(tbb::global_control::max_allowed_parallelism, std::size_t(k == 0 ? 1 : 4));
                    digests[k] = digestOf(made("scatter", settings, {made("sphere")}));
                }
                QCOMPARE(digests[0], digests[1]);
            }
    }

    void keptApartAgreesWithAPlainSearch() {
        Chance chance(5);
        std::vector<Vec3> at;
        std::vector<float> apart;
        for (int i = 0; i < 600; ++i)
            at.push_back({chance.number(-1, 1), chance.number(-1, 1), chance.number(-0.2, 0.2)}), apart.push_back(i % 7 == 0   ? 0.3f
                                                                                                                  : i % 3 == 0 ? 0.0f
                                                                                                                               : 0.01f * float(i % 11));
        std::vector<Index> order;
        for (Index i = 0; i < at.size(); ++i) order.push_back(Index((i * 7) % at.size()));
        const auto found = keptApart(at, apart, order, RunContext());
        std::vector<std::uint8_t> plain(at.size(), 0);
        for (Index i : order) {
            bool free = true;
            for (Index j = 0; j < at.size(); ++j) free &= !plain[j] || distance(at[i], at[j]) >= std::max(apart[i], apart[j]);
            plain[i] = free;
        }
        QCOMPARE(found, plain);
    }
    void gridAgreesWithAPlainSearch() {
        Chance chance(9);
        std::vector<Vec3> at;
        for (int i = 0; i < 500; ++i) at.push_back({chance.number(-1e4, 1e4), chance.number(-1, 1), chance.number(-1, 1)});
        at[17].y = NAN;
        const PointGrid grid(at, 0.4f);
        for (Index i = 0; i < 50; ++i) {
            std::set<Index> found, plain;
            if (i == 17) continue;
            grid.within(at[i], 0.9f, [&](Index j) { found.insert(j); });
            for (Index j = 0; j < at.size(); ++j)
                if (distance(at[i], at[j]) <= 0.9f) plain.insert(j);
            QCOMPARE(found, plain);
        }
    }
    /// Each block of 2ᵏ members has one in each of 2ᵏ equal stretches; pairs fill squares alike.
    void sequencesAreEven() {
        for (std::uint32_t seed : {1u, 77u, 123456u}) {
            std::set<int> stretches, across, squares;
            for (std::uint32_t i = 64; i < 128; ++i) {
                stretches.insert(int(evenly(i, seed) * 64));
                const auto [u, v] = evenlyInSquare(i, seed);
                across.insert(int(v * 64));
                squares.insert(int(u * 8) * 8 + int(v * 8));
            }
            QCOMPARE(stretches.size(), std::size_t(64));
            QCOMPARE(across.size(), std::size_t(64));
            QCOMPARE(squares.size(), std::size_t(64));
        }
    }
};

QTEST_APPLESS_MAIN(TestScatter)
#include "test_scatter.moc"

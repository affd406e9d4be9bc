// The searches and small sums that operators stand on, each against a plain way of doing the same.
#include "geometry/BoxTree.h"
#include "geometry/FlatRings.h"
#include "geometry/Groups.h"
#include "geometry/LeastOffset.h"
#include "geometry/MixPlan.h"
#include "geometry/NearestPlace.h"
#include "geometry/PlanarFill.h"
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "operators/Polyhedra.h"
#include "operators/curve/Chains.h"
#include "operators/curve/CurveFrames.h"
#include "support/Chance.h"
#include "support/Sound.h"

#include <fmt/format.h>
#include <map>
#include <numeric>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Box boxAround(Vec3 middle, Vec3 half) { return {middle - half, middle + half}; }

std::vector<Box> scattered(Chance& chance, std::size_t count) {
    std::vector<Box> out;
    for (std::size_t i = 0; i < count; ++i) out.push_back(boxAround(chance.place(), {chance.number(0, 0.1f), chance.number(0, 0.1f), chance.number(0, 0.1f)}));
    return out;
}
std::vector<Index> numbers(std::size_t count) {
    std::vector<Index> out(count);
    std::iota(out.begin(), out.end(), Index{0});
    return out;
}

}  // namespace

class TestKernels : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // ---- BoxTree

    void boxTreesFindAllAndOnlyMeetings() {
        Chance chance(3);
        const auto a = scattered(chance, 700), b = scattered(chance, 500);
        const BoxTree treeA(a, numbers(a.size())), treeB(b, numbers(b.size()));
        std::set<std::pair<Index, Index>> plain, found;
        for (Index i = 0; i < a.size(); ++i)
            for (Index k = 0; k < b.size(); ++k)
                if (a[i].meets(b[k])) plain.emplace(i, k);
        std::size_t calls = 0;
        BoxTree::pairs(treeA, treeB, [&](Index i, Index k) { found.emplace(i, k), ++calls; });
        QVERIFY(plain.size() > 100);
        QCOMPARE(found, plain);
        QCOMPARE(calls, plain.size());
        for (int i = 0; i < 100; ++i) {
            const Box asked = boxAround(chance.place(), {0.1f, 0.05f, 0.2f});
            std::set<Index> meeting, expected;
            treeA.meeting(asked, [&](Index k) { meeting.insert(k); });
            for (Index k = 0; k < a.size(); ++k)
                if (a[k].meets(asked)) expected.insert(k);
            QCOMPARE(meeting, expected);
        }
    }

    void boxTreesTakePartOfTheBoxes() {
        Chance chance(4);
        const auto boxes = scattered(chance, 90);
        const BoxTree some(boxes, {3, 41, 77}), none(boxes, {});
        std::set<Index> found;
        some.meeting(boxAround({}, {9, 9, 9}), [&](Index k) { found.insert(k); });
        QCOMPARE(found, (std::set<Index>{3, 41, 77}));
        QVERIFY(none.empty() && !some.empty());
        for (Index k : found) QVERIFY(some.bounds().low.x <= boxes[k].low.x && some.bounds().high.z >= boxes[k].high.z);
        none.meeting(boxAround({}, {9, 9, 9}), [](Index) { QFAIL("nothing is in it"); });
    }

    // ---- NearestPlace

    void nearestPlacesAreThoseOfASearchThroughAll_data() {
        QTest::addColumn<int>("on");
        QTest::newRow("points") << 0;
        QTest::newRow("curves") << 1;
        QTest::newRow("faces") << 2;
    }
    void nearestPlacesAreThoseOfASearchThroughAll() {
        QFETCH(int, on);
        const Geometry g = on == 1 ? made("spiral", {{"turns", 5}}) : made("noise_displace", {{"amount", 0.3}}, {geodesicBall(5)});
        const auto kind = NearestPlace::On(on);
        const NearestPlace search(g, kind);
        // Dense samples of everything there is are never nearer than what is found, and one of them is nearly as near.
        std::vector<Vec3> samples;
        const Topology& t = g.topology();
        if (kind == NearestPlace::On::points) samples = g.positions();
        for (std::size_t c = 0; c < g.curveCount(); ++c)
            for (std::size_t i = 0; i + 1 < t.curve(c).size(); ++i)
                for (int k = 0; k <= 20; ++k) samples.push_back(mix(g.positions()[t.curve(c)[i]], g.positions()[t.curve(c)[i + 1]], float(k) / 20));
        if (kind == NearestPlace::On::faces)
            for (std::size_t f = 0; f < g.faceCount(); ++f)
                for (int i = 0; i <= 12; ++i)
                    for (int k = 0; k + i <= 12; ++k) {
                        const auto p = t.face(f);
                        samples.push_back(g.positions()[p[0]] * (float(12 - i - k) / 12) + g.positions()[p[1]] * (float(i) / 12) +
                                          g.positions()[p[2]] * (float(k) / 12));
                    }
        Chance chance(11);
        Index start = 0;
        for (int i = 0; i < 200; ++i) {
            const Vec3 p = chance.place(2);
            const Place found = search.find(p), warm = search.find(p, start);
            start = found.part;
            QCOMPARE(warm.position, found.position);
            QCOMPARE(warm.element, found.element);
            float least = 1e9f;
            for (Vec3 s : samples) least = std::min(least, dot(s - p, s - p));
            QVERIFY(found.squaredDistance <= least * 1.0001f + 1e-7f);
            QVERIFY(std::sqrt(least) - std::sqrt(found.squaredDistance) < 0.06f);
            Vec3 mixed{};
            for (std::size_t k = 0; k < 3; ++k) mixed += g.positions()[found.points[k]] * found.weights[k];
            QVERIFY(length(mixed - found.position) < 1e-4f);
            QVERIFY(near(found.weights[0] + found.weights[1] + found.weights[2], 1, 1e-5));
        }
    }

    // ---- Weld

    void weldingAtNoDistanceIsByBits() {
        const float tiny = std::numeric_limits<float>::denorm_min(), nan = std::numeric_limits<float>::quiet_NaN();
        const std::vector<Vec3> places{{0, 0, 0}, {-0.0f, 0, -0.0f}, {tiny, 0, 0}, {1, 2, 3}, {nan, 0, 0}, {nan, 0, 0}, {1, 2, 3}, {0, 0, 0}};
        QCOMPARE(nearestEarlier(places, 0), (std::vector<Index>{0, 0, 2, 3, 4, 5, 3, 0}));
        const std::vector<std::uint8_t> joins{1, 0, 1, 1, 1, 1, 1, 1};
        QCOMPARE(nearestEarlier(places, 0, joins)[1], 1u);
        // Many points, many of them equal: against a map.
        Chance chance(5);
        std::vector<Vec3> many;
        for (int i = 0; i < 5000; ++i) many.push_back({float(chance.below(12)), float(chance.below(12)), float(chance.below(12))});
        const auto first = nearestEarlier(many, 0);
        std::map<std::array<float, 3>, Index> seen;
        for (Index i = 0; i < many.size(); ++i) QCOMPARE(first[i], seen.emplace(std::array{many[i].x, many[i].y, many[i].z}, i).first->second);
    }

    // ---- Groups, chains, rings

    void groupsAreNamedByTheirFirst() {
        Chance chance(6);
        Groups groups(500);
        std::vector<Index> plain = numbers(500);
        for (int i = 0; i < 400; ++i) {
            const Index a = chance.below(500), b = chance.below(500);
            groups.join(a, b);
            const Index from = std::max(plain[a], plain[b]), to = std::min(plain[a], plain[b]);
            std::replace(plain.begin(), plain.end(), from, to);
        }
        for (Index i = 0; i < 500; ++i) QCOMPARE(groups.find(i), plain[i]);
    }

    void chainsUseEveryStretchOnce() {
        Chance chance(7);
        std::vector<std::array<Index, 2>> stretches;
        for (int i = 0; i < 120; ++i) {
            const Index a = chance.below(90), b = chance.below(90);
            if (a != b) stretches.push_back({a, b});
        }
        std::multiset<std::pair<Index, Index>> wanted, found;
        std::vector<int> degree(90, 0);
        for (const auto& s : stretches) wanted.insert(std::minmax(s[0], s[1])), ++degree[s[0]], ++degree[s[1]];
        for (const Chain& chain : chainsOf(stretches, 90)) {
            for (std::size_t i = 0; i + 1 < chain.points.size() + chain.closed; ++i)
                found.insert(std::minmax(chain.points[i], chain.points[(i + 1) % chain.points.size()]));
            for (std::size_t i = 1; i + 1 < chain.points.size(); ++i) QCOMPARE(degree[chain.points[i]], 2);  // else it would have ended there
            if (!chain.closed) QVERIFY(degree[chain.points.front()] != 2 && degree[chain.points.back()] != 2);
        }
        QCOMPARE(found, wanted);
    }

    void ringsKnowWhatIsAroundThem() {
        // Squares within squares, a chain of seven, and some beside.
        std::vector<Vec3> at;
        std::vector<std::vector<Index>> rings;
        const auto square = [&](float x, float half) {
            rings.emplace_back();
            for (Vec3 corner : {Vec3{-1, 0, 1}, Vec3{1, 0, 1}, Vec3{1, 0, -1}, Vec3{-1, 0, -1}})
                rings.back().push_back(Index(at.size())), at.push_back(Vec3{x, 0, 0} + corner * half);
        };
        for (int i = 0; i < 7; ++i) square(0, float(7 - i));
        for (int i = 0; i < 4; ++i) square(20.0f + float(i) * 3, 1);
        const FlatRings flat(at, rings, {0, 1, 0});
        for (std::size_t r = 0; r < 7; ++r) {
            QCOMPARE(flat.around(r).size(), r);
            QVERIFY(near(std::abs(flat.area(r)), 4.0 * double(7 - r) * double(7 - r), 1e-4));
        }
        for (std::size_t r = 7; r < 11; ++r) QVERIFY(flat.around(r).empty());
    }

    void filledRingsCoverTheirAreaWhateverTheHoles() {
        Chance chance(8);
        for (int round = 0; round < 12; ++round) {
            // A wavy outline with a grid of wavy holes, every second of them left out.
            std::vector<Vec3> at;
            std::vector<std::vector<Index>> rings;
            double area = 0;
            const auto wavy = [&](Vec3 middle, float radius, bool hole) {
                const int n = 5 + int(chance.below(30));
                std::vector<Vec3> ring;
                for (int i = 0; i < n; ++i) {
                    const float angle = float(i) / float(n) * 6.2831853f * (hole ? -1.0f : 1.0f), r = radius * chance.number(0.7f, 1);
                    ring.push_back(middle + Vec3{std::cos(angle) * r, 0, -std::sin(angle) * r});
                }
                rings.emplace_back();
                for (std::size_t i = 0; i < ring.size(); ++i) {
                    rings.back().push_back(Index(at.size())), at.push_back(ring[i]);
                    const Vec3 a = ring[i] - middle, b = ring[(i + 1) % ring.size()] - middle;
                    area += double(a.z * b.x - a.x * b.z) / 2;
                }
            };
            wavy({}, 10, false);
            for (int x = -1; x <= 1; ++x)
                for (int z = -1; z <= 1; ++z)
                    if ((x + z + round) % 2) wavy({float(x) * 3, 0, float(z) * 3}, 1.2f, true);
            double filled = 0;
            for (const FilledFace& face : fillRings(at, rings, {0, 1, 0})) {
                QCOMPARE(face.outline, 0u);
                double own = 0;
                for (std::size_t i = 1; i + 1 < face.points.size(); ++i) {
                    const Vec3 n = cross(at[face.points[i]] - at[face.points[0]], at[face.points[i + 1]] - at[face.points[0]]);
                    own += double(n.y) / 2;
                }
                QVERIFY2(own > -1e-6, fmt::format("{}", own).c_str());
                filled += own;
            }
            QVERIFY(near(filled / area, 1, 1e-4));
        }
    }

    // ---- Offsets, mixes, frames

    void leastOffsetsKeepTheirDistances() {
        Chance chance(12);
        for (int i = 0; i < 200; ++i) {
            LeastOffset offset;
            std::vector<std::pair<Vec3, float>> wanted;
            for (int k = 0; k < 3; ++k) {
                wanted.emplace_back(normalized(chance.place()), chance.number(0.1f, 1));
                offset.add(wanted.back().first, double(wanted.back().second));
            }
            if (std::abs(dot(wanted[0].first, cross(wanted[1].first, wanted[2].first))) < 0.3f) continue;  // nearly in one plane: no exact answer near by
            const Vec3 by = offset.solve(1e6);
            for (const auto& [n, distance] : wanted) QVERIFY(near(double(dot(n, by)), double(distance), 1e-3));
        }
        LeastOffset flat;
        flat.add({0, 1, 0}, 0.5), flat.add({0, 1, 0}, 0.5);
        QVERIFY(length(flat.solve(10) - Vec3{0, 0.5f, 0}) < 1e-4f);  // the shortest that does it
        QVERIFY(near(double(length(flat.solve(0.1))), 0.1, 1e-6));
        QCOMPARE(LeastOffset().solve(10), Vec3{});
    }

    void mixedRowsAreCopiesOrWeightedSums() {
        RowMix rows;
        rows.add(2);
        rows.add(0, 1, 0.25f);
        rows.part(0, 0.2f).part(1, 0.5f).part(2, 0.3f).close();
        rows.again(1);
        QCOMPARE(rows.size(), 4u);
        const auto odd = Column(std::vector<float>{0.1f, 1.0f / 3, 7.7f});
        const auto mixed = *rows.apply(odd).as<float>();
        QCOMPARE(mixed[0], 7.7f);  // bit for bit
        QVERIFY(near(double(mixed[1]), 0.75 * 0.1 + 0.25 / 3, 1e-6) && near(double(mixed[2]), 0.02 + 0.5 / 3 + 2.31, 1e-5) && mixed[3] == mixed[1]);
        QCOMPARE(*rows.apply(Column(std::vector<std::string>{"a", "b", "c"})).as<std::string>(), (std::vector<std::string>{"c", "a", "b", "a"}));
        QCOMPARE(*rows.apply(Column(std::vector<std::int32_t>{5, 6, 7})).as<std::int32_t>(), (std::vector<std::int32_t>{7, 5, 6, 5}));
        QCOMPARE(rows.heaviest(), (std::vector<Index>{2, 0, 1, 0}));
        rows.dropLast();
        QCOMPARE(rows.size(), 3u);
    }

    void framesAreUprightAndMeetAtTheSeam_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        QTest::newRow("spiral") << "spiral"
                                << R"({"turns": 6})";
        QTest::newRow("ring") << "polygon"
                              << R"({"sides": 64})";
        QTest::newRow("knot") << "point_list"
                              << R"({"join": "closed curve", "points": [[1,0,0],[0.3,0.6,0.4],[-0.9,0.1,0.3],[-0.2,-0.7,-0.4],[0.6,0.5,-0.6],[-0.5,0.4,0.8]]})";
        QTest::newRow("straight") << "line"
                                  << R"({"points": 9})";
    }
    void framesAreUprightAndMeetAtTheSeam() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        const Geometry g = made("resample", {{"count", 200}, {"form", "smooth"}}, {made(op.toUtf8().constData(), Json::parse(settings.toStdString()))});
        const CurveFrames frames = framesOf(g, 0, {0, 1, 0});
        const std::size_t n = frames.tangent.size();
        const bool closed = g.topology().curveClosed(0);
        QCOMPARE(n, g.topology().curve(0).size());
        for (std::size_t i = 0; i < n; ++i) {
            QVERIFY(near(double(length(frames.tangent[i])), 1, 1e-4) && near(double(length(frames.up[i])), 1, 1e-4));
            QVERIFY(std::abs(dot(frames.tangent[i], frames.up[i])) < 1e-4f);
            QVERIFY(length(cross(frames.tangent[i], frames.up[i]) - frames.side[i]) < 1e-3f);
            if (i > 0) QVERIFY(frames.along[i] > frames.along[i - 1]);
            // From place to place up turns no more than the curve and the spread of a turn at the seam ask for.
            const auto between = [](Vec3 a, Vec3 b) { return std::acos(std::clamp(dot(a, b), -1.0f, 1.0f)); };
            const std::size_t before = (i + n - 1) % n;
            if (i > 0 || closed) QVERIFY(between(frames.up[i], frames.up[before]) < between(frames.tangent[i], frames.tangent[before]) + 0.05f);
        }
        QCOMPARE(frames.along.front(), 0.0f);
        QVERIFY(near(frames.length, curveLength(g, 0), 1e-4));
    }
};

QTEST_APPLESS_MAIN(TestKernels)
#include "test_kernels.moc"

// Beads: shapes set end to end along a curve.
#include "geometry/NearestPlace.h"
#include "support/Copies.h"
#include "support/Run.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

class TestBeads : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void beadsTouchEndToEnd() {
        const Geometry curve = made("resample", {{"mode", "count"}, {"count", 300}}, {made("spiral", {{"turns", 2}, {"radius", 1}, {"rise", 0.6}})});
        const Geometry out = madeOf("beads", {{curve}, {box(0.2, 0.1, 0.1), box(0.05, 0.15, 0.15)}}, {{"pattern", "A B B"}});
        QVERIFY(out.copyCount() > 60);
        const float lengths[] = {0.2f, 0.05f, 0.05f};
        const NearestPlace line(curve, NearestPlace::On::curves);
        Vec3 end{};
        for (std::size_t i = 0; i < out.copyCount(); ++i) {
            const Affine& place = out.copies()->place[i];
            const float half = lengths[i % 3] / 2;
            const Vec3 from = place.point({-half, 0, 0}), to = place.point({half, 0, 0});
            QVERIFY(near(place.determinant(), 1, 1e-4));
            if (i > 0) QVERIFY(distance(from, end) < 1e-4f);
            QVERIFY(line.find(to).squaredDistance < 1e-8f);
            end = to;
            QCOMPARE(ofCopies<std::int32_t>(out, "shape")[i], std::int32_t(i % 3 ? 1 : 0));
        }
        const double length = curveLength(curve, 0), used = double(ofCopies<float>(out, "along").back()) * length;
        QVERIFY(length - used < 0.35);
    }

    /// Whatever runs along the curve, the bead is turned, not mirrored, and reaches from end to end.
    void beadsRunAlongAnyAxis() {
        const Geometry line = made("line", {{"direction", {1, 1, 0.3}}, {"length", 2}});
        const Vec3 way = normalized(Vec3{1, 1, 0.3f});
        for (int axis = 0; axis < 3; ++axis) {
            const Geometry bead = box(axis == 0 ? 0.5 : 0.1, axis == 1 ? 0.5 : 0.1, axis == 2 ? 0.5 : 0.1);
            const Geometry out = madeOf("beads", {{line}, {bead}}, {{"axis", std::string(1, char('x' + axis))}});
            QCOMPARE(out.copyCount(), std::size_t(4));
            for (const Affine& place : out.copies()->place) {
                QVERIFY(near(place.determinant(), 1, 1e-4));
                Vec3 along{};
                along[axis] = 1;
                QVERIFY(length(place.vector(along) - way) < 1e-4f);
            }
        }
    }

    void beadsFillTheCurveWhereAsked() {
        const Geometry line = made("line", {{"direction", {1, 0, 0}}, {"length", 3.1}});
        const Geometry out = madeOf("beads", {{line}, {box(0.5, 0.1, 0.1)}}, {{"stretch_to_fit", true}});
        QCOMPARE(out.copyCount(), std::size_t(6));
        const Bounds bounds = boundsOf(out);
        QVERIFY(near(double(bounds.size().x), 3.1, 1e-4));
        QVERIFY(near(double(bounds.size().y), 0.1, 1e-5));
        const Geometry ring = made("polygon", {{"sides", 64}, {"radius", 1}});
        const Geometry around = madeOf("beads", {{ring}, {box(0.3, 0.1, 0.1)}}, {{"stretch_to_fit", true}, {"gap", 0.02}});
        QCOMPARE(around.copyCount(), std::size_t(20));
        const auto& places = around.copies()->place;
        const double first = double(distance(places[0].move, places[1].move)), last = double(distance(places[0].move, places.back().move));
        QVERIFY2(std::abs(first - last) < 2e-3, qPrintable(QStringLiteral("%1 %2").arg(first).arg(last)));
        const Geometry gaps = madeOf("beads", {{line}, {box(0.5, 0.1, 0.1)}}, {{"gap", 0.1}});
        QCOMPARE(gaps.copyCount(), std::size_t(5));
        QVERIFY(near(double(gaps.copies()->place[1].move.x - gaps.copies()->place[0].move.x), 0.6, 1e-5));
    }

    void wrongBeadsAreTold() {
        const Geometry line = made("line");
        const auto code = [&](std::vector<Geometry> beads, const Json& settings) { return lastCode(runPorts("beads", {{line}, std::move(beads)}, settings)); };
        QCOMPARE(code({box()}, {{"pattern", "A C"}}), std::string("beads.pattern"));
        QCOMPARE(code({box()}, {{"pattern", "A 1"}}), std::string("beads.pattern"));
        QCOMPARE(code({made("grid")}, {{"axis", "y"}}), std::string("beads.flat"));
        QCOMPARE(code({box(9, 9, 9)}, {}), std::string("beads.no_room"));
        Limits few;
        few.elements = 1000;
        QCOMPARE(lastCode(runPorts("beads", {{line}, {box(1e-5, 1, 1)}}, Json::object(), few)), std::string("limit.elements"));
        QCOMPARE(lastCode(runPorts("beads", {{box()}, {box()}})), std::string("curve.none"));
    }

    /// Lengths that add up to the curve's lose no bead to rounding.
    void beadsThatJustFitAllFit() {
        for (const auto& [length, bead, count] : {std::tuple{2.0, 0.2, 10u}, {1.0, 0.1, 10u}, {3.0, 0.3, 10u}, {7.0, 0.07, 100u}, {0.9, 0.3, 3u}}) {
            const Geometry line = made("line", {{"length", length}, {"points", 2}});
            const Geometry out = madeOf("beads", {{line}, {box(float(bead), 0.05f, 0.05f)}});
            QVERIFY2(out.copyCount() == count, qPrintable(QString("%1 of %2 on %3").arg(out.copyCount()).arg(bead).arg(length)));
        }
        // One that is a hundredth too long is too long.
        QCOMPARE(madeOf("beads", {{made("line", {{"length", 1.99}, {"points", 2}})}, {box(0.2f, 0.05f, 0.05f)}}).copyCount(), 9u);
        const Geometry ring = made("polygon", {{"sides", 4}, {"radius", std::sqrt(0.5)}});
        QCOMPARE(madeOf("beads", {{ring}, {box(0.25f, 0.02f, 0.02f)}}).copyCount(), 16u);
    }
};

QTEST_APPLESS_MAIN(TestBeads)
#include "test_beads.moc"

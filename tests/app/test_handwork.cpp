// Shaping by hand on the stage, and planes drawn as lines across the view.
#include "WindowTest.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/widgets/EntryList.h"
#include "support/Looms.h"

#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

class TestHandwork : public WindowTest {
    Q_OBJECT

private:
    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    QPoint middle() { return {stage()->width() / 2, stage()->height() / 2}; }
    Json strokes() { return loom().node("it")->settings.value("strokes", Json::array()); }
    StrokesField* field() { return window_->settings()->strokes(); }
    void does(const char* mode) {
        QTest::mouseClick(field()->findChild<QToolButton*>(QStringLiteral("brush_mode_%1").arg(QLatin1String(mode))), Qt::LeftButton);
    }
    double highest() { return double(boundsOf(output().positions()).max.z); }

    /// A ball of 1 m into the node, which is chosen and seen from the front without perspective.
    void showing(const std::string& op, Json settings = Json::object()) {
        Loom loom;
        loom.nodes = {node("ball", "geodesic_sphere", {0, 0}, {{"radius", 1}, {"frequency", 16}}), node("it", op, {1, 0}, std::move(settings)),
                      node("out", "output", {2, 0})};
        loom.links = {linked("it", "out"), linked("ball", "it")};
        loom.output = "out";
        document().adopt(std::move(loom));
        waitFresh();
        weave()->setMotion(false);
        run("whole_weave");
        click("it");
        QTRY_VERIFY(stage()->mesh());
        StageCamera camera;
        camera.yaw = 0, camera.pitch = 0, camera.distance = 6, camera.flat = true, camera.target = {};
        for (int calm = 0; calm < 4; ++calm) {
            stage()->setCamera(camera);
            QTest::qWait(30);
        }
        QCOMPARE(stage()->camera().distance, camera.distance);
    }
    void stroke(QPoint from, QPoint to) {
        QTest::mousePress(overlay(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 8; ++i) QTest::mouseMove(overlay(), from + (to - from) * i / 8);
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, to);
        waitFresh();
    }
    double metre() { return 1 / stage()->camera().metresPerPixel(stage()->size()); }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    void brushesShapeTheBall() {
        showing("hand_shape");
        QTRY_VERIFY(field());
        QCOMPARE(field()->paintButton()->text(), QStringLiteral("Shape"));
        QTest::mouseClick(field()->paintButton(), Qt::LeftButton);
        QVERIFY(stage()->brush() && stage()->brush()->grabs());
        // What is shaped is seen as it is, not as a mask.
        QVERIFY(stage()->tools()->look().shading != Shading::attribute);
        field()->setRadius(0.5);
        QVERIFY(std::abs(highest() - 1) < 0.01);
        does("push");
        stroke(middle() - QPoint(20, 0), middle() + QPoint(20, 0));
        QCOMPARE(strokes().size(), std::size_t(1));
        QCOMPARE(strokes()[0]["mode"], Json("push"));
        const double dent = highest();
        QVERIFY2(dent < 0.95, qPrintable(QString::number(dent)));
        // Letting go is one step back.
        undo();
        waitFresh();
        QVERIFY(strokes().empty() && std::abs(highest() - 1) < 0.01);
        // Grab: what is under the hand goes with it, in the plane that faces the eye.
        does("grab");
        const QPoint rim = middle() + QPoint(int(0.85 * metre()), 0);
        stroke(rim, rim + QPoint(int(0.4 * metre()), 0));
        QCOMPARE(strokes().size(), std::size_t(1));
        QCOMPARE(strokes()[0]["points"].size(), std::size_t(2));
        const double moved = strokes()[0]["points"][1][0].get<double>() - strokes()[0]["points"][0][0].get<double>();
        QVERIFY(std::abs(moved - 0.4) < 0.03);
        QVERIFY(std::abs(strokes()[0]["points"][1][2].get<double>() - strokes()[0]["points"][0][2].get<double>()) < 1e-4);
        const double wide = double(boundsOf(output().positions()).max.x);
        QVERIFY2(wide > 1 + 0.6 * moved && wide < 1.4, qPrintable(QString::number(wide)));
        // A click that takes nothing along is no stroke.
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, middle());
        QCOMPARE(strokes().size(), std::size_t(1));
        // Beside the model the view turns.
        const Vec3 eye = stage()->camera().toEye();
        stroke({20, stage()->height() - 60}, {60, stage()->height() - 60});
        QVERIFY(!(stage()->camera().toEye() == eye) && strokes().size() == 1);
    }

    /// While a stroke goes on it touches the model as it was when the hand came down: it does not dig itself in.
    void strokesDoNotDigThemselvesIn() {
        showing("hand_shape");
        QTest::mouseClick(field()->paintButton(), Qt::LeftButton);
        field()->setRadius(0.4);
        does("push");
        const Loom untouched = loom();
        QTest::mousePress(overlay(), Qt::LeftButton, {}, middle());
        for (int i = 1; i <= 40; ++i) {
            QTest::mouseMove(overlay(), middle() + QPoint(i % 2 == 0 ? 40 : -40, 0));
            if (i % 10 == 0) waitFresh();
            QVERIFY(loom() == untouched);
        }
        waitFresh();
        QTRY_VERIFY(highest() < 0.97);
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, middle());
        waitFresh();
        for (const Json& place : strokes()[0]["points"]) {
            const double away = std::hypot(place[0].get<double>(), place[1].get<double>(), place[2].get<double>());
            QVERIFY2(std::abs(away - 1) < 0.01, qPrintable(QString::number(away)));
        }
    }

    void strokesAreListed() {
        const Json one = Json::parse(R"({"points": [[0, 0, 1, 0, 0, 1], [0.2, 0, 0.98, 0.2, 0, 0.98]], "radius": 0.5, "strength": 1, "mode": "pull"})"),
                   other = Json::parse(R"({"points": [[1, 0, 0, 1, 0, 0]], "radius": 0.5, "strength": 1, "mode": "push", "mirror": "x"})");
        showing("hand_shape", {{"strokes", {one, other}}});
        EntryList* list = field()->list();
        QCOMPARE(list->count(), 2);
        QVERIFY2(list->item(0)->text().contains(QStringLiteral("Pull")) && list->item(0)->text().contains(QStringLiteral("0.5 m")),
                 qPrintable(list->item(0)->text()));
        QVERIFY(list->item(1)->text().contains(QStringLiteral("mirrored")));
        const auto lines = stage()->handleSet().drawn.size();
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(0)).center());
        QTRY_COMPARE(stage()->handleSet().drawn.size(), lines + 1);
        const double pulled = highest();
        QVERIFY(pulled > 1.1);
        // Left out, it is kept.
        QTest::keyClick(list, Qt::Key_Space);
        waitFresh();
        QVERIFY(strokes()[0]["hidden"].get<bool>() && highest() < 1.01);
        QTest::keyClick(list, Qt::Key_Space);
        waitFresh();
        QCOMPARE(strokes()[0], one);
        QCOMPARE(highest(), pulled);
        // Removed is the chosen one.
        QTest::keyClick(list, Qt::Key_Delete);
        waitFresh();
        QCOMPARE(strokes(), Json::array({other}));
        undo();
        QCOMPARE(strokes(), (Json{one, other}));
        QTest::keyClick(list, Qt::Key_Escape);
        QTRY_COMPARE(stage()->handleSet().drawn.size(), lines);
    }

    void aLineAcrossTheViewCuts() {
        showing("plane_cut", {{"keep", "above"}});
        QToolButton* draw = window_->settings()->planeButton();
        QVERIFY(draw);
        QTest::mouseClick(draw, Qt::LeftButton);
        QVERIFY(stage()->brush() && stage()->brush()->plane == Brush::kView);
        // What is cut away is seen faintly meanwhile.
        QTRY_VERIFY_WITH_TIMEOUT(stage()->ghostMesh(), 10000);
        const auto steps = document().history().index();
        // From left to right, a quarter of a metre above the middle: what lies to the left of the way is kept.
        const int up = int(0.25 * metre());
        stroke(middle() - QPoint(200, up), middle() + QPoint(200, -up));
        QCOMPARE(document().history().index(), steps + 1);
        const auto vector = [&](const char* setting) {
            const Json v = loom().node("it")->settings.value(setting, Json{0, 1, 0});
            return Vec3{v[0].get<float>(), v[1].get<float>(), v[2].get<float>()};
        };
        QVERIFY(length(vector("normal") - Vec3{0, 1, 0}) < 0.01f);
        QVERIFY(std::abs(vector("origin").y - 0.25f) < 0.02f);
        QVERIFY(std::abs(boundsOf(output().positions()).min.y - 0.25f) < 0.02f);
        // The other way round the other side.
        stroke(middle() + QPoint(200, -up), middle() - QPoint(200, up));
        QVERIFY(length(vector("normal") - Vec3{0, -1, 0}) < 0.01f);
        QVERIFY(std::abs(boundsOf(output().positions()).max.y - 0.25f) < 0.02f);
        // Straight away from the eye, whatever the view: the line is seen on edge.
        StageCamera camera = stage()->camera();
        camera.yaw = 0.6, camera.pitch = 0.4, camera.flat = false;
        stage()->setCamera(camera);
        stroke(middle() + QPoint(-150, 90), middle() + QPoint(160, -40));
        const Vec3 n = vector("normal"), ray = stage()->camera().ray(middle() + QPoint(-150, 90), stage()->size()),
                   eye = stage()->camera().rayStart(middle(), stage()->size());
        QVERIFY(std::abs(dot(n, ray)) < 1e-3f);
        QVERIFY(std::abs(dot(n, normalized(eye - vector("origin")))) < 2e-3f);
        // What a formula sets stays.
        document().apply(setSetting(loom(), "it", "normal", {{"formula", "vec3(0, 1, 0)"}}));
        waitFresh();
        if (QToolButton* again = window_->settings()->planeButton(); !again->isChecked()) again->setChecked(true);
        stroke(middle() + QPoint(-150, 90), middle() + QPoint(160, -40));
        QVERIFY(loom().node("it")->settings.at("normal").is_object());
        QTest::keyClick(stage(), Qt::Key_Escape);
        QVERIFY(!stage()->brush() && !window_->settings()->planeButton()->isChecked());
    }
};

int main(int argc, char** argv) { return runWindowTest<TestHandwork>(argc, argv); }
#include "test_handwork.moc"

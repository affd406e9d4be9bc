// Handles on the stage, dragged by the mouse, and curves drawn with the pen.
#include "WindowTest.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/EntryList.h"
#include "app/widgets/LinesField.h"
#include "app/workplaces/NodeHandles.h"
#include "support/Looms.h"

#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

class TestHandles : public WindowTest {
    Q_OBJECT

private:
    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    /// A box of 2 × 1 × 1 m into the node, which is chosen and shown from the front.
    void showing(const std::string& op, Json settings = Json::object(), bool fed = true) {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}, {{"size", {2, 1, 1}}}), node("it", op, {1, 0}, std::move(settings)), node("out", "output", {2, 0})};
        loom.links = {linked("it", "out")};
        if (fed) loom.links.push_back(linked("box", "it"));
        loom.output = "out";
        document().adopt(std::move(loom));
        waitFresh();
        weave()->setMotion(false);
        run("whole_weave");
        click("it");
        QTRY_VERIFY(stage()->mesh() || !fed);
        StageCamera camera;
        camera.yaw = 0, camera.pitch = 0, camera.distance = 6;
        camera.flat = true;
        // A new document is framed as it comes in; only then the view stays where it is put.
        for (int calm = 0; calm < 4;) {
            stage()->setCamera(camera);
            QTest::qWait(30);
            calm = stage()->camera().distance == camera.distance && stage()->camera().yaw == camera.yaw && stage()->camera().target == camera.target ? calm + 1
                                                                                                                                                     : 0;
        }
    }
    Vec3 vector(const char* setting) {
        const Json& v = loom().node("it")->settings.at(setting);
        return {v[0].get<float>(), v[1].get<float>(), v[2].get<float>()};
    }
    double number(const char* setting) { return loom().node("it")->settings.at(setting).get<double>(); }
    int handle(const QString& name) {
        const auto& names = stage()->handleSet().name;
        return int(std::find(names.begin(), names.end(), name) - names.begin());
    }
    void dragHandle(const QString& name, QPoint by) {
        const int i = handle(name);
        QVERIFY2(i < int(stage()->handles().size()), qPrintable(name));
        QVERIFY(overlay()->rect().contains(stage()->handlePixel(i)));
        const QPoint from = stage()->handlePixel(i);
        drag(overlay(), from, from + by);
        waitFresh();
    }
    QPoint pixelsFor(double x, double y) {
        const double metre = 1 / stage()->camera().metresPerPixel(stage()->size());
        return QPointF(x * metre, -y * metre).toPoint();
    }

private Q_SLOTS:
    void init() {
        window_ = std::make_unique<MainWindow>();
        showWindow();
    }
    void cleanup() {
        document().startNew();
        window_.reset();
    }

    /// Lines as they cut: what was drawn in full, and dashed what was drawn on to the border.
    void linesThatCutAreSeen() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}, {{"size", {2, 1, 1}}}), node("line", "point_list", {0, 1}, {{"points", {{-0.4, 0.5, 0}, {0.4, 0.5, 0}}}}),
                      node("it", "cut_along_curves", {1, 0}, {{"direction", {0, -1, 0}}}), node("out", "output", {2, 0})};
        loom.links = {linked("box", "it"), {"line", "", "it", "curves", Json::object()}, linked("it", "out")};
        loom.output = "out";
        document().adopt(std::move(loom));
        waitFresh();
        weave()->choose("it");
        QTRY_COMPARE(stage()->handleSet().drawn.size(), std::size_t(1));
        const auto& drawn = stage()->handleSet().drawn[0];
        QVERIFY(std::abs(drawn[0].x + 0.4f) < 1e-5f && std::abs(drawn[1].x - 0.4f) < 1e-5f);
        float least = 0, most = 0;
        for (const auto& line : stage()->handleSet().lines)
            for (Vec3 p : line) {
                QVERIFY(std::abs(p.x) >= 0.4f - 1e-5f && std::abs(p.z) < 1e-5f);
                least = std::min(least, p.x), most = std::max(most, p.x);
            }
        QVERIFY(least < -1 && most > 1);
        document().apply(setSettings(document().loom(), {"it"}, "extend", false));
        waitFresh();
        QTRY_VERIFY(stage()->handleSet().lines.empty());
        QCOMPARE(stage()->handleSet().drawn.size(), std::size_t(1));
        weave()->choose("box");
        QTRY_VERIFY(stage()->handleSet().drawn.empty());
    }

    void aTransformIsMovedAndScaled() {
        showing("transform");
        QCOMPARE(stage()->handles().size(), std::size_t(4));
        dragHandle("Move", pixelsFor(0.5, 0.25));
        QVERIFY2(distance(vector("move"), {0.5f, 0.25f, 0}) < 0.02f, loom().node("it")->settings.get().dump().c_str());
        QVERIFY(std::abs(double(boundsOf(output().positions()).centre().x) - 0.5) < 0.02);
        const auto steps = document().history().index();
        dragHandle("Scale x", pixelsFor(1, 0));
        QVERIFY(std::abs(double(vector("scale").x) - 2) < 0.03 && vector("scale").y == 1);
        // A drag is one step back.
        QCOMPARE(document().history().index(), steps + 1);
        undo();
        QVERIFY(std::abs(double(boundsOf(output().positions()).size().x) - 2) < 1e-5);
    }

    void aPlaneCutIsMovedAndTurned() {
        showing("plane_cut", Json{{"normal", {0, 1, 0}}});
        const double whole = 2, before = double(signedVolume(output()));
        QVERIFY(before > 0.4 * whole && before < 0.6 * whole);
        dragHandle("Origin", pixelsFor(0, 0.25));
        QVERIFY(std::abs(double(vector("origin").y) - 0.25) < 0.02);
        QVERIFY(std::abs(std::abs(double(signedVolume(output())) - before) - 0.5) < 0.05);
        // The tip of the normal is drawn to the side.
        const int i = handle("Normal");
        const QPoint from = stage()->handlePixel(handle("Origin")), tip = stage()->handlePixel(i);
        dragHandle("Normal", from + QPoint(tip.manhattanLength() > 0 ? 150 : 0, 0) - tip);
        QVERIFY(std::abs(vector("normal").x) > 0.95f * length(vector("normal")));
    }

    void mirrorBendAndFitSlide() {
        showing("mirror", {{"plane", "x"}, {"offset", 1.5}});
        dragHandle("Mirror plane", pixelsFor(0.5, 0.3));
        QVERIFY2(std::abs(loom().node("it")->settings.value("offset", 0.0) - 2) < 0.02, loom().node("it")->settings.get().dump().c_str());
        showing("fit", {{"size", {2, 1, 1}}});
        dragHandle("Size x", pixelsFor(0.5, 0));
        QVERIFY(std::abs(double(boundsOf(output().positions()).size().x) - 3) < 0.04);
        showing("bend", {{"axis", "y"}, {"angle", 30}});
        const double before = number("angle");
        dragHandle("End", pixelsFor(0, -0.5));
        QVERIFY(std::abs(number("end") - 0.5) < 0.03);
        QCOMPARE(number("angle"), before);
    }

    void handlesSnapToTheGridWithControl() {
        showing("point_list", {{"points", {{0, 0, 0}, {1, 0.5, 0}}}, {"join", "open curve"}}, false);
        const QPoint from = stage()->handlePixel(1), to = from + pixelsFor(0.33, 0.21);
        QWidget* at = overlay();
        QTest::mousePress(at, Qt::LeftButton, Qt::ControlModifier, from);
        QMouseEvent move(QEvent::MouseMove, to, at->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, Qt::ControlModifier);
        QApplication::sendEvent(at, &move);
        QTest::mouseRelease(at, Qt::LeftButton, Qt::ControlModifier, to);
        waitFresh();
        const double grid = gridStep(stage()->camera()), x = loom().node("it")->settings.at("points")[1][0].get<double>();
        QVERIFY(std::abs(x / grid - std::round(x / grid)) < 1e-3);
        QVERIFY(std::abs(x - 1.33) <= grid * 0.51);
    }

    void pointsAreInsertedAndRemoved() {
        showing("point_list", {{"points", {{-1, 0, 0}, {1, 0, 0}, {1, 1, 0}}}, {"join", "open curve"}}, false);
        const QPoint a = stage()->handlePixel(0), b = stage()->handlePixel(1);
        QTest::mouseDClick(overlay(), Qt::LeftButton, {}, (a + b) / 2);
        waitFresh();
        QCOMPARE(output().pointCount(), std::size_t(4));
        QVERIFY(distance(output().positions()[1], {0, 0, 0}) < 0.02f);
        QTest::mouseDClick(overlay(), Qt::LeftButton, {}, stage()->handlePixel(3));
        waitFresh();
        QCOMPARE(output().pointCount(), std::size_t(3));
        undo();
        undo();
        QCOMPARE(loom().node("it")->settings.at("points").size(), std::size_t(3));
    }

    /// Along an axis there is no perspective, and what is dragged stays in the plane that is seen; turned by hand it is as before.
    void axisViewsAreDrawnIn() {
        showing("point_list", {{"points", {{0.5, 0, 0.2}, {0.5, 1, 0.4}}}, {"join", "open curve"}}, false);
        StageCamera slanted = stage()->camera();
        slanted.flat = false;
        stage()->setCamera(slanted);
        const auto points = [&] { return this->loom().node("it")->settings.at("points"); };
        run("from_right");
        QVERIFY(stage()->camera().flat);
        QCOMPARE(stage()->camera().across(), std::optional(0));
        dragHandle("Point 2", {40, 30});
        const double metre = stage()->camera().metresPerPixel(stage()->size());
        QCOMPARE(points()[1][0].get<double>(), 0.5);
        QVERIFY(std::abs(points()[1][1].get<double>() - (1 - 30 * metre)) < 0.011);
        QVERIFY(std::abs(points()[1][2].get<double>() - (0.4 - 40 * metre)) < 0.011);
        // In the open a point is added to the end that is nearer, as deep as that.
        run("from_front");
        const auto beside = [&](int i, QPoint by) {
            QTest::mouseDClick(overlay(), Qt::LeftButton, {}, stage()->handlePixel(i) + by);
            waitFresh();
        };
        const Json before = points();
        beside(1, {60, -40});
        QCOMPARE(points().size(), std::size_t(3));
        QCOMPARE(points()[2][2], before[1][2]);
        QVERIFY(std::abs(points()[2][0].get<double>() - (0.5 + 60 * metre)) < 0.011);
        QVERIFY(std::abs(points()[2][1].get<double>() - (before[1][1].get<double>() + 40 * metre)) < 0.011);
        beside(0, {-60, 20});
        QCOMPARE(points().size(), std::size_t(4));
        QCOMPARE(points()[1], before[0]);
        QCOMPARE(points()[0][2], before[0][2]);
        QVERIFY(points()[0][0].get<double>() < 0.5 - 40 * metre);
        undo();
        undo();
        QCOMPARE(points(), before);
        // A loop has no ends.
        document().apply(setSetting(this->loom(), "it", "join", "closed curve"));
        waitFresh();
        beside(1, {80, -50});
        QCOMPARE(points(), before);
        drag(overlay(), {300, 200}, {340, 200});
        QVERIFY(!stage()->camera().flat && !stage()->camera().across());
    }

    /// A profile is drawn from the front of its plane at once, beside the axis that it is turned about.
    void aProfileIsDrawnAtOnce_data() {
        QTest::addColumn<QString>("axis");
        QTest::addColumn<int>("across");
        QTest::newRow("upright") << "y" << 2;
        QTest::newRow("lying") << "x" << 2;
        QTest::newRow("towards the front") << "z" << 0;
    }
    void aProfileIsDrawnAtOnce() {
        QFETCH(QString, axis);
        QFETCH(int, across);
        showing("revolve", {{"axis", axis.toStdString()}}, false);
        const auto add = [&](const char* typed) {
            weave()->openQuickAdd();
            QTest::keyClicks(weave()->quickAdd()->field(), typed);
            QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        };
        const auto steps = document().history().index();
        add("point list");
        QCOMPARE(document().history().index(), steps + 1);
        QVERIFY(reaches(loom(), "point_list", "it"));
        QCOMPARE(stage()->camera().across(), std::optional(across));
        const Bounds wall = boundsOf(output());
        QVERIFY(output().faceCount() > 0);
        QVERIFY(std::abs(double(wall.size()[axis.front().toLatin1() - 'x']) - 0.6) < 1e-5);
        QTRY_COMPARE(stage()->handles().size(), std::size_t(2));
        for (int i : {0, 1}) QVERIFY(overlay()->rect().contains(stage()->handlePixel(i)));
        undo();
        click("it");
        add("drawn curve");
        QVERIFY(reaches(loom(), "drawn_curve", "it"));
        QVERIFY(stage()->brush() && stage()->brush()->pen);
        QCOMPARE(stage()->brush()->plane, across);
        const QPoint middle(stage()->width() / 2 + 60, stage()->height() / 2 - 60);
        drag(overlay(), middle, middle + QPoint(70, -60));
        waitFresh();
        QVERIFY(output().faceCount() > 0);
        QVERIFY(boundsOf(window_->rebuilds().outcome("drawn_curve")->geometry).size()[across] < 1e-6f);
    }

    /// The first line of a curve lies in the plane that is seen; later the view turns to where they lie.
    void linesAreDrawnInThePlaneThatIsSeen() {
        showing("drawn_curve", Json::object(), false);
        run("from_right");
        QTest::mouseClick(window_->settings()->lines()->drawButton(), Qt::LeftButton);
        QCOMPARE(loom().node("it")->settings.at("plane"), Json("side"));
        const QPoint middle(stage()->width() / 2, stage()->height() / 2);
        drag(overlay(), middle, middle + QPoint(90, -70));
        waitFresh();
        const Vec3 size = boundsOf(output()).size();
        QVERIFY(size.x == 0 && size.y > 0.1f && size.z > 0.1f);
        QTest::keyClick(stage(), Qt::Key_Escape);
        run("from_above");
        QTest::mouseClick(window_->settings()->lines()->drawButton(), Qt::LeftButton);
        QCOMPARE(stage()->camera().across(), std::optional(0));
        QCOMPARE(loom().node("it")->settings.at("plane"), Json("side"));
    }

    void aCageIsPulledAtItsPoints() {
        showing("cage", {{"points", {3, 2, 2}}});
        QCOMPARE(stage()->handles().size(), 12u);
        QCOMPARE(stage()->handleSet().lines.size(), std::size_t(2 * 2 * 2 + 3 * 2 + 3 * 2));
        dragHandle("Cage point 3, 2, 2", {40, -30});
        const Json offsets = loom().node("it")->settings.at("offsets");
        QCOMPARE(offsets.size(), 12u);
        QVERIFY(offsets[11][0].get<double>() > 0.1 && offsets[11][1].get<double>() > 0.1);
        for (std::size_t i = 0; i < 11; ++i) QCOMPARE(offsets[i], (Json{0.0, 0.0, 0.0}));
        QVERIFY(boundsOf(output()).max.x > 1.1f);
        undo();
        QVERIFY(!loom().node("it")->settings.contains("offsets"));
    }

    /// Wherever a handle is dragged to, there it is afterwards; and the others of a chain stay.
    void aHandleIsWhereItWasDraggedTo_data() {
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        QTest::newRow("points") << "point_list"
                                << R"({"points": [[0, 0, 0], [1, 0, 0], [1, 1, 0]]})";
        QTest::newRow("drawn") << "drawn_curve"
                               << R"({"strokes": [[[0, 0, 0], [1, 0, 0]], [[0, 1, 0], [1, 1, 0], [2, 1, 1]]]})";
        QTest::newRow("cut") << "plane_cut"
                             << R"({"origin": [0.2, 0, 0.1], "normal": [1, 1, 0]})";
        QTest::newRow("mirror") << "mirror"
                                << R"({"plane": "z", "offset": 0.4})";
        QTest::newRow("transform") << "transform"
                                   << R"({"move": [1, 2, 3], "scale": [2, 1, 0.5], "pivot": [0.5, 0, 0]})";
        QTest::newRow("turned") << "transform"
                                << R"({"move": [1, 2, 3], "rotate": [0, 45, 0]})";
        QTest::newRow("fit") << "fit"
                             << R"({"size": [3, 2, 1]})";
        QTest::newRow("bend") << "bend"
                              << R"({"axis": "x", "angle": 60, "start": 0.2, "end": 0.7})";
        QTest::newRow("cage") << "cage"
                              << R"({"points": [2, 3, 2], "offsets": [[0, 0.2, 0]]})";
    }
    void aHandleIsWhereItWasDraggedTo() {
        QFETCH(QString, op);
        QFETCH(QString, settings);
        Bounds input;
        input.add({-1, -0.5f, -0.5f}), input.add({3, 1.5f, 1});
        const Node before = node("it", op.toStdString(), {0, 0}, Json::parse(settings.toStdString()));
        const NodeHandles handles = handlesFor(before, input);
        QVERIFY(!handles.at.empty());
        for (std::size_t i = 0; i < handles.at.size(); ++i) {
            const bool turns = op == "plane_cut" && i == 1;  // it only shows a direction
            const Vec3 to = handles.at[i] + (handles.along[i] ? *handles.along[i] * 0.3f : Vec3{0.1f, -0.2f, 0.3f});
            Node after = before;
            for (const auto& [id, value] : movedHandle(before, input, int(i), to)) after.settings[id] = value;
            QVERIFY(after.settings != before.settings);
            const NodeHandles now = handlesFor(after, input);
            QCOMPARE(now.at.size(), handles.at.size());
            if (turns) QVERIFY(length(cross(normalized(now.at[1] - now.at[0]), normalized(to - now.at[0]))) < 1e-4f);
            else QVERIFY2(length(now.at[i] - to) < 0.02f, qPrintable(handles.name[i]));
            if (handles.chains.empty() && op != "cage" && op != "drawn_curve") continue;
            for (std::size_t k = 0; k < now.at.size(); ++k)
                if (k != i) QCOMPARE(now.at[k], handles.at[k]);
        }
        // What comes from a source can't be dragged, and what is skipped shows nothing.
        Node driven = before;
        for (const auto& [id, value] : before.settings.items())
            if (id != "axis" && id != "plane") driven.settings[id] = {{"formula", "ctl.x"}};
        QVERIFY(handlesFor(driven, input).at.size() < handles.at.size());
        driven = before;
        driven.skipped = true;
        QVERIFY(handlesFor(driven, input).at.empty());
    }

    void handlesOfDrawnLinesKnowTheirLine() {
        const Json lines = Json::parse(
            R"([[[0, 0, 0], [1, 0, 0]], {"points": [[5, 5, 5], [6, 5, 5]], "hidden": true}, {"points": [[0, 1, 0], [1, 1, 0], [2, 1, 1]], "note": "kept"}])");
        Node it = node("it", "drawn_curve", {0, 0}, {{"strokes", lines}, {"close", true}, {"plane", "front"}});
        // Points of hidden lines have none.
        const NodeHandles all = handlesFor(it, {});
        QCOMPARE(all.at, (std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}, {2, 1, 1}}));
        QCOMPARE(all.chains.size(), std::size_t(2));
        QCOMPARE(all.chains[0].sides(), std::size_t(1));
        QCOMPARE(all.chains[1].first, std::size_t(2));
        QCOMPARE(all.chains[1].sides(), std::size_t(3));
        QCOMPARE(handlesFor(it, {}, 2).at, (std::vector<Vec3>{{0, 1, 0}, {1, 1, 0}, {2, 1, 1}}));
        QVERIFY(handlesFor(it, {}, 1).at.empty());
        const auto strokes = [](const std::map<std::string, Json>& changed) { return changed.empty() ? Json() : changed.at("strokes"); };
        Json moved = lines;
        moved[2]["points"][1] = {1.0, 4.0, 0.0};
        QCOMPARE(strokes(movedHandle(it, {}, 3, {1, 4, 0})), moved);
        QCOMPARE(strokes(movedHandle(it, {}, 1, {1, 4, 0}, 2)), moved);
        // A place beside the plane comes onto it: on the ground, unless something else is said or a surface is there.
        QCOMPARE(strokes(movedHandle(it, {}, 3, {1, 4, 7})), moved);
        Node grounded = it;
        grounded.settings.erase("plane");
        QCOMPARE(strokes(movedHandle(grounded, {}, 3, {1, 4, 7}))[2]["points"][1], (Json{1.0, 0.0, 7.0}));
        Bounds surface;
        surface.add({0, 0, 0}), surface.add({1, 1, 1});
        QCOMPARE(strokes(movedHandle(grounded, surface, 3, {1, 4, 7}))[2]["points"][1], (Json{1.0, 4.0, 7.0}));
        QVERIFY(movedHandle(it, {}, 5, {}).empty());
        Json longer = lines;
        longer[0].insert(longer[0].begin() + 1, Json{0.5, 0.0, 0.0});
        QCOMPARE(strokes(withPoint(it, 0, {0.5f, 0, 0})), longer);
        Json shorter = lines;
        shorter[2]["points"].erase(2);
        QCOMPARE(strokes(withoutPoint(it, 2, 2)), shorter);
        QVERIFY(withoutPoint(it, 0).empty());  // two points make a line
        QVERIFY(withoutPoint(it, -1).empty() && withPoint(it, 99, {}).empty());
    }

    void aBooleanShowsWhatIsNotClosed() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}), node("sheet", "grid", {0, 1}, {{"cells", {3, 2}}}), node("cut", "boolean", {1, 0}),
                      node("out", "output", {2, 0})};
        loom.links = {linked("box", "cut"), linked("sheet", "cut", "cutters"), linked("cut", "out")};
        loom.output = "out";
        document().adopt(std::move(loom));
        waitFresh();
        weave()->setMotion(false);
        run("whole_weave");
        click("cut");
        // The border of the sheet, and only that.
        QTRY_COMPARE(stage()->marks().edges.size(), std::size_t(10));
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->bounds.size().y < 1e-4f);
        click("box");
        QTRY_VERIFY(stage()->marks().edges.empty());
        // Mended where it is open, the cutter is taken.
        click("sheet");
        std::string id;
        document().apply(addNodeAfter(this->loom(), "thicken", "sheet", &id));
        waitFresh();
        click("cut");
        QVERIFY(!window_->rebuilds().outcome("cut")->failed);
        QVERIFY(stage()->marks().edges.empty());
    }

    void aCurveIsDrawn() {
        showing("drawn_curve", {{"plane", "front"}}, false);
        LinesField* field = window_->settings()->lines();
        QVERIFY(field);
        QTest::mouseClick(field->drawButton(), Qt::LeftButton);
        QVERIFY(stage()->brush() && stage()->brush()->pen);
        const QPoint middle(stage()->width() / 2, stage()->height() / 2);
        drag(overlay(), middle - QPoint(120, 0), middle + QPoint(120, -40));
        waitFresh();
        QCOMPARE(loom().node("it")->settings.at("strokes").size(), std::size_t(1));
        const Geometry first = output();
        QCOMPARE(first.curveCount(), std::size_t(1));
        for (Vec3 p : first.positions()) QVERIFY(std::abs(p.z) < 1e-4f);
        const double wide = 240 * stage()->camera().metresPerPixel(stage()->size());
        QVERIFY(std::abs(double(boundsOf(first.positions()).size().x) - wide) < 0.1 * wide);
        drag(overlay(), middle + QPoint(-60, 80), middle + QPoint(90, 90));
        QCOMPARE(output().curveCount(), std::size_t(2));
        undo();
        QCOMPARE(output().curveCount(), std::size_t(1));
        // Drawing off: the points of the line are handles.
        QTest::mouseClick(field->drawButton(), Qt::LeftButton);
        QVERIFY(!stage()->brush());
        QCOMPARE(stage()->handles().size(), loom().node("it")->settings.at("strokes")[0].size());
    }

    void drawnLinesAreListed() {
        const Json line = Json::parse("[[-0.5, 0, 0], [0.5, 0, 0]]"), above = Json::parse("[[-0.5, 0.5, 0], [0.5, 0.5, 0]]");
        showing("drawn_curve", {{"plane", "front"}, {"spacing", 0}, {"strokes", {line, above, line}}}, false);
        LinesField* field = window_->settings()->lines();
        QListWidget* list = field->list();
        const auto strokes = [&] { return this->loom().node("it")->settings.at("strokes"); };
        QCOMPARE(list->count(), 3);
        QVERIFY(list->item(1)->text().contains(QStringLiteral("1.00 m")));
        QCOMPARE(stage()->handles().size(), std::size_t(6));
        // A chosen one is marked on the stage, and only its points can be dragged.
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(1)).center());
        QCOMPARE(stage()->marks().rows, std::vector<Index>{1});
        QCOMPARE(stage()->handles(), (std::vector<Vec3>{{-0.5f, 0.5f, 0}, {0.5f, 0.5f, 0}}));
        // Left out it is kept, but no part of the model.
        QTest::keyClick(list, Qt::Key_Space);
        QCOMPARE(output().curveCount(), std::size_t(2));
        QVERIFY(strokes()[1].at("hidden").get<bool>());
        QCOMPARE(strokes()[1].at("points"), above);
        QVERIFY(stage()->handles().empty());
        QTest::keyClick(list, Qt::Key_Down);
        QCOMPARE(stage()->marks().rows, std::vector<Index>{1});  // the second of those that are left
        QTest::keyClick(list, Qt::Key_Up);
        QTest::keyClick(list, Qt::Key_Space);
        QCOMPARE(output().curveCount(), std::size_t(3));
        QCOMPARE(strokes()[1], above);
        // A double click on it puts a point in, one on a point takes it out.
        const QPoint from = stage()->handlePixel(0), to = stage()->handlePixel(1);
        const auto twice = [&](QPoint at) {
            QTest::mouseClick(overlay(), Qt::LeftButton, {}, at);
            QTest::mouseDClick(overlay(), Qt::LeftButton, {}, at);
        };
        twice((from + to) / 2);
        QCOMPARE(strokes()[1].size(), std::size_t(3));
        QVERIFY(std::abs(strokes()[1][1][0].get<double>()) < 0.05);
        waitFresh();
        twice(stage()->handlePixel(1));
        QCOMPARE(strokes()[1], above);
        // Removed is the chosen one, and undone it comes back.
        QTest::keyClick(list, Qt::Key_Delete);
        QCOMPARE(strokes(), (Json{line, line}));
        QCOMPARE(list->count(), 2);
        undo();
        QCOMPARE(strokes()[1], above);
        QTest::keyClick(list, Qt::Key_Escape);
        QCOMPARE(stage()->handles().size(), std::size_t(6));
        QVERIFY(stage()->marks().rows.empty());
    }
};

int main(int argc, char** argv) { return runWindowTest<TestHandles>(argc, argv); }
#include "test_handles.moc"

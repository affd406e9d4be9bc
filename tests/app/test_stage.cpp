// The stage, by mouse and keys in a real window.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "geometry/Checkup.h"
#include "support/Looms.h"

#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

class TestStage : public WindowTest {
    Q_OBJECT

    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    void waitMesh() { QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && window_->rebuilds().outcome(weave()->chosen()) && stage()->mesh()->pointCount > 0, 10000); }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    // The stage

    void theCompassTurnsToTheAxes() {
        NEED_OPENGL(stage()->canvas());
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, stage()->compassPixel(0).toPoint());
        QVERIFY(length(stage()->camera().toEye() - Vec3{1, 0, 0}) < 1e-4f);
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, stage()->compassPixel(2).toPoint());
        QVERIFY(length(stage()->camera().toEye() - Vec3{0, 1, 0}) < 1e-4f);
        run("from_front");
        QVERIFY(length(stage()->camera().toEye() - Vec3{0, 0, 1}) < 1e-4f);
        QVERIFY(stage()->camera().flat);
        // Flat: what is nearer is not larger.
        const QSizeF size = stage()->size();
        const auto wide = [&](float z) { return stage()->camera().project({0.1f, 0, z}, size).x() - stage()->camera().project({-0.1f, 0, z}, size).x(); };
        QVERIFY(std::abs(wide(0.5f) - wide(-0.5f)) < 0.01);
        run("flat");
        QVERIFY(wide(0.5f) > wide(-0.5f) + 1);
    }

    void clickingAFaceChoosesItsRowAndBack() {
        window_->showDrawer("data");
        weave()->choose("soften");
        waitMesh();
        const QPoint middle(stage()->width() / 2, stage()->height() / 2);
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, middle);
        QCOMPARE(stage()->marks().rows.size(), 1u);
        QCOMPARE(stage()->marks().element, Element::face);
        const Index face = stage()->marks().rows[0];
        // The face that was hit is in the middle, and faces the eye.
        const Geometry& g = stage()->mesh()->geometry;
        const QPointF at = stage()->camera().project(faceCentres(g)[face], stage()->size());
        QVERIFY(QLineF(at, middle).length() < 30);
        QVERIFY(dot(faceNormals(g)[face], stage()->camera().toEye()) > 0);
        const auto chosen = window_->data()->table()->selectionModel()->selectedRows();
        QCOMPARE(chosen.size(), 1);
        QCOMPARE(window_->data()->model()->elementAt(chosen[0].row()), face);
        window_->data()->table()->selectRow(5);
        QCOMPARE(stage()->marks().rows, std::vector<Index>{5});
        // Beside the model: nothing is chosen any more.
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, QPoint(20, stage()->height() / 2));
        QVERIFY(stage()->marks().empty());
    }

    void pointsCanBePickedWhereTheyAreDrawn() {
        weave()->choose("even");
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->pointCount == 24);
        const QPointF at = stage()->camera().project(stage()->mesh()->geometry.positions()[7], stage()->size());
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(stage()->marks().element, Element::point);
        QCOMPARE(stage()->marks().rows, std::vector<Index>{7});
        QTest::mouseClick(overlay(), Qt::LeftButton, Qt::ControlModifier,
                          stage()->camera().project(stage()->mesh()->geometry.positions()[3], stage()->size()).toPoint());
        QCOMPARE(stage()->marks().rows, (std::vector<Index>{7, 3}));
    }

    void framingTheChosenElementsComesNearer() {
        waitFresh();
        waitMesh();
        QTRY_COMPARE(stage()->mesh()->geometry.faceCount(), window_->rebuilds().outcome(weave()->chosen())->geometry.faceCount());
        const double before = stage()->camera().distance;
        stage()->setMarks({Element::face, {10, 11}, {}});
        run("frame_marks");
        QVERIFY(stage()->camera().distance < before / 3);
        const QPointF at = stage()->camera().project(faceCentres(stage()->mesh()->geometry)[10], stage()->size());
        QVERIFY(QLineF(at, QPointF(stage()->width() / 2.0, stage()->height() / 2.0)).length() < 80);
        run("frame_all");
        QVERIFY(std::abs(stage()->camera().distance - before) < before * 0.05);
    }

    void spaceShowsTheInputForAsLongAsItIsHeld() {
        click("wall");
        waitMesh();
        QTRY_COMPARE(stage()->mesh()->faceCount, window_->rebuilds().outcome("wall")->geometry.faceCount());
        QTest::keyPress(weave(), Qt::Key_Space);
        QTRY_COMPARE(stage()->mesh()->faceCount, window_->rebuilds().outcome("body")->geometry.faceCount());
        QTest::keyRelease(weave(), Qt::Key_Space);
        QTRY_COMPARE(stage()->mesh()->faceCount, window_->rebuilds().outcome("wall")->geometry.faceCount());
    }

    void beforeAndAfterAndAnyTwoNodesAreCompared() {
        click("wall");
        QTest::mouseClick(stage()->tools()->compareButton(), Qt::LeftButton);
        QVERIFY(stage()->comparing());
        QTRY_VERIFY(stage()->otherMesh() && stage()->otherMesh()->faceCount == window_->rebuilds().outcome("body")->geometry.faceCount());
        const QPoint grip = stage()->dividerPixel();
        drag(overlay(), grip, grip + QPoint(120, 0));
        QVERIFY(std::abs(stage()->dividerPixel().x() - grip.x() - 120) <= 2);
        click("outline");
        click("soften", Qt::ControlModifier);
        QTRY_VERIFY(stage()->otherMesh() && stage()->otherMesh()->faceCount == 0);
        QTRY_VERIFY(stage()->mesh()->faceCount == window_->rebuilds().outcome("soften")->geometry.faceCount());
        run("compare");
        QVERIFY(!stage()->comparing());
        // Nothing comes before the first node.
        click("outline");
        run("compare");
        QVERIFY(!stage()->comparing());
        QVERIFY(window_->message().contains("nothing before"));
    }

    void overlaysAreMadeFromTheGeometry() {
        weave()->choose("soften");
        waitMesh();
        stage()->tools()->setOverlay("normals", true);
        stage()->tools()->setOverlay("points", true);
        QTRY_VERIFY(!stage()->mesh()->normals.empty());
        QTRY_COMPARE(stage()->mesh()->dots.size(), stage()->mesh()->pointCount);
        // Each arrow is three lines; its longest one points away from the model.
        const auto& lines = stage()->mesh()->normals;
        const auto normals = pointNormals(stage()->mesh()->geometry);
        for (std::size_t i = 0; i < 50; ++i) QVERIFY(dot(normalized(lines[i * 6 + 1].position - lines[i * 6].position), normals[i]) > 0.999f);
        stage()->tools()->setArrows("tangent", 2);
        QTRY_VERIFY(!stage()->mesh()->arrows.empty());
        const float two = length(stage()->mesh()->arrows[1].position - stage()->mesh()->arrows[0].position);
        stage()->tools()->setArrows("tangent", 1);
        QTRY_VERIFY(std::abs(length(stage()->mesh()->arrows[1].position - stage()->mesh()->arrows[0].position) - two / 2) < two * 0.01f);
        weave()->choose("body");
        stage()->tools()->setOverlay("open_edges", true);
        QTRY_VERIFY(stage()->mesh()->openEdgeCount > 0);
        QCOMPARE(stage()->mesh()->openEdgeCount, checkupOf(window_->rebuilds().outcome("body")->geometry).openEdges);
        for (const char* id : {"xray", "wire", "numbers"}) run(id);
        run("sides");
        QTRY_COMPARE(stage()->mesh()->shading, Shading::sides);
        run("checker");
        QTRY_COMPARE(stage()->mesh()->shading, Shading::checker);
        QVERIFY(!stage()->grab().isNull());
    }

    void nothingIsDrawnBlackForLackOfNormals() {
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/net-floats.loom")));
        waitFresh();
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->faceCount == output().faceCount());
        for (const auto& vertex : stage()->mesh()->vertices) QVERIFY(length(vertex.normal) > 0.5f);
        // And the new document is framed, whatever was on its way to the stage when it was opened.
        QTest::qWait(200);
        for (Vec3 p : output().positions()) QVERIFY(QRectF(stage()->rect()).contains(stage()->camera().project(p, stage()->size())));
        auto bare = std::make_shared<NodeOutcome>();
        bare->geometry = window_->rebuilds().outcome(loom().output)->geometry;
        bare->geometry.setColumn(Element::corner, "normal", Column(std::vector<Vec3>(bare->geometry.cornerCount())));
        const auto drawn = drawScene(bare->geometry, {});
        for (const auto& vertex : drawn->vertices) QVERIFY(length(vertex.normal) > 0.5f);
    }

    /// Backs differ from fronts in the picture, not only in the data.
    void faceSidesAreToldApart() {
        NEED_OPENGL(stage()->canvas());
        weave()->choose("soften");
        waitMesh();
        stage()->tools()->setShading(Shading::sides);
        QTRY_COMPARE(stage()->mesh()->shading, Shading::sides);
        const auto middle = [&] {
            const QImage picture = stage()->canvas()->picture();
            return picture.pixelColor(picture.width() / 2, picture.height() / 2);
        };
        QTest::qWait(300);
        const QColor front = middle();
        weave()->openQuickAdd("flip");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        waitFresh();
        QTRY_VERIFY(loom().node("flip"));
        QTRY_VERIFY_WITH_TIMEOUT(middle().red() - middle().blue() > front.red() - front.blue() + 20, 5000);
    }

    void largeModelsAreDrawnCoarserWhileTheyMoveAndItIsSaid() {
        document().apply(setControlValue(loom(), "detail", 4));
        document().apply(setControlValue(loom(), "sides", 64));
        waitFresh();
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh()->triangles.size() / 3 > kReduceAbove, 20000);
        const DrawScene& mesh = *stage()->mesh();
        QVERIFY(!mesh.reduced.empty() && mesh.reduced.size() <= kReduceAbove);
        for (Index i : mesh.reduced) QVERIFY(i < mesh.vertices.size());
        // The coarse picture fills the same box.
        Bounds coarse;
        for (Index i : mesh.reduced) coarse.add(mesh.vertices[i].position);
        QVERIFY(length(coarse.size() - mesh.bounds.size()) < mesh.bounds.diagonal() * 0.05);
        NEED_OPENGL(stage()->canvas());
        // On a machine of no patience the coarse picture is taken at once; at rest all of it is back.
        stage()->canvas()->setMostMovingMs(0);
        QTest::mousePress(overlay(), Qt::LeftButton, {}, QPoint(100, 300));
        for (int x = 110; x < 160; x += 10) {
            QMouseEvent move(QEvent::MouseMove, QPoint(x, 300), overlay()->mapToGlobal(QPoint(x, 300)), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(overlay(), &move);
        }
        QVERIFY(!stage()->canvas()->picture().isNull());
        QVERIFY(stage()->canvas()->shown().reducing);
        QVERIFY(stage()->remarks().join(' ').contains("fewer faces"));
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, QPoint(160, 300));
        QVERIFY(!stage()->canvas()->picture().isNull());
        // A first look may be coarse as well; what follows is whole.
        QTRY_VERIFY(!stage()->canvas()->shown().reducing);
        QVERIFY(!stage()->remarks().join(' ').contains("fewer faces"));
    }

    void theCameraIsKeptWithTheDocument() {
        run("from_left");
        const StageCamera kept = stage()->camera();
        weave()->choose("body");
        weave()->togglePin();
        weave()->choose("even");
        const QString file = folder_.filePath("view.loom");
        QVERIFY(window_->saveTo(file));
        window_->openDemo();
        run("from_front");
        QVERIFY(window_->openFile(file));
        waitFresh();
        QVERIFY(std::abs(stage()->camera().yaw - kept.yaw) < 0.01 && stage()->camera().flat);
        QCOMPARE(weave()->chosen(), std::string("even"));
        QCOMPARE(weave()->pinned(), std::string("body"));
        QVERIFY(!document().modified());
    }

    void menuAndButtonsSayTheSame() {
        const auto button = [&](const QString& text) {
            for (auto* one : stage()->tools()->findChildren<QToolButton*>())
                if (one->text() == text) return one;
            return static_cast<QToolButton*>(nullptr);
        };
        QTest::mouseClick(button("Wire"), Qt::LeftButton);
        QVERIFY(window_->action("wire")->isChecked());
        run("wire");
        QVERIFY(!button("Wire")->isChecked());
        run("numbers");
        QVERIFY(stage()->tools()->numbers());
        QVERIFY(window_->action("numbers")->isChecked());
    }

    void peekAndCompareSeeTheOutputThatTheThreadStartsAt() {
        weave()->choose("body");
        std::string split, flip;
        document().apply(addNodeAfter(loom(), "split", "body", &split));
        document().apply(setSetting(loom(), split, "where", {{"formula", "position.y < 0.3"}}));
        document().apply(addNode(loom(), "flip", {6, 3}, &flip));
        document().apply(addLink(loom(), {split, "rest", flip, "", Json::object()}));
        waitFresh();
        const std::size_t rest = window_->rebuilds().outcome(split)->output(1).faceCount();
        QVERIFY(rest > 0 && rest != window_->rebuilds().outcome(split)->geometry.faceCount());
        weave()->choose(flip);
        window_->peek(true);
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->faceCount == rest);
        window_->peek(false);
        run("compare");
        QTRY_VERIFY(stage()->otherMesh() && stage()->otherMesh()->faceCount == rest);
    }

    /// Nodes of another document may be called as those before: they have nothing of theirs, not even for a moment.
    void anotherDocumentHasNoResultsOfTheOneBefore() {
        waitFresh();
        const auto before = window_->rebuilds().outcome("wall");
        QVERIFY(before);
        Loom other;
        Node wall;
        wall.id = "wall", wall.op = "box";
        other.nodes = {wall};
        document().adopt(other);
        QVERIFY(!window_->rebuilds().outcome("wall"));
        QCOMPARE(window_->rebuilds().report("wall").key.digest, Digest{});
        waitFresh();
        QTRY_VERIFY(window_->rebuilds().outcome("wall"));
        QCOMPARE(window_->rebuilds().outcome("wall")->geometry.faceCount(), std::size_t(6));
    }

    /// The height stands beside the model, where it can be switched off for good.
    void theHeightStandsBesideTheModel() {
        waitFresh();
        QTRY_VERIFY(window_->stage()->mesh());
        Stage* stage = window_->stage();
        stage->frameAll();
        // It stands in the picture that is shown, which follows the camera.
        QTRY_VERIFY(stage->canvas()->shown().camera == stage->camera());
        const auto line = stage->heightLine();
        QVERIFY(line && line->x1() == line->x2() && line->y1() > line->y2());
        for (Vec3 p : stage->mesh()->extremes) QVERIFY(stage->camera().project(p, stage->size()).x() < line->x1());
        QVERIFY(stage->rect().contains(line->p1().toPoint()) && stage->rect().contains(line->p2().toPoint()));
        // As long as the upright through the middle of the model is seen.
        const Vec3 middle = stage->mesh()->bounds.centre();
        const auto at = [&](float y) { return stage->camera().project({middle.x, y, middle.z}, stage->size()).y(); };
        QVERIFY(std::abs(line->length() - (at(stage->mesh()->bounds.min.y) - at(stage->mesh()->bounds.max.y))) < 1);
        run("from_above");
        QTRY_VERIFY(!stage->heightLine());
        run("from_front");
        QTRY_VERIFY(stage->heightLine());
        run("height");
        QVERIFY(!stage->tools()->height() && !StageTools::heightWanted());
        run("height");
        QVERIFY(stage->tools()->height());
    }

    /// What is looked at in its own colours is so again the next time.
    void theShadingIsKeptWithTheDocument() {
        QCOMPARE(window_->stage()->tools()->look().shading, Shading::look);
        run("clay");
        const QString file = folder_.filePath("clay.loom");
        QVERIFY(window_->saveTo(file));
        run("look");
        QVERIFY(window_->openFile(file));
        QCOMPARE(window_->stage()->tools()->look().shading, Shading::clay);
        // With the attribute that gave the colours.
        window_->stage()->setAttribute("rubbed");
        QVERIFY(window_->saveTo(file));
        run("look");
        QVERIFY(window_->openFile(file));
        QCOMPARE(window_->stage()->tools()->look().attribute, std::string("rubbed"));
    }

    void aLongRebuildIsSeenToGrow() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}), node("fine", "subdivide", {1, 0}, {{"levels", 8}}), node("result", "output", {2, 0})};
        loom.links = {linked("box", "fine"), linked("fine", "result")};
        loom.output = "result";
        document().adopt(std::move(loom));
        // Before the last is there, the nearest that is: said in words, and never an empty stage once something is done.
        bool early = false;
        QElapsedTimer clock;
        for (clock.start(); !window_->rebuilds().outcome("result") && clock.elapsed() < 20000; QCoreApplication::processEvents(QEventLoop::AllEvents, 5))
            early |= window_->rebuilds().outcome("box") && window_->stage()->subject().outcome == window_->rebuilds().outcome("box");
        waitFresh();
        QTRY_VERIFY(window_->stage()->subject().outcome == window_->rebuilds().outcome("result"));
        QVERIFY(early);
    }
};

int main(int argc, char** argv) { return runWindowTest<TestStage>(argc, argv); }
#include "test_stage.moc"

// Stage, settings, controls and drawers, by mouse and keys in a real window.
#include "WindowTest.h"
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/FrameBar.h"
#include "app/data/StatisticsStrip.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/DragName.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "geometry/Checkup.h"

#include <QtCore/QMimeData>
#include <QtGui/QClipboard>
#include <QtGui/QDrag>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

class TestPanels : public WindowTest {
    Q_OBJECT

    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    void waitMesh() { QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && window_->rebuilds().outcome(weave()->chosen()) && stage()->mesh()->pointCount > 0, 10000); }
    /// Carries a name to a place, as a drag does, without a pointer in between.
    static void carry(const char* mime, const QByteArray& bytes, QWidget* to, QPoint at) {
        if (auto* area = qobject_cast<QAbstractScrollArea*>(to)) to = area->viewport();
        QMimeData data;
        data.setData(QLatin1String(mime), bytes);
        QDragEnterEvent enter(at, Qt::LinkAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(to, &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(at), Qt::LinkAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(to, &drop);
    }
    /// A box with a side missing, some points doubled.
    void openBrokenBox() {
        auto outcome = std::make_shared<NodeOutcome>();
        std::vector<Vec3> points{{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}, {0, 1, 0}, {1, 1, 0}, {1, 1, 1}, {0, 1, 1}, {0, 0, 0}};
        Topology topology(9, {0, 4, 8, 12, 16, 20}, {0, 1, 2, 3, 4, 7, 6, 5, 8, 4, 5, 1, 1, 5, 6, 2, 2, 6, 7, 3}, {0}, {}, {});
        outcome->geometry = Geometry(points, topology);
        window_->showDrawer("checkup");
        window_->checkup()->show("Broken box", outcome);
        QTRY_VERIFY(!window_->checkup()->busy());
    }

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
        run("flat");
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
        QTRY_VERIFY(stage()->mesh() && stage()->mesh()->pointCount == 16);
        const QPointF at = stage()->camera().project(stage()->mesh()->geometry.positions()[7], stage()->size());
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(stage()->marks().element, Element::point);
        QCOMPARE(stage()->marks().rows, std::vector<Index>{7});
        QTest::mouseClick(overlay(), Qt::LeftButton, Qt::ControlModifier,
                          stage()->camera().project(stage()->mesh()->geometry.positions()[3], stage()->size()).toPoint());
        QCOMPARE(stage()->marks().rows, (std::vector<Index>{7, 3}));
    }

    void framingTheChosenElementsComesNearer() {
        waitMesh();
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
        const Bounds bounds = stage()->mesh()->bounds;
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 p{corner & 1 ? bounds.min.x : bounds.max.x, corner & 2 ? bounds.min.y : bounds.max.y, corner & 4 ? bounds.min.z : bounds.max.z};
            QVERIFY(QRectF(stage()->rect()).contains(stage()->camera().project(p, stage()->size())));
        }
        auto bare = std::make_shared<NodeOutcome>();
        bare->geometry = window_->rebuilds().outcome(loom().output)->geometry;
        bare->geometry.setColumn(Element::corner, "normal", Column(std::vector<Vec3>(bare->geometry.cornerCount())));
        const auto drawn = stageMesh(bare->geometry, {});
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
        const StageMesh& mesh = *stage()->mesh();
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
        run("flat");
        const Camera kept = stage()->camera();
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

    // Settings and controls

    void severalNodesOfOneKindAreSetTogether() {
        click("wobble");
        QTest::keyClick(weave(), Qt::Key_D, Qt::ControlModifier);
        const std::string twin = weave()->chosen();
        weave()->chooseAll({"wobble", twin});
        auto* size = window_->settings()->row("size")->findChild<NumberField*>();
        QTest::mouseClick(size, Qt::LeftButton);
        size->selectAll();
        QTest::keyClicks(size, "25cm");
        QTest::keyClick(size, Qt::Key_Return);
        QCOMPARE(loom().node("wobble")->settings["size"], Json(0.25));
        QCOMPARE(loom().node(twin)->settings["size"], Json(0.25));
        document().apply(setSetting(loom(), twin, "seed", 99));
        QVERIFY(window_->settings()->row("seed")->findChild<DragName*>()->text().contains("mixed"));
        // Different kinds: the last one alone.
        weave()->chooseAll({"wobble", "wall"});
        QVERIFY(window_->settings()->row("thickness") && !window_->settings()->row("octaves"));
    }

    void longPanelsCanBeSearched() {
        click("wobble");
        QLineEdit* search = window_->settings()->searchField();
        QVERIFY(search);
        QTest::keyClicks(search, "rough");
        QVERIFY(window_->settings()->row("roughness")->isVisible());
        QVERIFY(!window_->settings()->row("octaves")->isVisible());
        search->clear();
        QVERIFY(window_->settings()->row("octaves")->isVisible());
        click("body");
        QVERIFY(!window_->settings()->searchField());
    }

    void aClickOnTheNameResets() {
        click("wobble");
        SettingRow* row = window_->settings()->row("octaves");
        QVERIFY(loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->font().weight() >= QFont::DemiBold);
        QTest::mouseClick(row->nameLabel(), Qt::LeftButton);
        QVERIFY(!loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->font().weight() < QFont::DemiBold);
        undo();
        QVERIFY(loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->toolTip().contains("default 1"));
    }

    void aSettingIsDraggedOntoTheControlsAndBack() {
        click("wobble");
        carry(kSettingMime, "wobble\nsize", window_->controls(), QPoint(40, 60));
        ControlForm* form = window_->controls()->form();
        QVERIFY(form);
        form->name()->selectAll();
        QTest::keyClicks(form->name(), "Bump size");
        QTest::keyClick(form->name(), Qt::Key_Return);
        const Control* made = loom().control("size");
        QVERIFY(made);
        QCOMPARE(made->label, std::string("Bump size"));
        QCOMPARE(loom().node("wobble")->settings["size"], (Json{{"control", "size"}}));
        // The control drives another setting, too.
        click("wall");
        carry(kControlMime, "wall", window_->settings()->row("thickness"), QPoint(5, 5));
        carry(kControlMime, "size", window_->settings()->row("thickness"), QPoint(5, 5));
        QCOMPARE(loom().node("wall")->settings["thickness"], (Json{{"control", "size"}}));
        // And dropped beside all settings it is given up: both keep its value.
        const Json value = loom().control("size")->fallback;
        carry(kControlMime, "size", window_->settings(), QPoint(10, 300));
        QVERIFY(!loom().control("size"));
        QCOMPARE(loom().node("wobble")->settings["size"], value);
        QCOMPARE(loom().node("wall")->settings["thickness"], value);
        // A ramp can't become a control; that is said.
        click("wobble");
        carry(kSettingMime, "wobble\namount", window_->controls(), QPoint(40, 60));
        QVERIFY(!window_->controls()->form());
        QVERIFY(window_->message().contains("fixed number"));
    }

    void aRealDragCarriesAName() {
        click("wobble");
        QWidget* name = window_->settings()->row("size")->nameLabel();
        const QPoint from = name->mapTo(window_.get(), QPoint(10, 8)), to = window_->controls()->mapTo(window_.get(), QPoint(60, 30));
        // The drag has an event loop of its own, so the hand goes on from a timer, once it has begun.
        QTimer hand;
        connect(&hand, &QTimer::timeout, this, [&] {
            if (!window_->findChild<QDrag*>()) return;
            hand.stop();
            QTest::mouseMove(window_->windowHandle(), to - QPoint(4, 4));
            QTest::mouseMove(window_->windowHandle(), to);
            QTest::mouseRelease(window_->windowHandle(), Qt::LeftButton, {}, to);
        });
        hand.start(60);
        QTest::mousePress(window_->windowHandle(), Qt::LeftButton, {}, from);
        QTest::mouseMove(window_->windowHandle(), from + QPoint(6, 6));
        QTest::mouseMove(window_->windowHandle(), from + QPoint(20, 20));
        QTRY_VERIFY(window_->controls()->form());
        QTest::keyClick(window_->controls()->form()->name(), Qt::Key_Escape);
        QTRY_VERIFY(!window_->controls()->form());
        QVERIFY(!loom().control("size"));
    }

    void controlsAreChangedAndPresetsKept() {
        window_->controls()->askForChange("height");
        ControlForm* form = window_->controls()->form();
        form->name()->selectAll();
        QTest::keyClicks(form->name(), "Total height");
        QTest::keyClick(form->name(), Qt::Key_Return);
        QCOMPARE(loom().control("height")->label, std::string("Total height"));
        document().apply(setControlValue(loom(), "height", 1.4));
        window_->controls()->askForPreset();
        auto* field = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(field);
        field->selectAll();
        QTest::keyClicks(field, "Tall one");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(loom().preset("Tall one"));
        QCOMPARE(loom().preset("Tall one")->values["height"], Json(1.4));
    }

    // Drawers

    void dataSortsFiltersAndCopies() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 16);
        data->sortBy(1, true);
        QTRY_VERIFY(!data->busy());
        const auto& positions = window_->rebuilds().outcome("even")->geometry.positions();
        for (int row = 1; row < 16; ++row) QVERIFY(positions[data->model()->elementAt(row - 1)].y >= positions[data->model()->elementAt(row)].y);
        data->setFilter("position.y > 0.5");
        QTRY_VERIFY(!data->busy());
        const int left = data->model()->rowCount();
        QCOMPARE(left, int(std::count_if(positions.begin(), positions.end(), [](Vec3 p) { return p.y > 0.5f; })));
        QCOMPARE(stage()->marks().rows.size(), std::size_t(left));
        data->setFilter("hieght > 1");
        QTRY_VERIFY(!data->busy());
        bool said = false;
        for (auto* label : data->findChildren<QLabel*>()) said |= label->text().contains("hieght");
        QVERIFY(said);
        data->setFilter({});
        QTRY_COMPARE(data->model()->rowCount(), 16);
        data->copy();
        const QStringList lines = QGuiApplication::clipboard()->text().split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 17);
        QVERIFY(lines[0].startsWith("point,position.x,position.y"));
        QCOMPARE(lines[1].split(',')[2].toFloat(), positions[data->model()->elementAt(0)].y);
    }

    void aClickOnAColumnsHeadSortsColoursAndSumsUp() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 16);
        QHeaderView* head = data->table()->horizontalHeader();
        const auto clickHead = [&](int column) {
            QTest::mouseClick(head->viewport(), Qt::LeftButton, {}, QPoint(head->sectionViewportPosition(column) + 20, head->height() / 2));
        };
        const auto& positions = window_->rebuilds().outcome("even")->geometry.positions();
        const auto first = [&] { return positions[data->model()->elementAt(0)].y; };
        clickHead(1);
        QTRY_VERIFY(!data->busy() && data->strip()->accessibleDescription().startsWith("position.y"));
        QVERIFY(data->model()->ordered() && first() < 0.01f);
        QTRY_COMPARE(QString::fromStdString(stage()->mesh()->legend.title), QString("position"));
        clickHead(1);
        QTRY_VERIFY(!data->busy() && first() > 0.89f);
        clickHead(1);
        QTRY_VERIFY(!data->model()->ordered());
        // Rebuilds do not add to what a change of column sets off.
        for (int i = 0; i < 5; ++i) {
            document().apply(setSetting(loom(), "even", "count", 17 + i));
            waitFresh();
        }
        QTRY_COMPARE(data->model()->rowCount(), 21);
        QTRY_COMPARE(data->strip()->statistics().count, 21u);
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
        QTRY_COMPARE(stage()->mesh()->faceCount, rest);
        window_->peek(false);
        run("compare");
        QTRY_VERIFY(stage()->otherMesh() && stage()->otherMesh()->faceCount == rest);
    }

    void dataColumnsCanBeHiddenFrozenAndPinned() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 16);
        const int before = data->model()->columnCount();
        data->model()->hideAttributes({"tangent"});
        QCOMPARE(data->model()->columnCount(), before - 3);
        data->freezeButton()->click();
        document().apply(setSetting(loom(), "even", "count", 30));
        waitFresh();
        QCOMPARE(data->model()->rowCount(), 16);
        data->freezeButton()->click();
        QTRY_COMPARE(data->model()->rowCount(), 30);
        data->pinButton()->click();
        click("outline");
        QCOMPARE(data->model()->rowCount(), 30);
        data->pinButton()->click();
        QTRY_COMPARE(data->model()->rowCount(), 3);
    }

    void theStripTellsWhatAColumnIsLike() {
        weave()->choose("even");
        window_->showDrawer("data");
        DataDrawer* data = window_->data();
        QTRY_COMPARE(data->model()->rowCount(), 16);
        data->table()->setCurrentIndex(data->model()->index(0, 1));
        QTRY_VERIFY(data->strip()->statistics().count == 16 && data->strip()->accessibleDescription().startsWith("position.y"));
        QVERIFY(std::abs(data->strip()->statistics().least) < 1e-6 && std::abs(data->strip()->statistics().most - 0.9) < 1e-5);
    }

    void theCheckupFindsShowsAndMends() {
        openBrokenBox();
        const auto& findings = window_->checkup()->report().findings;
        QStringList codes;
        for (const Finding& f : findings) codes << QString::fromStdString(f.code);
        QVERIFY(codes.contains("open_edges") && codes.contains("doubled_points"));
        // Show marks what was found.
        weave()->choose("body");
        window_->checkup()->show("Revolve", window_->rebuilds().outcome("body"));
        QTRY_VERIFY(!window_->checkup()->busy());
        const auto button = [&](const QString& text) -> QPushButton* {
            for (auto* one : window_->checkup()->findChildren<QPushButton*>())
                if (one->isVisible() && one->text() == text) return one;
            return nullptr;
        };
        QVERIFY(button("Show"));
        QTest::mouseClick(button("Show"), Qt::LeftButton);
        QCOMPARE(stage()->marks().edges.size(), checkupOf(window_->rebuilds().outcome("body")->geometry).openEdges);
        // The fix is a node behind the one that was looked at.
        QVERIFY(button("Add Thicken"));
        QTest::mouseClick(button("Add Thicken"), Qt::LeftButton);
        QCOMPARE(loom().node(weave()->chosen())->op, std::string("thicken"));
        QVERIFY(reaches(loom(), "body", weave()->chosen()));
        waitFresh();
        QVERIFY(checkupOf(window_->rebuilds().outcome(weave()->chosen())->geometry).closed);
    }

    void theCheckupMeasuresASoundSolid() {
        window_->showDrawer("checkup");
        weave()->choose("soften");
        QTRY_VERIFY_WITH_TIMEOUT(!window_->checkup()->busy() && window_->checkup()->report().facts.closed, 20000);
        const CheckupReport& report = window_->checkup()->report();
        QVERIFY(report.findings.empty() && report.intersectionsChecked);
        QVERIFY(report.wall && report.wall->least > 0.005 && report.wall->least < 0.05);
        bool said = false;
        for (auto* label : window_->checkup()->findChildren<QLabel*>()) said |= label->text().startsWith("Sound");
        QVERIFY(said);
    }

    /// What a notice knows to help is a button in the drawer: one click, one step back.
    void noticesOfferWhatHelps() {
        Loom loom;
        const auto add = [&](const char* id, const char* op, Json settings, Cell cell) {
            Node node;
            node.id = id, node.op = op, node.settings = std::move(settings), node.cell = cell;
            loom.nodes.push_back(std::move(node));
        };
        add("plate", "grid", {{"cells", {2, 2}}}, {0, 0});
        add("peg", "box", {{"size", {0.1, 0.1, 0.1}}}, {0, 1});
        add("pegs", "place_copies", Json::object(), {1, 0});
        add("rise", "extrude", {{"distance", 0.05}}, {2, 0});
        add("out", "output", Json::object(), {3, 0});
        loom.links = {{"plate", "", "pegs", "points", Json::object()},
                      {"peg", "", "pegs", "shapes", Json::object()},
                      {"pegs", "", "rise", "", Json::object()},
                      {"rise", "", "out", "", Json::object()}};
        loom.output = "out";
        document().adopt(loom);
        waitFresh();
        QCOMPARE(window_->rebuilds().report("rise").state, NodeState::failed);
        window_->showDrawer("notices");
        QPushButton* offer = nullptr;
        QTRY_VERIFY([&] {
            for (auto* button : window_->findChildren<QPushButton*>())
                if (button->text() == "Put Bake copies before") offer = button;
            return offer != nullptr;
        }());
        QTest::mouseClick(offer, Qt::LeftButton);
        waitFresh();
        QCOMPARE(document().loom().nodes.size(), std::size_t(6));
        const Node* made = document().loom().node(weave()->chosen());
        QVERIFY(made && made->op == "bake_copies");
        QVERIFY(reaches(document().loom(), "pegs", made->id) && reaches(document().loom(), made->id, "rise"));
        QCOMPARE(window_->rebuilds().report("rise").state, NodeState::fresh);
        // A closed region has no border, so no sides are made: its faces have moved outwards.
        QCOMPARE(output().faceCount(), 9u * 6u);
        QVERIFY(std::abs(height() - 0.2f) < 1e-5f);
        undo();
        QCOMPARE(document().loom().nodes.size(), std::size_t(5));
    }

    /// Frames that are done are filled; without a step that builds on earlier frames there is no bar.
    void theTimeDrawerShowsWhichFramesAreDone() {
        window_->showDrawer("time");
        auto* bar = window_->time()->findChild<FrameBar*>();
        QVERIFY(bar && !bar->isVisible());
        std::vector<std::uint8_t> kept(61, 0);
        std::fill(kept.begin(), kept.begin() + 31, std::uint8_t(1));
        window_->time()->setRange(0, 60);
        window_->time()->setKept(kept);
        QVERIFY(bar->isVisible());
        QVERIFY(bar->toolTip().contains("31 frames"));
        const QImage shown = bar->grab().toImage();
        const QRgb done = shown.pixel(shown.width() / 4, shown.height() / 2), open = shown.pixel(shown.width() * 3 / 4, shown.height() / 2);
        QVERIFY(done != open);
        QCOMPARE(QColor(done), colours().fresh);
    }

    void timeDrivesFormulasAndFramesAreRemembered() {
        document().apply(setSetting(loom(), "body", "height_scale", {{"formula", "1 + frame * 0.01"}}));
        window_->showDrawer("time");
        const float still = height();
        TimeDrawer* time = window_->time();
        time->setRange(0, 20);
        Slider* scrub = time->scrubber();
        drag(scrub, scrub->pixelOf(0), scrub->pixelOf(20));
        QCOMPARE(time->frame(), 20.0);
        waitFresh();
        QVERIFY(std::abs(height() - still * 1.2f) < 1e-4f);
        time->setFrame(0);
        waitFresh();
        QVERIFY(window_->rebuilds().report("soften").remembered);
        QVERIFY(std::abs(height() - still) < 1e-6f);
        // Playing goes on by itself, and begins again after the last frame.
        time->setRange(0, 3);
        QTest::mouseClick(time->playButton(), Qt::LeftButton);
        QVERIFY(time->playing());
        QSignalSpy frames(&window_->session().selection(), &Selection::frameChanged);
        QTRY_VERIFY(frames.count() > 6);
        QTest::mouseClick(time->playButton(), Qt::LeftButton);
        QVERIFY(!time->playing());
        for (const auto& one : frames) QVERIFY(one[0].toDouble() >= 0 && one[0].toDouble() <= 3);
        time->setLoops(false);
        time->setFrame(0);
        time->play(true);
        QTRY_VERIFY_WITH_TIMEOUT(!time->playing(), 10000);
        QCOMPARE(time->frame(), 3.0);
    }
};

int main(int argc, char** argv) { return runWindowTest<TestPanels>(argc, argv); }
#include "test_panels.moc"

// Copies in the window: painting where they may be, picking them, mending their overlaps, and what many of them do to picture and files.
#include "WindowTest.h"
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/GeometryModel.h"
#include "app/look/Texts.h"
#include "app/settings/MaterialsField.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "formats/LoomFile.h"
#include "geometry/Bake.h"
#include "meshes/MeshFile.h"
#include "scatter/CopyOverlap.h"

#include <QtGui/QOpenGLContext>
#include <QtWidgets/QColorDialog>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QToolTip>

using namespace seedloom;
using namespace seedloom::app;

class TestPlacing : public WindowTest {
    Q_OBJECT

    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    const Json& settings(const char* node) { return loom().node(node)->settings; }

    /// A plate of 4 m, points on it, a shape on each, and a material.
    void openPlate(const Json& scatter, const char* shape, const Json& shapeSettings, const Json& place = Json::object(), const char* chosen = "copies") {
        Loom made;
        made.name = "Plate";
        const auto add = [&](const char* id, const char* op, const Json& with, Cell cell) {
            Node node{.id = id, .op = op};
            node.settings = with;
            node.cell = cell;
            made.nodes.push_back(node);
        };
        add("plate", "grid", {{"size", {4, 4}}, {"cells", {24, 24}}}, {0, 0});
        add("points", "scatter", scatter, {1, 0});
        add("shape", shape, shapeSettings, {1, 1});
        add("copies", "place_copies", place, {2, 0});
        add("look", "material", {{"slots", {{{"name", "red"}, {"color", {0.8, 0.1, 0.1}}}}}}, {3, 0});
        made.links = {{"plate", "", "points", "", Json::object()},
                      {"points", "", "copies", "points", Json::object()},
                      {"shape", "", "copies", "shapes", Json::object()},
                      {"copies", "", "look", "", Json::object()}};
        made.output = "look";
        const QString file = folder_.filePath("plate.loom");
        QVERIFY(!writeLoom(made, file.toStdString()));
        QVERIFY(window_->openFile(file));
        waitFresh();
        weave()->choose(chosen);
        waitFresh();
    }
    void waitCopies(std::size_t count) { QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && stage()->mesh()->copyCount == count, 15000); }
    Geometry resultOf(const char* node) {
        waitFresh();
        return window_->rebuilds().outcome(node)->geometry;
    }
    void stroke(QPoint from, QPoint to) {
        QTest::mousePress(overlay(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 8; ++i) QTest::mouseMove(overlay(), from + (to - from) * i / 8);
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, to);
        waitFresh();
    }
    QPoint pixelOf(Vec3 at) { return stage()->camera().project(at, stage()->size()).toPoint(); }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    void densityIsPaintedOnTheSurface() {
        openPlate({{"mode", "density"}, {"density", 60}}, "box", {{"size", {0.05, 0.05, 0.05}}}, Json::object(), "points");
        run("from_above");
        QTRY_VERIFY(window_->settings()->strokes());
        StrokesField* brush = window_->settings()->strokes();
        QTest::mouseClick(brush->paintButton(), Qt::LeftButton);
        QVERIFY(stage()->brush());
        brush->setRadius(0.4);
        // While it is painted the surface is seen with its density, and the points on it.
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && stage()->mesh()->faceCount == 576, 10000);
        QTRY_VERIFY_WITH_TIMEOUT(stage()->ghostMesh() && stage()->ghostMesh()->pointCount > 900, 10000);
        QCOMPARE(stage()->tools()->look().attribute, std::string("density"));
        QVERIFY(stage()->mesh()->legend.problem.empty());
        QCOMPARE(stage()->mesh()->legend.unit, std::string("points per m²"));
        stage()->frameAll();
        const std::size_t before = resultOf("points").pointCount();
        stroke(pixelOf({-1, 0, 0}), pixelOf({1, 0, 0}));
        QCOMPARE(settings("points")["strokes"].size(), std::size_t(1));
        const Geometry points = resultOf("points");
        QVERIFY(points.pointCount() > 40 && points.pointCount() < before / 3);
        for (Vec3 p : points.positions()) QVERIFY(length(p - Vec3{std::clamp(p.x, -1.0f, 1.0f), 0, 0}) < 0.62f);
        // Copies behind it follow at once.
        QCOMPARE(resultOf("look").copyCount(), points.pointCount());
        QTRY_COMPARE_WITH_TIMEOUT(stage()->ghostMesh()->pointCount, points.pointCount(), 10000);
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh()->legend.scaled && stage()->mesh()->legend.high > 20 && stage()->mesh()->legend.high < 60.01, 10000);
        // The panel says what the density comes to.
        const auto told = [&] {
            QStringList texts;
            for (auto* label : window_->settings()->row("density")->findChildren<QLabel*>()) texts << label->text();
            return texts.join(QLatin1Char(' '));
        };
        QTRY_VERIFY2(told().contains(QStringLiteral("16 m²")) && told().contains(QString::number(points.pointCount())), qPrintable(told()));
        undo();
        QCOMPARE(resultOf("points").pointCount(), before);
        QTest::keyClick(stage(), Qt::Key_Escape);
        QVERIFY(!stage()->brush());
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh()->faceCount == 0 && stage()->mesh()->pointCount == before, 10000);
    }

    void clickingACopyChoosesItsRowAndBack() {
        openPlate({{"count", 12}, {"relax", 20}}, "box", {{"size", {0.3, 0.3, 0.3}}});
        waitCopies(12);
        window_->showDrawer("data");
        run("from_above");
        stage()->frameAll();
        const Geometry copies = resultOf("copies");
        for (Index row : {Index(4), Index(9)}) {
            QTest::mouseClick(overlay(), Qt::LeftButton, {}, pixelOf(copies.copies()->place[row].move));
            QCOMPARE(stage()->marks().element, Element::copy);
            QCOMPARE(stage()->marks().rows, std::vector<Index>{row});
            const auto chosen = window_->data()->table()->selectionModel()->selectedRows();
            QCOMPARE(chosen.size(), 1);
            QCOMPARE(window_->data()->model()->elementAt(chosen[0].row()), row);
        }
        QVERIFY(window_->data()->model()->attributes().contains("position"));
        window_->data()->table()->selectRow(2);
        QCOMPARE(stage()->marks().rows, std::vector<Index>{2});
        // Marked: the camera goes there.
        run("frame_marks");
        QVERIFY(QLineF(pixelOf(copies.copies()->place[2].move), QPointF(stage()->width() / 2, stage()->height() / 2)).length() < 60);
        window_->data()->setFilter("position.x > 0");
        QTRY_VERIFY(!stage()->marks().rows.empty() && stage()->marks().rows != std::vector<Index>{2});
        for (Index row : stage()->marks().rows) QVERIFY(copies.copies()->place[row].move.x > 0);
    }

    void copiesShowTheirMaterialAndTheirValues() {
        NEED_OPENGL(stage()->canvas());
        openPlate({{"count", 5}, {"relax", 30}}, "box", {{"size", {0.6, 0.2, 0.6}}}, Json::object(), "look");
        waitCopies(5);
        run("from_above");
        stage()->frameAll();
        const Geometry copies = resultOf("look");
        QCOMPARE(stage()->mesh()->copies.size(), std::size_t(1));
        QCOMPARE(stage()->mesh()->copies[0].rows.size(), std::size_t(5));
        QCOMPARE(stage()->mesh()->vertices.size(), std::size_t(0));
        const auto colourOf = [&](Index row) {
            const QImage picture = stage()->canvas()->picture();
            return QColor(picture.pixel((QPointF(pixelOf(copies.copies()->place[row].move)) * picture.devicePixelRatio()).toPoint()));
        };
        for (Index row = 0; row < 5; ++row) QVERIFY2(colourOf(row).red() > colourOf(row).blue() + 60, qPrintable(colourOf(row).name()));
        stage()->setAttribute("id");
        QTRY_VERIFY(stage()->mesh()->copyValues && stage()->mesh()->legend.element == Element::copy);
        QVERIFY(valueAt(*stage()->mesh(), Element::copy, 3, {}).find("copy 3") != std::string::npos);
        const auto& ids = *copies.values<std::int32_t>(Element::copy, "id");
        const auto [low, high] = std::minmax_element(ids.begin(), ids.end());
        QVERIFY(colourOf(Index(high - ids.begin())).lightness() > colourOf(Index(low - ids.begin())).lightness() + 60);
    }

    void overlapsAreMendedFromTheCheckup() {
        openPlate({{"count", 400}}, "box", {{"size", {0.3, 0.3, 0.3}}}, Json::object(), "look");
        window_->showDrawer("checkup");
        const std::size_t pairs = overlapsOf(resultOf("look"), OverlapBy::meshes, RunContext()).pairs.size();
        QVERIFY(pairs > 20);
        QTRY_VERIFY(!window_->checkup()->busy());
        const auto& findings = window_->checkup()->report().findings;
        const auto found = std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.code == "overlapping_copies"; });
        QVERIFY(found != findings.end());
        QCOMPARE(found->count, pairs);
        QCOMPARE(found->element, Element::copy);
        QPushButton* fix = nullptr;
        for (auto* button : window_->checkup()->findChildren<QPushButton*>())
            if (button->isVisible() && button->text().contains("Thin out")) fix = button;
        QVERIFY(fix);
        QTest::mouseClick(fix, Qt::LeftButton);
        waitFresh();
        const std::string added = weave()->chosen();
        QCOMPARE(loom().node(added)->op, std::string("thin_out"));
        const Geometry left = resultOf(added.c_str());
        QVERIFY(left.copyCount() > 50 && left.copyCount() < 400);
        QVERIFY(overlapsOf(left, OverlapBy::meshes, RunContext()).pairs.empty());
    }

    void manyCopiesAreDotsWhileTheViewMoves() {
        NEED_OPENGL(stage()->canvas());
        openPlate({{"count", 1000}}, "sphere", {{"radius", 0.03}, {"sides", 32}, {"rings", 20}});
        waitCopies(1000);
        stage()->frameAll();
        stage()->canvas()->setMostMovingMs(1);
        stage()->canvas()->picture();
        stage()->canvas()->setMoving(true);
        stage()->canvas()->picture();
        QVERIFY(stage()->canvas()->shown().reducing);
        QVERIFY(stage()->canvas()->shown().copiesAsDots > 500);
        QVERIFY2(stage()->remarks().join(' ').contains("as dots while it moves"), qPrintable(stage()->remarks().join(' ')));
        // Dots have the colour of what they stand for: in the middle of the plate nothing is as dark as ink.
        const QImage dots = stage()->canvas()->picture();
        const QPoint middle(dots.width() / 2, dots.height() / 2);
        for (int x = -40; x <= 40; x += 4)
            for (int y = -20; y <= 20; y += 4) QVERIFY(QColor(dots.pixel(middle + QPoint(x, y))).lightness() > 60);
        stage()->canvas()->setMoving(false);
        QTRY_VERIFY(!stage()->canvas()->shown().reducing);
        // What is drawn says nothing of what is there.
        QCOMPARE(resultOf("copies").copyCount(), std::size_t(1000));
    }

    /// A card has room for one count; what rests on it tells all. Card and stage count alike: faces with those of the copies.
    void cardsTellOfCopiesBesideFaces() {
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/crusted-rock.loom")));
        weave()->choose("out");
        const Geometry out = resultOf("out");
        QVERIFY(out.faceCount() > 0 && out.copyCount() > 0);
        const QPoint at = weave()->cardRect("out").center().toPoint();
        QMouseEvent move(QEvent::MouseMove, at, weave()->mapToGlobal(at), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(weave(), &move);
        QVERIFY2(QToolTip::text().contains(QStringLiteral("%1 faces with %2 copies").arg(countText(facesWithCopies(out)), countText(out.copyCount()))),
                 qPrintable(QToolTip::text()));
        QTRY_VERIFY(stage()->mesh() && std::uint64_t(stage()->mesh()->drawnFaces) == bakedCounts(out).faces);
    }

    /// The hand does not wait for pictures: they follow, and what lies on the model follows with them.
    void picturesArePaintedBehind() {
        NEED_OPENGL(stage()->canvas());
        NEED_OPENGL(QOpenGLContext::supportsThreadedOpenGL());
        openPlate({{"count", 1000}}, "sphere", {{"radius", 0.03}, {"sides", 32}, {"rings", 20}});
        waitCopies(1000);
        stage()->frameAll();
        const QImage before = stage()->canvas()->picture();
        StageCamera camera = stage()->camera();
        QSignalSpy drawn(stage()->canvas(), &GlCanvas::drawn);
        for (int i = 0; i < 20; ++i) {
            camera.orbit(9, 0);
            stage()->setCamera(camera);
            stage()->canvas()->repaint();
        }
        // Twenty wishes are one or two pictures, and none of them came while the hand was busy.
        QCOMPARE(drawn.count(), 0);
        QVERIFY(stage()->canvas()->shown().camera.yaw != camera.yaw);
        QTRY_COMPARE(stage()->canvas()->shown().camera.yaw, camera.yaw);
        QVERIFY2(drawn.count() <= 3, qPrintable(QString::number(drawn.count())));
        const QImage after = stage()->canvas()->picture();
        QCOMPARE(after.size(), before.size());
        // A picture at rest that nobody wants any more is given up, and the wanted one comes.
        QTest::qWait(160);
        stage()->canvas()->repaint();
        stage()->canvas()->setMoving(true);
        camera.orbit(40, 0);
        stage()->setCamera(camera);
        stage()->canvas()->picture();
        QCOMPARE(stage()->canvas()->shown().camera.yaw, camera.yaw);
        stage()->canvas()->setMoving(false);
    }

    /// Left of the divider the input, right of it the result: each side has its own copies in its own colours.
    void copiesAreComparedSideBySide() {
        NEED_OPENGL(stage()->canvas());
        openPlate({{"mode", "spacing"}, {"spacing", 0.25}}, "box", {{"size", {0.24, 0.1, 0.24}}}, Json::object(), "look");
        waitCopies(resultOf("look").copyCount());
        run("from_above");
        stage()->frameAll();
        window_->toggleCompare(true);
        QTRY_VERIFY_WITH_TIMEOUT(stage()->comparing() && stage()->otherMesh() && !stage()->otherMesh()->copies.empty(), 10000);
        const QImage picture = stage()->canvas()->picture();
        const auto redness = [&](int from, int to) {
            double sum = 0;
            for (int x = from; x < to; x += 3)
                for (int y = picture.height() / 2 - 60; y < picture.height() / 2 + 60; y += 3) {
                    const QColor c(picture.pixel(x, y));
                    sum += c.red() - c.blue();
                }
            return sum / (double(to - from) / 3 * 40);
        };
        const int middle = picture.width() / 2;
        QVERIFY2(redness(middle + 12, middle + 90) > redness(middle - 90, middle - 12) + 40, qPrintable(QString::number(redness(middle + 12, middle + 90))));
        window_->toggleCompare(false);
    }
    /// Differences are told of copies that can be baked; of very many it is said that they can't.
    void differencesOfCopies() {
        openPlate({{"count", 50}}, "box", {{"size", {0.1, 0.1, 0.1}}}, Json::object(), "copies");
        const Geometry few = resultOf("copies");
        SceneLook look;
        look.shading = Shading::difference;
        Geometry moved = few;
        auto shifted = std::make_shared<Copies>(*few.copies());
        for (Affine& place : shifted->place) place.move.y += 0.5f;
        moved.setCopies(shifted);
        const auto told = drawScene(moved, look, &few);
        QVERIFY(told->legend.problem.empty() && told->legend.high > 0.49);
        auto many = std::make_shared<Copies>(*few.copies());
        for (int i = 0; i < 15; ++i) {
            many->place.insert(many->place.end(), many->place.begin(), many->place.end());
            many->shapeOf.insert(many->shapeOf.end(), many->shapeOf.begin(), many->shapeOf.end());
        }
        moved.setCopies(many);
        const auto refused = drawScene(moved, look, &few);
        QVERIFY(refused->legend.problem.find("too many") != std::string::npos);
        QCOMPARE(refused->copyCount, std::size_t(50) << 15);
    }
    /// What the stage keeps of copies: mirrored ones apart, every row once, values of shapes under one legend.
    void stageMeshesOfCopies() {
        openPlate({{"count", 30}}, "box", {{"size", {0.1, 0.1, 0.1}}}, {{"size", {{"formula", "vec3(index % 3 == 0 ? -1.0 : 1.0, 1.0, 1.0)"}}}}, "copies");
        const Geometry copies = resultOf("copies");
        const auto mesh = drawScene(copies, {});
        QCOMPARE(mesh->copies.size(), std::size_t(2));
        std::vector<int> seen(30, 0);
        for (const DrawCopies& group : mesh->copies)
            for (Index row : group.rows) {
                ++seen[row];
                QCOMPARE(copies.copies()->place[row].mirrors(), group.mirrored);
            }
        QVERIFY(std::all_of(seen.begin(), seen.end(), [](int n) { return n == 1; }));
        QCOMPARE(triangleCount(*mesh), std::size_t(30 * 12));
        QCOMPARE(mesh->drawnFaces, std::uint64_t(180));
        QVERIFY(mesh->allClosed && mesh->faceCount == 0);
        QVERIFY(length(mesh->bounds.size() - boundsOf(copies).size()) < 1e-6f);
        // An attribute of the shapes: one range over all of them.
        Geometry two = copies;
        auto shapes = std::make_shared<Copies>(*copies.copies());
        Geometry low = *shapes->shapes[0], high = low;
        low.setColumn(Element::point, "heat", Column(std::vector<float>(low.pointCount(), 2)));
        high.setColumn(Element::point, "heat", Column(std::vector<float>(low.pointCount(), 10)));
        shapes->shapes = {std::make_shared<const Geometry>(low), std::make_shared<const Geometry>(high)};
        for (std::size_t i = 0; i < shapes->shapeOf.size(); ++i) shapes->shapeOf[i] = i % 2;
        two.setCopies(shapes);
        SceneLook look;
        look.shading = Shading::attribute;
        look.attribute = "heat";
        const auto coloured = drawScene(two, look);
        QVERIFY(coloured->legend.problem.empty());
        QCOMPARE(coloured->legend.low, 2.0);
        QCOMPARE(coloured->legend.high, 10.0);
        QVERIFY(!(coloured->copies.front().shape->vertices[0].colour == coloured->copies.back().shape->vertices[0].colour));
        look.attribute = "nothing of that name";
        QVERIFY(!drawScene(two, look)->legend.problem.empty());
    }
    /// The ray meets the nearest copy, however it is turned and stretched, and hidden ones never.
    void raysMeetTheNearestCopy() {
        openPlate({{"count", 200}}, "box", {{"size", {0.2, 0.2, 0.2}}},
                  {{"size", {{"formula", "vec3(0.5 + random(index, 1), 0.4, 1.5)"}}}, {"turn", {{"random", {{"range", {0, 360}}}}}}, {"tilt", 30}}, "copies");
        waitCopies(200);
        stage()->frameAll();
        const Geometry copies = resultOf("copies");
        const QSizeF size = stage()->size();
        int met = 0;
        for (int x = 60; x < int(size.width()) - 60; x += 37)
            for (int y = 60; y < int(size.height()) - 60; y += 23) {
                const auto found = pickAt(*stage()->mesh(), stage()->camera(), size, QPointF(x, y), false);
                const Vec3 from = stage()->camera().rayStart(QPointF(x, y), size), along = stage()->camera().ray(QPointF(x, y), size);
                // Beside it: every face of every copy.
                std::optional<float> nearest;
                Index row = 0;
                for (Index i = 0; i < copies.copyCount(); ++i) {
                    const Geometry& shape = *copies.copies()->shapes[0];
                    for (Index f = 0; f < shape.faceCount(); ++f) {
                        const auto face = shape.topology().face(f);
                        const auto at = [&](std::size_t k) { return copies.copies()->place[i].point(shape.positions()[face[k]]); };
                        for (std::size_t k = 1; k + 1 < face.size(); ++k)
                            if (const auto t = rayMeets(from, along, at(0), at(k), at(k + 1)); t && (!nearest || *t < *nearest)) nearest = t, row = i;
                    }
                }
                QCOMPARE(found.has_value(), nearest.has_value());
                if (!found) continue;
                ++met;
                QCOMPARE(found->element, Element::copy);
                QVERIFY2(found->row == row || distance(found->at, from + along * *nearest) < 1e-3f, "another copy is nearer");
            }
        QVERIFY(met > 20);
    }
    void markedCopiesAreOutlined() {
        openPlate({{"count", 3}, {"relax", 20}}, "box", {{"size", {0.4, 0.2, 0.4}}}, Json::object(), "copies");
        const Geometry copies = resultOf("copies");
        const MarkShapes one = markShapes(copies, {Element::copy, {1}, {}});
        QCOMPARE(one.lines.size(), std::size_t(24));
        QCOMPARE(one.triangles.size(), std::size_t(36));
        QVERIFY(length(one.bounds.centre() - copies.copies()->place[1].point(boundsOf(*copies.copies()->shapes[0]).centre())) < 1e-5f);
        QVERIFY(markShapes(copies, {Element::copy, {99}, {}}).lines.empty());
    }

    void aLargeFileIsAskedForFirst() {
        openPlate({{"count", 20000}}, "sphere", {{"radius", 0.01}, {"sides", 32}, {"rings", 16}});
        const QString stl = folder_.filePath("all.stl");
        QVERIFY(!window_->exportTo(stl));
        QVERIFY2(window_->message().contains("20\u2009000") && window_->message().contains("MB"), qPrintable(window_->message()));
        QVERIFY(!QFileInfo::exists(stl));
        QPushButton* instead = nullptr;
        for (auto* button : window_->findChildren<QPushButton*>())
            if (button->isVisible() && button->text().contains("all.glb")) instead = button;
        QVERIFY(instead);
        QSignalSpy done(window_.get(), &MainWindow::exported);
        QTest::mouseClick(instead, Qt::LeftButton);
        QVERIFY(done.count() > 0 || done.wait(20000));
        const QFileInfo written(folder_.filePath("all.glb"));
        QVERIFY(written.exists() && written.size() < 5'000'000);
    }

    void materialsAreEditedByHand() {
        openPlate({{"count", 30}}, "box", {{"size", {0.1, 0.1, 0.1}}}, Json::object(), "look");
        auto* field = window_->settings()->row("slots")->findChild<MaterialsField*>();
        QVERIFY(field);
        QTest::mouseClick(field->addButton(), Qt::LeftButton);
        waitFresh();
        QCOMPARE(settings("look")["slots"].size(), std::size_t(2));
        const Geometry both = resultOf("look");
        const auto& numbers = *both.values<std::int32_t>(Element::copy, "material");
        QVERIFY(std::count(numbers.begin(), numbers.end(), 1) > 5);
        QTest::mouseClick(field->swatch(1), Qt::LeftButton);
        auto* dialog = field->findChild<QColorDialog*>();
        QVERIFY(dialog);
        dialog->setCurrentColor(QColor(0, 128, 255));
        QTest::keyClick(dialog, Qt::Key_Return);
        QTRY_COMPARE(settings("look")["slots"][1]["color"][2].get<double>(), 1.0);
        QCOMPARE(settings("look")["slots"][1]["color"][1].get<double>(), 0.502);
        undo();
        undo();
        QCOMPARE(settings("look")["slots"].size(), std::size_t(1));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestPlacing>(argc, argv); }
#include "test_placing.moc"

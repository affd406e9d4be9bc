// Copies in the window: painting where they may be, picking them, mending their overlaps, and what many of them do to picture and files.
#include "WindowTest.h"
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/GeometryModel.h"
#include "app/settings/MaterialsField.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/StrokesField.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "formats/LoomFile.h"
#include "meshes/MeshFile.h"
#include "scatter/CopyOverlap.h"

#include <QtWidgets/QColorDialog>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>

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
        made.links = {{"plate", "", "points", "", Json::object()}, {"points", "", "copies", "points", Json::object()}, {"shape", "", "copies", "shapes", Json::object()}, {"copies", "", "look", "", Json::object()}};
        made.output = "look";
        const QString file = folder_.filePath("plate.loom");
        QVERIFY(!writeLoom(made, file.toStdString()));
        QVERIFY(window_->openFile(file));
        waitFresh();
        weave()->choose(chosen);
        waitFresh();
    }
    void waitCopies(std::size_t count) {
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && stage()->mesh()->copyCount == count, 15000);
    }
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
        if (!stage()->canvas()) QSKIP("no OpenGL here");
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
        if (!stage()->canvas()) QSKIP("no OpenGL here");
        openPlate({{"count", 1000}}, "sphere", {{"radius", 0.03}, {"sides", 32}, {"rings", 20}});
        waitCopies(1000);
        stage()->frameAll();
        stage()->canvas()->setMostMovingMs(1);
        stage()->canvas()->picture();
        stage()->canvas()->setMoving(true);
        stage()->canvas()->picture();
        QVERIFY(stage()->canvas()->reducing());
        QVERIFY(stage()->canvas()->copiesAsDots() > 500);
        QVERIFY2(stage()->remarks().join(' ').contains("as dots while it moves"), qPrintable(stage()->remarks().join(' ')));
        // Dots have the colour of what they stand for: in the middle of the plate nothing is as dark as ink.
        const QImage dots = stage()->canvas()->picture();
        const QPoint middle(dots.width() / 2, dots.height() / 2);
        for (int x = -40; x <= 40; x += 4)
            for (int y = -20; y <= 20; y += 4) QVERIFY(QColor(dots.pixel(middle + QPoint(x, y))).lightness() > 60);
        stage()->canvas()->setMoving(false);
        stage()->canvas()->picture();
        QVERIFY(!stage()->canvas()->reducing());
        // What is drawn says nothing of what is there.
        QCOMPARE(resultOf("copies").copyCount(), std::size_t(1000));
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

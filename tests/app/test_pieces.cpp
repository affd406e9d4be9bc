// Pieces of the application that need no window: camera, picking, what the stage draws, the table, background work.
#include "app/data/CheckupDrawer.h"
#include "app/data/GeometryModel.h"
#include "app/session/Background.h"
#include "app/settings/SourcePreview.h"
#include "app/stage/Picking.h"
#include "app/stage/StageCamera.h"
#include "app/widgets/FormulaEditor.h"
#include "geometry/Checkup.h"
#include "geometry/Rows.h"
#include "scene/DrawScene.h"
#include "scene/Extremes.h"
#include "support/OwnApplication.h"
#include "support/Run.h"

#include <QtCore/QSemaphore>
#include <QtCore/QThread>
#include <QtGui/QTextBlock>
#include <QtGui/QTextLayout>
#include <QtWidgets/QApplication>

#include <numeric>
#include <random>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

namespace {

constexpr QSizeF kSize(800, 500);

std::shared_ptr<const NodeOutcome> outcomeOf(Geometry geometry) {
    auto out = std::make_shared<NodeOutcome>();
    out->geometry = std::move(geometry);
    return out;
}

Geometry with(const char* text, const Geometry& in, const char* element = "point") { return made("formula", {{"text", text}, {"element", element}}, {in}); }

StageCamera someCamera(bool flat) {
    StageCamera camera;
    camera.yaw = 37, camera.pitch = -21, camera.distance = 5;
    camera.target = {0.5f, 1, -2};
    camera.flat = flat;
    return camera;
}

}  // namespace

class TestPieces : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // Camera

    void projectingAndCastingAreInverse_data() {
        QTest::addColumn<bool>("flat");
        QTest::newRow("perspective") << false;
        QTest::newRow("flat") << true;
    }
    void projectingAndCastingAreInverse() {
        QFETCH(bool, flat);
        const StageCamera camera = someCamera(flat);
        for (QPointF pixel : {QPointF(400, 250), QPointF(10, 20), QPointF(790, 480), QPointF(333, 77)}) {
            const Vec3 from = camera.rayStart(pixel, kSize), way = camera.ray(pixel, kSize);
            QVERIFY(near(double(length(way)), 1, 1e-5));
            for (float far : {2.0f, 5.0f, 40.0f}) {
                bool behind = true;
                const QPointF back = camera.project(from + way * far, kSize, &behind);
                QVERIFY2(QLineF(back, pixel).length() < 0.05, qPrintable(QString::number(QLineF(back, pixel).length())));
                QVERIFY(!behind);
            }
        }
        bool behind = false;
        camera.project(camera.eye() + camera.toEye() * 3, kSize, &behind);
        if (!flat) QVERIFY(behind);
    }

    /// What is drawn stands where picking and handles look for it.
    void matricesDrawWhereProjectingSays() {
        for (bool flat : {false, true}) {
            const StageCamera camera = someCamera(flat);
            for (Vec3 p : {camera.target, camera.target + Vec3{0.4f, -0.3f, 0.2f}, camera.target + Vec3{-1, 0.7f, 0.5f}}) {
                const QVector4D clip = camera.projection(kSize) * camera.view() * QVector4D(p.x, p.y, p.z, 1);
                const QPointF drawn((double(clip.x() / clip.w()) * 0.5 + 0.5) * kSize.width(), (0.5 - double(clip.y() / clip.w()) * 0.5) * kSize.height());
                QVERIFY(QLineF(drawn, camera.project(p, kSize)).length() < 0.05);
            }
        }
    }

    void directionsAreAtRightAngles() {
        for (bool flat : {false, true}) {
            StageCamera camera = someCamera(flat);
            for (int side = -1; side < 6; ++side) {
                if (side >= 0) camera.lookFrom(side);
                QVERIFY(near(double(dot(camera.right(), camera.up())), 0, 1e-5));
                QVERIFY(near(double(dot(camera.right(), camera.toEye())), 0, 1e-5));
                QVERIFY(length(cross(camera.right(), camera.up()) - camera.toEye()) < 1e-4f);
            }
        }
        const Vec3 axes[] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
        StageCamera camera;
        for (int side = 0; side < 6; ++side) {
            camera.lookFrom(side);
            QVERIFY(length(camera.toEye() - axes[side]) < 1e-4f);
        }
    }

    void framingFillsThePicture() {
        // From any side, flat or not: the longer of both fills four fifths, in the middle of what the tools leave free.
        const Geometry shapes[] = {made("box", {{"size", {2, 7, 1}}}), made("box", {{"size", {9, 0.1, 3}}}), made("sphere"),
                                   made("cylinder", {{"radius_bottom", 0.1}, {"radius_top", 0.1}, {"height", 5}})};
        for (const Geometry& shape : shapes)
            for (bool flat : {false, true})
                for (double pitch : {-90.0, -20.0, 18.0, 70.0}) {
                    StageCamera camera = someCamera(flat);
                    camera.pitch = pitch;
                    camera.frame(extremesOf(shape), kSize, 60);
                    double left = 1e9, right = -1e9, top = 1e9, bottom = -1e9;
                    for (Vec3 p : shape.positions()) {
                        const QPointF at = camera.project(p, kSize);
                        left = std::min(left, at.x()), right = std::max(right, at.x());
                        top = std::min(top, at.y()), bottom = std::max(bottom, at.y());
                    }
                    const double filled = std::max((bottom - top) / (kSize.height() - 60), (right - left) / kSize.width());
                    QVERIFY2(filled > 0.76 && filled < 0.84, qPrintable(QString::number(filled)));
                    QVERIFY(std::abs((left + right) / 2 - kSize.width() / 2) < 10);
                    QVERIFY2(std::abs((top + bottom) / 2 - (kSize.height() + 60) / 2) < 10, qPrintable(QString::number((top + bottom) / 2)));
                }
        // However small it is.
        StageCamera small = someCamera(false);
        small.frame(std::vector<Vec3>{{0, 0, 0}, {0, 0.0002f, 0}}, kSize);
        const double high = std::abs(small.project({0, 0, 0}, kSize).y() - small.project({0, 0.0002f, 0}, kSize).y());
        QVERIFY(std::abs(high - 0.8 * kSize.height()) < 8);
        // A point alone stays at a distance that can be worked at, and nothing leaves all as it is.
        StageCamera camera = someCamera(false);
        camera.frame(std::vector<Vec3>{{1, 2, 3}}, kSize);
        QCOMPARE(camera.target, (Vec3{1, 2, 3}));
        QVERIFY(camera.distance > 1e-3 && camera.distance < 1);
        const StageCamera before = camera;
        camera.frame({}, kSize);
        QVERIFY(camera == before);
    }

    void longSidesAreLookedAt() {
        StageCamera camera;
        const auto across = [&](Vec3 way) { return std::abs(dot(camera.right(), way)); };
        camera.lookAtSides({4, 2, 1});
        QVERIFY(across({1, 0, 0}) > across({0, 0, 1}) * 1.5f);
        const double usual = camera.pitch;
        camera.lookAtSides({1, 2, 4});
        QVERIFY(across({0, 0, 1}) > across({1, 0, 0}) * 1.5f);
        QCOMPARE(camera.pitch, usual);
        camera.lookAtSides({4, 0.1f, 4});
        QVERIFY(camera.pitch > usual + 10);
    }

    void panningFollowsThePointer() {
        StageCamera camera = someCamera(false);
        const QPointF before = camera.project(camera.target, kSize);
        const Vec3 target = camera.target;
        camera.pan(40, -25, kSize);
        QVERIFY(QLineF(camera.project(target, kSize), before + QPointF(40, -25)).length() < 1.5);
    }

    void zoomingKeepsThePlaceUnderThePointer() {
        for (bool flat : {false, true}) {
            StageCamera camera = someCamera(flat);
            const QPointF at(620, 120);
            const Vec3 way = camera.ray(at, kSize);
            const float far = float((double(dot(camera.target - camera.rayStart(at, kSize), -camera.toEye()))) / double(dot(way, -camera.toEye())));
            const Vec3 under = camera.rayStart(at, kSize) + way * far;
            camera.zoom(0.6, at, kSize);
            QVERIFY(near(camera.distance, 3, 1e-6));
            QVERIFY(QLineF(camera.project(under, kSize), at).length() < 0.5);
        }
    }

    // Picking

    void raysMeetTriangles() {
        const Vec3 a{0, 0, 0}, b{2, 0, 0}, c{0, 2, 0};
        QCOMPARE(*rayMeets({0.5f, 0.5f, 3}, {0, 0, -1}, a, b, c), 3.0f);
        QCOMPARE(*rayMeets({0.5f, 0.5f, -3}, {0, 0, 1}, a, b, c), 3.0f);  // from behind, too
        QVERIFY(!rayMeets({1.5f, 1.5f, 3}, {0, 0, -1}, a, b, c));
        QVERIFY(!rayMeets({0.5f, 0.5f, 3}, {0, 0, 1}, a, b, c));  // behind the start
        QVERIFY(!rayMeets({0.5f, 0.5f, 3}, {1, 0, 0}, a, b, c));  // along it
    }

    void pickingFindsTheNearestFace() {
        const Geometry ball = made("sphere", {{"radius", 1}, {"sides", 24}, {"rings", 16}});
        const auto mesh = drawScene(ball, {});
        const auto centres = faceCentres(ball);
        const auto normals = faceNormals(ball);
        for (bool flat : {false, true}) {
            StageCamera camera = someCamera(flat);
            camera.frame(mesh->extremes, kSize);
            int hits = 0;
            for (Index f = 0; f < ball.faceCount(); f += 7) {
                const Vec3 towards = flat ? camera.toEye() : normalized(camera.eye() - centres[f]);
                const auto found = pickAt(*mesh, camera, kSize, camera.project(centres[f], kSize), false);
                QVERIFY(found && found->element == Element::face);
                if (dot(normals[f], towards) < 0.3f) {
                    QVERIFY(found->row != f || dot(normals[f], towards) > 0);  // what is turned away is hidden by the front
                    continue;
                }
                QCOMPARE(found->row, f);
                QVERIFY(distance(found->at, centres[f]) < 0.05f);
                ++hits;
            }
            QVERIFY(hits > 5);
            QVERIFY(!pickAt(*mesh, camera, kSize, QPointF(2, 2), false));
        }
    }

    void hiddenPointsAreNotPicked() {
        const Geometry box = made("box", {{"size", {2, 2, 2}}, {"anchor", "middle"}});
        SceneLook look;
        look.points = true;
        const auto mesh = drawScene(box, look);
        StageCamera camera;
        camera.target = {};
        camera.distance = 8;
        camera.lookFrom(4);
        for (Index p = 0; p < box.pointCount(); ++p) {
            const auto found = pickAt(*mesh, camera, kSize, camera.project(box.positions()[p], kSize), true);
            // The four in front can be picked; those behind project inside the front face, which hides them.
            if (box.positions()[p].z > 0) {
                QVERIFY(found && found->element == Element::point);
                QCOMPARE(found->row, p);
            } else {
                QVERIFY(found && found->element == Element::face);
            }
        }
    }

    // The table

    void rowsAreChosenAsAPlainSearchDoes() {
        std::mt19937 random(8);
        std::vector<Vec3> at(400);
        for (Vec3& p : at) p = {float(random() % 10), float(random() % 100) / 10, float(random() % 7)};
        const Geometry g(at);
        for (bool descending : {false, true}) {
            const ChosenRows found = chooseRows(g, Element::point, {"position.x > 4 && position.z != 2", "position", 1, descending});
            QVERIFY(found.problem.isEmpty());
            std::vector<Index> expected;
            for (Index i = 0; i < at.size(); ++i)
                if (at[i].x > 4 && at[i].z != 2) expected.push_back(i);
            std::stable_sort(expected.begin(), expected.end(), [&](Index a, Index b) { return descending ? at[a].y > at[b].y : at[a].y < at[b].y; });
            QCOMPARE(found.rows, expected);
        }
        QVERIFY(chooseRows(g, Element::point, {"position.x >", "", 0, false}).problem.contains("column"));
        QVERIFY(chooseRows(g, Element::point, {"positon.x > 1", "", 0, false}).problem.contains("position"));
    }

    void tablesHideOrderAndCopy() {
        const Geometry g = with("mask = index * 0.5; word = index == 1 ? \"a,b\" : \"plain\";", Geometry({{1, 2, 3}, {4, 5, 6}, {7, 8, 9}}));
        GeometryModel model;
        model.show(outcomeOf(g), Element::point);
        QCOMPARE(model.rowCount(), 3);
        QCOMPARE(model.columnCount(), 5);
        model.setOrder({2, 0}, false);
        QCOMPARE(model.rowCount(), 2);
        QCOMPARE(model.elementAt(0), Index(2));
        QCOMPARE(model.rowOf(0), 1);
        QCOMPARE(model.rowOf(1), -1);
        model.setOrder({}, true);
        model.hideAttributes({"position"});
        QCOMPARE(model.columnCount(), 2);
        const QStringList lines = model.csv({}).split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 4);
        QVERIFY(lines[0].contains("mask") && lines[0].contains("word"));
        QVERIFY2(lines[2].contains("\"a,b\""), qPrintable(lines[2]));
        QVERIFY(lines[3].contains("1"));
        model.show(nullptr, Element::point);
        QCOMPARE(model.rowCount(), 0);
    }

    // Background work

    void workIsDoneBehindInOrderAndToldInFront() {
        Background background;
        std::vector<int> told;
        QThread* const front = QThread::currentThread();
        std::atomic<bool> behind{true};
        for (int i = 0; i < 20; ++i)
            background.start([&, i]() -> Background::Then {
                behind = behind && QThread::currentThread() != front;
                return [&told, i, front] {
                    if (QThread::currentThread() == front) told.push_back(i);
                };
            });
        QTRY_COMPARE(told.size(), std::size_t(20));
        QVERIFY(behind);
        for (int i = 0; i < 20; ++i) QCOMPARE(told[std::size_t(i)], i);
    }

    void whatHasNotBegunCanBeDropped() {
        QSemaphore begun, go;
        std::atomic<int> ran{0};
        Background background;
        background.start([&]() -> Background::Then {
            begun.release();
            go.acquire();
            ++ran;
            return {};
        });
        begun.acquire();
        for (int i = 0; i < 5; ++i) background.start([&]() -> Background::Then { return ++ran, Background::Then(); });
        background.clear();
        go.release();
        background.wait();
        QCOMPARE(ran.load(), 1);
    }

    void anEndDropsWhatWaitsAndTellsNothing() {
        bool told = false;
        std::atomic<int> ran{0};
        {
            QSemaphore begun;
            Background background;
            background.start([&]() -> Background::Then {
                begun.release();
                QThread::msleep(50);
                ++ran;
                return [&told] { told = true; };
            });
            background.start([&]() -> Background::Then { return ++ran, Background::Then(); });
            begun.acquire();
        }
        QCOMPARE(ran.load(), 1);
        QCoreApplication::processEvents();
        QVERIFY(!told);
    }

    // Formula editor, without a window

    void colouringFollowsCommentsAndTexts() {
        FormulaEditor editor(FormulaForm::statements);
        editor.setNames({"mask"});
        editor.setPlainText("let a = mask; // let\n/* mask\nmask */ mask = \"let\";");
        const auto colourAt = [&](int block, int column) {
            const QTextBlock line = editor.document()->findBlockByNumber(block);
            for (const auto& range : line.layout()->formats())
                if (column >= range.start && column < range.start + range.length) return range.format.foreground().color();
            return QColor();
        };
        const QColor word = colourAt(0, 0), name = colourAt(0, 8), comment = colourAt(0, 17);
        QVERIFY(word.isValid() && name.isValid() && comment.isValid());
        QVERIFY(word != name && name != comment && word != comment);
        QCOMPARE(colourAt(1, 4), comment);
        QCOMPARE(colourAt(2, 1), comment);
        QCOMPARE(colourAt(2, 8), name);
        QVERIFY(colourAt(2, 17) != word);
    }

    void previewsTellTheirValuesInWords() {
        SourcePreview preview;
        std::vector<float> values(11);
        std::iota(values.begin(), values.end(), 0.0f);
        preview.show(statisticsOf(Column(values), 0, 40));
        QCOMPARE(preview.accessibleName(), QString("Values from 0 to 10, 5 on average"));
        preview.showReason("Nothing has come in yet.");
        QCOMPARE(preview.accessibleName(), QString("Nothing has come in yet."));
        QCOMPARE(preview.statistics().count, std::size_t(0));
    }

    // Checkup

    void whatTheCheckupOffersMends_data() {
        QTest::addColumn<QString>("code");
        for (const char* code : {"open_edges", "doubled_points", "inside_out", "winding", "nonmanifold_edges", "self_intersections", "non_finite_points"})
            QTest::newRow(code) << code;
    }
    void whatTheCheckupOffersMends() {
        QFETCH(QString, code);
        const Geometry box = made("box"), beside = made("transform", {{"move", {1, 1, 0}}}, {box});
        const std::map<QString, Geometry> broken{
            {"open_edges", made("delete", {{"where", {{"attribute", "top"}}}}, {box})},
            {"doubled_points", made("separate", {{"by", "each face"}}, {box})},
            {"inside_out", made("flip", {}, {box})},
            {"winding", made("flip", {{"where", {{"attribute", "top"}}}}, {box})},
            {"nonmanifold_edges", made("weld", {}, {made("merge", {}, {box, beside})})},
            // A rope that passes through itself.
            {"self_intersections", made("sweep", {{"form", "tube"}, {"width", 0.1}, {"caps", true}},
                                        {made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {0.5, 0, 0.7}, {0.5, 0, -0.7}}}, {"join", "open curve"}})})},
            {"non_finite_points",
             [&] {
                 Geometry g = made("merge", {}, {box, beside});
                 std::vector<Vec3> places = g.positions();
                 places[3].y = std::numeric_limits<float>::quiet_NaN(), places[12].x = std::numeric_limits<float>::infinity();
                 g.setPositions(std::move(places));
                 return g;
             }()},
        };
        const auto has = [&](const Geometry& g) {
            const auto findings = findingsOf(g, true);
            return std::any_of(findings.begin(), findings.end(), [&](const Finding& f) { return QString::fromStdString(f.code) == code; });
        };
        const Geometry& g = broken.at(code);
        QVERIFY(has(g));
        const auto fixes = CheckupDrawer::fixesFor(code.toStdString());
        QVERIFY(!fixes.empty());
        for (const NoticeFix& fix : fixes) QVERIFY2(!has(made(fix.op.c_str(), fix.settings, {g})), fix.op.c_str());
    }
    void slivers() {
        Geometry sliver = made("transform", {{"scale", {0.01, 0.01, 0.01}}, {"move", {3, 0, 0}}}, {made("box")});
        sliver.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>(6, 9)));
        CheckupReport report;
        report.pieces = pieceFigures(combine({made("shatter", {{"pieces", 6}}, {made("box")}), sliver}));
        QCOMPARE(report.pieces->slivers, std::size_t(1));
        const auto fixes = CheckupDrawer::fixesFor("slivers", report);
        QCOMPARE(fixes.size(), std::size_t(1));
        const Geometry left = made(fixes[0].op.c_str(), fixes[0].settings, {combine({made("shatter", {{"pieces", 6}}, {made("box")}), sliver})});
        QCOMPARE(pieceFigures(left)->count, std::size_t(6));
        QVERIFY(CheckupDrawer::sizeText(2e-5, true).endsWith(QStringLiteral("cm³")) && CheckupDrawer::sizeText(2, true).endsWith(QStringLiteral("m³")));
        QVERIFY(CheckupDrawer::sizeText(2e-8, true).startsWith(QStringLiteral("20 mm³")) &&
                CheckupDrawer::sizeText(2e-3, false).startsWith(QStringLiteral("20 cm²")));
    }
};

int main(int argc, char** argv) {
    const OwnApplication application(argc, argv);
    TestPieces test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_pieces.moc"

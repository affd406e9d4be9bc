// The canvas alone: what its pictures show of what was set, painted behind the interface and in front of it.
#include "app/look/Theme.h"
#include "app/stage/GlCanvas.h"
#include "support/OwnApplication.h"
#include "support/Run.h"

#include <QtTest/QSignalSpy>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

namespace {

constexpr QSize kSize(400, 300);

/// A plate under a camera that looks down on it; the plate fills the middle of the picture.
Geometry plate(int cells = 8, Vec3 colour = {0.8f, 0.8f, 0.8f}) {
    Geometry out = made("grid", {{"size", {4, 4}}, {"cells", {cells, cells}}});
    out.setColumn(Element::point, "color", Column(std::vector<Vec3>(out.pointCount(), colour)));
    return out;
}
StageCamera above() {
    StageCamera camera;
    camera.lookFrom(2);
    camera.target = {};
    camera.distance = 9;
    return camera;
}
/// Boxes side by side on a plane of 4 m.
Geometry rowsOfBoxes(int columns, int rows, int shapes = 1) {
    auto copies = std::make_shared<Copies>();
    const float pitch = 4.0f / float(columns);
    for (int s = 0; s < shapes; ++s)
        copies->shapes.push_back(std::make_shared<const Geometry>(made("box", {{"size", {double(pitch) * 0.95, 0.01, double(pitch) * 0.95}}})));
    for (int i = 0; i < columns * rows; ++i) {
        copies->shapeOf.push_back(Index(i * shapes / (columns * rows)));
        copies->place.push_back(
            {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {pitch * (float(i % columns) + 0.5f) - 2, 0, pitch * (float(i / columns) + 0.5f) - pitch * float(rows) / 2}});
    }
    Geometry out;
    out.setCopies(copies);
    return out;
}
std::size_t differing(const QImage& a, const QImage& b, QRect within) {
    std::size_t out = 0;
    for (int y = within.top(); y <= within.bottom(); ++y)
        for (int x = within.left(); x <= within.right(); ++x) out += a.pixel(x, y) != b.pixel(x, y);
    return out;
}
std::size_t differing(const QImage& a, const QImage& b) { return differing(a, b, a.rect()); }

}  // namespace

class TestCanvas : public QObject {
    Q_OBJECT

    std::unique_ptr<GlCanvas> canvas_;

    void makeCanvas(GlCanvas::Painting painting = GlCanvas::possible()) {
        canvas_ = std::make_unique<GlCanvas>(nullptr, painting);
        canvas_->resize(kSize);
        canvas_->setCamera(above());
        canvas_->setMostMovingMs(1e9);
    }
    QColor at(double x, double y) {
        const QImage picture = canvas_->picture();
        return picture.pixelColor(int(x * picture.width()), int(y * picture.height()));
    }
    static bool red(const QColor& c) { return c.red() > c.blue() + 40; }
    static bool blue(const QColor& c) { return c.blue() > c.red() + 40; }

private Q_SLOTS:
    void initTestCase() {
        if (!openGlProblem().isEmpty()) {
            if (qEnvironmentVariableIsSet("SEEDLOOM_WITHOUT_OPENGL")) QSKIP("no OpenGL, as was said");
            QFAIL(qPrintable(openGlProblem()));
        }
        setAppearance(ThemeName::linen, 1);
    }
    void cleanup() { canvas_.reset(); }

    void picturesShowWhatWasSet_data() {
        QTest::addColumn<bool>("behind");
        if (GlCanvas::possible() == GlCanvas::Painting::behind) QTest::newRow("behind") << true;
        QTest::newRow("in front") << false;
    }
    void picturesShowWhatWasSet() {
        QFETCH(bool, behind);
        makeCanvas(behind ? GlCanvas::Painting::behind : GlCanvas::Painting::in_front);
        const QImage empty = canvas_->picture();
        QCOMPARE(empty.size(), kSize);
        canvas_->setMesh(drawScene(plate(), {}));
        const QImage mesh = canvas_->picture();
        QVERIFY(differing(empty, mesh) > 5000);
        QCOMPARE(canvas_->picture(), mesh);  // nothing changed, nothing is painted anew
        canvas_->setOptions({.wire = true});
        const QImage wire = canvas_->picture();
        QVERIFY(differing(mesh, wire) > 500);
        canvas_->setOptions({});
        canvas_->setMarks(markShapes(plate(), {Element::point, {40}, {}}));
        const QImage marked = canvas_->picture();
        // Point 40 is the middle of the plate; its mark is small and nowhere else.
        QVERIFY(differing(mesh, marked, QRect(190, 140, 20, 20)) > 20);
        QCOMPARE(differing(mesh, marked), differing(mesh, marked, QRect(190, 140, 20, 20)));
        canvas_->setMarks({});
        QCOMPARE(canvas_->picture(), mesh);
        canvas_->setGhost(drawScene(made("transform", {{"move", {2.5, 0.2, 0}}}, {plate()}), {}));
        QVERIFY(differing(mesh, canvas_->picture()) > 500);
        canvas_->setGhost(nullptr);
        canvas_->setMesh(nullptr);
        QCOMPARE(canvas_->picture(), empty);
        canvas_->show();
        canvas_->resize(200, 150);
        QTRY_COMPARE(canvas_->picture().size(), QSize(200, 150));
        StageCamera turned = above();
        turned.orbit(30, -40);
        canvas_->setCamera(turned);
        (void)canvas_->picture();
        QVERIFY(canvas_->shown().camera == turned);
    }
    void theDividerSharesThePicture() {
        makeCanvas();
        SceneLook look;
        look.shading = Shading::attribute;
        look.attribute = "color";
        canvas_->setMesh(drawScene(plate(8, {0.1f, 0.1f, 0.9f}), look));
        QVERIFY(blue(at(0.4, 0.5)) && blue(at(0.6, 0.5)));
        canvas_->setOther(drawScene(plate(8, {0.9f, 0.1f, 0.1f}), look));
        QVERIFY(red(at(0.4, 0.5)) && blue(at(0.6, 0.5)));
        canvas_->setDivider(0.3);
        QVERIFY(blue(at(0.4, 0.5)) && blue(at(0.6, 0.5)));
        canvas_->setDivider(0.7);
        QVERIFY(red(at(0.4, 0.5)) && red(at(0.6, 0.5)));
        canvas_->setOther(nullptr);
        QVERIFY(blue(at(0.4, 0.5)));
    }
    /// What is sent to the renderer in parts is drawn whole: the last rows of a mesh as the first.
    void largeMeshesAreDrawnWhole() {
        makeCanvas();
        const QImage empty = canvas_->picture();
        const auto mesh = drawScene(plate(300), {});
        QVERIFY(mesh->triangles.size() > 500000);
        canvas_->setMesh(mesh);
        const QImage picture = canvas_->picture();
        QVERIFY(!canvas_->shown().reducing);
        const QSizeF area(kSize);
        for (double x = -1.95; x < 2; x += 0.15)
            for (double z = -1.95; z < 2; z += 0.15) {
                const QPoint pixel = above().project({float(x), 0, float(z)}, area).toPoint();
                QVERIFY2(picture.pixel(pixel) != empty.pixel(pixel), qPrintable(QStringLiteral("%1 %2").arg(x).arg(z)));
            }
    }
    void manyCopiesAreDrawnWhole() {
        makeCanvas();
        canvas_->resize(800, 600);
        const QImage empty = canvas_->picture();
        // Drawn in two parts, which must stand where their own places say.
        const Geometry boxes = rowsOfBoxes(100, 100);
        canvas_->setMesh(drawScene(boxes, {}));
        const QImage picture = canvas_->picture();
        QCOMPARE(canvas_->shown().copiesAsDots, std::size_t(0));
        for (const Affine& place : boxes.copies()->place) {
            const QPointF pixel = above().project(place.move, QSizeF(picture.size()));
            const QPoint at(int(pixel.x()), int(pixel.y()));
            QVERIFY2(picture.pixel(at) != empty.pixel(at), qPrintable(QStringLiteral("%1 %2").arg(at.x()).arg(at.y())));
        }
    }
    /// While few dots stand for all copies, none of the shapes is left out.
    void dotsStandForAllShapes() {
        makeCanvas();
        canvas_->setMostMovingMs(0);
        canvas_->setMoving(true);
        const QImage empty = canvas_->picture();
        canvas_->setMesh(drawScene(rowsOfBoxes(300, 300, 2), {}));
        const QImage picture = canvas_->picture();
        QCOMPARE(canvas_->shown().copiesAsDots, std::size_t(90000));
        QVERIFY(canvas_->shown().reducing);
        // The first shape is in the upper half of the picture, the second in the lower.
        const std::size_t upper = differing(empty, picture, QRect(0, 0, 400, 150)), lower = differing(empty, picture, QRect(0, 150, 400, 150));
        QVERIFY2(upper > 500 && std::max(upper, lower) < std::min(upper, lower) * 5 / 4, qPrintable(QStringLiteral("%1 %2").arg(upper).arg(lower)));
    }
    /// While the view moves, a mesh with many triangles is drawn with fewer; what is seen is the same shape.
    void largeMeshesAreReducedWhileTheyMove() {
        makeCanvas();
        const QImage empty = canvas_->picture();
        canvas_->setMesh(drawScene(plate(300), {}));
        const QImage whole = canvas_->picture();
        QVERIFY(!canvas_->shown().reducing);
        canvas_->setMostMovingMs(0);
        canvas_->setMoving(true);
        const QImage moving = canvas_->picture();
        QVERIFY(canvas_->shown().reducing);
        QVERIFY(differing(empty, moving) > differing(empty, whole) * 9 / 10);
        // Edges take time, and are left out of it.
        canvas_->setOptions({.wire = true});
        QVERIFY(differing(moving, canvas_->picture()) < 50);
        canvas_->setMoving(false);
        QVERIFY(differing(whole, canvas_->picture()) > 1000);
        QVERIFY(!canvas_->shown().reducing);
        // Small ones are never reduced.
        canvas_->setMesh(drawScene(plate(), {}));
        canvas_->setMoving(true);
        (void)canvas_->picture();
        QVERIFY(!canvas_->shown().reducing);
    }
    void copiesOfAMirrorLookOutwardToo() {
        makeCanvas();
        const QImage empty = canvas_->picture();
        const auto seenOf = [&](float sign) {
            auto copies = std::make_shared<Copies>();
            copies->shapes = {std::make_shared<const Geometry>(made("box", {{"size", {2, 0.5, 2}}}))};
            copies->shapeOf = {0};
            copies->place = {{{sign, 0, 0}, {0, 1, 0}, {0, 0, 1}, {}}};
            Geometry g;
            g.setCopies(copies);
            canvas_->setMesh(drawScene(g, {}));
            return at(0.5, 0.5);
        };
        // Seen from inside, the top would be missing or hatched.
        const QColor plain = seenOf(1), mirrored = seenOf(-1);
        QCOMPARE(mirrored, plain);
        QVERIFY(plain != empty.pixelColor(200, 150));
    }
    void linesOfTheGroundAreRoundNumbers() {
        double before = 0;
        for (double distance = 0.001; distance < 1e5; distance *= 1.07) {
            StageCamera camera;
            camera.distance = distance;
            const double step = gridStep(camera), power = std::pow(10.0, std::floor(std::log10(step * 1.0001))), first = step / power;
            QVERIFY2(near(first, 1, 1e-9) || near(first, 2, 1e-9) || near(first, 5, 1e-9), qPrintable(QString::number(step)));
            QVERIFY(step >= before && step > distance / 60 && step < distance);
            before = step;
        }
    }
    void theThemeIsFollowed() {
        makeCanvas();
        const int light = at(0.1, 0.9).lightness();
        setAppearance(ThemeName::night, 1);
        QTRY_VERIFY(at(0.1, 0.9).lightness() < light - 60);
        setAppearance(ThemeName::linen, 1);
        QTRY_COMPARE(at(0.1, 0.9).lightness(), light);
    }
    void aRestingPictureGetsSmoothEdges() {
        makeCanvas();
        StageCamera slanted = above();
        slanted.orbit(20, -30);
        canvas_->setCamera(slanted);
        canvas_->setMesh(drawScene(made("box", {{"size", {2, 2, 2}}}), {}));
        canvas_->show();
        const auto colours = [](const QImage& picture) {
            std::set<QRgb> out;
            for (int y = 0; y < picture.height(); ++y)
                for (int x = 0; x < picture.width(); ++x) out.insert(picture.pixel(x, y));
            return out.size();
        };
        const std::size_t rough = colours(canvas_->picture());
        // Between two colours at an edge there are others soon.
        QTRY_VERIFY_WITH_TIMEOUT(colours(canvas_->picture()) > rough + rough / 20, 15000);
    }
    void aCanvasMayEndWhileItPaints() {
        const auto heavy = drawScene(plate(300), {});
        for (int i = 0; i < 5; ++i) {
            makeCanvas();
            canvas_->setMesh(heavy);
            canvas_->show();
            canvas_->repaint();
            canvas_.reset();
        }
        QCOMPARE(heavy.use_count(), 1L);
        // Without a size there is no picture, and nobody waits for one.
        makeCanvas();
        canvas_->resize(0, 0);
        QVERIFY(canvas_->picture().isNull());
    }
};

int main(int argc, char** argv) {
    const OwnApplication application(argc, argv);
    TestCanvas test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_canvas.moc"

#include "render/Thumbnail.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

int covered(const Picture& p) {
    int n = 0;
    for (Colour c : p.pixels) n += c.a > 127;
    return n;
}

Picture pictureOf(const Geometry& g) {
    ThumbnailOptions options;
    options.width = options.height = 64;
    return thumbnail(g, options, RunContext());
}

}  // namespace

class TestRender : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void shapesCoverWhatTheyShould() {
        const Picture ball = pictureOf(made("sphere"));
        QCOMPARE(ball.pixels.size(), 64u * 64u);
        const double disc = 3.14159 / 4 * 64 * 64 * 0.86 * 0.86;
        QVERIFY(near(covered(ball), disc, disc * 0.03));
        QCOMPARE(int(ball.pixels[0].a), 0);
        QCOMPARE(int(ball.pixels[32 * 64 + 32].a), 255);
        QVERIFY(covered(pictureOf(made("line"))) > 40);
        QVERIFY(covered(pictureOf(Geometry({{0, 0, 0}}))) > 0);
        QCOMPARE(covered(pictureOf(Geometry())), 0);
    }

    void litFromTheLeftAbove() {
        const Picture ball = pictureOf(made("sphere"));
        QVERIFY(ball.pixels[20 * 64 + 22].r > ball.pixels[46 * 64 + 44].r);
    }

    void samePixelsEveryTimeAndNothingBreaksIt() {
        const Geometry g = made("noise_displace", Json::object(), {made("sphere")});
        const Picture a = pictureOf(g), b = pictureOf(g);
        for (std::size_t i = 0; i < a.pixels.size(); ++i) QCOMPARE(a.pixels[i].r, b.pixels[i].r);
        Geometry broken = made("box");
        auto p = broken.positions();
        p[0].x = std::numeric_limits<float>::quiet_NaN();
        broken.setPositions(p);
        QVERIFY(covered(pictureOf(broken)) > 100);
        QVERIFY(covered(pictureOf(made("transform", {{"scale", 1e-9}}, {made("box")}))) > 1000);
    }

    void cancelling() {
        const std::atomic<bool> stop{true};
        QVERIFY_EXCEPTION_THROWN(thumbnail(made("box"), ThumbnailOptions(), RunContext(&stop)), Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestRender)
#include "test_render.moc"

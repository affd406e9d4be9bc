// Pictures: that they show what is there, where it is, in its colours.
#include "geometry/Bake.h"
#include "geometry/RayScene.h"
#include "geometry/Rows.h"
#include "operators/Polyhedra.h"
#include "render/Lettering.h"
#include "render/RenderedPicture.h"
#include "render/Thumbnail.h"
#include "render/TracedScene.h"
#include "scene/Camera.h"
#include "scene/Palette.h"
#include "support/Chance.h"
#include "support/Run.h"

#include <QtCore/QTemporaryDir>

#include <png.h>
#include <tbb/global_control.h>
#include <tbb/task_arena.h>

using namespace seedloom;
using namespace seedloom::test;

namespace {

constexpr int kSide = 64;

int covered(const Picture& p) {
    return int(std::count_if(p.pixels.begin(), p.pixels.end(), [](Colour c) { return c.a > 127; }));
}
Colour at(const Picture& p, int x, int y) { return p.pixels[std::size_t(y) * std::size_t(p.width) + std::size_t(x)]; }
Vec3 rgb(Colour c) { return {float(c.r), float(c.g), float(c.b)}; }

ThumbnailOptions small(double yaw = 30, double pitch = 20) {
    ThumbnailOptions options;
    options.width = options.height = kSide;
    options.yaw = yaw, options.pitch = pitch;
    return options;
}
Picture pictureOf(const Geometry& g, const ThumbnailOptions& options = small()) { return thumbnail(g, options, RunContext()); }

RenderOptions tracedOptions(double yaw, double pitch, bool ground) {
    RenderOptions options;
    options.width = options.height = kSide;
    options.samples = 4;
    options.yaw = yaw, options.pitch = pitch;
    options.ground = ground;
    return options;
}
Picture tracedOf(const Geometry& g, double yaw = 32, double pitch = 20, bool ground = false) {
    return renderedPicture(g, tracedOptions(yaw, pitch, ground), RunContext());
}

Geometry with(const char* text, const Geometry& in, const char* element = "point") { return made("formula", {{"text", text}, {"element", element}}, {in}); }
Geometry boxAt(Vec3 at, double size = 1) { return transformed(made("box", {{"size", {size, size, size}}, {"anchor", "middle"}}), Affine{.move = at}); }

Geometry copiesOf(const Geometry& shape, std::vector<Affine> places) {
    auto copies = std::make_shared<Copies>();
    copies->shapes = {std::make_shared<const Geometry>(shape)};
    copies->shapeOf.assign(places.size(), 0);
    copies->place = std::move(places);
    Geometry out;
    out.setCopies(copies);
    return out;
}

/// Copies of two shapes, turned, stretched and mirrored, and what they are once baked.
Geometry someCopies() {
    std::vector<Vec3> places;
    Chance chance(5);
    for (int i = 0; i < 14; ++i) places.push_back(chance.place(2));
    auto copies = std::make_shared<Copies>();
    copies->shapes = {std::make_shared<const Geometry>(made("box", {{"size", {0.5, 0.9, 0.3}}})),
                      std::make_shared<const Geometry>(made("sphere", {{"radius", 0.4}}))};
    for (std::size_t i = 0; i < places.size(); ++i) {
        copies->shapeOf.push_back(Index(i % 2));
        const float turn = float(i), s = i % 3 ? 1.0f : -1.0f;
        copies->place.push_back({{std::cos(turn), std::sin(turn), 0}, {-std::sin(turn) * 1.5f, std::cos(turn) * 1.5f, 0}, {0, 0, s}, places[i]});
    }
    Geometry out;
    out.setCopies(copies);
    return with("color = vec3(index / 14, 0.5, 0.2);", out, "copy");
}

/// How many pixels differ by more than a hair.
int differing(const Picture& a, const Picture& b, float most = 12) {
    int out = 0;
    for (std::size_t i = 0; i < a.pixels.size(); ++i)
        out += distance(rgb(a.pixels[i]), rgb(b.pixels[i])) > most || std::abs(int(a.pixels[i].a) - int(b.pixels[i].a)) > 130;
    return out;
}

}  // namespace

class TestRender : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// Above 20 000 faces each has one normal, and triangles that cover no sample are left out: nobody sees it.
    void fineModelsLookAsCoarserOnes() {
        const Geometry coarse = geodesicBall(30), fine = geodesicBall(60);
        QVERIFY(coarse.faceCount() < 20'000 && fine.faceCount() > 20'000);
        const Picture a = pictureOf(coarse), b = pictureOf(fine);
        QVERIFY(std::abs(covered(a) - covered(b)) <= 8);
        double apart = 0;
        for (std::size_t i = 0; i < a.pixels.size(); ++i)
            if (a.pixels[i].a == 255 && b.pixels[i].a == 255) apart = std::max(apart, double(length(rgb(a.pixels[i]) - rgb(b.pixels[i]))));
        QVERIFY2(apart > 0 && apart < 8, qPrintable(QString::number(apart)));
    }

    /// The ray library can hold a whole program to one thread.
    void raysLeaveTheThreadsToOthers() {
        const auto allowed = [] { return tbb::global_control::active_value(tbb::global_control::max_allowed_parallelism); };
        const auto before = allowed();
        const RayScene rays(boxAt({}));
        const TracedScene traced(drawScene(boxAt({}), lookForPictures()));
        QCOMPARE(allowed(), before);
    }

    void whatIsFramedDecidesHowLargeThingsLook() {
        RenderOptions near = tracedOptions(0, 0, false), far = near;
        far.framing = boundsOf(boxAt({}, 4));
        const auto dark = [](const Picture& p) {
            return std::count_if(p.pixels.begin(), p.pixels.end(), [&](Colour c) { return std::abs(int(c.r) - int(p.pixels[0].r)) > 30; });
        };
        const auto whole = dark(renderedPicture(boxAt({}), near, RunContext())), small = dark(renderedPicture(boxAt({}), far, RunContext()));
        QVERIFY2(whole > 8 * small && small > 20, (std::to_string(whole) + " " + std::to_string(small)).c_str());
        // Framed as it would be anyway, it is the same picture.
        far.framing = boundsOf(boxAt({}));
        QVERIFY(renderedPicture(boxAt({}), far, RunContext()) == renderedPicture(boxAt({}), near, RunContext()));
    }

    void wordsAreWrittenWhereTheyBelong() {
        Lettering letters;
        constexpr auto kBody = Lettering::Face::regular;
        const int wide = letters.width("Quay", kBody, 20);
        QVERIFY(wide > 35 && wide < 60);
        QCOMPARE(letters.width("", kBody, 20), 0);
        QVERIFY(letters.width("QuayQuay", kBody, 20) > 2 * wide - 4 && letters.width("Quay", kBody, 40) > 2 * wide - 6);
        Picture page{100, 40, std::vector<Colour>(4000, Colour{255, 255, 255, 255})};
        letters.write(page, 10, 28, "Quay", kBody, 20, {0, 0, 0, 255});
        int left = 100, right = 0, top = 40, foot = 0;
        for (int y = 0; y < 40; ++y)
            for (int x = 0; x < 100; ++x)
                if (at(page, x, y).r < 128) left = std::min(left, x), right = std::max(right, x), top = std::min(top, y), foot = std::max(foot, y);
        QVERIFY(left >= 10 && left < 14 && right > 10 + wide - 5 && right <= 10 + wide);
        QVERIFY(top > 10 && top < 16 && foot > 28 && foot < 36);  // only the y goes below the line
        // Beside the picture nothing is written, and nothing else happens.
        Picture same = page;
        letters.write(same, -200, 20, "Quay", kBody, 20, {});
        letters.write(same, 40, 400, "Quay", kBody, 20, {});
        letters.write(same, 300, 20, "\xC3(\xF0\x9F", kBody, 20, {});
        QVERIFY(same == page);
        // Every letter of UTF-8 is one letter.
        QCOMPARE(letters.width("é", kBody, 20), letters.width("e", kBody, 20));
    }

    void linesAreBrokenBetweenWords() {
        Lettering letters;
        constexpr auto kBody = Lettering::Face::regular;
        const std::string text = "A cast bollard for the quay, with rough patches from years of ropes.";
        const auto lines = letters.broken(text, kBody, 14, 160, 9);
        QVERIFY(lines.size() > 2);
        std::string whole;
        for (const std::string& line : lines) {
            QVERIFY2(letters.width(line, kBody, 14) <= 160, line.c_str());
            whole += (whole.empty() ? "" : " ") + line;
        }
        QCOMPARE(whole, text);
        const auto two = letters.broken(text, kBody, 14, 160, 2);
        QCOMPARE(two.size(), std::size_t(2));
        QCOMPARE(two[0], lines[0]);
        QVERIFY(two[1].ends_with("…") && letters.width(two[1], kBody, 14) <= 160);
        const auto one = letters.broken("Unpronounceablylongwordwithoutanyspace", kBody, 14, 60, 3);
        QVERIFY(one.size() == 1 && one[0].ends_with("…") && letters.width(one[0], kBody, 14) <= 60);
        QCOMPARE(letters.broken("a\nb", kBody, 14, 160, 3), (std::vector<std::string>{"a", "b"}));
        QVERIFY(letters.broken("", kBody, 14, 160, 3).empty());
    }

    void picturesArePutTogether() {
        Picture page{8, 4, std::vector<Colour>(32, Colour{255, 255, 255, 255})};
        fillRect(page, 6, -2, 10, 4, {10, 20, 30, 255});
        const auto filled = std::count_if(page.pixels.begin(), page.pixels.end(), [](Colour c) { return c.r == 10; });
        QCOMPARE(int(filled), 4);
        Picture stamp{2, 2, {{255, 0, 0, 255}, {255, 0, 0, 0}, {255, 0, 0, 128}, {0, 0, 0, 255}}};
        putPicture(page, stamp, -1, 2);
        QVERIFY(at(page, 0, 2) == (Colour{255, 255, 255, 255}) && at(page, 0, 3) == (Colour{0, 0, 0, 255}));
        putPicture(page, stamp, 2, 2);
        QVERIFY(at(page, 2, 2) == (Colour{255, 0, 0, 255}) && at(page, 2, 3).g > 120 && at(page, 2, 3).g < 135);
    }

    void shapesCoverWhatTheyShould() {
        const Picture ball = pictureOf(made("sphere"));
        QCOMPARE(ball.pixels.size(), std::size_t(kSide * kSide));
        const double disc = 3.14159 / 4 * kSide * kSide * 0.86 * 0.86;
        QVERIFY(near(covered(ball), disc, disc * 0.03));
        QCOMPARE(int(at(ball, 0, 0).a), 0);
        QCOMPARE(int(at(ball, 32, 32).a), 255);
        QCOMPARE(covered(pictureOf(Geometry())), 0);
        // Seen straight from the front a box of 2 × 1 fills its share of the picture, in the middle.
        const Picture box = pictureOf(made("box", {{"size", {2, 1, 1}}}), small(0, 0));
        QVERIFY(near(covered(box), 0.86 * kSide * 0.43 * kSide, 60));
        QVERIFY(at(box, 32, 32).a == 255 && at(box, 32, 8).a == 0 && at(box, 32, 55).a == 0 && at(box, 7, 32).a == 255 && at(box, 2, 32).a == 0);
    }

    void linesAndLonePointsAreDrawn() {
        const Picture line = pictureOf(made("line", {{"points", 30}}), small(0, 0));
        QVERIFY(covered(line) > 40 && covered(line) < 200);
        const Picture one = pictureOf(Geometry({{4, 5, 6}}));
        QVERIFY2(near(covered(one), 3.14159 * 1.6 * 1.6, 5), qPrintable(QString::number(covered(one))));
        QCOMPARE(int(at(one, 32, 32).a), 255);
        QCOMPARE(at(one, 32, 32), ThumbnailOptions().line);
        const Picture traced = tracedOf(Geometry({{4, 5, 6}}));
        QVERIFY(distance(rgb(at(traced, 32, 32)), rgb(at(traced, 1, 1))) > 90);
        // Points that faces stand on are not.
        const auto inks = [](const Picture& p) { return std::count(p.pixels.begin(), p.pixels.end(), ThumbnailOptions().line); };
        QCOMPARE(inks(pictureOf(made("box"))), 0);
        QVERIFY(inks(pictureOf(combine({made("box"), Geometry({{0, 2, 0}})}))) > 0);
    }

    void whatIsNearerHidesWhatIsBehind() {
        const Geometry red = with("color = vec3(0.9, 0.1, 0.1);", boxAt({0, 0, 1})), blue = with("color = vec3(0.1, 0.1, 0.9);", boxAt({0, 0, -1}));
        for (const Geometry& g : {combine({red, blue}), combine({blue, red})}) {
            const Colour front = at(pictureOf(g, small(0, 0)), 32, 32), back = at(pictureOf(g, small(180, 0)), 32, 32);
            QVERIFY(front.r > 3 * front.b && back.b > 3 * back.r);
            const Colour tracedFront = at(tracedOf(g, 0, 0), 32, 32), tracedBack = at(tracedOf(g, 180, 0), 32, 32);
            QVERIFY(tracedFront.r > 2 * tracedFront.b && tracedBack.b > 2 * tracedBack.r);
        }
    }

    void litFromTheLeftAbove() {
        const Picture ball = pictureOf(made("sphere"));
        QVERIFY(at(ball, 22, 20).r > at(ball, 44, 46).r + 20);
        QVERIFY(at(ball, 22, 20).r > at(ball, 44, 20).r);
        const Picture traced = tracedOf(made("sphere"));
        QVERIFY(at(traced, 24, 22).r > at(traced, 42, 44).r + 20);
    }

    void whatHasNoColourIsClay() {
        for (const Picture& p : {pictureOf(made("sphere")), tracedOf(made("sphere"))}) {
            const Vec3 lit = rgb(at(p, 26, 26)) / 255;
            QVERIFY(std::abs(lit.y / lit.x - kClay.y / kClay.x) < 0.05f && std::abs(lit.z / lit.x - kClay.z / kClay.x) < 0.1f);
        }
    }

    /// A picture of copies is the picture of what they are once baked.
    void copiesLookAsWhenBaked() {
        const Geometry copies = someCopies(), baked = bakeCopies(copies);
        QVERIFY(baked.faceCount() > 100 && copies.faceCount() == 0);
        const Picture a = pictureOf(copies), b = pictureOf(baked);
        QVERIFY2(differing(a, b) <= 6, qPrintable(QString::number(differing(a, b))));
        const Picture c = tracedOf(copies), d = tracedOf(baked);
        QVERIFY2(differing(c, d) <= 40, qPrintable(QString::number(differing(c, d))));
        QVERIFY(differing(c, tracedOf(with("color = vec3(1 - index / 14, 0.5, 0.2);", copies, "copy"))) > 200);
    }

    void copiesOfNothingAreNotDrawn() {
        const Geometry g = copiesOf(Geometry(), {{.move = {1e30f, 0, 0}}});
        QCOMPARE(covered(pictureOf(g)), 0);
        QCOMPARE(pictureOf(combine({made("box"), g})), pictureOf(made("box")));
        QCOMPARE(differing(tracedOf(g), tracedOf(Geometry())), 0);
    }

    void flattenedCopiesAreSeen() {
        const Geometry g = copiesOf(made("box", {{"anchor", "middle"}}), {{.z = {}}, {.x = {std::nanf(""), 0, 0}}});
        const TracedScene scene(drawScene(g, lookForPictures()));
        const auto hit = scene.hit({0.1f, 0.1f, 5}, {0, 0, -1});
        QVERIFY(hit && near(double(hit->distance), 5, 1e-3) && distance(hit->normal, {0, 0, 1}) < 1e-3f);
        QVERIFY(!scene.hit({0.7f, 0.1f, 5}, {0, 0, -1}));
    }

    void raysMeetFacesRodsAndBalls() {
        Geometry line = made("line", {{"points", 2}});  // its own size sets that of rods
        const Geometry all = combine({boxAt({3, 0, 0}), line, Geometry({{-3, 0, 0}})});
        const auto made = drawScene(all, lookForPictures());
        const double size = made->bounds.diagonal();
        const TracedScene scene(made);
        const auto face = scene.hit({3.1f, 0.2f, 9}, {0, 0, -1});
        QVERIFY(face && near(double(face->distance), 8.5, 1e-4) && distance(face->normal, {0, 0, 1}) < 1e-4f && distance(face->colour, kClay) < 1e-4f);
        const auto ball = scene.hit({-3, 0, 9}, {0, 0, -1});
        QVERIFY(ball && near(double(ball->distance), 9 - size * 0.014, 1e-3) && distance(ball->colour, kInk) < 1e-4f);
        const Vec3 middle = (all.positions()[all.topology().curve(0)[0]] + all.positions()[all.topology().curve(0)[1]]) * 0.5f;
        const auto rod = scene.hit(middle + Vec3{0, 0, 9}, {0, 0, -1});
        QVERIFY(rod && near(double(rod->distance), 9 - size * 0.006, 1e-3) && distance(rod->colour, kInk) < 1e-4f);
        QVERIFY(!scene.hit({0, 7, 9}, {0, 0, -1}) && !scene.hit({std::nanf(""), 0, 0}, {0, 0, -1}));
        QVERIFY(scene.blocked({3.1f, 0.2f, 9}, {0, 0, -1}, 8.6f) && !scene.blocked({3.1f, 0.2f, 9}, {0, 0, -1}, 8.4f));
        // From inside the normal looks towards where the ray came from.
        const auto inside = scene.hit({3, 0, 0}, {1, 0, 0});
        QVERIFY(inside && distance(inside->normal, {-1, 0, 0}) < 1e-4f);
    }

    void theGroundCatchesTheShadow() {
        const Geometry ball = made("sphere", {{"radius", 1}});
        const Picture with = tracedOf(ball, 0, 30, true), without = tracedOf(ball, 0, 30, false);
        // The light comes from the left: to the right of the ball and below its middle the ground is darker than on the left.
        const int row = 52;
        int left = 0, right = 0;
        for (int x = 0; x < 12; ++x) left += at(with, x, row).g, right += at(with, 63 - x, row).g;
        QVERIFY2(left > right + 12 * 10, qPrintable(QString("%1 %2").arg(left).arg(right)));
        QVERIFY(differing(with, without) > 200);
        QCOMPARE(at(with, 2, 2), at(without, 2, 2));  // the sky
    }

    void framedSoThatAllIsSeen() {
        for (const Geometry& g : {made("box", {{"size", {4, 0.2, 0.2}}}), made("box", {{"size", {0.2, 4, 0.2}}}), made("sphere")}) {
            const Picture p = tracedOf(g, 20, 10);
            const Colour corner = at(p, 0, 0);
            int most = 0;
            for (int i = 0; i < kSide; ++i) {
                for (Colour c : {at(p, 0, i), at(p, kSide - 1, i)}) QVERIFY(distance(rgb(c), rgb(corner)) < 60);
                for (int x = 0; x < kSide; ++x) most += distance(rgb(at(p, x, i)), rgb(at(p, 0, i))) > 25;
            }
            QVERIFY(most > kSide);
        }
    }

    void samePixelsForAnyNumberOfThreadsAndNothingBreaksIt() {
        const Geometry g = made("noise_displace", Json::object(), {made("sphere")});
        QCOMPARE(pictureOf(g), pictureOf(g));
        Picture one, many;
        tbb::task_arena(1).execute([&] { one = tracedOf(g, 32, 20, true); });
        tbb::task_arena(4).execute([&] { many = tracedOf(g, 32, 20, true); });
        QCOMPARE(one, many);
        Geometry broken = made("box");
        auto p = broken.positions();
        p[0].x = std::numeric_limits<float>::quiet_NaN();
        broken.setPositions(p);
        QVERIFY(covered(pictureOf(broken)) > 100);
        QVERIFY(differing(tracedOf(broken), tracedOf(Geometry())) > 100);
        QVERIFY(covered(pictureOf(made("transform", {{"scale", 1e-9}}, {made("box")}))) > 1000);
        QVERIFY(differing(tracedOf(made("transform", {{"scale", 1e-5}}, {made("box")})), tracedOf(Geometry())) > 1000);
    }

    void manyCopiesFillWhatTheyFill() {
        // 90 000 boxes, each smaller than a pixel, stand as a wall.
        std::vector<Affine> places;
        for (int i = 0; i < 90000; ++i) places.push_back({{0.9f, 0, 0}, {0, 0.9f, 0}, {0, 0, 0.9f}, {float(i % 300), float(i / 300), 0}});
        const Geometry g = copiesOf(made("box", {{"cells", {2, 2, 2}}}), places);
        const Picture p = pictureOf(g, small(0, 0));
        for (int y = 6; y < 58; ++y)
            for (int x = 6; x < 58; ++x) QCOMPARE(int(at(p, x, y).a), 255);
        QCOMPARE(int(at(p, 2, 30).a), 0);
    }

    /// Of copies that are too many to draw whole, those that are drawn leave no side empty.
    void tooManyCopiesAreThinnedEvenly() {
        std::vector<Affine> places;
        for (int i = 0; i < 400; ++i) places.push_back({.move = {float(i % 20), float(i / 20), 0}});
        const Geometry g = copiesOf(made("sphere", {{"sides", 64}, {"rings", 32}, {"radius", 0.5}}), places);
        const Picture p = pictureOf(g, small(0, 0));
        int quarters[4] = {};
        for (int y = 0; y < kSide; ++y)
            for (int x = 0; x < kSide; ++x) quarters[y / 32 * 2 + x / 32] += at(p, x, y).a > 127;
        for (int quarter : quarters) QVERIFY2(quarter > 28 * 28 * 0.785 * 0.03 && quarter < 28 * 28 * 0.785 * 0.2, qPrintable(QString::number(quarter)));
    }

    void writtenAsItIs() {
        QTemporaryDir folder;
        const QString file = folder.filePath("a.png");
        Picture p = pictureOf(made("sphere"));
        p.pixels[0] = {1, 2, 3, 4};
        QVERIFY(!writePng(p, file.toStdString()));
        png_image image{};
        image.version = PNG_IMAGE_VERSION;
        QVERIFY(png_image_begin_read_from_file(&image, file.toLocal8Bit().constData()));
        image.format = PNG_FORMAT_RGBA;
        Picture read{int(image.width), int(image.height), std::vector<Colour>(std::size_t(image.width) * image.height)};
        QVERIFY(png_image_finish_read(&image, nullptr, read.pixels.data(), 0, nullptr));
        QCOMPARE(read, p);
        QCOMPARE(writePng(p, folder.filePath("none/a.png").toStdString())->code, std::string("file.write"));
    }

    void cancelling() {
        const std::atomic<bool> stop{true};
        QVERIFY_EXCEPTION_THROWN(thumbnail(made("box"), ThumbnailOptions(), RunContext(&stop)), Cancelled);
        QVERIFY_EXCEPTION_THROWN(renderedPicture(made("box"), RenderOptions(), RunContext(&stop)), Cancelled);
    }
};

QTEST_APPLESS_MAIN(TestRender)
#include "test_render.moc"

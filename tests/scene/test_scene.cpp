// What of a geometry becomes a scene: for the stage, small pictures and traced ones.
#include "geometry/Checkup.h"
#include "geometry/Rows.h"
#include "scene/Camera.h"
#include "scene/Marks.h"
#include "scene/Palette.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry with(const char* text, const Geometry& in, const char* element = "point") { return made("formula", {{"text", text}, {"element", element}}, {in}); }

std::vector<DrawScene::Vertex> verticesOf(const Geometry& g, const SceneLook& look) { return drawScene(g, look)->vertices; }

/// Three boxes in a row as copies, with the attribute that `text` gives them.
Geometry threeBoxes(const char* text, const Geometry& shape) {
    const Geometry points({{0, 0, 0}, {3, 0, 0}, {6, 0, 0}});
    return with(text, madeOf("place_copies", {{points}, {shape}}, {{"align", "none"}}), "copy");
}

}  // namespace

class TestScene : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void meshesHoldEveryCornerAndTriangle() {
        const Geometry g = made("merge", Json::object(), {made("box", {{"cells", {2, 2, 2}}}), made("line", {{"points", 5}}), Geometry({{9, 9, 9}})});
        const auto mesh = drawScene(g, {});
        QCOMPARE(mesh->triangles.size(), std::size_t(24 * 2 * 3));
        QCOMPARE(mesh->triangleFace.size(), std::size_t(48));
        QCOMPARE(mesh->vertices.size(), g.cornerCount());
        QCOMPARE(mesh->lines.size(), std::size_t(4 * 2));
        QCOMPARE(mesh->dots.size(), std::size_t(5 + 1));
        QCOMPARE(mesh->wire.size(), g.topology().edges().edges.size() * 2);
        QVERIFY(mesh->reduced.empty());
        QCOMPARE(mesh->bounds.max, boundsOf(g).max);
    }

    /// Pieces that are drawn apart: the same rows elsewhere, each as it is; sizes and colours are those of the model.
    void piecesAreDrawnApart() {
        const Geometry broken = made("shatter", {{"pieces", 5}}, {made("box")}), loose = combine({broken, Geometry({{9, 9, 9}})});
        SceneLook look;
        look.shading = Shading::attribute;
        look.attribute = "position";
        const auto together = drawScene(loose, look);
        look.apart = 0.5;
        const auto apart = drawScene(loose, look);
        QVERIFY(together->comesApart && apart->comesApart);
        QCOMPARE(apart->size, together->size);
        QCOMPARE(apart->vertices.size(), together->vertices.size());
        for (std::size_t i = 0; i < apart->vertices.size(); ++i) QCOMPARE(apart->vertices[i].colour, together->vertices[i].colour);
        const auto& piece = *broken.values<std::int32_t>(Element::face, "piece");
        std::map<std::int32_t, Vec3> moved;
        for (Index f = 0; f < loose.faceCount(); ++f)
            for (Index p : loose.topology().face(f)) {
                const Vec3 by = apart->geometry.positions()[p] - loose.positions()[p];
                QVERIFY(distance(moved.try_emplace(piece[f], by).first->second, by) < 1e-6f);
            }
        QCOMPARE(moved.size(), std::size_t(5));
        for (const auto& [a, by] : moved)
            for (const auto& [b, other] : moved) QVERIFY(a == b || distance(by, other) > 1e-3f);
        QCOMPARE(apart->geometry.positions().back(), (Vec3{9, 9, 9}));
        // One piece, and pieces that share points, stay; what only hangs together apart is moved as well.
        Geometry sharing = made("box");
        sharing.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>{0, 0, 0, 1, 1, 1}));
        for (const Geometry& whole : {made("box"), sharing}) {
            QVERIFY(!drawScene(whole, look)->comesApart);
            QCOMPARE(drawScene(whole, look)->geometry.positions(), whole.positions());
        }
        QVERIFY(drawScene(combine({made("box"), made("transform", {{"move", {3, 0, 0}}}, {made("box")})}), look)->comesApart);
    }
    void copiesHaveASize() {
        const Geometry copies = threeBoxes("color = vec3(1, 0, 0);", made("box"));
        QCOMPARE(drawScene(copies, {})->size, boundsOf(copies).size());
        QVERIFY(drawScene(copies, {})->size.x > 6.9f);
    }

    void openEdgesAreFoundAndDrawn() {
        SceneLook look;
        look.openEdges = true;
        const auto sheet = drawScene(made("grid", {{"cells", {3, 2}}}), look);
        QCOMPARE(sheet->openEdgeCount, std::size_t(10));
        QCOMPARE(sheet->openEdges.size(), std::size_t(20));
        QVERIFY(!sheet->closed);
        const auto box = drawScene(made("box"), look);
        QCOMPARE(box->openEdgeCount, std::size_t(0));
        QVERIFY(box->closed);
    }

    void arrowsFollowTheirAttribute() {
        const Geometry g = with("way = vec3(0, 2, 0) * (index < 3 ? 1.0 : 0.5);", made("grid", {{"cells", {2, 2}}}));
        SceneLook look;
        look.arrows = "way";
        const auto arrows = drawScene(g, look)->arrows;
        QVERIFY(arrows.size() >= std::size_t(9 * 2));
        QCOMPARE(arrows.size() % 2, std::size_t(0));
        look.arrowLength = 2;
        const auto longer = drawScene(g, look)->arrows;
        // The first line of each arrow is its shaft: from the point, along the vector, twice as long with twice the length.
        QVERIFY(near(double(distance(longer[1].position, longer[0].position)), 2 * double(distance(arrows[1].position, arrows[0].position)), 1e-5));
        QVERIFY(near(double(normalized(arrows[1].position - arrows[0].position).y), 1, 1e-5));
    }

    void shadingSpreadsFromLeastToMost() {
        SceneLook look;
        look.shading = Shading::attribute;
        look.attribute = "height";
        const Geometry g = with("height = position.x;", made("grid", {{"size", {4, 4}}, {"cells", {4, 4}}}));
        const auto mesh = drawScene(g, look);
        QCOMPARE(mesh->legend.low, -2.0);
        QCOMPARE(mesh->legend.high, 2.0);
        QVERIFY(mesh->legend.problem.empty());
        for (const auto& v : mesh->vertices) QVERIFY(length(v.colour - scaleColour(ColourScale::even, (v.position.x + 2) / 4)) < 0.02f);
        look.attribute = "nowhere";
        QVERIFY(!drawScene(g, look)->legend.problem.empty());
        const auto names = colourableAttributes(g);
        QVERIFY(std::find(names.begin(), names.end(), "height") != names.end());
    }

    void scalesAreEvenToTheEye() {
        // Luminance of the screen's colours rises all the way, in steps whose lightness (its cube root) differs little.
        const auto lightness = [](Vec3 c) {
            const auto linear = [](float v) { return v <= 0.04045f ? v / 12.92f : std::pow((v + 0.055f) / 1.055f, 2.4f); };
            return std::cbrt(0.2126f * linear(c.x) + 0.7152f * linear(c.y) + 0.0722f * linear(c.z));
        };
        for (int i = 0; i < 16; ++i) {
            const float step = lightness(scaleColour(ColourScale::even, float(i + 1) / 16)) - lightness(scaleColour(ColourScale::even, float(i) / 16));
            QVERIFY2(step > 0.025f && step < 0.06f, qPrintable(QString("%1: %2").arg(i).arg(double(step))));
        }
        // Two-sided: both ends equally dark, the middle light.
        const float low = lightness(scaleColour(ColourScale::diverging, 0)), middle = lightness(scaleColour(ColourScale::diverging, 0.5f)),
                    high = lightness(scaleColour(ColourScale::diverging, 1));
        QVERIFY(std::abs(low - high) < 0.06f && middle > low + 0.4f);
        for (std::size_t i = 0; i < kMostCategories; ++i)
            for (std::size_t j = 0; j <= i; ++j) QVERIFY((length(categoryColour(i) - categoryColour(j)) > 0.12f) == (i != j));
    }

    void legendsFollowTheirChoice() {
        const Column values(std::vector<float>{-1, 0, 3, std::nanf("")});
        Legend even{.title = "v"};
        const auto colours = coloursOf(values, even);
        QCOMPARE(even.low, -1.0);
        QCOMPARE(even.high, 3.0);
        QCOMPARE(colours[3], kNoNumber);
        // Two-sided: 0 is in the middle.
        Legend sided{.title = "v", .choice = {.scale = ColourScale::diverging}};
        QVERIFY(length(coloursOf(values, sided)[1] - scaleColour(ColourScale::diverging, 0.5f)) < 0.02f);
        QCOMPARE(sided.low, -3.0);
        // Locked: what is beyond takes the end's colour.
        Legend locked{.title = "v", .choice = {.range = std::array{0.0, 1.0}}};
        const auto held = coloursOf(values, locked);
        QCOMPARE(held[0], held[1]);
        QCOMPARE(held[2], scaleColour(ColourScale::even, 1));
        QCOMPARE(locked.high, 1.0);
        // Words and yes/no are categories, the most frequent first.
        Legend words{.title = "v"};
        const auto named = coloursOf(Column(std::vector<std::string>{"plank", "rail", "plank", ""}), words);
        QCOMPARE(words.key.size(), std::size_t(3));
        QCOMPARE(words.key[0].text, std::string("plank"));
        QCOMPARE(words.key[0].count, std::size_t(2));
        QCOMPARE(named[0], categoryColour(0));
        QVERIFY(!words.numeric && !words.scaled);
        std::vector<std::int32_t> pieces(30);
        for (std::size_t i = 0; i < pieces.size(); ++i) pieces[i] = int(i % 15);
        Legend numbers{.title = "piece", .choice = {.scale = ColourScale::categories}};
        coloursOf(Column(pieces), numbers);
        QCOMPARE(numbers.key.size(), kMostCategories);
        QCOMPARE(numbers.further, std::size_t(5));
        QVERIFY(numbers.numeric);
    }

    void differencesAreColoured() {
        const Geometry before = made("grid", {{"size", {4, 4}}, {"cells", {4, 4}}}), after = with("position.y += index == 12 ? 0.5 : 0.0;", before);
        SceneLook look;
        look.shading = Shading::difference;
        const auto mesh = drawScene(after, look, &before);
        QCOMPARE(mesh->legend.low, 0.0);
        QCOMPARE(mesh->legend.high, 0.5);
        QVERIFY(mesh->legend.key.empty());
        for (Index c = 0; c < after.cornerCount(); ++c)
            QCOMPARE(mesh->vertices[c].colour, scaleColour(ColourScale::even, after.topology().cornerPoint()[c] == 12 ? 1.0f : 0.0f));
        // Two boxes against one: what came is told and coloured, what went is drawn as lines.
        const Geometry one = made("box", {}), two = combine({one, transformed(one, Affine{.move = {5, 0, 0}})});
        const auto more = drawScene(two, look, &one), less = drawScene(one, look, &two);
        QCOMPARE(more->legend.key.size(), std::size_t(1));
        QCOMPARE(more->legend.key[0].count, one.faceCount());
        QCOMPARE(more->vertices[0].colour, scaleColour(ColourScale::even, 0));
        QCOMPARE(more->vertices.back().colour, more->legend.key[0].colour);
        QVERIFY(more->lines.empty());
        QCOMPARE(less->lines.size(), one.cornerCount() * 2);
        QCOMPARE(less->legend.key[0].text, std::string("removed faces"));
        QVERIFY(!drawScene(one, look)->legend.problem.empty());
    }

    void valuesAreReadAtAPlace() {
        const Geometry g = with("height = position.x; label = index < 3 ? \"low\" : \"high\";", made("grid", {{"size", {4, 4}}, {"cells", {4, 4}}}));
        SceneLook look;
        look.shading = Shading::attribute;
        look.attribute = "height";
        const auto mesh = drawScene(g, look);
        const Index point = g.topology().face(5)[2];
        const Vec3 at = g.positions()[point] * 0.9f + faceCentres(g)[5] * 0.1f;
        QCOMPARE(valueAt(*mesh, Element::face, 5, at),
                 "height  " + valueText(Column(std::vector<float>{g.positions()[point].x}), 0) + "  ·  point " + std::to_string(point));
        QCOMPARE(valueAt(*mesh, Element::point, point, at), valueAt(*mesh, Element::face, 5, at));
        look.attribute = "label";
        QCOMPARE(valueAt(*drawScene(g, look), Element::point, 1, {}), std::string("label  low  ·  point 1"));
        look.shading = Shading::clay;
        QVERIFY(valueAt(*drawScene(g, look), Element::face, 5, at).empty());
    }

    void largeModelsHaveAReducedList() {
        const auto mesh = drawScene(made("grid", {{"cells", {300, 300}}}), {});
        QCOMPARE(mesh->triangles.size() / 3, std::size_t(180000));
        QVERIFY(!mesh->reduced.empty() && mesh->reduced.size() / 3 <= kReduceAbove);
        for (Index i : mesh->reduced) QVERIFY(i < mesh->vertices.size());
    }

    void marksAreDrawnWhereTheirElementsAre() {
        const Geometry g = made("box", {{"size", {2, 2, 2}}, {"anchor", "middle"}});
        const MarkShapes face = markShapes(g, {Element::face, {0}, {}});
        QCOMPARE(face.triangles.size(), std::size_t(6));
        const MarkShapes points = markShapes(g, {Element::point, {1, 5, 999}, {}});
        QCOMPARE(points.dots.size(), std::size_t(2));
        QCOMPARE(points.dots[0].position, g.positions()[1]);
        const MarkShapes edges = markShapes(g, {Element::face, {}, {{0, 1}, {0, 4000}}});
        QCOMPARE(edges.lines.size(), std::size_t(2));
        QVERIFY(markShapes(g, {}).bounds.empty);
    }

    void pointsThatStandAloneComeFirst() {
        const Geometry g = combine({made("line", {{"points", 4}}), Geometry({{5, 0, 0}, {6, 0, 0}}), made("box")});
        const auto scene = drawScene(g, {});
        QCOMPARE(scene->looseDots, std::size_t(2));
        QCOMPARE(scene->dots.size(), std::size_t(2 + 4));
        QCOMPARE(scene->dots[0].position, (Vec3{5, 0, 0}));
        SceneLook all;
        all.points = true;
        QCOMPARE(drawScene(g, all)->dots.size(), g.pointCount());
        QCOMPARE(drawScene(g, all)->looseDots, std::size_t(2));
    }

    void picturesSkipWhatOnlyAViewNeeds() {
        const Geometry g = made("grid", {{"cells", {300, 300}}});
        const auto plain = drawScene(g, lookForPictures());
        QVERIFY(plain->wire.empty() && plain->reduced.empty());
        QCOMPARE(plain->triangles.size() / 3, std::size_t(180000));
    }

    void oneClayAndItsOwnColours() {
        const Geometry coloured = with("color = vec3(0.1, 0.2, 0.3);", made("box"));
        for (const auto& v : verticesOf(coloured, {})) QCOMPARE(v.colour, kClay);
        for (const auto& v : verticesOf(coloured, lookForPictures())) QVERIFY(distance(v.colour, {0.1f, 0.2f, 0.3f}) < 1e-5f);
        const Geometry lead = made("material", {{"slots", {{{"name", "lead"}, {"color", {0.4, 0.5, 0.6}}}}}}, {made("box")});
        for (const SceneLook& look : {SceneLook(), lookForPictures()})
            for (const auto& v : verticesOf(lead, look)) QVERIFY(distance(v.colour, {0.4f, 0.5f, 0.6f}) < 1e-5f);
    }

    /// As after baking: what a copy says holds for shapes that say nothing of it themselves.
    void copiesColourOnlyShapesWithoutTheirOwn() {
        const char* byCopy = "color = vec3(1, 0, index * 0.5);";
        const auto plain = drawScene(threeBoxes(byCopy, made("box")), lookForPictures());
        QCOMPARE(plain->copies.size(), std::size_t(1));
        const DrawCopies& group = plain->copies[0];
        QCOMPARE(group.rows.size(), std::size_t(3));
        for (std::size_t i = 0; i < 3; ++i) {
            const auto blue = std::uint8_t(std::lround(127.5 * group.rows[i]));
            QVERIFY(std::abs(int(group.colours[i][2]) - int(blue)) <= 1);
            QCOMPARE(int(group.colours[i][0]), 255);
            QCOMPARE(int(group.colours[i][3]), 255);
        }
        QVERIFY(drawScene(threeBoxes(byCopy, made("box")), {})->copies[0].colours.empty());
        const Geometry green = with("color = vec3(0, 1, 0);", made("box"));
        QVERIFY(drawScene(threeBoxes(byCopy, green), lookForPictures())->copies[0].colours.empty());
        // The same of materials, also on the stage.
        const Json lead{{"slots", {{{"name", "lead"}, {"color", {0.4, 0.5, 0.6}}}}}};
        const Geometry boxes = threeBoxes("side = 1.0;", made("box"));
        QCOMPARE(drawScene(made("material", lead, {boxes}), {})->copies[0].colours.size(), std::size_t(3));
        const Geometry ofLead = threeBoxes("side = 1.0;", made("material", lead, {made("box")}));
        QVERIFY(drawScene(made("material", lead, {ofLead}), {})->copies[0].colours.empty());
    }

    void tightFramingKeepsAllInside() {
        const Bounds bounds = boundsOf(made("box", {{"size", {2, 7, 1}}}));
        for (const PictureSize size : {PictureSize{800, 500}, PictureSize{200, 900}, PictureSize{2000, 100}})
            for (double yaw : {0.0, 37.0, 200.0}) {
                Camera camera;
                camera.yaw = yaw, camera.pitch = 25;
                camera.frameTightly(bounds, size, 1);
                double most = 0;
                for (int i = 0; i < 8; ++i) {
                    const Vec3 p{i & 1 ? bounds.max.x : bounds.min.x, i & 2 ? bounds.max.y : bounds.min.y, i & 4 ? bounds.max.z : bounds.min.z};
                    bool behind = true;
                    const PicturePlace at = camera.project(p, size, &behind);
                    QVERIFY(!behind);
                    most = std::max({most, std::abs(at.x / size.width - 0.5), std::abs(at.y / size.height - 0.5)});
                }
                // The farthest corner lies on the border.
                QVERIFY2(near(most, 0.5, 0.001), qPrintable(QString::number(most)));
            }
    }

    /// The matrices say the same as projecting, and as the ray through a pixel.
    void matricesProjectAsTheCameraDoes() {
        const PictureSize size{640, 360};
        for (bool flat : {false, true}) {
            Camera camera;
            camera.yaw = -50, camera.pitch = 30, camera.flat = flat, camera.target = {1, 2, 3};
            const Matrix4 view = camera.view(), projection = camera.projection(size);
            const auto times = [](const Matrix4& m, std::array<double, 4> v) {
                std::array<double, 4> out{};
                for (std::size_t r = 0; r < 4; ++r)
                    for (std::size_t c = 0; c < 4; ++c) out[r] += double(m[c * 4 + r]) * v[c];
                return out;
            };
            for (Vec3 p : {Vec3{1, 2, 3}, Vec3{0.3f, 2.5f, 2.8f}, Vec3{1.4f, 1.2f, 3.9f}}) {
                const auto clip = times(projection, times(view, {double(p.x), double(p.y), double(p.z), 1}));
                const PicturePlace at = camera.project(p, size);
                QVERIFY(near((clip[0] / clip[3] * 0.5 + 0.5) * size.width, at.x, 0.01));
                QVERIFY(near((0.5 - clip[1] / clip[3] * 0.5) * size.height, at.y, 0.01));
                QVERIFY(std::abs(clip[2]) < clip[3]);  // between the nearest and the farthest that is drawn
                const Vec3 from = camera.rayStart(at, size), along = camera.ray(at, size), to = p - from;
                QVERIFY(length(to - along * dot(to, along)) < 1e-3f);
                if (!flat) QVERIFY(distance(camera.rays(size).at(at), along) < 1e-6f);
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestScene)
#include "test_scene.moc"

// What of a geometry becomes a scene: for the stage, small pictures and traced ones.
#include "geometry/Bake.h"
#include "geometry/Checkup.h"
#include "geometry/Rows.h"
#include "scene/Camera.h"
#include "scene/Cavity.h"
#include "scene/Extremes.h"
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
        // Locked: what is beyond has a colour of its own, and is counted.
        Legend locked{.title = "v", .choice = {.range = std::array{0.0, 1.0}}};
        const auto held = coloursOf(values, locked);
        QCOMPARE(held[0], beyondColour(ColourScale::even, false));
        QCOMPARE(held[1], scaleColour(ColourScale::even, 0));
        QCOMPARE(held[2], beyondColour(ColourScale::even, true));
        QCOMPARE(locked.high, 1.0);
        QCOMPARE(locked.below, std::size_t(1));
        QCOMPARE(locked.above, std::size_t(1));
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

    void fewValuesFarOutDoNotFlattenTheRest() {
        std::vector<float> values;
        for (int i = 0; i < 1000; ++i) values.push_back(float(i) / 1000);
        values[3] = -84, values[500] = 330, values[501] = std::numeric_limits<float>::infinity();
        Legend middle{.title = "v"};
        const auto colours = coloursOf(Column(values), middle);
        QVERIFY(middle.low > 0.01 && middle.low < 0.04 && middle.high > 0.96 && middle.high < 0.99);
        QCOMPARE(middle.least, -84.0);
        QCOMPARE(middle.greatest, 330.0);
        // A fiftieth at either end, the one far out among them.
        QVERIFY(middle.below >= 15 && middle.below <= 20 && middle.above >= 15 && middle.above <= 20);
        QCOMPARE(colours[3], beyondColour(ColourScale::even, false));
        QCOMPARE(colours[500], beyondColour(ColourScale::even, true));
        QCOMPARE(colours[501], kNoNumber);
        QVERIFY(length(colours[100] - colours[900]) > 0.3f);
        Legend whole{.title = "v", .choice = {.whole = true}};
        coloursOf(Column(values), whole);
        QCOMPARE(whole.low, -84.0);
        QCOMPARE(whole.high, 330.0);
        QCOMPARE(whole.below + whole.above, std::size_t(0));
        // Where nothing lies far out, all are in the range.
        for (float& v : values)
            if (!(std::abs(v) < 1)) v = 0.5f;
        Legend even{.title = "v"};
        coloursOf(Column(values), even);
        QCOMPARE(even.low, 0.0);
        QCOMPARE(float(even.high), 0.999f);
        QCOMPARE(even.below + even.above, std::size_t(0));
        // Most of them the same: the others are what there is to see.
        Legend lone{.title = "v"};
        coloursOf(Column(std::vector<float>(200, 1.0f)), lone);
        QCOMPARE(lone.low, 1.0);
        std::vector<float> few(200, 1.0f);
        few[0] = 3;
        Legend spike{.title = "v"};
        coloursOf(Column(few), spike);
        QCOMPARE(spike.high, 3.0);
        Legend none{.title = "v"};
        coloursOf(Column(std::vector<float>()), none);
        QCOMPARE(none.high, 0.0);
        for (ColourScale scale : {ColourScale::even, ColourScale::diverging})
            for (bool above : {false, true})
                for (float t = 0; t <= 1; t += 0.01f) QVERIFY(length(beyondColour(scale, above) - scaleColour(scale, t)) > 0.15f);
    }

    void extremesSpanAllFromAnySide() {
        const Geometry points = made("scatter", {{"count", 400}, {"seed", 4}}, {made("box", {{"size", {9, 1, 3}}})});
        const Geometry copies =
            madeOf("place_copies", {{points}, {made("cylinder", {{"radius_bottom", 0.05}, {"radius_top", 0.05}, {"height", 1}})}}, {{"align", "none"}});
        const Geometry g = combine({copies, made("sphere", {{"radius", 0.7}})}), baked = bakeCopies(g);
        const auto extremes = extremesOf(g);
        QVERIFY(extremes.size() >= 10 && extremes.size() <= 64);
        for (int i = 0; i < 200; ++i) {
            const Vec3 way = normalized(Vec3{std::sin(float(i) * 1.7f), std::sin(float(i) * 2.3f + 1), std::sin(float(i) * 0.9f + 2)});
            const auto farthest = [&](const std::vector<Vec3>& places) {
                float out = -1e9f;
                for (Vec3 p : places) out = std::max(out, dot(p, way));
                return out;
            };
            const float all = farthest(baked.positions()), kept = farthest(extremes);
            QVERIFY(kept <= all + 1e-5f && all - kept < 0.03f * float(boundsOf(baked.positions()).diagonal()));
        }
        QVERIFY(extremesOf(Geometry()).empty());
        QCOMPARE(extremesOf(Geometry({{std::nanf(""), 0, 0}, {1, 2, 3}})), (std::vector<Vec3>{{1, 2, 3}}));
        QCOMPARE(drawScene(g, {})->extremes, extremes);
        QVERIFY(drawScene(g, lookForPictures())->extremes.empty());
    }

    void edgesAndCrevicesAreToldApart() {
        // A step: its upper edge stands out, its lower one is a crevice, and what is flat is neither.
        const Geometry steps = with("position.y += smoothstep(-0.02, 0.02, position.x);", made("grid", {{"size", {4, 1}}, {"cells", {200, 50}}}));
        const auto bent = cavityOf(steps);
        QCOMPARE(bent.size(), steps.cornerCount());
        float least = 0, most = 0;
        for (Index c = 0; c < bent.size(); ++c) {
            const Vec3 at = steps.positions()[steps.topology().cornerPoint()[c]];
            QVERIFY(bent[c] >= -1 && bent[c] <= 1);
            if (std::abs(at.x) > 0.3f) QVERIFY(std::abs(bent[c]) < 0.02f);
            if (at.y > 0.9f) most = std::max(most, bent[c]);
            if (at.y < 0.1f) least = std::min(least, bent[c]);
        }
        QVERIFY(most > 0.3f && least < -0.3f);
        // The same at any size, and for a ball everywhere alike.
        const auto large = cavityOf(made("transform", {{"scale", 1000}}, {steps}));
        for (std::size_t c = 0; c < bent.size(); ++c) QVERIFY(std::abs(large[c] - bent[c]) < 1e-3f);
        const auto ball = cavityOf(made("geodesic_sphere", {{"frequency", 40}}));
        const auto ends = std::minmax_element(ball.begin(), ball.end());
        QVERIFY(*ends.first > 0.01f && *ends.second - *ends.first < 0.02f);
        // Faces that are large have next to none of it: it would spread over all of them.
        for (float b : cavityOf(made("box"))) QVERIFY(std::abs(b) < 0.01f);
        QCOMPARE(drawScene(steps, {})->vertices[7].uv.x, bent[7]);
        QVERIFY(cavityOf(Geometry({{0, 0, 0}, {std::nanf(""), 1, 1}})).empty());
    }

    void whatStandsOnTheGroundHasAShadow() {
        const auto shadowAt = [](const std::vector<DrawScene::Vertex>& shadow, Vec3 at) {
            float dark = 0, nearest = 1e9f;
            for (const auto& v : shadow)
                if (const float far = distance(v.position, at); far < nearest) nearest = far, dark = v.uv.x;
            return nearest < 0.1f ? dark : 0.0f;
        };
        const Geometry box = made("transform", {{"move", {0, 0.5, 0}}}, {made("box", {{"size", {2, 1, 1}}})});  // stands on the ground
        const auto shadow = drawScene(box, {})->shadow;
        QVERIFY(!shadow.empty() && shadow.size() % 3 == 0);
        for (const auto& v : shadow) QVERIFY(v.position.y == 0 && v.uv.x >= 0 && v.uv.x <= 1.0001f);
        QVERIFY(shadowAt(shadow, {0, 0, 0}) > 0.95f);
        QVERIFY(shadowAt(shadow, {0.9f, 0, 0.4f}) > 0.4f);
        QVERIFY(shadowAt(shadow, {1.1f, 0, 0}) > 0.02f && shadowAt(shadow, {1.1f, 0, 0}) < 0.6f);
        QVERIFY(shadowAt(shadow, {1.7f, 0, 0}) < 0.02f);
        // Higher is fainter; in the air, below the ground, or without faces there is none.
        const auto lifted = [&](double by) { return drawScene(made("transform", {{"move", {0, by, 0}}}, {box}), {})->shadow; };
        QVERIFY(shadowAt(lifted(0.3), {0, 0, 0}) < 0.5f && shadowAt(lifted(0.3), {0, 0, 0}) > 0.05f);
        QVERIFY(lifted(5).empty() && lifted(-0.5).empty());
        QVERIFY(drawScene(made("line"), {})->shadow.empty());
        QVERIFY(drawScene(box, lookForPictures())->shadow.empty());
        // Of very many triangles the large ones are not left out: under a fine ball a plate of two.
        const Geometry fine = made("geodesic_sphere", {{"frequency", 150}, {"radius", 0.2}});
        const Geometry onPlate =
            combine({made("transform", {{"move", {0, 3, 0}}}, {fine}), made("transform", {{"scale", 4}}, {made("grid", {{"cells", {1, 1}}})})});
        QVERIFY(onPlate.faceCount() > 400000);
        const auto whole = drawScene(onPlate, {})->shadow;
        for (float x : {-1.5f, 0.0f, 1.5f}) QVERIFY(shadowAt(whole, {x, 0, x}) > 0.9f);
        // Copies have theirs, as many as they are; their shapes bring none.
        const auto copies = drawScene(threeBoxes("part = index;", made("transform", {{"move", {0, 0.5, 0}}}, {made("box")})), {});
        QVERIFY(copies->copies[0].shape->shadow.empty() && copies->copies[0].shape->extremes.empty());
        for (float x : {0.0f, 3.0f, 6.0f}) QVERIFY(shadowAt(copies->shadow, {x, 0, 0}) > 0.5f);
        QVERIFY(shadowAt(copies->shadow, {1.5f, 0, 0}) < 0.1f);
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
        // The look shows materials, clay neither.
        for (const auto& v : verticesOf(lead, {})) QCOMPARE(v.colour, kClay);
        SceneLook look;
        look.shading = Shading::look;
        for (const SceneLook& own : {look, lookForPictures()})
            for (const auto& v : verticesOf(lead, own)) QVERIFY(distance(v.colour, {0.4f, 0.5f, 0.6f}) < 1e-5f);
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
        // The same of materials; in clay there are none.
        const Json lead{{"slots", {{{"name", "lead"}, {"color", {0.4, 0.5, 0.6}}}}}};
        const Geometry boxes = threeBoxes("side = 1.0;", made("box"));
        QCOMPARE(drawScene(made("material", lead, {boxes}), lookForPictures())->copies[0].colours.size(), std::size_t(3));
        QVERIFY(drawScene(made("material", lead, {boxes}), {})->copies[0].colours.empty());
        const Geometry ofLead = threeBoxes("side = 1.0;", made("material", lead, {made("box")}));
        QVERIFY(drawScene(made("material", lead, {ofLead}), lookForPictures())->copies[0].colours.empty());
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

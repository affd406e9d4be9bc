// Operators that make, measure, move and soften attributes, against analytic values and plain searches.
#include "geometry/Digest.h"
#include "geometry/NearestPlace.h"
#include "geometry/Neighbours.h"
#include "support/Run.h"
#include "surface/Curvature.h"
#include "surface/SurfaceDistance.h"

#include <limits>
#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// A copy: the geometry is often a temporary.
std::vector<float> floats(const Geometry& g, const char* name, Element element = Element::point) { return *g.values<float>(element, name); }

Geometry formula(const char* text, const Geometry& in, const char* element = "point") { return made("formula", {{"text", text}, {"element", element}}, {in}); }

Geometry ball(int rings) { return made("sphere", {{"radius", 2}, {"sides", rings * 2}, {"rings", rings}}); }

Geometry tube(int sides) {
    const Geometry line = made("resample", {{"count", sides}}, {made("point_list", {{"points", {{0.5, 0, 0}, {0.5, 3, 0}}}})});
    return made("revolve", {{"sides", sides}}, {line});
}

/// Around +Y: 1 m from the axis to the middle of a ring of 0.25 m.
Geometry ring(int sides) {
    const Geometry circle = made("polygon", {{"sides", sides}, {"radius", 0.25}, {"form", "curve"}});
    // The polygon lies flat; stood up and moved out it is turned about the axis.
    const Geometry stood = made("transform", {{"rotate", {90, 0, 0}}, {"move", {1, 0, 0}}}, {circle});
    Geometry g = made("revolve", {{"sides", sides * 2}}, {stood});
    if (signedVolume(g) < 0) g = made("flip", Json::object(), {g});
    return g;
}

OperatorOutcome runTwo(const char* op, const Json& settings, const Geometry& first, const Geometry& second) {
    const OperatorSpec* spec = findOperator(op);
    OperatorInput input = inputFor(*spec, settings, {first});
    input.ports[1] = {second};
    return runOperator(*spec, input, RunContext());
}

double worst(const std::vector<float>& got, double expected) {
    double out = 0;
    for (float v : got) out = std::max(out, std::abs(double(v) - expected));
    return out;
}

Geometry cloud(std::size_t count, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> number(-1, 1);
    std::vector<Vec3> at(count);
    for (Vec3& p : at) p = {number(random), number(random), number(random)};
    return Geometry(std::move(at));
}

}  // namespace

class TestAttributes : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void nearestPlacesAgreeWithAPlainSearch() {
        const Geometry shapes[] = {cloud(500, 1), made("polygon", {{"sides", 40}, {"form", "curve"}}), ball(12)};
        const NearestPlace::On kinds[] = {NearestPlace::On::points, NearestPlace::On::curves, NearestPlace::On::faces};
        const Geometry queries = cloud(300, 2);
        for (int k = 0; k < 3; ++k) {
            const NearestPlace places(shapes[k], kinds[k]);
            Index start = 0;
            for (Vec3 p : queries.positions()) {
                const Place fresh = places.find(p), warm = places.find(p, start);
                start = warm.part;
                QCOMPARE(fresh.part, warm.part);
                QVERIFY(near(double(fresh.weights[0] + fresh.weights[1] + fresh.weights[2]), 1, 1e-5));
                QVERIFY(near(double(distance(fresh.position, p)), std::sqrt(double(fresh.squaredDistance)), 1e-5));
                // No point is nearer, and it is no nearer than the surface's distance allows.
                double nearest = 1e9;
                for (Vec3 q : shapes[k].positions()) nearest = std::min(nearest, double(distance(p, q)));
                QVERIFY(std::sqrt(double(fresh.squaredDistance)) <= nearest + 1e-6);
                if (k == 0) QVERIFY(near(std::sqrt(double(fresh.squaredDistance)), nearest, 1e-6));
                if (k == 2) QVERIFY(std::abs(2 - double(length(p)) - std::sqrt(double(fresh.squaredDistance))) < 0.08);
            }
        }
    }

    void nearestPlaceOnATriangle() {
        const Geometry g({{0, 0, 0}, {2, 0, 0}, {0, 2, 0}}, Topology(3, {0, 3}, {0, 1, 2}, {0}, {}, {}));
        const NearestPlace places(g, NearestPlace::On::faces);
        const std::pair<Vec3, Vec3> rows[] = {{{0.5f, 0.5f, 3}, {0.5f, 0.5f, 0}},
                                              {{-1, -1, 0}, {0, 0, 0}},
                                              {{5, -1, 1}, {2, 0, 0}},
                                              {{1, -2, 0}, {1, 0, 0}},
                                              {{2, 2, 0}, {1, 1, 0}},
                                              {{-3, 1, 0}, {0, 1, 0}},
                                              {{-1, 9, 0}, {0, 2, 0}}};
        for (const auto& [from, expected] : rows) QVERIFY(distance(places.find(from).position, expected) < 1e-6f);
    }

    void neighboursAreMutual() {
        const Geometry g = made("box", {{"cells", {2, 3, 1}}});
        const Rows points = pointNeighbours(g.topology()), faces = faceNeighbours(g.topology());
        for (const Rows* rows : {&points, &faces})
            for (Index i = 0; i + 1 < rows->start.size(); ++i)
                for (Index j : (*rows)[i]) {
                    const auto back = (*rows)[j];
                    QVERIFY(std::find(back.begin(), back.end(), i) != back.end());
                    QVERIFY(i != j);
                }
        QCOMPARE(points.values.size(), g.topology().edges().edges.size() * 2);
        for (Index f = 0; f < g.faceCount(); ++f) QCOMPARE(faces[f].size(), 4u);
        const Geometry sheet = made("grid", {{"cells", {3, 3}}});
        int border = 0;
        for (std::uint8_t b : borderPoints(sheet.topology())) border += b;
        QCOMPARE(border, 12);
    }

    void curvatureConverges() {
        double before = 1e9;
        for (int rings : {12, 24, 48}) {
            const Geometry g = ball(rings);
            const auto mean = floats(made("measure", {{"of", "curvature"}}, {g}), "curvature");
            const auto gaussian = floats(made("measure", {{"of", "curvature"}, {"curvature", "gaussian"}}, {g}), "curvature");
            const double error = worst(mean, 0.5);
            QVERIFY2((error < before || error < 1e-5) && error < 0.6 / rings, qPrintable(QString::number(error)));
            QVERIFY(worst(gaussian, 0.25) < 0.7 / rings);
            before = error;
        }
        // A tube of radius 0.5: 2 around, 0 along. Its open rims see half of it.
        before = 1e9;
        for (int sides : {12, 24, 48}) {
            const Geometry g = tube(sides);
            const auto bends = curvatureOf(g, RunContext());
            double error = 0;
            for (std::size_t p = 0; p < g.pointCount(); ++p) {
                const float y = g.positions()[p].y;
                if (y < 0.5f || y > 2.5f) continue;
                error = std::max({error, std::abs(std::abs(double(bends[p].largest)) - 2), std::abs(double(bends[p].smallest))});
            }
            QVERIFY2(error < before || error < 1e-4, qPrintable(QString::number(error)));
            before = error;
        }
        QVERIFY(before < 0.02);
        QVERIFY(worst(floats(made("measure", {{"of", "curvature"}}, {made("grid", {{"cells", {9, 9}}})}), "curvature"), 0) < 1e-6);
    }

    void curvatureOfARing() {
        double before = 1e9;
        for (int sides : {16, 32, 64}) {
            const Geometry g = ring(sides);
            QVERIFY(checkupOf(g).closed);
            const auto bends = curvatureOf(g, RunContext());
            double error = 0;
            for (std::size_t p = 0; p < g.pointCount(); ++p) {
                const Vec3 at = g.positions()[p];
                const double out = std::hypot(double(at.x), double(at.z)), around = (out - 1) / 0.25;
                const double other = around / out;  // cos of the angle, over the distance from the axis
                error = std::max(error, std::abs(double(bends[p].gaussian()) - 4 * other));
                error = std::max(error, std::abs(double(bends[p].mean()) - (4 + other) / 2));
            }
            QVERIFY2(error < before / 1.8, qPrintable(QString::number(error)));
            before = error;
        }
        QVERIFY(before < 0.1);
    }

    void gradientOfALinearFieldIsExact() {
        for (const char* cells : {"[3,3]", "[10,7]", "[40,40]"}) {
            const Geometry g = formula("height = 2.0 * position.x - 3.0 * position.z + 1.0;", made("grid", {{"size", {4, 4}}, {"cells", Json::parse(cells)}}));
            const Geometry out = made("measure", {{"of", "gradient"}, {"attribute", "height"}, {"name", "slopes"}}, {g});
            for (Vec3 v : *out.values<Vec3>(Element::point, "slopes")) QVERIFY(distance(v, {2, 0, -3}) < 1e-5f);
        }
        // Along a ball, the gradient of the height is the part of (0, 1, 0) that lies in the surface.
        const Geometry g = formula("height = position.y;", ball(48));
        const Geometry out = made("measure", {{"of", "gradient"}, {"attribute", "height"}, {"name", "slopes"}}, {g});
        const auto& slopes = *out.values<Vec3>(Element::point, "slopes");
        for (std::size_t p = 0; p < g.pointCount(); ++p) {
            const Vec3 n = normalized(g.positions()[p]);
            QVERIFY(distance(slopes[p], Vec3{0, 1, 0} - n * n.y) < 0.05f);
        }
    }

    void plainMeasures() {
        const Geometry box = made("box", {{"size", {1, 2, 3}}});
        double area = 0, perimeter = 0;
        for (float v : floats(made("measure", {{"of", "area"}}, {box}), "area", Element::face)) area += double(v);
        QVERIFY(near(area, 22, 1e-5));
        for (float v : floats(made("measure", {{"of", "perimeter"}}, {box}), "perimeter", Element::face)) perimeter += double(v);
        QVERIFY(near(perimeter, 2 * 2 * (3 + 4 + 5), 1e-5));
        QVERIFY(worst(floats(made("measure", {{"of", "volume"}}, {box}), "volume", Element::face), 6) < 1e-5);
        QVERIFY(worst(floats(made("measure", {{"of", "edge angle"}}, {box}), "edge_angle", Element::corner), 90) < 1e-3);
        const Geometry counted = made("measure", {{"of", "corner count"}}, {box});
        for (std::int32_t n : *counted.values<std::int32_t>(Element::face, "corner_count")) QCOMPARE(n, 4);
        QCOMPARE(floats(made("measure", {{"of", "length"}}, {made("line", {{"length", 2.5}})}), "length", Element::curve)[0], 2.5f);
        const Geometry sheet = made("grid", {{"cells", {2, 2}}});
        QVERIFY(worst(floats(made("measure", {{"of", "slope"}}, {sheet}), "slope"), 0) < 1e-3);
        QVERIFY(worst(floats(made("measure", {{"of", "slope"}}, {made("flip", Json::object(), {sheet})}), "slope"), 180) < 1e-3);
        QVERIFY(worst(floats(made("measure", {{"of", "height"}}, {sheet}), "height"), 0) < 1e-6);
        QCOMPARE(lastCode(runOp("measure", {{"of", "volume"}}, {sheet})), std::string("measure.open"));
        QCOMPARE(lastCode(runOp("measure", {{"of", "length"}}, {box})), std::string("measure.nothing"));
    }

    void eachPieceHasItsOwnVolume() {
        const Geometry two = made("merge", Json::object(), {made("box"), made("transform", {{"move", {5, 1, 0}}, {"scale", 2}}, {made("box")})});
        const Geometry out = made("measure", {{"of", "volume"}}, {two});
        const auto volume = floats(out, "volume", Element::face);
        QVERIFY(near(double(volume.front()) * 8, double(volume.back()), 1e-4));
    }

    void thicknessAndOpenness() {
        const Geometry plate = made("box", {{"size", {4, 0.5, 4}}, {"cells", {8, 1, 8}}});
        const auto thickness = floats(made("measure", {{"of", "thickness"}}, {plate}), "thickness");
        for (std::size_t p = 0; p < plate.pointCount(); ++p) {
            const Vec3 at = plate.positions()[p];
            if (std::abs(at.x) < 1.5f && std::abs(at.z) < 1.5f) QVERIFY(near(double(thickness[p]), 0.5, 1e-4));
        }
        QVERIFY(worst(floats(made("measure", {{"of", "openness"}}, {plate}), "openness"), 1) < 1e-6);
        // Under a wide roof close above it, hardly any direction is free; with a short reach the roof does not count.
        const Geometry roof = made("transform", {{"move", {0, 0.1, 0}}}, {made("flip", Json::object(), {made("grid", {{"size", {40, 40}}})})});
        const Geometry both = made("merge", Json::object(), {made("grid", {{"size", {0.2, 0.2}}}), roof});
        const auto openness = floats(made("measure", {{"of", "openness"}, {"rays", 256}}, {both}), "openness");
        QVERIFY(openness[0] < 0.02f);
        QCOMPARE(floats(made("measure", {{"of", "openness"}, {"reach", 0.05}}, {both}), "openness")[0], 1.0f);
    }

    void distanceIsInMetresUnlessRemapped() {
        const Geometry line = made("grid", {{"size", {4, 4}}, {"cells", {8, 8}}});
        const Geometry start(std::vector<Vec3>{{0, 3, 0}});
        const OperatorOutcome plain = runTwo("distance", Json::object(), line, start);
        for (std::size_t p = 0; p < line.pointCount(); ++p)
            QVERIFY(near(double(floats(plain.geometry, "distance")[p]), double(distance(line.positions()[p], {0, 3, 0})), 1e-5));
        const OperatorOutcome mask = runTwo("distance", {{"range", {3, 4}}, {"ramp", {{"knots", {{0, 1}, {1, 0}}}}}}, line, start);
        for (std::size_t p = 0; p < line.pointCount(); ++p)
            QVERIFY(near(double(floats(mask.geometry, "distance")[p]), 1 - std::clamp(double(floats(plain.geometry, "distance")[p]) - 3, 0.0, 1.0), 1e-5));
        const OperatorOutcome automatic = runTwo("distance", {{"result", "by ramp"}}, line, start);
        const auto mapped = floats(automatic.geometry, "distance");
        const auto [low, high] = std::minmax_element(mapped.begin(), mapped.end());
        QCOMPARE(*low, 0.0f);
        QCOMPARE(*high, 1.0f);
    }

    void distanceAlongTheSurface() {
        // Flat: exact in every direction, not only along edges.
        const Geometry sheet = made("grid", {{"size", {4, 4}}, {"cells", {16, 16}}});
        std::vector<float> start(sheet.pointCount(), std::numeric_limits<float>::infinity());
        std::size_t middle = 0;
        for (std::size_t p = 0; p < sheet.pointCount(); ++p)
            if (length(sheet.positions()[p]) < 1e-4f) middle = p;
        start[middle] = 0;
        const auto flat = surfaceDistance(sheet, start, RunContext());
        double off = 0;
        for (std::size_t p = 0; p < sheet.pointCount(); ++p) off = std::max(off, std::abs(double(flat[p]) - double(length(sheet.positions()[p]))));
        QVERIFY2(off < 0.02, qPrintable(QString::number(off)));
        // On a ball from its pole: the radius times the angle.
        const Geometry g = ball(48);
        const OperatorOutcome out = runTwo("distance", {{"way", "along the surface"}}, g, Geometry({{0, 2, 0}}));
        const Bounds bounds = boundsOf(g);
        const auto far = floats(out.geometry, "distance");
        for (std::size_t p = 0; p < g.pointCount(); ++p) {
            const double angle = std::acos(std::clamp(double(g.positions()[p].y - bounds.centre().y) / 2, -1.0, 1.0));
            if (std::abs(double(bounds.max.y) - 2) < 1e-3) QVERIFY(near(double(far[p]), 2 * angle, 0.06));
        }
        // What hangs on nothing is told.
        const Geometry apart = made("merge", Json::object(), {sheet, made("transform", {{"move", {50, 0, 0}}}, {sheet})});
        QCOMPARE(lastCode(runTwo("distance", {{"way", "along the surface"}}, apart, Geometry({{0, 0, 0}}))), std::string("distance.unreached"));
    }

    void distanceFromATag() {
        const Geometry g = formula("left = position.x < -1.9;", made("grid", {{"size", {4, 4}}, {"cells", {8, 8}}}));
        const Geometry out = made("distance", {{"tag", "left"}}, {g});
        for (std::size_t p = 0; p < g.pointCount(); ++p) QVERIFY(near(double(floats(out, "distance")[p]), double(g.positions()[p].x) + 2, 1e-5));
        QCOMPARE(lastCode(runOp("distance", Json::object(), {g})), std::string("input.missing"));
        const OperatorOutcome none = runOp("distance", {{"tag", "none"}}, {formula("none = false;", g)});
        QCOMPARE(lastCode(none), std::string("distance.nothing"));
        QVERIFY(runOp("distance", {{"tag", "lefd"}}, {g}).notices.back().text.find("left") != std::string::npos);
    }

    void blurSoftensAndKeepsWhatItMust() {
        const Geometry g =
            formula("mask = position.x > 0.0 ? 1.0 : 0.0; even = 0.7; v = vec3(mask, 0, 1);", made("grid", {{"size", {4, 4}}, {"cells", {16, 16}}}));
        const Geometry out = made("blur_attribute", {{"iterations", 20}}, {g});
        const auto soft = floats(out, "mask");
        int between = 0;
        for (std::size_t p = 0; p < soft.size(); ++p) {
            QVERIFY(soft[p] >= 0 && soft[p] <= 1);
            between += soft[p] > 0.05f && soft[p] < 0.95f;
        }
        QVERIFY(between > 60);
        QVERIFY(worst(floats(made("blur_attribute", {{"name", "even"}}, {g}), "even"), 0.7) < 1e-6);
        QCOMPARE(digestOf(made("blur_attribute", {{"iterations", 0}}, {g})), digestOf(g));
        const Geometry held = made("blur_attribute", {{"iterations", 20}, {"hold_open_edges", true}}, {g});
        const auto border = borderPoints(g.topology());
        for (std::size_t p = 0; p < soft.size(); ++p)
            if (border[p]) QCOMPARE(floats(held, "mask")[p], floats(g, "mask")[p]);
        const Geometry full = made("blur_attribute", {{"iterations", 400}, {"normalise", true}}, {g});
        const auto stretched = floats(full, "mask");
        const auto [low, high] = std::minmax_element(stretched.begin(), stretched.end());
        QCOMPARE(*low, 0.0f);
        QCOMPARE(*high, 1.0f);
        const Geometry vectors = made("blur_attribute", {{"name", "v"}, {"iterations", 20}}, {g});
        for (std::size_t p = 0; p < soft.size(); ++p) QVERIFY(near(double((*vectors.values<Vec3>(Element::point, "v"))[p].x), double(soft[p]), 1e-5));
    }

    void blurWorksOnFacesAndCurves() {
        const Geometry faces = formula("mask = index == 0 ? 1.0 : 0.0;", made("box", {{"cells", {3, 3, 3}}}), "face");
        const auto soft = floats(made("blur_attribute", {{"iterations", 1}}, {faces}), "mask", Element::face);
        QCOMPARE(soft[0], 0.5f);
        double sum = 0;
        for (float v : soft) sum += double(v);
        QVERIFY(near(sum, 1, 1e-5));  // everywhere four neighbours: nothing is lost
        const Geometry line = formula("mask = index == 4 ? 1.0 : 0.0;", made("line", {{"points", 9}}));
        const auto along = floats(made("blur_attribute", {{"iterations", 1}}, {line}), "mask");
        QCOMPARE(along, (std::vector<float>{0, 0, 0, 0.25f, 0.5f, 0.25f, 0, 0, 0}));
    }

    void changeElementCombines() {
        const Geometry g = formula("mask = position.x;", made("grid", {{"size", {2, 2}}, {"cells", {1, 1}}}));
        const auto at = [&](const char* by) { return floats(made("change_element", {{"by", by}}, {g}), "mask", Element::face)[0]; };
        QCOMPARE(at("average"), 0.0f);
        QCOMPARE(at("minimum"), -1.0f);
        QCOMPARE(at("maximum"), 1.0f);
        QCOMPARE(at("sum"), 0.0f);
        QCOMPARE(at("first"), g.positions()[g.topology().face(0)[0]].x);
        QVERIFY(!made("change_element", Json::object(), {g}).column(Element::point, "mask"));
        QVERIFY(made("change_element", {{"keep", true}}, {g}).column(Element::point, "mask"));
        const Geometry sums = made("change_element", {{"name", "number"}, {"to", "model"}, {"by", "maximum"}}, {formula("number = index;", g)});
        QCOMPARE(sums.values<std::int32_t>(Element::model, "number")->front(), 3);
    }

    void randomAttributesAreEvenAndStable() {
        const Geometry many = cloud(20000, 3);
        const Geometry out = made("random_attribute", {{"low", 2}, {"high", 4}}, {many});
        const auto tone = floats(out, "tone");
        double mean = 0;
        std::array<int, 10> bins{};
        for (float v : tone) {
            QVERIFY(v >= 2 && v < 4);
            mean += double(v) / 20000;
            ++bins[std::min<std::size_t>(9, std::size_t((v - 2) * 5))];
        }
        QVERIFY(near(mean, 3, 0.02));
        double chi = 0;
        for (int n : bins) chi += (n - 2000.0) * (n - 2000.0) / 2000;
        QVERIFY(chi < 27.9);  // one in a thousand, with nine degrees of freedom
        // More elements reshuffle nothing.
        const Geometry more = made("random_attribute", {{"low", 2}, {"high", 4}}, {cloud(30000, 9)});
        const auto again = floats(more, "tone");
        for (std::size_t i = 0; i < 20000; ++i) QCOMPARE(again[i], tone[i]);
        Vec3 sum{};
        const Geometry directions = made("random_attribute", {{"form", "direction"}}, {many});
        for (Vec3 d : *directions.values<Vec3>(Element::point, "tone")) {
            QVERIFY(near(double(length(d)), 1, 1e-5));
            sum += d * (1 / 20000.0f);
        }
        QVERIFY(length(sum) < 0.03f);
        std::set<std::int32_t> faces;
        const Geometry dice = made("random_attribute", {{"form", "whole number"}, {"low", 1}, {"high", 6}}, {many});
        for (std::int32_t n : *dice.values<std::int32_t>(Element::point, "tone")) faces.insert(n);
        QCOMPARE(faces, (std::set<std::int32_t>{1, 2, 3, 4, 5, 6}));
        int heads = 0;
        const Geometry coins = made("random_attribute", {{"form", "true or false"}, {"chance", 0.2}}, {many});
        for (std::uint8_t b : *coins.values<std::uint8_t>(Element::point, "tone")) heads += b;
        QVERIFY(std::abs(heads - 4000) < 250);
    }

    void randomBySharesAValue() {
        const Geometry g = formula("piece = index / 4 >= 2 ? 1 : 0;", cloud(16, 4));
        const Geometry out = made("random_attribute", {{"by", "piece"}}, {g});
        QCOMPARE(floats(out, "tone")[0], floats(out, "tone")[7]);
        QCOMPARE(floats(out, "tone")[8], floats(out, "tone")[15]);
        QVERIFY(floats(out, "tone")[0] != floats(out, "tone")[15]);
    }

    void tagsChooseByPlaceAndDirection() {
        const Geometry box = made("box", {{"size", {2, 2, 2}}, {"cells", {2, 2, 2}}, {"anchor", "middle"}});
        const auto count = [&](const Json& settings) {
            int n = 0;
            const Geometry out = made("tag", settings, {box});
            for (std::uint8_t b : *out.values<std::uint8_t>(Element::face, "part")) n += b;
            return n;
        };
        QCOMPARE(count({{"by", "side"}}), 4);
        QCOMPARE(count({{"by", "side"}, {"angle", 91}}), 20);
        QCOMPARE(count({{"by", "sphere"}, {"centre", {1, 0.5, 0.5}}, {"radius", 0.1}}), 1);
        QCOMPARE(count({{"by", "box"}, {"centre", {0, 1, 0}}, {"size", {9, 0.5, 9}}}), 4);
        QCOMPARE(count(Json::object()), 24);
        QCOMPARE(count({{"where", {{"formula", "index < 5"}}}}), 5);
        const Geometry top = made("tag", {{"by", "side"}}, {box});
        const Geometry both = made("tag", {{"by", "side"}, {"direction", {0, -1, 0}}, {"with_old", "add"}}, {top});
        int n = 0;
        for (std::uint8_t b : *both.values<std::uint8_t>(Element::face, "part")) n += b;
        QCOMPARE(n, 8);
        QCOMPARE(lastCode(runOp("tag", {{"where", false}}, {box})), std::string("tag.nothing"));
        QCOMPARE(lastCode(runOp("tag", {{"element", "curve"}}, {box})), std::string("tag.nothing"));
    }

    void coloursFollowAnAttribute() {
        const Geometry g = formula("mask = position.x;", made("grid", {{"size", {4, 4}}, {"cells", {4, 4}}}));
        const Geometry out = made("colour", {{"low", {0, 0, 0}}, {"middle", {0.5, 0.5, 0.5}}, {"high", {1, 1, 1}}}, {g});
        const auto& colour = *out.values<Vec3>(Element::point, "color");
        for (std::size_t p = 0; p < g.pointCount(); ++p) QVERIFY(near(double(colour[p].y), (double(g.positions()[p].x) + 2) / 4, 1e-5));
        std::set<float> pieces;
        const Geometry two = made("merge", Json::object(), {g, made("transform", {{"move", {9, 0, 0}}}, {g})});
        const Geometry tinted = made("colour", {{"by", "piece"}}, {two});
        for (Vec3 c : *tinted.values<Vec3>(Element::point, "color")) pieces.insert(c.x);
        QCOMPARE(pieces.size(), 2u);
        const Geometry noisy = made("colour", {{"by", "noise"}}, {g});
        for (Vec3 c : *noisy.values<Vec3>(Element::point, "color")) QVERIFY(c.x >= 0.16f - 1e-5f && c.x <= 0.93f + 1e-5f);
    }

    void transferReadsTheNearestPlace() {
        const Geometry source = formula("mask = position.x * 2.0 + position.z; right = position.x > 0.0;", made("grid", {{"size", {4, 4}}, {"cells", {8, 8}}}));
        std::vector<Vec3> at = cloud(200, 5).positions();
        for (Vec3& p : at) p = p * 1.9f;
        const OperatorOutcome out = runTwo("transfer", {{"names", "mask right"}}, Geometry(at), source);
        for (std::size_t i = 0; i < at.size(); ++i) QVERIFY(near(double(floats(out.geometry, "mask")[i]), double(at[i].x * 2 + at[i].z), 1e-4));
        QVERIFY(out.geometry.values<std::uint8_t>(Element::point, "right"));
        const OperatorOutcome close = runTwo("transfer", {{"within", 0.5}}, Geometry(at), source);
        for (std::size_t i = 0; i < at.size(); ++i)
            if (std::abs(at[i].y) > 0.51f) QCOMPARE(floats(close.geometry, "mask")[i], 0.0f);
        QVERIFY(runTwo("transfer", {{"names", "musk"}}, Geometry(at), source).notices.back().text.find("mask") != std::string::npos);
        QCOMPARE(lastCode(runTwo("transfer", Json::object(), Geometry(at), Geometry())), std::string("transfer.nothing"));
    }

    void transferAlongUv() {
        const Geometry source = formula("mask = position.x;", made("grid", {{"size", {2, 2}}, {"cells", {6, 6}}}));
        const Geometry moved = made("transform", {{"move", {7, 3, 1}}, {"scale", 3}}, {made("grid", {{"size", {2, 2}}, {"cells", {3, 3}}})});
        const OperatorOutcome out = runTwo("transfer", {{"by", "uv"}}, moved, source);
        QVERIFY(!out.failed);
        for (std::size_t p = 0; p < moved.pointCount(); ++p)
            QVERIFY(near(double(floats(out.geometry, "mask")[p]), (double(moved.positions()[p].x) - 7) / 3, 1e-4));
    }

    void paintedStrokesStayInSpace() {
        const Json stroke{{"points", {{-1, 0, 0}, {1, 0, 0}}}, {"radius", 0.5}, {"strength", 0.8}, {"soft", 0}};
        for (int cells : {16, 64}) {
            const Geometry sheet = made("grid", {{"size", {4, 4}}, {"cells", {cells, cells}}});
            const Geometry out = made("paint_mask", {{"strokes", {stroke}}}, {sheet});
            const auto mask = floats(out, "mask");
            for (std::size_t p = 0; p < mask.size(); ++p) {
                const Vec3 at = sheet.positions()[p];
                const Vec3 on{std::clamp(at.x, -1.0f, 1.0f), 0, 0};
                if (std::abs(distance(at, on) - 0.5f) > 1e-3f) QCOMPARE(mask[p], distance(at, on) < 0.5f ? 0.8f : 0.0f);
            }
        }
    }

    void strokesAddRemoveSmoothAndMirror() {
        const Geometry sheet = made("grid", {{"size", {4, 4}}, {"cells", {32, 32}}});
        const auto painted = [&](Json strokes) { return floats(made("paint_mask", {{"strokes", std::move(strokes)}}, {sheet}), "mask"); };
        const Json add{{"points", {{1, 0, 0.5}}}, {"radius", 0.6}, {"strength", 0.5}};
        Json remove = add, mirrored = add, smooth = add;
        remove["mode"] = "remove";
        mirrored["mirror"] = "xz";
        smooth["mode"] = "smooth";
        const auto once = painted({add}), twice = painted({add, add}), gone = painted({add, remove}), four = painted({mirrored});
        double sum = 0, sumFour = 0;
        for (std::size_t p = 0; p < once.size(); ++p) {
            QVERIFY(near(double(twice[p]), std::min(1.0, 2 * double(once[p])), 1e-5));
            QVERIFY(near(double(gone[p]), 0, 1e-6));
            sum += double(once[p]), sumFour += double(four[p]);
        }
        QVERIFY(sum > 1);
        QVERIFY(near(sumFour, 4 * sum, 1e-3));
        // Smoothing turns a hard rim into values between.
        Json hard = add;
        hard["soft"] = 0;
        smooth["radius"] = 1.2;
        smooth["strength"] = 1;
        const auto between = [](const std::vector<float>& values) {
            return std::count_if(values.begin(), values.end(), [](float v) { return v > 0.02f && v < 0.48f; });
        };
        QCOMPARE(between(painted({hard})), 0);
        QVERIFY(between(painted({hard, smooth})) > 10);
        // The other side of a thin plate is not painted through where the surface's direction is known.
        const Geometry plate = made("box", {{"size", {2, 0.05, 2}}, {"cells", {8, 1, 8}}, {"anchor", "middle"}});
        const Geometry out = made("paint_mask", {{"strokes", {{{"points", {{0, 0.025, 0, 0, 1, 0}}}, {"radius", 0.5}}}}}, {plate});
        const auto mask = floats(out, "mask");
        for (std::size_t p = 0; p < mask.size(); ++p)
            if (plate.positions()[p].y < 0) QCOMPARE(mask[p], 0.0f);
        QVERIFY(*std::max_element(mask.begin(), mask.end()) > 0.9f);
        QCOMPARE(lastCode(runOp("paint_mask", {{"strokes", {{{"radius", 1}}}}}, {sheet})), std::string("setting.type"));
        QCOMPARE(lastCode(runOp("paint_mask", {{"strokes", {{{"points", {{1, 2}}}}}}}, {sheet})), std::string("setting.type"));
    }

    void renamingRemovingAndSummingUp() {
        const Geometry g = formula("mask = index; temp_a = 1.0; temp_b = 2.0; keep = 3.0;", cloud(5, 6));
        const Geometry renamed = made("rename_attribute", {{"from", "mask"}, {"to", "density"}}, {g});
        QVERIFY(!renamed.column(Element::point, "mask"));
        QCOMPARE(renamed.column(Element::point, "density")->storage(), g.column(Element::point, "mask")->storage());
        QCOMPARE(lastCode(runOp("rename_attribute", {{"from", "position"}}, {g})), std::string("attribute.position"));
        QVERIFY(runOp("rename_attribute", {{"from", "msk"}}, {g}).notices.back().text.find("mask") != std::string::npos);
        const Geometry less = made("remove_attribute", {{"names", "temp_* mask position"}}, {g});
        QCOMPARE(less.table(Element::point).size(), 2u);
        QVERIFY(less.column(Element::point, "keep") && less.column(Element::point, "position"));
        QCOMPARE(lastCode(runOp("remove_attribute", {{"names", "nothing*"}}, {g})), std::string("attribute.nothing"));
        QCOMPARE(lastCode(runOp("remove_attribute", {{"names", "position"}}, {g})), std::string("attribute.kept"));
        const Geometry sums = made("statistics", Json::object(), {g});
        const auto model = [&](const char* name) { return sums.values<float>(Element::model, name)->front(); };
        QCOMPARE(model("mask_min"), 0.0f);
        QCOMPARE(model("mask_max"), 4.0f);
        QCOMPARE(model("mask_mean"), 2.0f);
        QCOMPARE(model("mask_sum"), 10.0f);
        QCOMPARE(sums.values<std::int32_t>(Element::model, "mask_count")->front(), 5);
    }

    void masksTellWhatIsWrongWithThem() {
        const Geometry g = formula("wild = position.x * 9.0; none = false; hole = sqrt(position.x);", made("grid"));
        const auto code = [&](const char* name) { return lastCode(runOp("noise_displace", {{"where", {{"attribute", name}}}}, {g})); };
        QCOMPARE(code("wild"), std::string("mask.outside"));
        QCOMPARE(code("none"), std::string("mask.nothing"));
        QCOMPARE(code("hole"), std::string("mask.not_a_number"));
    }
};

QTEST_APPLESS_MAIN(TestAttributes)
#include "test_attributes.moc"

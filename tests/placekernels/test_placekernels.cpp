// What scattering and placing are made of, each beside a plain reckoning: arrivals, samples, inside and outside, relaxing, materials, places in files.
#include "geometry/Bake.h"
#include "geometry/Materials.h"
#include "geometry/Rows.h"
#include "geometry/ShownColours.h"
#include "geometry/Turning.h"
#include "meshes/GltfPlace.h"
#include "meshes/MeshFile.h"
#include "operators/Shares.h"
#include "operators/curve/CurvePath.h"
#include "operators/scatter/CopyFrame.h"
#include "operators/scatter/Movables.h"
#include "scatter/Arrivals.h"
#include "scatter/CopyCheckup.h"
#include "scatter/Relax.h"
#include "scatter/Samples.h"
#include "scatter/VolumeSamples.h"
#include "support/Chance.h"
#include "support/Run.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

std::vector<std::uint32_t> keysFrom(std::size_t count) {
    std::vector<std::uint32_t> out;
    for (std::uint32_t i = 0; i < count; ++i) out.push_back(i);
    return out;
}

Affine chanceTurn(Chance& chance) {
    Vec4 q{chance.number(-1, 1), chance.number(-1, 1), chance.number(-1, 1), chance.number(-1, 1)};
    return turnedBy(q);
}

double farthest(const Affine& a, const Affine& b) {
    return double(std::max({length(a.x - b.x), length(a.y - b.y), length(a.z - b.z), length(a.move - b.move)}));
}

Geometry withCopies(const Geometry& shape, std::vector<Affine> places) {
    auto copies = std::make_shared<Copies>();
    copies->shapes = {std::make_shared<const Geometry>(shape)};
    copies->shapeOf.assign(places.size(), 0);
    copies->place = std::move(places);
    Geometry out;
    out.setCopies(std::move(copies));
    return out;
}

Affine at(Vec3 move, float size = 1) { return {{size, 0, 0}, {0, size, 0}, {0, 0, size}, move}; }

/// In empty space every place is one to settle at.
RelaxOptions anywhere(int rounds) {
    RelaxOptions out;
    out.rounds = rounds;
    out.settle = [](Vec3 moved, const Place& before) -> std::optional<Place> {
        Place to = before;
        to.position = moved;
        return to;
    };
    return out;
}

}  // namespace

class TestPlaceKernels : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // Arrivals

    void arrivalsComeInTheirOrder() {
        const Arrivals arrivals({3.5, 0, 0.2, 7, NAN, -4, INFINITY}, keysFrom(7), 11);
        QVERIFY(near(arrivals.expected(), 10.7, 1e-12));
        const auto all = arrivals.between(0, 10, RunContext());
        std::map<Index, Index> next;
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (i > 0) QVERIFY(all[i].time >= all[i - 1].time);
            QVERIFY(all[i].part == 0 || all[i].part == 2 || all[i].part == 3);
            QCOMPARE(all[i].number, next[all[i].part]++);
        }
        // Each part has what its rate says, give or take one.
        QVERIFY(std::abs(double(next[0]) - 35) <= 1 && std::abs(double(next[2]) - 2) <= 1 && std::abs(double(next[3]) - 70) <= 1);
    }
    void stretchesOfTimeAddUp() {
        Chance chance(3);
        std::vector<double> rates;
        for (int i = 0; i < 500; ++i) rates.push_back(double(chance.number(0, 2)));
        const Arrivals arrivals(rates, keysFrom(rates.size()), 5);
        const auto key = [](const Arrival& a) { return std::pair(a.part, a.number); };
        std::set<std::pair<Index, Index>> whole, pieces;
        for (const Arrival& a : arrivals.between(0, 6, RunContext())) whole.insert(key(a));
        std::size_t count = 0;
        for (const auto& [from, to] : {std::pair(0.0, 0.7), std::pair(0.7, 2.0), std::pair(2.0, 6.0)})
            for (auto order : {Arrivals::Order::time, Arrivals::Order::part}) {
                const auto some = arrivals.between(from, to, RunContext(), order);
                if (order == Arrivals::Order::time) count += some.size();
                for (const Arrival& a : some) {
                    QVERIFY(a.time > from && a.time <= to);
                    pieces.insert(key(a));
                }
            }
        QCOMPARE(pieces, whole);
        QCOMPARE(count, whole.size());
    }
    void theFirstAreTheEarliest() {
        Chance chance(8);
        std::vector<double> rates;
        for (int i = 0; i < 300; ++i) rates.push_back(double(chance.number(0, 1)) * (i % 10 == 0 ? 40 : 1));
        const Arrivals arrivals(rates, keysFrom(rates.size()), 2);
        const auto long_ = arrivals.between(0, 40, RunContext());
        for (std::size_t count : {1u, 2u, 57u, 1000u, 5000u}) {
            const auto first = arrivals.first(count, RunContext());
            QCOMPARE(first.size(), count);
            for (std::size_t i = 0; i < count; ++i) QVERIFY(first[i].part == long_[i].part && first[i].number == long_[i].number);
        }
        QVERIFY(Arrivals({0, 0}, keysFrom(2), 0).first(10, RunContext()).empty());
    }
    /// A thousand parts with a hundredth of a point each: their sum is kept far better than by independent chances (√10 either way).
    void rarePointsAddUp() {
        for (std::uint32_t seed = 0; seed < 40; ++seed) {
            const auto found = Arrivals(std::vector<double>(1000, 0.0101), keysFrom(1000), seed).between(0, 1, RunContext());
            QVERIFY2(found.size() >= 9 && found.size() <= 12, qPrintable(QString::number(found.size())));
        }
    }
    void hugeNumbersOfArrivalsAreRefused() {
        Limits few;
        few.elements = 100;
        const RunContext run(nullptr, few);
        QVERIFY_EXCEPTION_THROWN(Arrivals({1e9}, keysFrom(1), 0).between(0, 1, run), LimitExceeded);
        QVERIFY_EXCEPTION_THROWN(Arrivals({1}, keysFrom(1), 0).first(101, run), LimitExceeded);
    }

    // Samples

    void placesLieOnTheirParts() {
        const Geometry g = made("geodesic_sphere", {{"form", "panels"}, {"frequency", 3}});
        const ScatterGround ground(g, ScatterGround::On::faces, {5}, 1);
        QVERIFY(near(ground.size(), surfaceArea(g), 1e-5));
        QVERIFY(near(ground.expected(), 5 * surfaceArea(g), 1e-4));
        for (const Arrival& arrival : ground.arrivals().first(500, RunContext())) {
            const auto sample = ground.at(arrival);
            const auto face = g.topology().face(sample.place.element);
            Vec3 mixed{};
            float sum = 0;
            for (std::size_t k = 0; k < 3; ++k) {
                QVERIFY(std::find(face.begin(), face.end(), sample.place.points[k]) != face.end());
                QCOMPARE(g.topology().cornerPoint()[sample.place.corners[k]], sample.place.points[k]);
                QVERIFY(sample.place.weights[k] >= -1e-6f);
                sum += sample.place.weights[k];
                mixed += g.positions()[sample.place.points[k]] * sample.place.weights[k];
            }
            QVERIFY(near(double(sum), 1, 1e-5) && distance(mixed, sample.place.position) < 1e-6f);
            QCOMPARE(sample.density, 5.0f);
            QCOMPARE(ground.densityAt(sample.place), 5.0f);
        }
    }
    /// Within one triangle the places follow a density that rises over it, as its integral says.
    void densityIsFollowedWithinATriangle() {
        const Geometry triangle(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 0, 1}}, Topology(3, {0, 3}, {0, 2, 1}, {0}, {}, {}));
        const ScatterGround ground(triangle, ScatterGround::On::faces, {0, 0, 1}, 4);  // rises from 0 to 1 towards (1, 0, 0)
        std::array<int, 4> found{};
        const int count = 20000;
        for (const Arrival& arrival : ground.arrivals().first(count, RunContext()))
            ++found[std::min(std::size_t(ground.at(arrival).place.position.x * 4), std::size_t(3))];
        // ∫ x (1 − x) over each quarter, of 1/6.
        const auto share = [](double a, double b) { return 6 * ((b * b / 2 - b * b * b / 3) - (a * a / 2 - a * a * a / 3)); };
        for (int q = 0; q < 4; ++q)
            QVERIFY2(std::abs(found[std::size_t(q)] - count * share(q / 4.0, (q + 1) / 4.0)) < 250, qPrintable(QString::number(found[std::size_t(q)])));
    }
    void curvesAreGroundToo() {
        const Geometry square = made("polygon", {{"sides", 4}, {"radius", 1}});
        const ScatterGround ground(square, ScatterGround::On::curves, {1}, 0);
        QVERIFY(near(ground.size(), 4 * std::sqrt(2.0), 1e-5));
        std::array<int, 4> sides{};
        for (const Arrival& arrival : ground.arrivals().first(400, RunContext())) {
            const Place place = ground.at(arrival).place;
            ++sides[arrival.part];
            const Vec3 a = square.positions()[place.points[0]], b = square.positions()[place.points[1]];
            QVERIFY(near(double(distance(a, place.position) + distance(place.position, b)), double(distance(a, b)), 1e-5));
        }
        for (int n : sides) QVERIFY(std::abs(n - 100) <= 1);
    }

    // Inside and outside

    void insideAgreesWithTheShape() {
        Chance chance(21);
        const InsideTest box(made("box", {{"size", {2, 1, 3}}, {"anchor", "middle"}})),
            ring(made("torus", {{"radius", 1}, {"tube", 0.3}, {"sides", 160}, {"tube_sides", 80}}));
        for (int i = 0; i < 3000; ++i) {
            const Vec3 p = chance.place(1.8f);
            const bool inBox = std::abs(p.x) < 1 && std::abs(p.y) < 0.5f && std::abs(p.z) < 1.5f;
            if (std::min({std::abs(std::abs(p.x) - 1), std::abs(std::abs(p.y) - 0.5f), std::abs(std::abs(p.z) - 1.5f)}) > 1e-4f) QCOMPARE(box.inside(p), inBox);
            const float away = std::hypot(std::hypot(p.x, p.z) - 1, p.y) - 0.3f;
            if (std::abs(away) > 2e-3f) QCOMPARE(ring.inside(p), away < 0);
        }
    }
    /// Cubes that are not asked point by point give the same as those that are.
    void volumesAreFilledEvenly() {
        const Geometry shell =
            combine({made("box", {{"size", {4, 4, 4}}, {"anchor", "middle"}}), made("flip", {}, {made("box", {{"size", {2, 2, 2}}, {"anchor", "middle"}})})});
        const VolumeGround ground(shell, 3);
        QVERIFY(near(ground.size(), 64 - 8, 1e-3));
        const auto candidates = ground.until(200, RunContext());
        QVERIFY2(std::abs(double(candidates.size()) - 200 * 56) < 250, qPrintable(QString::number(candidates.size())));
        std::array<int, 8> octants{};
        std::set<std::uint64_t> hashes;
        for (std::size_t i = 0; i < candidates.size(); ++i) {
            const Vec3 p = candidates[i].at;
            const float reach = std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
            QVERIFY(reach <= 2 && reach >= 0.9999f);
            QVERIFY(candidates[i].time > 0 && candidates[i].time <= 200 && (i == 0 || candidates[i].time >= candidates[i - 1].time));
            ++octants[std::size_t((p.x > 0) * 4 + (p.y > 0) * 2 + (p.z > 0))];
            hashes.insert(candidates[i].hash);
        }
        QCOMPARE(hashes.size(), candidates.size());
        for (int n : octants) QVERIFY2(std::abs(n - 1400) < 100, qPrintable(QString::number(n)));
        // Earlier candidates are the same where more are asked for.
        const auto fewer = ground.until(40, RunContext());
        for (std::size_t i = 0; i < fewer.size(); ++i) QVERIFY(fewer[i].at == candidates[i].at && fewer[i].hash == candidates[i].hash);
    }

    // Relaxing

    void twoPointsGoApart() {
        std::vector<Place> places(2);
        places[0].position = {-0.05f, 0, 0}, places[1].position = {0.05f, 0, 0};
        RelaxOptions options = anywhere(40);
        relaxPlaces(places, {1, 1}, options, RunContext());
        const float apart = distance(places[0].position, places[1].position);
        QVERIFY2(apart > 0.9f && apart <= 1.3f, qPrintable(QString::number(double(apart))));
        QVERIFY(length(places[0].position + places[1].position) < 1e-5f);
        // Points without reach, and those that may not move, stay.
        std::vector<Place> held = places;
        options.settle = [](Vec3, const Place&) -> std::optional<Place> { return {}; };
        relaxPlaces(held, {5, 5}, options, RunContext());
        QVERIFY(held[0].position == places[0].position);
    }
    void pointsOnTheSamePlaceAreParted() {
        std::vector<Place> places(5);
        const RelaxOptions options = anywhere(30);
        relaxPlaces(places, std::vector<float>(5, 1), options, RunContext());
        for (std::size_t i = 0; i < 5; ++i)
            for (std::size_t j = 0; j < i; ++j) QVERIFY(distance(places[i].position, places[j].position) > 0.2f);
    }

    // Frames and places

    void framesAreRightHandedAndMeetTheirAxes() {
        Chance chance(4);
        for (int i = 0; i < 200; ++i) {
            const Vec3 up = normalized(chance.place()), along = normalized(chance.place());
            for (const Affine& frame : {standingOn(up), standingTowards(up, along), runningAlong(along, up)}) {
                QVERIFY(near(frame.determinant(), 1, 1e-4));
                QVERIFY(std::abs(dot(frame.x, frame.y)) < 1e-4f && std::abs(dot(frame.y, frame.z)) < 1e-4f && std::abs(dot(frame.z, frame.x)) < 1e-4f);
            }
            QVERIFY(length(standingOn(up).y - up) < 1e-5f && length(standingTowards(up, along).y - up) < 1e-5f &&
                    length(runningAlong(along, up).x - along) < 1e-5f);
            // As near to the second direction as the first allows.
            QVERIFY(dot(standingTowards(up, along).x, along) > -1e-4f && std::abs(dot(standingTowards(up, along).z, along)) < 1e-4f);
            QVERIFY(dot(runningAlong(along, up).y, up) > -1e-4f && std::abs(dot(runningAlong(along, up).z, up)) < 1e-4f);
        }
        QVERIFY(length(standingOn({0, -1, 0}).y - Vec3{0, -1, 0}) < 1e-6f && near(standingOn({0, -1, 0}).determinant(), 1, 1e-6));
        for (const Affine& frame : {standingTowards({0, 1, 0}, {0, 1, 0}), runningAlong({0, 1, 0}, {0, 1, 0})}) QVERIFY(near(frame.determinant(), 1, 1e-5));
        QVERIFY(farthest(turnedBy({0, 0, 0, 0}), Affine{}) == 0 && farthest(turnedBy({NAN, 0, 0, 1}), Affine{}) == 0);
    }
    void placesInFilesComeBack() {
        Chance chance(6);
        for (int i = 0; i < 500; ++i) {
            Affine map = chanceTurn(chance);
            map.x *= chance.number(0.1f, 3) * (i % 3 ? 1.0f : -1.0f), map.y *= chance.number(0.1f, 3), map.z *= chance.number(0.1f, 3);
            map.move = chance.place(50);
            const auto place = gltfPlaceOf(map);
            QVERIFY(place.has_value());
            const Vec4 q = place->turn;
            QVERIFY(near(double(q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w), 1, 1e-5));
            QVERIFY2(farthest(affineOf(*place), map) < 1e-4, qPrintable(QString::number(farthest(affineOf(*place), map))));
            QVERIFY(farthest(inverse(map) * map, Affine{}) < 1e-3);
        }
        Affine leaning;
        leaning.x = {1, 0.2f, 0};
        QVERIFY(!gltfPlaceOf(leaning));
        Affine flat;
        flat.y = {};
        QVERIFY(!gltfPlaceOf(flat));
        QCOMPARE(gltfMatrix(leaning)[1], 0.2f);
        QCOMPARE(gltfMatrix(at({1, 2, 3}))[13], 2.0f);
    }
    void directionsTurnWithWhatTheyAreOn() {
        Affine stretch;
        stretch.x = {4, 0, 0};
        const Vec3 slant = normalized({1, 1, 0});
        QVERIFY(length(turned(stretch, turnsOf("normal"), slant) - normalized({0.25f, 1, 0})) < 1e-6f);
        QVERIFY(length(turned(stretch, turnsOf("tangent"), slant) - normalized({4, 1, 0})) < 1e-6f);
        QVERIFY(turned(stretch, turnsOf("color"), slant) == slant);
        for (const char* name : kTurningNames) QVERIFY(turnsOf(name) != Turns::not_at_all);
    }

    // Curves by their length

    void stepsAlongACurveAreAsLongAsAsked() {
        const Geometry curve = made("resample", {{"mode", "count"}, {"count", 200}}, {made("spiral", {{"turns", 3}, {"radius", 1}, {"rise", 0.3}})});
        const CurvePath path(curve, 0, {0, 1, 0}, false);
        QVERIFY(near(double(path.length()), curveLength(curve, 0), 1e-3));
        float along = 0;
        int steps = 0;
        while (const auto next = path.stepFrom(along, 0.25f)) {
            QVERIFY2(near(double(distance(path.place(along), path.place(*next))), 0.25, 1e-4), qPrintable(QString::number(double(along))));
            QVERIFY(*next > along + 0.2499f);
            // Nothing before it is as far away.
            for (int k = 1; k < 10; ++k) QVERIFY(distance(path.place(along), path.place(along + (*next - along) * float(k) / 10)) < 0.2501f);
            along = *next, ++steps;
        }
        QVERIFY(steps > 60 && path.length() - along < 0.27f);
        QCOMPARE(*path.stepFrom(1, 0), 1.0f);
        // A closed curve goes on once around.
        const CurvePath ring(made("polygon", {{"sides", 60}, {"radius", 1}}), 0, {0, 1, 0}, false);
        QVERIFY(ring.closed());
        const auto over = ring.stepFrom(ring.length() - 0.1f, 0.5f);
        QVERIFY(over && *over > ring.length());
        QVERIFY(near(double(distance(ring.place(ring.length() - 0.1f), ring.place(*over - ring.length()))), 0.5, 1e-4));
        QVERIFY(!ring.stepFrom(0, 3));
    }

    // Choosing

    void sharesComeAsOftenAsTheySay() {
        const Shares shares({2, 0, 1, 1});
        std::array<int, 4> found{};
        for (int i = 0; i < 4000; ++i) ++found[shares.at(i / 4000.0)];
        QCOMPARE(found, (std::array<int, 4>{2000, 0, 1000, 1000}));
        QCOMPARE(shares.at(0.9999999), Index(3));
        QVERIFY(!Shares({}).possible() && !Shares({0, 0}).possible() && Shares({0, 1e-300}).possible());
        QCOMPARE(goingRound(5, 3), Index(2));
        QCOMPARE(goingRound(-1, 3), Index(2));
        QCOMPARE(goingRound(2.99, 3), Index(2));
        for (double wrong : {double(NAN), double(INFINITY), -double(INFINITY)}) QCOMPARE(goingRound(wrong, 3), Index(0));
        QVERIFY(goingRound(1e300, 3) < 3);
    }

    // Materials

    void listsOfMaterialsAreReadWhateverTheyHold() {
        Geometry g = made("box");
        QVERIFY(materialsOf(g).empty());
        const std::vector<Material> list{{"cork \"soft\"", {0.25f, 0.5f, 1}, 0.9f, 0}, {"brass", {0.8f, 0.7f, 0.3f}, 0.2f, 1}};
        setMaterials(g, list);
        QVERIFY(materialsOf(g) == list);
        setMaterials(g, {});
        QVERIFY(!g.column(Element::model, "materials"));
        for (const char* wrong : {"", "{", "[1, null, \"x\"]", "{\"a\": 1}", "[{\"name\": 3, \"color\": [1], \"roughness\": \"x\"}]",
                                  "[{\"color\": [9, -9, 1e99], \"metalness\": 7}]"}) {
            g.setColumn(Element::model, "materials", Column(std::vector<std::string>{wrong}));
            for (const Material& m : materialsOf(g)) {
                QVERIFY(!m.name.empty());
                QVERIFY(std::min({m.color.x, m.color.y, m.color.z, m.roughness, m.metalness}) >= 0 &&
                        std::max({m.color.x, m.color.y, m.color.z, m.roughness, m.metalness}) <= 1);
            }
        }
        g.setColumn(Element::model, "materials", Column(std::vector<std::string>{"[1, null, \"x\"]"}));
        QCOMPARE(materialsOf(g).size(), std::size_t(3));
        QCOMPARE(materialAt({}, 7).name, std::string("material 7"));
        QVERIFY(!(materialAt({}, 0).color == materialAt({}, 1).color) && materialAt({}, -3).name != materialAt({}, 3).name);
    }
    void numbersFollowTheirMaterials() {
        std::vector<Material> all{{"a"}, {"b"}};
        const auto renamed = addMaterials(all, {{"b"}, {"c"}, {"a", {1, 0, 0}}});
        QCOMPARE(renamed, (std::vector<std::int32_t>{1, 2, 3}));  // another colour is another material
        QCOMPARE(all.size(), std::size_t(4));
        const Column numbers = renumberedMaterials(Column(std::vector<std::int32_t>{0, 2, -1, 9, 1}), renamed);
        QCOMPARE(*numbers.as<std::int32_t>(), (std::vector<std::int32_t>{1, 3, -1, 9, 2}));
        const Column others = renumberedMaterials(Column(std::vector<float>{0.5f}), renamed);
        QCOMPARE(others.as<float>()->front(), 0.5f);
    }
    void colouredFacesAreShownInTheirColours() {
        Geometry g = made("box");
        QVERIFY(!shownColours(g, {}));
        g.setColumn(Element::face, "material", Column(std::vector<std::int32_t>{0, 1, -1, 0, 0, 0}));
        setMaterials(g, {{"a", {1, 0, 0}}, {"b", {0, 1, 0}}});
        const auto colours = shownColours(g, {0, 0, 1});
        QVERIFY(colours && colours->size() == 24);
        QVERIFY((*colours)[0] == Vec3(1, 0, 0) && (*colours)[5] == Vec3(0, 1, 0) && (*colours)[9] == Vec3(0, 0, 1));
        g.setColumn(Element::point, "color", Column(std::vector<Vec3>(8, Vec3{0.5f, 0.5f, 0.5f})));
        QVERIFY((*shownColours(g, {}))[0] == Vec3(0.5f, 0.5f, 0.5f));
    }

    // Copies

    void countsOfNestedCopiesDoNotRunOver() {
        Geometry nested = made("box");
        for (int level = 0; level < 12; ++level) nested = withCopies(nested, std::vector<Affine>(100, at({0, 0, 0})));
        const ElementCounts counts = bakedCounts(nested);
        QCOMPARE(counts.points, std::numeric_limits<std::uint64_t>::max());
        QVERIFY(!bakesEasily(nested));
        QVERIFY_EXCEPTION_THROWN(bakeCopies(nested), std::length_error);
        const Geometry two = withCopies(withCopies(made("box"), {at({}), at({2, 0, 0})}), {at({}), at({0, 5, 0}), at({0, 9, 0})});
        QCOMPARE(bakedCounts(two).faces, std::uint64_t(36));
        QCOMPARE(bakedPieces(two), std::uint64_t(6));
        QCOMPARE(bakeCopies(two).faceCount(), std::size_t(36));
        QCOMPARE(checkupUnbaked(two, RunContext()).volume, 6.0);
        QVERIFY(length(boundsOf(two).max - boundsOf(bakeCopies(two).positions()).max) < 1e-6f);
    }
    void fewerCopiesStandForAll() {
        std::vector<Affine> places;
        for (int i = 0; i < 1000; ++i) places.push_back(at({float(i), 0, 0}));
        Geometry g = withCopies(made("box"), places);
        g.setColumn(Element::copy, "rank", Column([] {
                        std::vector<float> out(1000);
                        for (int i = 0; i < 1000; ++i) out[std::size_t(i)] = float(i);
                        return out;
                    }()));
        QCOMPARE(withFewerCopies(g, 24000).copyCount(), std::size_t(1000));
        const Geometry fewer = withFewerCopies(g, 2400);
        QVERIFY(bakedCounts(fewer).corners <= 2400 && fewer.copyCount() > 80);
        // Spread over the whole, with their own values.
        QVERIFY(fewer.copies()->place.front().move.x == 0 && fewer.copies()->place.back().move.x > 980);
        for (std::size_t i = 0; i < fewer.copyCount(); ++i) QCOMPARE(fewer.values<float>(Element::copy, "rank")->at(i), fewer.copies()->place[i].move.x);
        QVERIFY(withFewerCopies(made("box"), 1).faceCount() == 6);
    }
    void takenCopiesKeepTheirShapes() {
        auto copies = std::make_shared<Copies>();
        copies->shapes = {std::make_shared<const Geometry>(made("box")), std::make_shared<const Geometry>(made("sphere")),
                          std::make_shared<const Geometry>(made("torus"))};
        copies->shapeOf = {0, 1, 2, 1, 0};
        for (int i = 0; i < 5; ++i) copies->place.push_back(at({float(i), 0, 0}));
        Geometry g = made("grid");
        g.setCopies(copies);
        const Geometry some = takeCopies(g, {3, 1, 0});
        QCOMPARE(some.copies()->shapeOf, (std::vector<Index>{0, 0, 1}));
        QCOMPARE(some.copies()->shapes.size(), std::size_t(2));
        QCOMPARE(some.copies()->shapes[0]->pointCount(), copies->shapes[1]->pointCount());
        QCOMPARE(some.copies()->place[0].move.x, 3.0f);
        QCOMPARE(some.faceCount(), g.faceCount());
        QCOMPARE(takeCopies(g, {}).copyCount(), std::size_t(0));
        QVERIFY(!takeCopies(g, {}).copies());
    }
    void movablesAreCopiesPiecesOrPoints() {
        const Geometry pieces =
            combine({made("box"), made("transform", {{"move", {5, 0, 0}}}, {made("box")}), made("transform", {{"move", {9, 0, 0}}}, {made("polygon")})});
        const Movables things(pieces);
        QVERIFY(things.kind() == Movables::Kind::pieces);
        QCOMPARE(things.count(), std::size_t(3));
        QVERIFY(near(double(things.pivot(1).x), 5, 1e-6) && near(double(things.pivot(1).z), 0, 1e-6));
        std::vector<Affine> maps(3);
        maps[1] = at({0, 7, 0});
        const Geometry moved = things.moved(maps);
        QCOMPARE(moved.positions()[0], pieces.positions()[0]);
        QCOMPARE(moved.positions()[8].y, pieces.positions()[8].y + 7);
        const Geometry kept = things.kept({1, 0, 1});
        QCOMPARE(kept.faceCount(), std::size_t(6));
        QCOMPARE(kept.curveCount(), std::size_t(1));
        std::size_t seen = 0;
        things.eachPoint(0, [&](Vec3) { ++seen; });
        QCOMPARE(seen, things.pointCount(0));
        const Geometry loose(std::vector<Vec3>{{0, 0, 0}, {1, 1, 1}});
        QVERIFY(Movables(loose).kind() == Movables::Kind::points && Movables(loose).kept({0, 1}).positions() == std::vector<Vec3>({{1, 1, 1}}));
        const Geometry copies = withCopies(made("box"), {at({1, 0, 0}, 2), at({4, 0, 0})});
        QVERIFY(Movables(copies).kind() == Movables::Kind::copies && Movables(copies).pivot(0) == Vec3(1, 0, 0));
        QCOMPARE(Movables(copies).kept({0, 1}).copies()->place[0].move.x, 4.0f);
    }
    void filesAreEstimatedByTheirFormat() {
        const Geometry g = withCopies(made("sphere"), std::vector<Affine>(1000, at({})));
        const std::uint64_t triangles = bakedCounts(g).triangles;
        QVERIFY(estimateFile(g, "a.stl").baked && estimateFile(g, "a.stl").triangles == triangles);
        QVERIFY(!estimateFile(g, "a.glb").baked && estimateFile(g, "a.glb").triangles * 1000 == triangles);
        QVERIFY(estimateFile(g, "A.STL").bytes > estimateFile(g, "a.glb").bytes * 50);
        QVERIFY(!estimateFile(made("sphere"), "a.stl").baked);
        QCOMPARE(estimateFile(g, "a.png").bytes, std::uint64_t(0));
    }
};

QTEST_APPLESS_MAIN(TestPlaceKernels)
#include "test_placekernels.moc"

// outline_file and projected_texture: what drawings and pictures hold, where it lands, and what is said of a bad file.
#include "PictureBytes.h"
#include "files/FileIo.h"
#include "files/PictureFile.h"
#include "graph/Importing.h"
#include "meshes/SvgPath.h"
#include "operators/look/PictureSampler.h"
#include "support/Run.h"

#include <fmt/format.h>

#include <QTemporaryDir>

#include <numbers>

using namespace seedloom;
using namespace seedloom::test;

namespace {

constexpr double kUnit = 0.0254 / 96;

/// A drawing of 96 × 96 units with that inside.
std::string drawing(const std::string& inside, const std::string& root = R"(width="96" height="96")") {
    return fmt::format(R"(<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" {}>{}</svg>)", root, inside);
}
OutlineDrawing readOf(const std::string& svg) {
    const auto read = outlinesFromSvg(svg);
    if (!read) qFatal("%s", read.error().text.c_str());
    return *read;
}
/// The ends of all stretches of all lines, in user units of the page, rounded to a millionth.
std::vector<PageSpot> endsOf(const std::string& path) {
    std::vector<PageSpot> out;
    const auto add = [&](PageSpot p) { out.push_back({std::round(p[0] * 1e6) / 1e6 + 0.0, std::round(p[1] * 1e6) / 1e6 + 0.0}); };
    for (const OutlineLine& line : pathIn(path).lines) {
        add(line.from);
        for (const OutlineStretch& stretch : line.stretches) add(stretch.one), add(stretch.two), add(stretch.to);
    }
    return out;
}
/// The same picture at every point of a grid on the ground, 1 m × 1 m around the origin.
Geometry ground(int cells) { return made("grid", {{"size", {1, 1}}, {"cells", {cells, cells}}}); }

DeepPixel grey(double v) { return {std::uint16_t(v * 65535), std::uint16_t(v * 65535), std::uint16_t(v * 65535), 65535}; }
constexpr DeepPixel kRed{65535, 0, 0, 65535}, kGreen{0, 65535, 0, 65535}, kBlue{0, 0, 65535, 65535}, kWhite{65535, 65535, 65535, 65535}, kClear{0, 0, 0, 0};

bool said(const OperatorOutcome& out, const char* code) {
    return std::any_of(out.notices.begin(), out.notices.end(), [&](const Notice& n) { return n.code == code; });
}

}  // namespace

class TestDrawings : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::string written(const char* name, std::string_view bytes) const {
        const std::string path = folder_.filePath(QString::fromLatin1(name)).toStdString();
        if (writeFileAtomically(path, bytes)) qFatal("not written");
        return path;
    }
    OperatorOutcome outlined(const std::string& svg, Json settings = Json::object(), Limits limits = {}) const {
        settings["file"] = written("drawn.svg", svg);
        return runOp("outline_file", settings, {}, limits);
    }
    /// The area of what fill_curve makes of it, in m².
    double areaOf(const std::string& svg, Json settings = Json::object()) const {
        return surfaceArea(made("fill_curve", Json::object(), {outlined(svg, std::move(settings)).geometry}));
    }
    OperatorOutcome laid(const PixelPicture& picture, const Geometry& on, Json settings) const {
        settings["file"] = written("laid.png", pngBytes(picture));
        return runOp("projected_texture", settings, {on});
    }

private Q_SLOTS:
    void numbersNeedNoSpacesBetweenThem() {
        QCOMPARE(numbersIn("1.5.5-2,-3e1 +4"), (std::vector<double>{1.5, 0.5, -2, -30, 4}));
        QCOMPARE(numbersIn(" 7 nothing 8"), std::vector<double>{7});
        QVERIFY(numbersIn("inf").empty() && numbersIn("-nan").empty() && numbersIn("1e999").empty());
        QCOMPARE(*lengthIn("2in"), 192.0);
        QCOMPARE(*lengthIn("25.4mm"), 96.0);
        QCOMPARE(*lengthIn(" 3pt "), 4.0);
        QVERIFY(!lengthIn("50%") && !lengthIn("") && !lengthIn("4 ells"));
    }

    void pathsReadAsTheStandardSays() {
        // Capital letters are places, small ones steps; further pairs go on; a close leads back to the start.
        const auto square = endsOf("M1,2 L3 2 3 4 H1 Z");
        QCOMPARE(endsOf("m1 2 2 0 v2 h-2z"), square);
        QCOMPARE(endsOf("M1 2h2V4L1,4z"), square);
        const PathLines two = pathIn("M0 0h1v1z l5 5 0 3");
        QCOMPARE(two.lines.size(), 2u);
        QVERIFY(two.whole && two.lines[0].closed && !two.lines[1].closed);
        QCOMPARE(two.lines[1].from, (PageSpot{0, 0}));
        // What a smooth curve leaves out is the mirrored control point, or none after another kind.
        QCOMPARE(endsOf("M0 0C1 2 3 2 4 0S7-2 8 0"), endsOf("M0 0 C1 2 3 2 4 0 C5 -2 7 -2 8 0"));
        QCOMPARE(endsOf("M0 0 L4 0 S7-2 8 0"), endsOf("M0 0 L4 0 C4 0 7 -2 8 0"));
        QCOMPARE(endsOf("M0 0Q2 3 4 0T8 0"), endsOf("M0 0 Q2 3 4 0 Q6 -3 8 0"));
        QCOMPARE(endsOf("m1 1q2 3 4 0t4 0"), endsOf("M1 1 Q3 4 5 1 Q7 -2 9 1"));
        // A quadratic curve is the cubic one whose control points lie two thirds towards its own.
        QCOMPARE(endsOf("M0 0Q3 3 6 0"), (std::vector<PageSpot>{{0, 0}, {2, 2}, {4, 2}, {6, 0}}));
        // What can't be read ends the path; what stands before it stays.
        for (const char* broken : {"M0 0 L1 1 L2", "M0 0 L1 1 X", "M0 0 L1 1 A1 1 0 2 0 3 3", "M0 0 L1 1 Z 5 5"}) {
            QVERIFY2(!pathIn(broken).whole, broken);
            QCOMPARE(pathIn(broken).lines.size(), 1u);
        }
        QVERIFY(!pathIn("L1 1").whole && pathIn("").whole && pathIn("M1 1").lines.empty());
    }

    void arcsLieOnTheirEllipse() {
        // Each of the four arcs between two points, by which way it turns and whether it is the large one; radii of 5 and 3, turned by 30°.
        const double c = std::cos(std::numbers::pi / 6), s = std::sin(std::numbers::pi / 6);
        for (const char* flags : {"0 0", "0 1", "1 0", "1 1"}) {
            const PathLines path = pathIn(fmt::format("M1 2A5 3 30 {} 4 3", flags));
            QVERIFY(path.whole && path.lines.size() == 1);
            const auto& stretches = path.lines[0].stretches;
            QCOMPARE(stretches.back().to, (PageSpot{4, 3}));
            // In the ellipse's own measure all ends are one unit from one centre, and the turn is more or less than a half.
            std::vector<PageSpot> round{{1, 2}};
            for (const auto& stretch : stretches) round.push_back(stretch.to);
            for (PageSpot& p : round) p = {(c * p[0] + s * p[1]) / 5, (-s * p[0] + c * p[1]) / 3};
            const PageSpot a = round.front(), b = round.back();
            const double half = std::hypot(b[0] - a[0], b[1] - a[1]) / 2, away = std::sqrt(1 - half * half);
            const double side = (flags[0] == flags[2]) ? -1 : 1;
            const PageSpot centre{(a[0] + b[0]) / 2 - side * away * (b[1] - a[1]) / (2 * half), (a[1] + b[1]) / 2 + side * away * (b[0] - a[0]) / (2 * half)};
            double turn = 0;
            for (std::size_t i = 0; i < round.size(); ++i) {
                const PageSpot p{round[i][0] - centre[0], round[i][1] - centre[1]};
                QVERIFY2(std::abs(std::hypot(p[0], p[1]) - 1) < 1e-9, flags);
                if (i == 0) continue;
                const PageSpot q{round[i - 1][0] - centre[0], round[i - 1][1] - centre[1]};
                turn += std::atan2(q[0] * p[1] - q[1] * p[0], q[0] * p[0] + q[1] * p[1]);
            }
            QCOMPARE(std::abs(turn) > std::numbers::pi, flags[0] == '1');
            QCOMPARE(turn > 0, flags[2] == '1');
        }
        // Radii that can't reach grow until they do; none at all is a straight line; flags need no spaces.
        QCOMPARE(pathIn("M0 0A1 1 0 0 1 8 0").lines[0].stretches.size(), 2u);
        QCOMPARE(endsOf("M0 0a4 4 0 018 0"), endsOf("M0 0A1 1 0 0 1 8 0"));
        QVERIFY(pathIn("M0 0A0 1 0 0 1 8 0").lines[0].stretches[0].straight);
        QVERIFY(pathIn("M1 1A5 5 0 1 1 1 1").lines.empty());
    }

    void transformsAreAppliedInTheirOrder() {
        const auto at = [](const char* text, PageSpot p) {
            const PageSpot q = transformIn(text)(p);
            return PageSpot{std::round(q[0] * 1e9) / 1e9 + 0.0, std::round(q[1] * 1e9) / 1e9 + 0.0};
        };
        QCOMPARE(at("translate(3) scale(2)", {1, 1}), (PageSpot{5, 2}));
        QCOMPARE(at("scale(2,3), translate(1 1)", {1, 1}), (PageSpot{4, 6}));
        QCOMPARE(at("rotate(90)", {1, 0}), (PageSpot{0, 1}));
        QCOMPARE(at("rotate(90 2 1)", {3, 1}), (PageSpot{2, 2}));
        QCOMPARE(at("skewX(45)", {0, 2}), (PageSpot{2, 2}));
        QCOMPARE(at("skewY(45)", {2, 0}), (PageSpot{2, 2}));
        QCOMPARE(at("matrix(1 2 3 4 5 6)", {1, 10}), (PageSpot{36, 48}));
        QCOMPARE(at("translate(1 1) wobble(4) scale(9)", {0, 0}), (PageSpot{1, 1}));
        QCOMPARE(at("scale(1 2 3)", {1, 1}), (PageSpot{1, 1}));
    }

    void thePageHasItsSizeAndStandsUpright() {
        // 50 units over 100 mm; a square whose upper left corner is that of the page.
        const auto page = readOf(drawing(R"(<rect width="10" height="10"/>)", R"(width="100mm" height="100mm" viewBox="0 0 50 50")"));
        QVERIFY(std::abs(page.width - 0.1) < 1e-12 && std::abs(page.height - 0.1) < 1e-12);
        const OutlineLine& square = page.lines.at(0);
        QVERIFY(std::abs(square.from[0]) < 1e-12 && std::abs(square.from[1] - 0.1) < 1e-12);
        QVERIFY(std::abs(square.stretches[1].to[0] - 0.02) < 1e-12 && std::abs(square.stretches[1].to[1] - 0.08) < 1e-12);
        // A box of another shape is fitted in the middle, or stretched where that is said; it may begin anywhere.
        const auto fitted = readOf(drawing(R"(<rect x="7" width="10" height="10"/>)", R"(width="96" height="48" viewBox="7 0 10 10")")).lines.at(0);
        QVERIFY(std::abs(fitted.from[0] - 24 * kUnit) < 1e-12 && std::abs(fitted.stretches[0].to[0] - 72 * kUnit) < 1e-12);
        const auto stretched =
            readOf(drawing(R"(<rect width="10" height="10"/>)", R"(width="96" height="48" viewBox="0 0 10 10" preserveAspectRatio="none")")).lines.at(0);
        QVERIFY(std::abs(stretched.stretches[0].to[0] - 96 * kUnit) < 1e-12);
        // Without a size of its own the page is as large as its box.
        QVERIFY(std::abs(readOf(drawing("", R"(viewBox="0 0 96 192")")).height - 0.0508) < 1e-12);
    }

    void shapesHaveTheirAreas() {
        const auto area = [&](const char* inside) { return areaOf(drawing(inside), {{"by", "as drawn"}, {"segments", 64}}) / (kUnit * kUnit); };
        const auto near = [](double a, double b) { return std::abs(a - b) < 2e-3 * b; };
        const double pi = std::numbers::pi;
        QVERIFY(near(area(R"(<rect x="5" y="5" width="40" height="30"/>)"), 1200));
        QVERIFY(near(area(R"(<rect width="40" height="30" rx="5"/>)"), 1200 - (4 - pi) * 25));
        QVERIFY(near(area(R"(<rect width="40" height="30" rx="8" ry="99"/>)"), 1200 - (4 - pi) * 8 * 15));
        QVERIFY(near(area(R"(<circle cx="40" cy="40" r="20"/>)"), 400 * pi));
        QVERIFY(near(area(R"(<ellipse cx="40" cy="40" rx="20" ry="10"/>)"), 200 * pi));
        QVERIFY(near(area(R"(<polygon points="0,0 20,0 0,30"/>)"), 300));
        QVERIFY(near(area(R"(<g transform='scale(2)'><g transform='rotate(20)'><rect width="10" height="10"/></g></g>)"), 400));
        QVERIFY(near(area(R"(<svg x="9"><a><switch><rect width="10" height="10"/></switch></a></svg>)"), 100));
        // Inside others they are holes, whoever drew them and whichever way round.
        QVERIFY(near(area(R"(<rect width="40" height="40"/><path d="M10 10h10v10h-10z"/><path d="M25 25v10h10v-10z"/>)"), 1400));
        // What is hidden, a definition or nothing at all draws nothing.
        const auto rest = readOf(drawing(R"(<g display="none"><rect width="9" height="9"/></g><rect style="fill:red; display : none" width="9" height="9"/>)"
                                         R"(<defs><rect width="9" height="9"/></defs><circle r="0"/><rect width="9"/><polyline points=""/>)"));
        QCOMPARE(rest.lines.size(), 0u);
        const auto open = readOf(drawing(R"(<polyline points="0 0 5 5 9 0"/><line x1="1" x2="5"/>)"));
        QVERIFY(open.lines.size() == 2 && !open.lines[0].closed && !open.lines[1].closed && open.lines[1].shape == 1);
    }

    void curvesStandWhereTheyAreWanted() {
        const std::string svg = drawing(R"(<rect x="20" y="30" width="40" height="20"/><path d="M20 30h5"/>)");
        const auto boundsWith = [&](const Json& settings) { return boundsOf(outlined(svg, settings).geometry.positions()); };
        const auto same = [](Vec3 a, Vec3 b) { return length(a - b) < 1e-5f; };
        Bounds b = boundsWith({{"size", 2}});
        QVERIFY(same(b.min, {-1, -0.5f, 0}) && same(b.max, {1, 0.5f, 0}));
        b = boundsWith({{"size", 2}, {"by", "height"}, {"anchor", "bottom"}});
        QVERIFY(same(b.min, {-2, 0, 0}) && same(b.max, {2, 2, 0}));
        b = boundsWith({{"size", 2}, {"by", "width"}, {"plane", "ground"}});
        QVERIFY(same(b.min, {-1, 0, -0.5f}) && same(b.max, {1, 0, 0.5f}));
        b = boundsWith({{"by", "as drawn"}, {"anchor", "page corner"}});
        QVERIFY(same(b.min, {float(20 * kUnit), float(46 * kUnit), 0}) && same(b.max, {float(60 * kUnit), float(66 * kUnit), 0}));
        b = boundsWith({{"size", 2}, {"anchor", "page middle"}});
        QVERIFY(same(b.min, {-1.4f, -0.1f, 0}));
        const Geometry g = outlined(svg).geometry;
        QCOMPARE(*g.column(Element::curve, "shape")->as<std::int32_t>(), (std::vector<std::int32_t>{0, 1}));
        QVERIFY(g.topology().curveClosed(0) && !g.topology().curveClosed(1));
        QCOMPARE(g.topology().curve(0).size(), 4u);
        // A closed line turns left whichever way it was drawn, so that what fills it faces the reader.
        for (const char* path : {"M0 0h9v9h-9z", "M0 0v9h9v-9z", "M0 0v9h9v-9h-9"}) {
            const Geometry faces = made("fill_curve", Json::object(), {outlined(drawing(fmt::format(R"(<path d="{}"/>)", path))).geometry});
            QCOMPARE(faces.faceCount(), 1u);
            QVERIFY2(faceNormals(faces)[0].z > 0.99f, path);
        }
        QCOMPARE(outlined(drawing(R"(<polyline points="0 0 9 0 9 9"/>)"), {{"close", true}}).geometry.topology().curveClosed(0), true);
        // Bends get that many stretches.
        for (int segments : {1, 5, 9}) QCOMPARE(outlined(drawing(R"(<circle r="9"/>)"), {{"segments", segments}}).geometry.pointCount(), Index(4 * segments));
    }

    void badDrawingsAreToldOf() {
        QCOMPARE(lastCode(runOp("outline_file")), std::string("outline.missing"));
        QCOMPARE(lastCode(runOp("outline_file", {{"file", "/nowhere/gone.svg"}})), std::string("file.read"));
        for (const char* bad : {"", "no drawing", "<svg", "<svg><g></svg>", "<html/>"}) QCOMPARE(lastCode(outlined(bad)), std::string("outline.format"));
        QVERIFY(said(outlined(drawing(R"(<path d="M0 0 L5 5 Q"/>)")), "outline.broken"));
        QVERIFY(said(outlined(drawing(R"(<text>Gull</text><use href="a"/>)")), "outline.other"));
        const auto none = outlined(drawing("<g/>"));
        QVERIFY(!none.failed && none.geometry.empty() && said(none, "outline.empty"));
        QCOMPARE(lastCode(outlined(drawing(R"(<path d="M0 0h9"/>)"), {{"by", "height"}})), std::string("outline.flat"));
        Limits few;
        few.elements = 100;
        QVERIFY(outlined(drawing(R"(<circle r="9"/>)"), {{"segments", 200}}, few).failed);
        // Groups inside each other without end, and a file cut or changed anywhere, end no program.
        std::string deep;
        for (int i = 0; i < 50'000; ++i) deep += "<g>";
        deep += R"(<rect width="9" height="9"/>)";
        for (int i = 0; i < 50'000; ++i) deep += "</g>";
        QVERIFY(said(outlined(drawing(deep)), "outline.other"));
        const std::string whole =
            drawing(R"(<g transform='rotate(20 3 4)'><path d="M0 0C1 2 3 4 5 6A1 2 3 0 1 9 9z"/><rect rx="3" width="9mm" height="9"/></g>)");
        std::mt19937 random(5);
        for (int i = 0; i < 3000; ++i) {
            std::string changed = whole.substr(0, i % 3 ? whole.size() : random() % whole.size());
            for (int k = 0; k < 3 && !changed.empty(); ++k) changed[random() % changed.size()] = char(random() % 2 ? 32 + random() % 95 : random());
            if (const auto read = outlinesFromSvg(changed))
                for (const OutlineLine& line : read->lines) QVERIFY(!line.stretches.empty());
        }
    }

    void picturesComeInAsTheyAreStored() {
        PixelPicture two{2, 2, {kRed, kGreen, kBlue, kClear}};
        auto read = pictureFromBytes(pngBytes(two));
        QVERIFY(read && read->pixels == two.pixels);
        // 16 bits are kept: a step that 8 bits don't have.
        PixelPicture fine{3, 1, {grey(0.5), grey(0.5001), grey(1)}};
        read = pictureFromBytes(deepPngBytes(fine));
        QVERIFY(read && read->width == 3 && read->height == 1 && read->pixels == fine.pixels);
        PixelPicture plain{16, 8, std::vector<DeepPixel>(128, DeepPixel{51400, 25700, 12850, 65535})};
        read = pictureFromBytes(jpegBytes(plain));
        QVERIFY(read && read->width == 16 && read->height == 8);
        for (const DeepPixel& p : read->pixels)
            for (std::size_t c = 0; c < 4; ++c) QVERIFY(std::abs(int(p[c]) - int(plain.pixels[0][c])) < 900);
        for (const std::string& bytes : {pngBytes(plain), jpegBytes(plain)}) {
            QCOMPARE(*pictureSizeFromBytes(bytes), (std::array{16, 8}));
            for (std::size_t length = 0; length < bytes.size(); length += 7) {
                const auto cut = pictureFromBytes(std::string_view(bytes).substr(0, length));
                if (!cut) QCOMPARE(cut.error().code, std::string("picture.format"));
            }
            std::mt19937 random(3);
            for (int i = 0; i < 500; ++i) {
                std::string changed = bytes;
                changed[random() % changed.size()] = char(random());
                if (const auto odd = pictureFromBytes(changed)) QCOMPARE(odd->pixels.size(), std::size_t(odd->width) * std::size_t(odd->height));
            }
        }
        // A header that promises more than any memory has is refused before any is taken.
        QCOMPARE(pictureFromBytes(pngHeader(100'000, 100'000)).error().code, std::string("picture.large"));
        QCOMPARE(pictureSizeFromBytes("GIF89a").error().code, std::string("picture.format"));
    }

    void samplesLieBetweenTheCentresOfPixels() {
        const PixelPicture picture{2, 2, {kRed, kGreen, kBlue, kWhite}};
        const PictureSampler held(picture, 1, false, false, RunContext()), repeated(picture, 1, true, true, RunContext());
        const auto is = [](PictureValue v, Vec3 colour) { return length(v.colour - colour) < 1e-5f && std::abs(v.opacity - 1) < 1e-5f; };
        QVERIFY(is(held.at({0.25f, 0.75f}), {1, 0, 0}) && is(held.at({0.75f, 0.75f}), {0, 1, 0}) && is(held.at({0.25f, 0.25f}), {0, 0, 1}));
        QVERIFY(is(held.at({0.5f, 0.75f}), {0.5f, 0.5f, 0}) && is(held.at({0.25f, 0.5f}), {0.5f, 0, 0.5f}));
        QVERIFY(is(held.at({-3, 9}), {1, 0, 0}) && is(held.at({0, 1}), {1, 0, 0}));
        QVERIFY(is(repeated.at({1.25f, -0.25f}), {1, 0, 0}) && is(repeated.at({0, 0.75f}), {0.5f, 0.5f, 0}));
        QVERIFY(is(held.at({std::nanf(""), 1}), {1, 0, 0}));
        // The mean of all, whatever the step; what is transparent gives no colour to its neighbours.
        QVERIFY(is(PictureSampler(picture, 2, false, false, RunContext()).at({0.1f, 0.9f}), {0.5f, 0.5f, 0.5f}));
        const PixelPicture half{2, 1, {kRed, kClear}};
        const PictureValue between = PictureSampler(half, 1, false, false, RunContext()).at({0.5f, 0.5f});
        QVERIFY(length(between.colour - Vec3{1, 0, 0}) < 1e-5f && std::abs(between.opacity - 0.5f) < 1e-5f);
        QVERIFY(std::abs(between.brightness() - 0.1063f) < 1e-4f);
        // Sides that the step does not divide keep a narrower square at their end.
        const PixelPicture three{3, 1, {grey(0), grey(0), grey(1)}};
        QVERIFY(std::abs(PictureSampler(three, 2, false, false, RunContext()).at({1, 0.5f}).colour.x - 1) < 1e-4f);
    }

    void aPictureLiesUprightOnWhatIsLookedAt() {
        const PixelPicture picture{2, 2, {kRed, kGreen, kBlue, kWhite}};
        // From above: right is +X, up on the picture is −Z.
        const Geometry flat = laid(picture, ground(8), Json::object()).geometry;
        const auto& colours = *flat.column(Element::point, "color")->as<Vec3>();
        const auto at = [&](float x, float z) {
            for (Index p = 0; p < flat.pointCount(); ++p)
                if (length(flat.positions()[p] - Vec3{x, 0, z}) < 1e-4f) return colours[p];
            return Vec3{-1, -1, -1};
        };
        QCOMPARE(at(-0.5f, -0.5f), (Vec3{1, 0, 0}));
        QCOMPARE(at(0.5f, -0.5f), (Vec3{0, 1, 0}));
        QCOMPARE(at(-0.5f, 0.5f), (Vec3{0, 0, 1}));
        QCOMPARE(at(0.5f, 0.5f), (Vec3{1, 1, 1}));
        // Its own uv gives the same as looking at it where they agree.
        const Geometry mapped = made("uv_project", {{"form", "plane"}, {"even", false}}, {ground(8)});
        QCOMPARE(*laid(picture, mapped, {{"form", "uv"}}).geometry.column(Element::point, "color")->as<Vec3>(), colours);
        const auto without = laid(picture, made("remove_attribute", {{"names", "uv"}}, {ground(4)}), {{"form", "uv"}});
        QVERIFY(without.failed && lastCode(without) == "picture.uv" && without.notices.back().fixes.size() == 2);
        // Points of no face are looked at as well.
        const Geometry dots = made("points_from", {{"of", "points"}}, {ground(8)});
        QCOMPARE(dots.faceCount(), 0u);
        QCOMPARE(laid(picture, dots, Json::object()).geometry.column(Element::point, "color")->as<Vec3>()->size(), std::size_t(81));
    }

    void reliefsRiseByTheirHeight() {
        PixelPicture ramp{64, 4, {}};
        for (int y = 0; y < 4; ++y)
            for (int x = 0; x < 64; ++x) ramp.pixels.push_back(grey(x / 63.0));
        const Geometry sheet = ground(32);
        const auto heights = [&](Json settings) {
            settings["as"] = "relief";
            const auto out = laid(ramp, sheet, std::move(settings));
            return boundsOf(out.geometry.positions());
        };
        Bounds b = heights({{"height", 0.3}});
        QVERIFY(std::abs(b.min.y) < 0.006f && std::abs(b.max.y - 0.3f) < 0.006f);
        b = heights({{"height", 0.3}, {"still", 0.5}});
        QVERIFY(std::abs(b.min.y + 0.15f) < 0.006f && std::abs(b.max.y - 0.15f) < 0.006f);
        b = heights({{"height", -0.3}});
        QVERIFY(std::abs(b.min.y + 0.3f) < 0.006f);
        // Each point by itself: heights grow along x, and the other way round when inverted.
        for (const bool inverted : {false, true}) {
            const Geometry g = laid(ramp, sheet, {{"as", "relief"}, {"height", 0.3}, {"invert", inverted}}).geometry;
            for (Index p = 0; p < g.pointCount(); ++p) {
                const float along = g.positions()[p].x + 0.5f;
                QVERIFY(std::abs(g.positions()[p].y - 0.3f * (inverted ? 1 - along : along)) < 0.008f);
                QVERIFY(g.positions()[p].x == sheet.positions()[p].x && g.positions()[p].z == sheet.positions()[p].z);
            }
        }
        QCOMPARE(laid(ramp, sheet, {{"as", "relief"}, {"where", 0}}).geometry.positions(), sheet.positions());
        // A mask of the name that is wanted; nothing else changes.
        const Geometry masked = laid(ramp, sheet, {{"as", "mask"}, {"name", "salt"}, {"invert", true}}).geometry;
        const auto& salt = *masked.column(Element::point, "salt")->as<float>();
        for (Index p = 0; p < masked.pointCount(); ++p) QVERIFY(std::abs(salt[p] - (0.5f - sheet.positions()[p].x)) < 0.02f);
        QCOMPARE(masked.positions(), sheet.positions());
        QVERIFY(!masked.column(Element::point, "color"));
    }

    void whatIsFinerThanThePointsIsAveraged() {
        // Stripes of one pixel: every point sees a half, not the stripe it happens to lie on.
        PixelPicture stripes{400, 400, {}};
        for (int i = 0; i < 160'000; ++i) stripes.pixels.push_back(grey(i % 2));
        const auto out = laid(stripes, ground(10), {{"as", "mask"}});
        for (float v : *out.geometry.column(Element::point, "mask")->as<float>()) QVERIFY(std::abs(v - 0.5f) < 0.03f);
        QVERIFY(said(out, "picture.coarse"));
        // Transparent pixels leave the colour that is there.
        const Geometry blue = made("set_attribute", {{"name", "color"}, {"type", "vec3"}, {"value", {0, 0, 1}}}, {ground(2)});
        const Geometry kept = laid({1, 1, {kClear}}, blue, Json::object()).geometry;
        for (Vec3 v : *kept.column(Element::point, "color")->as<Vec3>()) QCOMPARE(v, (Vec3{0, 0, 1}));
        // Around an axis the picture closes: the seam has one colour from both sides.
        const PixelPicture sides{4, 1, {kRed, kGreen, kGreen, kBlue}};
        const Geometry tube = laid(sides, made("cylinder", {{"sides", 64}}), {{"form", "cylinder"}}).geometry;
        const auto& colours = *tube.column(Element::point, "color")->as<Vec3>();
        for (Index p = 0; p < tube.pointCount(); ++p) {
            const Vec3 q = tube.positions()[p];
            if (std::abs(q.x) < 1e-4f && std::hypot(q.x, q.z) > 0.1f) QVERIFY(colours[p].x < 1 && colours[p].y + colours[p].x + colours[p].z > 0.99f);
        }
    }

    void badPicturesAreToldOf() {
        QCOMPARE(lastCode(runOp("projected_texture", Json::object(), {ground(2)})), std::string("picture.missing"));
        QCOMPARE(lastCode(runOp("projected_texture", {{"file", "/nowhere/gone.png"}}, {ground(2)})), std::string("file.read"));
        QCOMPARE(lastCode(runOp("projected_texture", {{"file", written("words.png", "no picture")}}, {ground(2)})), std::string("picture.format"));
        QVERIFY(runOp("projected_texture", {{"file", written("huge.png", pngHeader(100'000, 100'000))}}, {ground(2)}).failed);
        const PixelPicture dot{1, 1, {kRed}};
        QVERIFY(laid(dot, ground(2), {{"fit", false}, {"size", {1, 0, 1}}}).failed);
        QVERIFY(laid(dot, ground(2), {{"as", "mask"}, {"name", ""}}).failed);
        QVERIFY(!laid(dot, {}, Json::object()).failed);
    }

    void filesBecomeLoomsThatBuildOnThem() {
        const std::string svg = written("quay-mark.svg", drawing(R"(<circle cx="40" cy="40" r="20"/>)"));
        const std::string png = written("old_dunes.png", pngBytes({40, 10, std::vector<DeepPixel>(400, kWhite)}));
        QCOMPARE(importsOf("a/B.SVG"), (std::vector{ImportedAs::solid, ImportedAs::curves}));
        QCOMPARE(importsOf("b.jpeg"), (std::vector{ImportedAs::relief, ImportedAs::colours}));
        QCOMPARE(importsOf("c.obj"), std::vector{ImportedAs::mesh});
        QVERIFY(importsOf("d.txt").empty() && importsOf("svg").empty());
        QVERIFY(!importProblem(svg) && !importProblem(png));
        QVERIFY(importProblem(written("bad.svg", "<html/>")) && importProblem(written("bad.png", "bad")) && importProblem("gone.svg"));
        const auto built = [](const std::vector<ImportedFile>& files) {
            RebuildRequest request;
            request.loom = std::make_shared<const Loom>(loomImporting(files));
            Memo memo;
            const RebuildResult result = rebuild(request, memo);
            for (const Notice& notice : result.notices(*request.loom))
                if (notice.level == NoticeLevel::error) qFatal("%s", notice.text.c_str());
            return *result.geometry(request.loom->output);
        };
        const Geometry solid = built({{svg, ImportedAs::solid}});
        QVERIFY(checkupOf(solid).sound() && std::abs(checkupOf(solid).volume - std::numbers::pi * 0.25 * 0.05) < 1e-3);
        QCOMPARE(built({{svg, ImportedAs::curves}}).curveCount(), 1u);
        const Geometry relief = built({{png, ImportedAs::relief}});
        QCOMPARE(relief.faceCount(), 400u);
        const Bounds b = boundsOf(relief.positions());
        QVERIFY(std::abs(b.size().x - 1) < 1e-5f && std::abs(b.size().z - 0.25f) < 1e-5f && std::abs(b.min.y - 0.1f) < 1e-5f);
        QVERIFY(built({{png, ImportedAs::colours}}).column(Element::point, "color"));
        QCOMPARE(loomImporting({{png, ImportedAs::relief}}).name, std::string("Old dunes"));
        // Several stand in rows of their own and meet in a merge.
        const Geometry all = built({{svg, ImportedAs::solid}, {png, ImportedAs::relief}});
        QCOMPARE(all.faceCount(), solid.faceCount() + relief.faceCount());
    }
};

QTEST_GUILESS_MAIN(TestDrawings)
#include "test_drawings.moc"

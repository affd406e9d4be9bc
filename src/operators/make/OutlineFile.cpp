// Method: outlines of SVG 1.1 (W3C, src/meshes/SvgOutlines); Bezier curves divided evenly in their parameter.
#include "meshes/OutlineFile.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// One line as a row of spots, none twice in a row; the first is not said again at the end of a closed one.
struct Flat {
    std::vector<PageSpot> spots;
    bool closed = false;
    int shape = 0;
};

PageSpot onBend(PageSpot a, const OutlineStretch& s, double t) {
    const double u = 1 - t;
    PageSpot out;
    for (int k : {0, 1}) out[k] = u * u * u * a[k] + 3 * u * u * t * s.one[k] + 3 * u * t * t * s.two[k] + t * t * t * s.to[k];
    return out;
}

Flat flattened(const OutlineLine& line, int segments) {
    Flat out{{line.from}, line.closed, line.shape};
    const auto add = [&](PageSpot p) {
        if (out.spots.back() != p) out.spots.push_back(p);
    };
    PageSpot at = line.from;
    for (const OutlineStretch& stretch : line.stretches) {
        for (int i = 1; i < (stretch.straight ? 1 : segments); ++i) add(onBend(at, stretch, double(i) / segments));
        add(at = stretch.to);
    }
    // What comes back to its start is closed, whether the file says so or not.
    if (out.spots.size() > 3 && out.spots.front() == out.spots.back()) out.closed = true;
    if (out.closed && out.spots.size() > 1 && out.spots.front() == out.spots.back()) out.spots.pop_back();
    return out;
}

/// Closed lines run anticlockwise as they are read, however they were drawn, so that what fills them faces the reader.
void runAnticlockwise(Flat& line) {
    double area = 0;
    for (std::size_t i = 0; i < line.spots.size(); ++i) {
        const PageSpot a = line.spots[i], b = line.spots[(i + 1) % line.spots.size()];
        area += a[0] * b[1] - a[1] * b[0];
    }
    if (area < 0) std::reverse(line.spots.begin() + 1, line.spots.end());
}

struct PageBounds {
    PageSpot low{1e300, 1e300}, high{-1e300, -1e300};
    void add(PageSpot p) {
        for (int k : {0, 1}) low[k] = std::min(low[k], p[k]), high[k] = std::max(high[k], p[k]);
    }
    double size(int k) const { return high[k] - low[k]; }
};

/// Where the drawing is held, and how much larger it gets.
struct Placing {
    PageSpot origin{};
    double scale = 1;
};
Placing placing(OperatorCall& call, const PageBounds& bounds, const OutlineDrawing& drawing) {
    Placing out;
    const std::string by = call.choice("by");
    const double had = by == "width" ? bounds.size(0) : by == "height" ? bounds.size(1) : std::max(bounds.size(0), bounds.size(1));
    if (by != "as drawn" && !(had > 0))
        call.fail("outline.flat", fmt::format("The drawing has no {}, so it can't be given one. Set By to 'larger side'.", by), "by");
    if (by != "as drawn") out.scale = call.number("size") / had;
    const std::string anchor = call.choice("anchor");
    if (anchor == "page corner") return out;
    out.origin[0] = (bounds.low[0] + bounds.high[0]) / 2;
    out.origin[1] = anchor == "bottom" ? bounds.low[1] : (bounds.low[1] + bounds.high[1]) / 2;
    if (anchor == "page middle") out.origin = {drawing.width / 2, drawing.height / 2};
    return out;
}

Geometry curvesOf(const std::vector<Flat>& lines, const Placing& placing, bool upright) {
    std::vector<Vec3> positions;
    std::vector<Index> start{0}, points;
    std::vector<std::uint8_t> closed;
    std::vector<std::int32_t> shape;
    for (const Flat& line : lines) {
        for (PageSpot p : line.spots) {
            const auto x = float((p[0] - placing.origin[0]) * placing.scale), y = float((p[1] - placing.origin[1]) * placing.scale);
            points.push_back(Index(positions.size()));
            positions.push_back(upright ? Vec3{x, y, 0} : Vec3{x, 0, -y});
        }
        start.push_back(Index(points.size()));
        closed.push_back(line.closed);
        shape.push_back(line.shape);
    }
    const std::size_t count = positions.size();
    Geometry out(std::move(positions), Topology(count, {0}, {}, std::move(start), std::move(points), std::move(closed)));
    out.setColumn(Element::curve, "shape", Column(std::move(shape)));
    return out;
}

void tellFound(OperatorCall& call, const OutlineDrawing& drawing, const std::vector<Flat>& lines) {
    if (drawing.broken > 0)
        call.tell(NoticeLevel::warning, "outline.broken",
                  fmt::format("{} of its paths could be read only up to a place. Save the drawing again in the program it comes from.", drawing.broken),
                  "file");
    if (drawing.other > 0)
        call.tell(NoticeLevel::warning, "outline.other",
                  fmt::format("{} texts, pictures or references have no outline of their own and were left out. Turn them into paths in the drawing.",
                              drawing.other),
                  "file");
    if (lines.empty())
        return call.tell(NoticeLevel::warning, "outline.empty", "The file was read, but no line is drawn in it. Check that its shapes are not hidden.", "file");
    const auto closed = std::count_if(lines.begin(), lines.end(), [](const Flat& line) { return line.closed; });
    call.tell(NoticeLevel::info, "outline.found",
              fmt::format("{} curves, {} of them closed; drawn {:.3g} × {:.3g} m large.", lines.size(), closed, drawing.width, drawing.height));
}

Geometry computeOutlineFile(OperatorCall& call) {
    if (call.text("file").empty()) call.fail("outline.missing", "Choose a drawing to read: an .svg file.", "file");
    const auto drawing = outlinesFromSvg(call.bytesOf("file"));
    if (!drawing) call.fail(drawing.error(), "file");
    call.run().poll();
    const int segments = call.integer("segments");
    call.run().require(double(drawing->bends) * segments + double(drawing->straights + drawing->lines.size()), "points");
    std::vector<Flat> lines;
    PageBounds bounds;
    for (const OutlineLine& line : drawing->lines) {
        Flat flat = flattened(line, segments);
        if (call.flag("close")) flat.closed = true;
        if (flat.spots.size() < 3) flat.closed = false;
        if (flat.spots.size() < 2) continue;
        if (flat.closed) runAnticlockwise(flat);
        for (PageSpot p : flat.spots) bounds.add(p);
        lines.push_back(std::move(flat));
        call.run().poll();
    }
    tellFound(call, *drawing, lines);
    if (lines.empty()) return {};
    return curvesOf(lines, placing(call, bounds, *drawing), call.choice("plane") == "upright");
}

}  // namespace

OperatorSpec outlineFileOperator() {
    OperatorSpec spec;
    spec.id = "outline_file";
    spec.order = 135;
    spec.label = "Outline file";
    spec.family = Family::make;
    spec.sentence = "Reads the lines of a drawing (.svg) as curves.";
    spec.help =
        "Paths, rectangles, circles, ellipses, polygons and lines come in, with all their groups and transforms; paint, texts, pictures and references do not. "
        "Fill curve makes faces of closed lines, with holes where they belong, and Extrude solids. Closed ones run anticlockwise. Each curve has the number of "
        "its shape in `shape`. The file "
        "is read again when it changes. Paths are taken from the folder of the loom.";
    spec.synonyms = {"svg", "vector", "drawing", "logo", "emblem", "stencil", "import", "load", "path"};
    spec.settings = {
        fileSetting("file", "File", outlineEndings()).helped("The drawing."),
        choiceSetting("by", "By", {"larger side", "width", "height", "as drawn"}, "larger side")
            .helped("What Size gives. As drawn: the size the file tells, 96 of its units an inch."),
        numberSetting("size", "Size", Unit::metre, 1)
            .within(1e-6, 1e6)
            .slider(0.05, 5)
            .when("by", {"larger side", "width", "height"})
            .helped("Of all its lines together."),
        choiceSetting("anchor", "Anchor", {"middle", "bottom", "page middle", "page corner"}, "middle").helped("What lies at the origin."),
        choiceSetting("plane", "Plane", {"upright", "ground"}, "upright").helped("Facing +Z, or lying on the ground to be read from above."),
        integerSetting("segments", "Segments", 8).within(1, 200).slider(1, 16).helped("Straight pieces for each bend."),
        flagSetting("close", "Close lines", false).helped("Open lines are closed straight from end to start."),
    };
    spec.compute = computeOutlineFile;
    return spec;
}

}  // namespace seedloom

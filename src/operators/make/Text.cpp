// Method: outlines by FreeType, quadratic and cubic Bezier curves divided evenly.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/make/FontData.h"

#include <fmt/format.h>
#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H

#include <algorithm>
#include <memory>

namespace seedloom {

namespace {

using Ring = std::vector<Vec3>;

/// One face of the library, for one call: the library is not safe to share between threads.
class Font {
public:
    explicit Font(std::string_view bytes) {
        if (FT_Init_FreeType(&library_) != 0) return;
        if (FT_New_Memory_Face(library_, reinterpret_cast<const FT_Byte*>(bytes.data()), FT_Long(bytes.size()), 0, &face_) != 0) face_ = nullptr;
        if (face_) FT_Set_Pixel_Sizes(face_, 0, 1000);
    }
    ~Font() {
        if (face_) FT_Done_Face(face_);
        if (library_) FT_Done_FreeType(library_);
    }
    Font(const Font&) = delete;
    Font& operator=(const Font&) = delete;
    FT_Face face() const { return face_; }

private:
    FT_Library library_ = nullptr;
    FT_Face face_ = nullptr;
};

/// Collects an outline as rings of straight stretches, in units of 1/64 of a thousandth of the height.
struct Tracer {
    std::vector<Ring> rings;
    int segments = 6;
    Vec3 at{};

    static Vec3 place(const FT_Vector* v) { return {float(v->x), float(v->y), 0}; }
    void add(Vec3 p) {
        if (rings.back().empty() || !(rings.back().back() == p)) rings.back().push_back(p);
        at = p;
    }
    static int move(const FT_Vector* to, void* self) {
        auto& t = *static_cast<Tracer*>(self);
        t.rings.emplace_back();
        t.add(place(to));
        return 0;
    }
    static int line(const FT_Vector* to, void* self) {
        static_cast<Tracer*>(self)->add(place(to));
        return 0;
    }
    static int conic(const FT_Vector* control, const FT_Vector* to, void* self) {
        auto& t = *static_cast<Tracer*>(self);
        const Vec3 a = t.at, b = place(control), c = place(to);
        for (int i = 1; i <= t.segments; ++i) {
            const float s = float(i) / float(t.segments);
            t.add(i == t.segments ? c : mix(mix(a, b, s), mix(b, c, s), s));
        }
        return 0;
    }
    static int cubic(const FT_Vector* one, const FT_Vector* two, const FT_Vector* to, void* self) {
        auto& t = *static_cast<Tracer*>(self);
        const Vec3 a = t.at, b = place(one), c = place(two), d = place(to);
        for (int i = 1; i <= t.segments; ++i) {
            const float s = float(i) / float(t.segments);
            t.add(i == t.segments ? d : mix(mix(mix(a, b, s), mix(b, c, s), s), mix(mix(b, c, s), mix(c, d, s), s), s));
        }
        return 0;
    }
};

/// The code points of UTF-8; what is no valid text is left out.
std::vector<std::uint32_t> codePoints(const std::string& text) {
    std::vector<std::uint32_t> out;
    for (std::size_t i = 0; i < text.size();) {
        const auto lead = static_cast<unsigned char>(text[i]);
        const int more = lead < 0x80 ? 0 : lead >> 5 == 6 ? 1 : lead >> 4 == 14 ? 2 : lead >> 3 == 30 ? 3 : -1;
        std::uint32_t code = more <= 0 ? lead : lead & (0x3fu >> more);
        bool whole = more >= 0;
        for (int k = 1; k <= more; ++k) {
            whole = whole && i + std::size_t(k) < text.size() && (static_cast<unsigned char>(text[i + std::size_t(k)]) >> 6) == 2;
            if (whole) code = code << 6 | (static_cast<unsigned char>(text[i + std::size_t(k)]) & 0x3f);
        }
        if (whole) out.push_back(code);
        i += whole ? std::size_t(more) + 1 : 1;
    }
    return out;
}

struct Line {
    std::vector<Ring> rings;
    std::vector<std::int32_t> letter;
    float width = 0;
};

void addLetter(FT_Face face, std::uint32_t code, FT_UInt before, int segments, float spacing, Line& line, std::int32_t number) {
    const FT_UInt glyph = FT_Get_Char_Index(face, code);
    if (before && FT_HAS_KERNING(face)) {
        FT_Vector kerning{};
        FT_Get_Kerning(face, before, glyph, FT_KERNING_UNSCALED, &kerning);
        line.width += float(kerning.x) * 64000 / float(face->units_per_EM);
    }
    if (FT_Load_Glyph(face, glyph, FT_LOAD_NO_HINTING | FT_LOAD_NO_BITMAP) != 0) return;
    Tracer tracer;
    tracer.segments = segments;
    FT_Outline_Funcs calls{};
    calls.move_to = Tracer::move, calls.line_to = Tracer::line, calls.conic_to = Tracer::conic, calls.cubic_to = Tracer::cubic;
    FT_Outline_Decompose(&face->glyph->outline, &calls, &tracer);
    // Fonts differ in which way outlines run; here outer ones run anticlockwise as they are read, and holes the other way.
    const bool clockwise = FT_Outline_Get_Orientation(&face->glyph->outline) == FT_ORIENTATION_TRUETYPE;
    for (Ring& ring : tracer.rings) {
        if (ring.size() > 1 && ring.front() == ring.back()) ring.pop_back();
        if (ring.size() < 3) continue;
        if (clockwise) std::reverse(ring.begin(), ring.end());
        for (Vec3& p : ring) p.x += line.width;
        line.rings.push_back(std::move(ring));
        line.letter.push_back(number);
    }
    line.width += float(face->glyph->advance.x) * (1 + spacing);
}

Geometry curvesOf(const std::vector<Line>& lines, double size, double lineHeight, const std::string& align, bool upright) {
    // A size of 1 m is the height of the line's em.
    const float scale = float(size / 64000);
    std::vector<Vec3> positions;
    std::vector<Index> start{0}, points;
    std::vector<std::uint8_t> closed;
    std::vector<std::int32_t> letter;
    for (std::size_t l = 0; l < lines.size(); ++l) {
        const float shift = align == "left" ? 0 : align == "right" ? -lines[l].width : -lines[l].width / 2;
        for (std::size_t r = 0; r < lines[l].rings.size(); ++r) {
            const Ring& ring = lines[l].rings[r];
            for (Vec3 p : ring) {
                const float x = (p.x + shift) * scale, y = p.y * scale - float(double(l) * lineHeight * size);
                points.push_back(Index(positions.size()));
                positions.push_back(upright ? Vec3{x, y, 0} : Vec3{x, 0, -y});
            }
            start.push_back(Index(points.size()));
            closed.push_back(1);
            letter.push_back(lines[l].letter[r]);
        }
    }
    const std::size_t count = positions.size();
    Geometry out(std::move(positions), Topology(count, {0}, {}, std::move(start), std::move(points), std::move(closed)));
    out.setColumn(Element::curve, "letter", Column(std::move(letter)));
    return out;
}

Geometry computeText(OperatorCall& call) {
    const std::vector<std::uint32_t> codes = codePoints(call.text("text"));
    const int segments = call.integer("segments");
    call.run().require(double(codes.size()) * 40.0 * segments, "points");
    const Font font(fontBytes(call.choice("font")));
    if (!font.face()) call.fail("text.font", "The font could not be opened.", "font");
    const double size = call.number("size");
    const auto spacing = float(call.number("spacing"));
    std::vector<Line> lines(1);
    FT_UInt before = 0;
    std::int32_t number = 0;
    std::size_t unknown = 0;
    for (std::uint32_t code : codes) {
        if (code == '\n') {
            lines.emplace_back();
            before = 0;
            continue;
        }
        unknown += FT_Get_Char_Index(font.face(), code) == 0;
        addLetter(font.face(), code, before, segments, spacing, lines.back(), number++);
        before = FT_Get_Char_Index(font.face(), code);
    }
    if (unknown > 0)
        call.tell(NoticeLevel::warning, "text.letters",
                  fmt::format("The font has no shape for {} of the letters; a box stands for them. Choose another font.", unknown), "text");
    const Geometry curves = curvesOf(lines, size, call.number("line_height"), call.choice("align"), call.choice("plane") == "upright");
    if (curves.curveCount() == 0) call.tell(NoticeLevel::info, "text.none", "There is no letter to draw.", "text");
    return curves;
}

}  // namespace

OperatorSpec textOperator() {
    OperatorSpec spec;
    spec.id = "text";
    spec.order = 130;
    spec.label = "Text outline";
    spec.family = Family::make;
    spec.sentence = "Makes the outlines of letters as closed curves.";
    spec.help =
        "Fill curve makes faces of them, with holes where they belong; Extrude with Keep back then makes closed solids. Each curve has the number of its "
        "letter. The fonts come with the program.";
    spec.synonyms = {"letters", "font", "sign", "writing", "label", "numbers", "type"};
    spec.settings = {
        textSetting("text", "Text", "Gull Rock").helped("What is written; a line break begins a new line."),
        choiceSetting("font", "Font", {"regular", "medium", "semibold", "bold", "mono"}, "semibold")
            .helped("The cut of the letters; mono gives all the same width."),
        numberSetting("size", "Size", Unit::metre, 0.3).within(1e-6, 1e6).slider(0.05, 2).helped("From one line to the next; capitals are about 0.7 of it."),
        choiceSetting("align", "Align", {"left", "middle", "right"}, "middle").helped("Where each line stands at the origin."),
        choiceSetting("plane", "Plane", {"upright", "ground"}, "upright").helped("Facing +Z, or lying on the ground to be read from above."),
        integerSetting("segments", "Segments", 6).within(1, 200).slider(1, 16).helped("Straight pieces for each bend."),
        numberSetting("spacing", "Spacing", Unit::part, 0).within(-0.9, 100).slider(-0.2, 1).helped("Further room between letters, as a part of their width."),
        numberSetting("line_height", "Line height", Unit::none, 1.2).within(0, 100).slider(0.8, 2).helped("From line to line, times the size."),
    };
    spec.sample = sample::step(spec.id, {{"text", "Gull"}});
    spec.compute = computeText;
    return spec;
}

}  // namespace seedloom

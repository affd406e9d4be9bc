// Method: own: chords of a curve of the beads' lengths, one end after the other.
#include "geometry/Materials.h"
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Words.h"
#include "operators/curve/CurvePath.h"

#include <fmt/format.h>

#include <numeric>

namespace seedloom {

namespace {

/// A B A … as numbers counted from 0.
std::vector<Index> patternOf(const OperatorCall& call, std::size_t beads) {
    std::vector<Index> out;
    for (const std::string& word : wordsIn(call.text("pattern")))
        for (char c : word) {
            if (c == ',' || c == '-') continue;
            const int n = c >= 'a' && c <= 'z' ? c - 'a' : c >= 'A' && c <= 'Z' ? c - 'A' : -1;
            if (n < 0)
                call.fail("beads.pattern", fmt::format("'{}' is no letter of a bead. Write letters, A for the first bead linked, as in A B A.", c), "pattern");
            if (std::size_t(n) >= beads)
                call.fail("beads.pattern", fmt::format("There is no bead {}: {} {} linked.", c, beads, beads == 1 ? "is" : "are"), "pattern");
            out.push_back(Index(n));
        }
    for (Index i = 0; out.empty() && i < beads; ++i) out.push_back(i);
    if (out.empty()) out.push_back(0);
    return out;
}

struct Bead {
    float low = 0, length = 0;  ///< along the axis
};

struct Run {
    std::vector<std::array<float, 2>> spans;  ///< metres along, start and end of each
    float end = 0;                            ///< where the next would start
};

class Stringing {
    static constexpr float kRounding = 1e-5f;  ///< of the curve's length: what sums of floats may be off

public:
    Stringing(OperatorCall& call, const CurvePath& path, const std::vector<Bead>& beads, const std::vector<Index>& pattern)
        : call_(call), path_(path), beads_(beads), pattern_(pattern), gap_(float(call.number("gap"))) {}

    const Bead& bead(std::size_t i) const { return beads_[pattern_[i % pattern_.size()]]; }

    /// As many as find room, or `count`; stops where the curve ends. Lengths are multiplied by `stretch`.
    Run run(std::size_t count, float stretch) const {
        Run out;
        const float limit = path_.length() * (1 + 1e-6f);
        for (std::size_t i = 0; i < count; ++i) {
            if (i % 1024 == 0) call_.run().poll();
            const auto end = endOfBead(out.end, bead(i).length * stretch, limit);
            if (!end || *end > limit || !(*end > out.end)) break;
            out.spans.push_back({out.end, *end});
            const auto next = gap_ > 0 ? path_.stepFrom(*end, gap_) : end;
            out.end = next ? *next : path_.length() * 2;
            if (out.end >= limit) break;
        }
        return out;
    }

    /// Where a bead that starts at `from` ends. Lengths that add up to the curve's must not lose their last bead to rounding.
    std::optional<float> endOfBead(float from, float length, float limit) const {
        const auto end = path_.stepFrom(from, length);
        if (end && *end <= limit) return end;
        const float whole = path_.length();
        const float rest = distance(path_.place(from), path_.place(path_.closed() ? 0 : whole));
        const bool reaches = from < whole && whole - from < length * 1.5f && rest >= length - kRounding * whole;
        return reaches ? std::optional(whole) : end;
    }

    /// Where the last of `count` beads ends, with the gap behind it on a closed curve; more than the curve where they don't all fit.
    float endOf(std::size_t count, float stretch) const {
        const Run all = run(count, stretch);
        if (all.spans.size() < count) return path_.length() * 2;
        return path_.closed() ? all.end : all.spans.back()[1];
    }

    std::pair<Run, float> fitted(std::size_t most) const {
        Run plain = run(most, 1);
        if (!call_.flag("stretch_to_fit")) return {plain, 1.0f};
        const std::size_t fewer = plain.spans.size();
        // One more, pressed together, where it has at least half of its length.
        const float left = path_.length() - (fewer > 0 ? plain.end : 0);
        const std::size_t count = std::max<std::size_t>(left >= bead(fewer).length * 0.5f && fewer < most ? fewer + 1 : fewer, 1);
        float low = 0, high = 1;
        while (endOf(count, high) < path_.length() && high < 1e4f) low = high, high *= 2;
        for (int i = 0; i < 48; ++i) {
            const float middle = (low + high) * 0.5f;
            (endOf(count, middle) <= path_.length() ? low : high) = middle;
        }
        Run out = run(count, low);
        if (out.spans.empty()) return {plain, 1.0f};
        return {out, low};
    }

private:
    OperatorCall& call_;
    const CurvePath& path_;
    const std::vector<Bead>& beads_;
    const std::vector<Index>& pattern_;
    float gap_;
};

/// A bead between two places, its axis along them and its up as near to `up` as that allows.
Affine between(Vec3 from, Vec3 to, Vec3 up, const Bead& bead, int axis, float stretch) {
    const Vec3 along = normalized(to - from, {1, 0, 0});
    const Vec3 side = normalized(cross(along, up), anyPerpendicular(along));
    const Vec3 upright = cross(side, along);
    const Vec3 long_ = along * stretch;
    // Of the other two axes y, or z where y runs along, is up; all stay right-handed.
    Affine out = axis == 0 ? Affine{long_, upright, side, {}} : axis == 1 ? Affine{side, long_, upright, {}} : Affine{-side, upright, long_, {}};
    out.move = from - long_ * bead.low;
    return out;
}

std::vector<Bead> measured(const OperatorCall& call, const std::vector<Geometry>& given, const std::vector<Index>& pattern, int axis) {
    std::vector<Bead> out;
    for (const Geometry& bead : given) {
        const Bounds bounds = boundsOf(bead);
        out.push_back({bounds.empty ? 0 : bounds.min[axis], bounds.size()[axis]});
    }
    for (Index i : pattern)
        if (!(out[i].length > 0))
            call.fail("beads.flat",
                      fmt::format("Bead {} has no length along {}. Choose another axis, or leave it out of the pattern.", char('A' + i), call.choice("axis")),
                      "axis");
    return out;
}

/// Copies of beads as they are set, with what they carry.
struct Strung {
    std::shared_ptr<Copies> copies = std::make_shared<Copies>();
    std::vector<Index> curveOf;
    std::vector<std::int32_t> ids;
    std::vector<float> along;
    std::vector<Vec3> tangents;

    void add(const CurvePath& path, Index curve, const Run& run, float stretch, const std::vector<Bead>& beads, const std::vector<Index>& pattern, int axis) {
        const auto at = [&](float x) { return path.place(path.closed() && x >= path.length() ? x - path.length() : x); };
        for (std::size_t i = 0; i < run.spans.size(); ++i) {
            const auto [from, to] = run.spans[i];
            const Index shape = pattern[i % pattern.size()];
            copies->shapeOf.push_back(shape);
            copies->place.push_back(between(at(from), at(to), path.up((from + to) / 2), beads[shape], axis, stretch));
            curveOf.push_back(curve);
            ids.push_back(std::int32_t(ids.size()));
            along.push_back((from + to) / 2 / path.length());
            tangents.push_back(normalized(at(to) - at(from), {1, 0, 0}));
        }
    }

    Geometry geometry(const Geometry& in) && {
        Geometry out;
        for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
        if (copies->place.empty()) return out;
        std::vector<std::int32_t> shapes(copies->shapeOf.begin(), copies->shapeOf.end());
        out.setCopies(std::move(copies));
        for (const auto& [name, column] : in.table(Element::curve)) out.setColumn(Element::copy, name, gather(column, curveOf));
        out.setColumn(Element::copy, "id", Column(std::move(ids)));
        out.setColumn(Element::copy, "shape", Column(std::move(shapes)));
        out.setColumn(Element::copy, "along", Column(std::move(along)));
        out.setColumn(Element::copy, "tangent", Column(std::move(tangents)));
        return out;
    }
};

Geometry computeBeads(OperatorCall& call) {
    const Geometry& in = call.in();
    std::vector<Geometry> given = withSharedMaterials(call.port(1));
    std::erase_if(given, [](const Geometry& bead) { return bead.empty(); });
    if (given.empty()) call.fail("beads.none", "There is nothing to set along the curve. Link at least one geometry to Beads.");
    if (in.curveCount() == 0) call.fail("curve.none", "There is no curve at the input Curve to set beads along.");
    const int axis = call.choice("axis")[0] - 'x';
    const std::vector<Index> pattern = patternOf(call, given.size());
    const std::vector<Bead> beads = measured(call, given, pattern, axis);
    const double total = std::accumulate(pattern.begin(), pattern.end(), 0.0, [&](double sum, Index i) { return sum + double(beads[i].length); });
    Strung strung;
    for (Geometry& bead : given) strung.copies->shapes.push_back(std::make_shared<const Geometry>(std::move(bead)));
    for (Index c = 0; c < in.curveCount(); ++c) {
        if (in.topology().curve(c).size() < 2) continue;
        const CurvePath path(in, c, normalized(call.vec3("up")), call.flag("level"));
        if (!std::isfinite(path.length())) call.fail("mesh.non_finite", "The curve has a point that is no finite place. Delete it first.");
        const double expected = double(path.length()) / (total / double(pattern.size()) + call.number("gap"));
        call.run().require(double(strung.ids.size()) + expected, "copies");
        const auto [run, stretch] = Stringing(call, path, beads, pattern).fitted(std::size_t(call.run().limits().elements));
        strung.add(path, c, run, stretch, beads, pattern, axis);
    }
    const std::size_t count = strung.ids.size();
    if (count == 0)
        call.tell(NoticeLevel::warning, "beads.no_room", "The curve is shorter than one bead, so none was set. Lengthen it, or turn on Stretch to fit.",
                  "stretch_to_fit");
    else call.tell(NoticeLevel::info, "beads.count", fmt::format("{} beads.", count), "pattern");
    return std::move(strung).geometry(in);
}

}  // namespace

OperatorSpec beadsOperator() {
    OperatorSpec spec;
    spec.id = "beads";
    spec.order = 820;
    spec.label = "Beads along curve";
    spec.family = Family::scatter;
    spec.sentence = "Sets shapes end to end along a curve, each by its own length.";
    spec.help =
        "Each bead reaches with its ends from one place of the curve to the next, so that neighbours touch in bends, too, whatever their lengths are. The "
        "pattern tells the order by letters: A is the first shape linked. "
        "Stretch to fit makes all of them a little longer or shorter, so that the last ends where the curve ends (on a closed curve: where the first begins). "
        "Copies carry along, tangent, id and the number of their shape.";
    spec.synonyms = {"chain", "end to end", "sequence", "planks", "links", "string", "array along curve", "necklace"};
    spec.inputs = {{"curve", "Curve"}, {"beads", "Beads", true}};
    spec.settings = {
        textSetting("pattern", "Pattern", "").helped("The order of beads by letters, as in A B A; empty: one of each in turn."),
        numberSetting("gap", "Gap", Unit::metre, 0).atLeast(0).slider(0, 0.5).helped("Room between one bead and the next."),
        flagSetting("stretch_to_fit", "Stretch to fit", false).helped("Changes the beads' lengths a little so that they fill the curve."),
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "x").helped("What of a bead runs along the curve."),
        flagSetting("level", "Keep level", false).helped("Holds up as near to the direction below as the curve lets it, at every bead."),
        vec3Setting("up", "Up", Unit::none, {0, 1, 0}).helped("Up leans towards this direction where the curve starts, or everywhere."),
    };
    spec.takes = Takes::curves;
    spec.sample = sample::plugged(sample::plugged(sample::step(spec.id, {{"pattern", "A B"}, {"stretch_to_fit", true}}, {sample::smoothWay(60)}), "beads",
                                                  sample::step("box", {{"size", {0.22, 0.12, 0.12}}})),
                                  "beads", sample::step("sphere", {{"radius", 0.09}}));
    spec.compute = computeBeads;
    return spec;
}

}  // namespace seedloom

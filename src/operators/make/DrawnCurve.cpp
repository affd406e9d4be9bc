// Method: own: strokes kept as places, evened out by length.
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

#include <memory>

namespace seedloom {

namespace {

/// Points at even distances along a line, both ends kept.
std::vector<Vec3> evenly(const std::vector<Vec3>& line, double spacing, const RunContext& run) {
    std::vector<double> at{0};
    for (std::size_t i = 1; i < line.size(); ++i) at.push_back(at.back() + double(distance(line[i - 1], line[i])));
    if (!(at.back() > 0) || line.size() < 2) return line;
    run.require(at.back() / spacing, "points");
    const auto count = std::max<std::size_t>(1, std::size_t(std::llround(at.back() / spacing)));
    std::vector<Vec3> out;
    std::size_t span = 1;
    for (std::size_t i = 0; i <= count; ++i) {
        const double metres = at.back() * double(i) / double(count);
        while (span + 1 < line.size() && at[span] < metres) ++span;
        const double length = at[span] - at[span - 1];
        out.push_back(mix(line[span - 1], line[span], length > 0 ? float((metres - at[span - 1]) / length) : 0));
    }
    out.back() = line.back();
    return out;
}

Vec3 intoPlane(Vec3 p, const std::string& plane) {
    if (plane == "ground") p.y = 0;
    if (plane == "front") p.z = 0;
    if (plane == "side") p.x = 0;
    return p;
}

/// Where lines are drawn, and what became of them.
class DrawnLines {
public:
    explicit DrawnLines(OperatorCall& call) : plane_(call.choice("plane")), spacing_(call.number("spacing")), close_(call.flag("close")) {
        if (plane_ == "auto") plane_ = call.port(0).empty() ? "ground" : "surface";
        if (plane_ != "surface") return;
        const Geometry surface = call.port(0).empty() ? Geometry() : call.port(0).front();
        if (surface.faceCount() == 0)
            call.fail("drawn.surface", "Nothing with faces is plugged in to draw on. Link a surface, or choose another plane.", "plane");
        places_ = std::make_shared<const NearestPlace>(surface, NearestPlace::On::faces);
        if (places_->empty()) call.fail("mesh.non_finite", "The surface has no face with finite places.");
        normals_ = std::make_shared<const std::vector<Vec3>>(faceNormals(surface));
    }

    void add(std::vector<Vec3> line, const RunContext& run) {
        if (line.empty()) return;
        for (Vec3& p : line) p = intoPlane(p, plane_);
        if (spacing_ > 0) line = evenly(line, spacing_, run);
        for (Vec3 p : line) {
            if (places_) {
                const Place found = places_->find(p);
                p = found.position;
                normal_.push_back((*normals_)[found.element]);
            }
            points_.push_back(Index(positions_.size()));
            positions_.push_back(p);
        }
        start_.push_back(Index(points_.size()));
        closed_.push_back(close_ && line.size() > 2);
    }
    bool empty() const { return positions_.empty(); }

    Geometry curves() && {
        const std::size_t all = positions_.size();
        Geometry out(std::move(positions_), Topology(all, {0}, {}, std::move(start_), std::move(points_), std::move(closed_)));
        if (!normal_.empty()) out.setColumn(Element::point, "normal", Column(std::move(normal_)));
        return out;
    }

private:
    std::string plane_;
    double spacing_;
    bool close_;
    std::shared_ptr<const NearestPlace> places_;  ///< on the surface; shared, as copies of what was drawn search the same one
    std::shared_ptr<const std::vector<Vec3>> normals_;
    std::vector<Vec3> positions_, normal_;
    std::vector<Index> start_{0}, points_;
    std::vector<std::uint8_t> closed_;
};

/// All lines of the setting.
DrawnLines drawn(OperatorCall& call) {
    const auto lines = call.lines("strokes");
    double count = 0;
    for (const auto& line : lines) count += double(line.size());
    call.run().require(count, "points");
    DrawnLines out(call);
    for (const auto& line : lines) out.add(line, call.run());
    return out;
}

Geometry computeDrawnCurve(OperatorCall& call) {
    const Json* more = call.unfinished("strokes");
    DrawnLines out = more ? *call.withoutUnfinished<DrawnLines>([&] { return drawn(call); }) : drawn(call);
    if (more) out.add(call.lineIn(*more, "strokes"), call.run());
    if (out.empty()) call.tell(NoticeLevel::info, "drawn.none", "Nothing is drawn yet. Choose Draw in the settings, and draw on the stage.", "strokes");
    return std::move(out).curves();
}

}  // namespace

OperatorSpec drawnCurveOperator() {
    OperatorSpec spec;
    spec.id = "drawn_curve";
    spec.order = 20;
    spec.label = "Drawn curve";
    spec.family = Family::make;
    spec.sentence = "Keeps lines that are drawn by hand on the stage as curves.";
    spec.help =
        "Draw on a plane through the origin, or on the surface that is plugged in; then the curve follows when that changes, and has its normals. Each stroke "
        "is one curve; spacing evens its points out.";
    spec.synonyms = {"pen", "freehand", "sketch", "draw", "stroke", "path", "crack line"};
    spec.inputs = {{"in", "Surface", false, true}};
    spec.settings = {
        linesSetting("strokes", "Strokes").helped("The drawn lines, each a list of points; a hidden one is kept, but takes no part."),
        choiceSetting("plane", "Plane", {"auto", "ground", "front", "side", "surface"}, "auto")
            .helped("Where lines are drawn: on the ground, upright facing +Z or +X, or on the surface that is plugged in. Auto is the surface where there is "
                    "one, else the ground."),
        numberSetting("spacing", "Spacing", Unit::metre, 0.05)
            .within(0, 1e6)
            .slider(0, 0.5)
            .helped("Distance of the points along each line; 0 keeps them as they were drawn."),
        flagSetting("close", "Close", false).helped("Joins each line's end to its start."),
    };
    spec.sample = sample::step(spec.id, {{"strokes", {{{-0.6, 0, 0}, {-0.3, 0, -0.3}, {0, 0, 0.1}, {0.3, 0, -0.2}, {0.6, 0, 0.2}}}}});
    spec.compute = computeDrawnCurve;
    return spec;
}

}  // namespace seedloom

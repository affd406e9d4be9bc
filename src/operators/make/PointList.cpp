// Method: own.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computePointList(OperatorCall& call) {
    std::vector<Vec3> points = call.points("points");
    const std::string join = call.choice("join");
    if (points.empty()) call.tell(NoticeLevel::warning, "point_list.empty", "The list has no points yet. Add some.", "points");
    const std::size_t least = join == "none" ? 0 : join == "open curve" ? 2 : 3;
    if (!points.empty() && points.size() < least) {
        call.tell(NoticeLevel::warning, "point_list.few", "There are too few points to join them this way; they stay loose.", "join");
        return Geometry(std::move(points));
    }
    if (join == "none" || points.empty()) return Geometry(std::move(points));
    if (join == "filled") return faceThrough(std::move(points));
    return curveThrough(std::move(points), join == "closed curve");
}

}  // namespace

OperatorSpec pointListOperator() {
    OperatorSpec spec;
    spec.id = "point_list";
    spec.order = 10;
    spec.label = "Point list";
    spec.family = Family::make;
    spec.sentence = "Makes exact points from typed or dragged positions, joined to a line or an area if you like.";
    spec.help = "The points keep their order. On the stage each point can be dragged; the list follows.";
    spec.synonyms = {"profile", "outline", "draw", "vertices", "coordinates", "polyline", "floor plan", "typed points"};
    spec.settings = {
        pointsSetting("points", "Points", Json::array({Json::array({0.0, 0.0, 0.0}), Json::array({1.0, 0.0, 0.0})})).helped("Positions in metres, in order."),
        choiceSetting("join", "Join", {"none", "open curve", "closed curve", "filled"}, "open curve")
            .helped("Leaves the points loose, or joins them to a line, a loop or a face."),
    };
    spec.compute = computePointList;
    return spec;
}

}  // namespace seedloom

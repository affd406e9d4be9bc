#include "operators/deform/AlongAxis.h"

#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr double kFarthest = 10;  ///< of start and end, parts of the bounds

}  // namespace

AxisStretch axisStretch(const OperatorCall& call, const Geometry& in) {
    const double start = call.number("start"), end = call.number("end");
    if (end <= start) {
        const double possible = start < 1 ? 1 : std::min(start + 1, kFarthest);
        call.offer(start < kFarthest ? setFix(fmt::format("Set End to {:g}", possible), "end", possible) : setFix("Set Start back", "start", Json()));
        call.fail("axis.stretch", "End must lie beyond start, so that there is a stretch to act on.", "end");
    }
    AxisStretch out;
    out.axis = call.choice("axis")[0] - 'x';
    const Bounds bounds = boundsOf(in.positions());
    const double low = double(bounds.min[out.axis]), size = double(bounds.size()[out.axis]);
    out.low = low + size * start;
    out.high = low + size * end;
    out.centre = bounds.centre();
    return out;
}

std::vector<SettingSpec> axisSettings(std::string axisHelp) {
    return {
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "y").helped(std::move(axisHelp)),
        numberSetting("start", "Start", Unit::part, 0)
            .within(-kFarthest, kFarthest)
            .slider(0, 1)
            .helped("Where it begins, as a part of the bounds along the axis."),
        numberSetting("end", "End", Unit::part, 1).within(-kFarthest, kFarthest).slider(0, 1).helped("Where it ends, as a part of the bounds along the axis."),
    };
}

namespace {

constexpr std::array<const char*, 4> kDirections{"normal", "tangent", "side", "up"};

/// The directions of one kind of element, turned at the places of its elements.
void turnDirections(OperatorCall& call, const Geometry& in, Element element, const Field<float>& weights, const std::function<Vec3(Vec3, Vec3)>& turn,
                    Geometry& out) {
    for (const char* name : kDirections) {
        const auto* before = in.values<Vec3>(element, name);
        if (!before) continue;
        std::vector<Vec3> after(before->size());
        forEach(after.size(), call.run(), [&](std::size_t i) {
            const Index p = element == Element::corner ? in.topology().cornerPoint()[i] : Index(i);
            const float w = weights[p];
            const Vec3 turned = w == 0 ? (*before)[i] : turn(in.positions()[p], (*before)[i]);
            after[i] = w == 0 || w == 1 ? turned : normalized(mix((*before)[i], turned, w), turned);
        });
        out.setColumn(element, name, Column(std::move(after)));
    }
}

}  // namespace

Geometry deformed(OperatorCall& call, const Geometry& in, const std::function<Vec3(Vec3)>& to, const std::function<Vec3(Vec3, Vec3)>& turn) {
    const Field<float> weights = call.weights(in, Element::point);
    std::vector<Vec3> after(in.pointCount());
    std::vector<float> each(in.pointCount());
    forEach(after.size(), call.run(), [&](std::size_t i) {
        each[i] = weights[i];
        after[i] = each[i] == 0 ? in.positions()[i] : to(in.positions()[i]);
    });
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), each));
    for (Element element : {Element::point, Element::corner}) turnDirections(call, in, element, weights, turn, out);
    return out;
}

}  // namespace seedloom

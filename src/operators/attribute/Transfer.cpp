// Method: nearest place by a tree of boxes, values mixed by barycentric coordinates.
#include "geometry/NearestPlace.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "operators/Words.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

NearestPlace::On everything(const Geometry& g) {
    return g.faceCount() > 0 ? NearestPlace::On::faces : g.curveCount() > 0 ? NearestPlace::On::curves : NearestPlace::On::points;
}

/// The source laid flat in its UV space: each face on its own, because UVs sit on corners.
Geometry flattened(OperatorCall& call, const Geometry& source) {
    const auto uv = columnFor(source, "uv", Element::corner);
    if (!uv || uv->type() != ColumnType::vec2) call.fail("transfer.uv", "The source has no uv to go along. Make one, or choose Nearest.", "by");
    std::vector<Vec3> at;
    for (const Vec2& p : *uv->as<Vec2>()) at.push_back({p.x, p.y, 0});
    std::vector<Index> corners(source.cornerCount());
    for (Index c = 0; c < corners.size(); ++c) corners[c] = c;
    const std::size_t count = at.size();
    return Geometry(std::move(at), Topology(count, source.topology().faceStart(), std::move(corners), {0}, {}, {}));
}

std::vector<Vec3> placesOf(OperatorCall& call, const Geometry& in, Element element, bool along) {
    const auto column = columnFor(in, along ? "uv" : "position", element);
    if (!along) return *column->as<Vec3>();
    if (!column || column->type() != ColumnType::vec2) call.fail("transfer.uv", "The geometry has no uv to go along. Make one, or choose Nearest.", "by");
    std::vector<Vec3> out;
    for (const Vec2& p : *column->as<Vec2>()) out.push_back({p.x, p.y, 0});
    return out;
}

Geometry computeTransfer(OperatorCall& call) {
    const Geometry &in = call.in(), &source = call.port(1).front();
    const Element element = elementOf(call, "element");
    const bool along = call.choice("by") == "uv";
    const double within = call.number("within");
    const Geometry searched = along ? flattened(call, source) : source;
    const NearestPlace ground(searched, along ? NearestPlace::On::faces : everything(source));
    if (ground.empty()) call.fail("transfer.nothing", "The source has nothing to read from: it is empty.", "");
    const std::vector<Vec3> at = placesOf(call, in, element, along);
    std::vector<Place> places(at.size());
    std::vector<std::uint8_t> reached(at.size(), 0);
    forChunks(
        at.size(), call.run(),
        [&](std::size_t, Range range) {
            Index start = 0;
            for (std::size_t i = range.begin; i < range.end; ++i) {
                places[i] = ground.find(isFinite(at[i]) ? at[i] : Vec3{}, start);
                start = places[i].part;
                // In UV space points are corners: back to the points they stand for.
                if (along)
                    for (std::size_t k = 0; k < 3; ++k)
                        places[i].corners[k] = places[i].points[k], places[i].points[k] = source.topology().cornerPoint()[places[i].points[k]];
                reached[i] = within <= 0 || double(places[i].squaredDistance) <= within * within;
            }
        },
        1024);
    Field<float> weights = call.weights(in, element);
    if (within > 0) {
        if (weights.uniform) weights.values.assign(at.size(), weights.value), weights.uniform = false;
        for (std::size_t i = 0; i < at.size(); ++i) weights.values[i] *= float(reached[i]);
    }
    Geometry out = in;
    for (const std::string& name : wordsIn(call.text("names"))) {
        if (name == "position") call.fail("attribute.position", "position can't be transferred; Snap to surface moves points. Name other attributes.", "names");
        const auto found = findColumn(source, name, Element::point);
        const auto computed = found ? std::nullopt : columnFor(source, name, Element::point);
        if (!found && !computed) {
            const auto near = similarNames(name, attributeNames(source));
            call.fail("setting.unknown_attribute",
                      fmt::format("The source has no attribute '{}'.{}", name, near.empty() ? "" : fmt::format(" The nearest is: {}.", near.front())), "names");
        }
        const Column column = found ? found->column : *computed;
        out.setColumn(element, name, blended(in, element, name, valuesAt(column, found ? found->element : Element::point, places), weights));
    }
    return out;
}

}  // namespace

OperatorSpec transferOperator() {
    OperatorSpec spec;
    spec.id = "transfer";
    spec.order = 740;
    spec.label = "Transfer";
    spec.family = Family::attribute;
    spec.sentence = "Takes attributes over from the nearest place on another geometry.";
    spec.help =
        "The nearest place on the source's faces (or curves, or points) is interpolated between its corners; texts, tags and whole numbers come from the "
        "nearest corner. Along uv "
        "the place is looked for in UV space instead. A distance limit leaves elements that are farther away as they were.";
    spec.synonyms = {"copy attribute", "project", "nearest", "sample", "bake", "inherit"};
    spec.inputs = {{"in", "Geometry"}, {"source", "Source"}};
    spec.settings = {
        textSetting("names", "Attributes", "mask").helped("Names with spaces between them."),
        choiceSetting("by", "By", {"nearest", "uv"}, "nearest").helped("The nearest place in space, or at the same place in UV space."),
        choiceSetting("element", "Element", {"point", "corner", "face"}, "point").helped("What takes the values."),
        numberSetting("within", "Within", Unit::metre, 0).atLeast(0).slider(0, 1).helped("Elements that are farther away stay as they were; 0: no limit."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample =
        sample::step("colour", {{"attribute", "mask"}},
                     {sample::plugged(sample::step(spec.id, Json::object(), {sample::step("box", {{"anchor", "middle"}, {"cells", {12, 12, 12}}})}), "source",
                                      sample::step("set_attribute", {{"name", "mask"}, {"value", {{"formula", "position.y > 0.15 ? 1 : 0"}}}},
                                                   {sample::ball(0.6, 8)}))});
    spec.compute = computeTransfer;
    return spec;
}

}  // namespace seedloom

// Method: own: graph/Container runs what is inside.
#include "operators/flow/Containers.h"

#include "geometry/ElementTransfer.h"
#include "geometry/Weld.h"
#include "operators/AttributeWork.h"
#include "operators/Shapes.h"

#include <cmath>
#include <optional>

namespace seedloom {

namespace {

/// What a geometry of its own takes beside its elements, in elements.
constexpr double kElementsOfPart = 50;

/// The part of each face, or kNone, and how many parts there are.
struct FaceParts {
    std::vector<Index> part;
    Index count = 0;
};

FaceParts numberedByValue(const Column& values, const std::vector<std::uint8_t>& chosen) {
    FaceParts out{std::vector<Index>(chosen.size(), kNone), 0};
    std::map<std::string, Index> texts;
    // Values that are no numbers are one part, whatever their bits: as keys of their own they would have no order.
    std::map<std::optional<double>, Index> numbers;
    const auto* words = values.as<std::string>();
    for (std::size_t f = 0; f < chosen.size(); ++f) {
        if (!chosen[f]) continue;
        Index part;
        bool isNew;
        if (words) {
            const auto [it, fresh] = texts.try_emplace((*words)[f], out.count);
            part = it->second, isNew = fresh;
        } else {
            const double value = values.component(f, 0);
            const auto [it, fresh] = numbers.try_emplace(std::isnan(value) ? std::nullopt : std::optional(value), out.count);
            part = it->second, isNew = fresh;
        }
        out.part[f] = part;
        out.count += isNew;
    }
    return out;
}

/// Chosen faces that hang together across edges.
FaceParts numberedByConnection(const Geometry& in, const std::vector<std::uint8_t>& chosen) {
    const Topology& t = in.topology();
    FaceParts out{std::vector<Index>(in.faceCount(), kNone), 0};
    std::vector<std::vector<Index>> facesOfEdge(t.edges().edges.size());
    for (Index c = 0; c < t.cornerCount(); ++c) facesOfEdge[t.edges().cornerEdge[c]].push_back(t.faceOfCorner()[c]);
    std::vector<Index> open;
    for (Index f = 0; f < in.faceCount(); ++f) {
        if (!chosen[f] || out.part[f] != kNone) continue;
        open.assign(1, f);
        out.part[f] = out.count;
        while (!open.empty()) {
            const Index at = open.back();
            open.pop_back();
            for (Index c = t.faceStart()[at]; c < t.faceStart()[at + 1]; ++c)
                for (Index other : facesOfEdge[t.edges().cornerEdge[c]])
                    if (chosen[other] && out.part[other] == kNone) out.part[other] = out.count, open.push_back(other);
        }
        ++out.count;
    }
    return out;
}

FaceParts facePartsOf(OperatorCall& call, const Geometry& in, const std::string& by, std::vector<std::uint8_t> chosen) {
    if (by == "face") {
        FaceParts out{std::vector<Index>(chosen.size(), kNone), 0};
        for (std::size_t f = 0; f < chosen.size(); ++f)
            if (chosen[f]) out.part[f] = out.count++;
        return out;
    }
    if (by == "piece") {
        if (const Column* numbers = in.column(Element::face, "piece")) return numberedByValue(*numbers, chosen);
        return numberedByConnection(in, chosen);
    }
    const FoundColumn found = namedAttribute(call, in, "tag", Element::face);
    const Column values = changeElement(in, found.column, found.element, Element::face, Combine::first);
    if (values.type() != ColumnType::boolean) return numberedByValue(values, chosen);
    for (std::size_t f = 0; f < chosen.size(); ++f) chosen[f] = chosen[f] && values.component(f, 0) > 0.5;
    return numberedByConnection(in, chosen);
}

Geometry takeFaces(PartTaker& taker, const std::vector<Index>& faces) {
    for (Index f : faces) taker.addFace(f);
    Geometry out = taker.take();
    out.setCopies(nullptr);
    return out;
}

Parts byFaces(OperatorCall& call, const Geometry& in, const std::string& by) {
    const Field<float> where = call.each("where", in, Element::face);
    std::vector<std::uint8_t> chosen(in.faceCount());
    for (std::size_t f = 0; f < chosen.size(); ++f) chosen[f] = where[f] > 0;
    const FaceParts numbers = facePartsOf(call, in, by, std::move(chosen));
    call.run().require(double(numbers.count) * kElementsOfPart, "elements, counting what every piece of its own takes");
    std::vector<std::vector<Index>> members(numbers.count);
    std::vector<Index> others;
    for (Index f = 0; f < in.faceCount(); ++f) (numbers.part[f] == kNone ? others : members[numbers.part[f]]).push_back(f);
    Parts out;
    PartTaker taker(in);
    out.parts.reserve(members.size());
    for (const auto& faces : members) {
        call.run().poll();
        out.parts.push_back(takeFaces(taker, faces));
    }
    PartTaker rest(in);
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : in.topology().cornerPoint()) used[p] = 1;
    for (Index f : others) rest.addFace(f);
    for (Index c = 0; c < in.curveCount(); ++c) rest.addCurve(c, in.topology().curve(c));
    for (Index p = 0; p < used.size(); ++p)
        if (!used[p]) rest.addPoint(p);
    out.rest = rest.take();
    return out;
}

Parts byCurves(OperatorCall& call, const Geometry& in) {
    const Field<float> where = call.each("where", in, Element::curve);
    Parts out;
    PartTaker taker(in), rest(in);
    for (Index f = 0; f < in.faceCount(); ++f) rest.addFace(f);
    for (Index c = 0; c < in.curveCount(); ++c) {
        if (!(where[c] > 0)) {
            rest.addCurve(c, in.topology().curve(c));
            continue;
        }
        call.run().poll();
        taker.addCurve(c, in.topology().curve(c));
        out.parts.push_back(taker.take());
        out.parts.back().setCopies(nullptr);
    }
    out.rest = rest.take();
    return out;
}

Geometry throughUnchanged(OperatorCall& call) { return call.in(); }

}  // namespace

Parts partsOf(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string by = call.choice("by");
    if (by == "curve" ? in.curveCount() == 0 : in.faceCount() == 0)
        call.fail("each_piece.none",
                  by == "curve" ? "There are no curves here to take one by one."
                                : "There are no faces here to take apart. Plug in a surface, or set By to curve.",
                  "by");
    return by == "curve" ? byCurves(call, in) : byFaces(call, in, by);
}

Geometry joinedParts(const OperatorCall& call, std::vector<Geometry> parts, const Geometry& rest) {
    double corners = 0;
    for (std::size_t i = 0; i < parts.size(); ++i) {
        corners += double(parts[i].cornerCount() + parts[i].pointCount());
        if (!parts[i].column(Element::face, "piece"))
            parts[i].setColumn(Element::face, "piece", Column(std::vector<std::int32_t>(parts[i].faceCount(), std::int32_t(i))));
    }
    call.run().require(corners, "points and corners");
    if (!rest.empty() || parts.empty()) parts.push_back(rest);
    Geometry out = combine(parts);
    if (!call.flag("weld")) return out;
    return weld(out, call.number("weld_distance")).geometry;
}

OperatorSpec eachPieceOperator() {
    OperatorSpec spec;
    spec.id = kEachPiece;
    spec.order = 900;
    spec.label = "Each piece";
    spec.family = Family::flow;
    spec.sentence = "Does the steps inside to every face, piece, tagged part or curve alone, and puts the parts together again.";
    spec.help =
        "Open it to edit the steps on one part: they are carried to all. Formulas inside can read number (from 0), parts (how many), centre and size of the "
        "part. Parts are worked on at the same time. Afterwards "
        "each face knows its part as piece, and points that meet are welded. What Where leaves out goes through as it is.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"for each", "per face", "per part", "loop", "panels", "stones", "one by one", "map"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("by", "By", {"face", "piece", "tag", "curve"}, "face")
            .helped("What is one part: a face, a piece (by number, else what hangs together), a part with a tag or equal values, or a curve."),
        textSetting("tag", "Attribute", "front")
            .helped("A tag: each region that has it is a part. Numbers or texts: all faces of equal value are one.")
            .when("by", {"tag"}),
        flagSetting("weld", "Weld", true).helped("Joins points of all parts that meet."),
        numberSetting("weld_distance", "Distance", Unit::metre, 0.00001)
            .within(0, 1e6)
            .slider(0, 0.01)
            .helped("Points nearer than this are joined.")
            .when("weld", {"true"}),
        whereSetting(Element::face),
    };
    spec.sample = sample::around(spec.id, Json::object(), sample::step("extrude", {{"distance", 0.12}, {"inset", 0.06}}, {sample::part()}),
                                 sample::step("box", {{"cells", {2, 2, 2}}}));
    spec.compute = throughUnchanged;
    return spec;
}

OperatorSpec repeatOperator() {
    OperatorSpec spec;
    spec.id = kRepeat;
    spec.order = 910;
    spec.label = "Repeat";
    spec.family = Family::flow;
    spec.sentence = "Does the steps inside several times, each time to what the time before has made.";
    spec.help = "Formulas inside can read turn (from 0) and times. Further inputs give the same geometry every time. Open it to see and edit any turn.";
    spec.synonyms = {"loop", "iterate", "again", "times", "recursion", "feedback", "grow"};
    spec.inputs = {{"in", "Geometry", false, true}};
    spec.settings = {integerSetting("times", "Times", 3).within(0, 100000).slider(0, 20).helped("How often; 0 leaves everything as it was.")};
    spec.sample = sample::around(spec.id, {{"times", 4}}, sample::step("transform", {{"scale", {0.9, 1.12, 0.9}}, {"rotate", {0, 20, 0}}}, {sample::part()}),
                                 sample::box());
    spec.compute = throughUnchanged;
    return spec;
}

OperatorSpec timeStepOperator() {
    OperatorSpec spec;
    spec.id = kTimeStep;
    spec.order = 915;
    spec.label = "Time step";
    spec.family = Family::motion;
    spec.sentence = "Makes each frame from the one before, by the steps inside.";
    spec.help =
        "What comes in is the first frame; from then on the steps inside make every frame of the Time drawer from the one before: things drift, grow, spread, "
        "wear. Formulas inside can read frame, time (seconds) and step (how many seconds a step takes: what moves by speed * step moves as fast with any "
        "number of steps a frame). Further inputs come as they are at that frame. At frame keeps one as the result; inside of other containers it must. Open "
        "it to see and edit how any frame is made.";
    spec.synonyms = {"feedback", "evolve", "grow", "solver", "simulate", "animate", "loop over frames", "history", "drift"};
    spec.inputs = {{"in", "Geometry", false, true}};
    spec.settings = {
        integerSetting("start", "Start", 0).within(0, 100000).slider(0, 120).helped("The frame up to which everything is as it comes in."),
        integerSetting("substeps", "Steps a frame", 1).within(1, 1000).slider(1, 10).helped("How often the steps inside are done for every frame."),
        integerSetting("at_frame", "At frame", -1).within(-1, 100000).slider(-1, 240).helped("The frame that is the result; -1 follows the Time drawer."),
    };
    // Terraces: frames raise what lies on top, and draw it in, by turns.
    const auto byTurns = [](const char* odd, const char* even) { return Json{{"formula", std::string("mod(frame, 2) > 0.5 ? ") + odd + " : " + even}}; };
    spec.sample =
        sample::around(spec.id, {{"at_frame", 9}},
                       sample::step("extrude",
                                    {{"distance", byTurns("0.14", "0.05")}, {"inset", byTurns("0.001", "0.09")}, {"where", {{"formula", "normal.y > 0.95"}}}},
                                    {sample::part()}),
                       sample::step("box", {{"size", {1, 0.15, 1}}}));
    spec.compute = throughUnchanged;
    spec.overFrames = true;
    spec.frameSetting = "at_frame";
    return spec;
}

OperatorSpec nestOperator() {
    OperatorSpec spec;
    spec.id = kNest;
    spec.order = 920;
    spec.label = "Nest";
    spec.family = Family::flow;
    spec.sentence = "Folds several steps into one node with inputs and settings of its own.";
    spec.help =
        "Choose nodes in the weave and fold them; unfolding puts them back, with the same result. Each inner input is an input of the nest, each of its "
        "controls a setting.";
    spec.synonyms = {"group", "fold", "folder", "container", "collapse", "sub graph"};
    spec.inputs = {{"in", "Geometry", false, true}};
    spec.sample = sample::around(spec.id, Json::object(), sample::step("extrude", {{"distance", 0.12}, {"inset", 0.06}}, {sample::part()}), sample::cells());
    spec.compute = throughUnchanged;
    return spec;
}

OperatorSpec assetOperator() {
    OperatorSpec spec;
    spec.id = kAsset;
    spec.order = 930;
    spec.label = "Asset";
    spec.family = Family::flow;
    spec.sentence = "Another loom as one node: its controls are settings here, and what its user plugs in are inputs.";
    spec.help =
        "The loom stays a file of its own and is read again when it changes, so that all models that use it follow. Paths are taken from the folder of this "
        "loom. Settings that are not changed follow the asset's defaults. It is edited by opening its file.";
    spec.synonyms = {"instance", "reuse", "library", "sub graph", "reference", "link", "loom", "part"};
    spec.settings = {fileSetting(kAsset, "Loom", {".loom", ".loompack"}).helped("The .loom or .loompack file of the asset.")};
    spec.sample = sample::step(spec.id);
    // What another loom could be: a turned post.
    spec.sample.inside.push_back(sample::step(
        "revolve", {{"sides", 32}},
        {sample::step("point_list", {{"points", {{0, 0, 0}, {0.4, 0, 0}, {0.3, 0.15, 0}, {0.14, 0.3, 0}, {0.2, 0.7, 0}, {0.34, 0.85, 0}, {0, 1, 0}}},
                                     {"join", "open curve"}})}));
    spec.compute = [](OperatorCall& call) -> Geometry { call.fail("input.missing", "Choose the loom of an asset.", "asset"); };
    return spec;
}

OperatorSpec innerInputOperator() {
    OperatorSpec spec;
    spec.id = kInnerInput;
    spec.order = 940;
    spec.label = "Inner input";
    spec.family = Family::flow;
    spec.sentence = "Inside a container: gives what is plugged into the container, or the part that is worked on.";
    spec.help = "Without a name it is the container's first input. Another name makes a further input of that name. Outside of containers it gives nothing.";
    spec.synonyms = {"part", "port", "entry", "source", "in"};
    spec.settings = {textSetting("name", "Name", "").helped("Of the container's input that it stands for; empty for the first.")};
    spec.compute = [](OperatorCall& call) {
        call.tell(NoticeLevel::info, "inner_input.outside", "This gives nothing outside of a container.");
        return Geometry();
    };
    return spec;
}

}  // namespace seedloom

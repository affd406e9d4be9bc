// Method: own: a place and a turn for each point, shapes shared.
#include "fields/Random.h"
#include "geometry/Buckets.h"
#include "geometry/Materials.h"
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "operators/Shapes.h"
#include "operators/Shares.h"
#include "operators/Words.h"
#include "operators/scatter/CopyFrame.h"
#include "parallel/Loops.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

std::vector<double> shares(const OperatorCall& call, std::size_t shapes) {
    std::vector<double> out;
    for (std::string& word : wordsIn(call.text("weights"))) {
        while (!word.empty() && (word.back() == ',' || word.back() == ';')) word.pop_back();
        if (word.empty()) continue;
        std::size_t used = 0;
        double value = -1;
        try {
            value = std::stod(word, &used);
        } catch (const std::exception&) {}
        if (used != word.size() || !(value >= 0) || !std::isfinite(value))
            call.fail("copies.weights", fmt::format("'{}' is no share. Write a number for each shape, as in 3 1 1.", word), "weights");
        out.push_back(value);
    }
    if (out.empty()) return std::vector<double>(shapes, 1);
    out.resize(shapes, 1);
    return out;
}

/// The shape of each point, counted from 0.
std::vector<Index> shapeOfEach(OperatorCall& call, const Geometry& points, const Column& id, Index shapes) {
    const std::string choose = call.choice("choose");
    std::vector<Index> out(points.pointCount());
    if (choose == "in turn") {
        for (Index i = 0; i < out.size(); ++i) out[i] = i % shapes;
    } else if (choose == "random") {
        const Shares all(shares(call, shapes));
        if (!all.possible()) call.fail("copies.weights", "All shares are 0, so no shape could be chosen. Give one of them a number above 0.", "weights");
        const double seed = seedOf(call.number("seed"), Chances::shapes);
        forEach(out.size(), call.run(), [&](std::size_t i) { out[i] = all.at(randomOf(id.component(i, 0), seed)); });
    } else {
        const FoundColumn found = namedNumbers(call, points, "attribute");
        const Column each = changeElement(points, found.column, found.element, Element::point);
        std::size_t outside = 0;
        for (std::size_t i = 0; i < out.size(); ++i) {
            const double n = std::floor(each.component(i, 0));
            const bool known = n >= 0 && n < double(shapes);
            outside += !known;
            out[i] = goingRound(n, shapes);
        }
        if (outside > 0)
            call.tell(NoticeLevel::info, "copies.shape",
                      fmt::format("{} points ask for a shape that is not there; shapes are counted from 0 to {}, and begin anew after the last.", outside,
                                  shapes - 1),
                      "attribute");
    }
    return out;
}

/// The directions that each point gives, without turn, tilt and size.
class Frames {
public:
    Frames(OperatorCall& call, const Geometry& points) : align_(call.choice("align")), up_(normalized(call.vec3("up"))) {
        const auto column = [&](const char* name) { return points.values<Vec3>(Element::point, name); };
        if (align_ == "normal" || align_ == "normal and tangent") {
            if (const auto* stored = column("normal")) normals_ = stored;
            else computed_ = pointNormals(points), normals_ = &computed_;
        }
        if (align_ == "tangent" || align_ == "normal and tangent") {
            tangents_ = column("tangent");
            if (!tangents_ && points.curveCount() > 0) made_ = tangentsOf(points), tangents_ = &made_;
            if (!tangents_)
                call.fail("copies.tangent", "The points have no tangent. Take points of a curve, resample it first, or align to the normal.", "align");
        }
        if (align_ == "orientation") {
            turns_ = points.values<Vec4>(Element::point, "orientation");
            if (!turns_)
                call.fail("copies.orientation", "The points have no orientation (a quaternion x, y, z, w). Make one, or align to the normal.", "align");
        }
    }
    Affine at(std::size_t i) const {
        const auto unit = [&](const std::vector<Vec3>& values, Vec3 fallback) { return normalized(values[i], fallback); };
        if (align_ == "normal") return standingOn(unit(*normals_, {0, 1, 0}));
        if (align_ == "tangent") return runningAlong(unit(*tangents_, {1, 0, 0}), up_);
        if (align_ == "normal and tangent") return standingTowards(unit(*normals_, {0, 1, 0}), unit(*tangents_, {1, 0, 0}));
        return align_ == "orientation" ? turnedBy((*turns_)[i]) : standingOn(up_);
    }

private:
    static std::vector<Vec3> tangentsOf(const Geometry& points) {
        std::vector<Vec3> out(points.pointCount(), Vec3{1, 0, 0});
        for (std::size_t c = 0; c < points.curveCount(); ++c) {
            const auto curve = points.topology().curve(c);
            for (std::size_t k = 0; k < curve.size(); ++k) out[curve[k]] = curveTangent(curve, points.topology().curveClosed(c), k, points.positions());
        }
        return out;
    }
    std::string align_;
    Vec3 up_;
    const std::vector<Vec3>*normals_ = nullptr, *tangents_ = nullptr;
    const std::vector<Vec4>* turns_ = nullptr;
    std::vector<Vec3> computed_, made_;
};

/// What of a shape stands on the point.
Vec3 footOf(const Geometry& shape, const std::string& stand) {
    if (stand == "origin") return {};
    const Bounds bounds = boundsOf(shape);
    if (bounds.empty) return {};
    const Vec3 middle = bounds.centre();
    return stand == "middle" ? middle : Vec3{middle.x, bounds.min.y, middle.z};
}

std::vector<Affine> placesOf(OperatorCall& call, const Geometry& points, const std::vector<Index>& shapeOf, const std::vector<Geometry>& shapes) {
    const Numbers size = call.eachNumbers("size", points, Element::point);
    if (size.components == 2 || size.components == 4)
        call.fail("setting.type", fmt::format("Size needs one number or three, not {}.", size.components), "size");
    const Field<float> turn = call.each("turn", points), tilt = call.each("tilt", points), lift = call.each("lift", points);
    const Frames frames(call, points);
    std::vector<Vec3> feet;
    for (const Geometry& shape : shapes) feet.push_back(footOf(shape, call.choice("stand")));
    const auto sizeAt = [&](std::size_t i, int c) {
        const auto k = std::size_t(size.components == 1 ? 0 : c);
        return size.uniform ? float(size.value[k]) : size.columns[k][i];
    };
    std::vector<Affine> out(points.pointCount());
    forEach(out.size(), call.run(), [&](std::size_t i) {
        Affine place = frames.at(i);
        const Vec3 up = place.y;
        if (turn[i] != 0) place = place * turnAbout({0, 1, 0}, turn[i]);
        if (tilt[i] != 0) place = place * turnAbout({1, 0, 0}, tilt[i]);
        place.x *= sizeAt(i, 0), place.y *= sizeAt(i, 1), place.z *= sizeAt(i, 2);
        place.move = points.positions()[i] + up * lift[i] - place.vector(feet[shapeOf[i]]);
        out[i] = place;
    });
    return out;
}

/// What a geometry of its own takes beside its elements, in elements.
constexpr double kElementsOfPart = 50;

/// Every connected part as a shape of its own, in the order of its first point. Cost and memory: O(elements + pieces).
std::vector<Geometry> piecesOf(const std::vector<Geometry>& shapes, const RunContext& run) {
    std::vector<Geometry> out;
    for (const Geometry& shape : shapes) {
        const Topology& t = shape.topology();
        const Connection& connection = t.connection();
        if (shape.copyCount() > 0 || connection.parts < 2) {
            out.push_back(shape);
            continue;
        }
        run.require(double(connection.parts) * kElementsOfPart, "elements, counting what every piece of its own takes");
        const Buckets faces(t.faceCount(), connection.parts, [&](Index f) { return t.face(f).empty() ? kNoBucket : connection.pieceOfPoint[t.face(f)[0]]; });
        const Buckets curves(t.curveCount(), connection.parts,
                             [&](Index c) { return t.curve(c).empty() ? kNoBucket : connection.pieceOfPoint[t.curve(c)[0]]; });
        const Buckets points(shape.pointCount(), connection.parts, [&](Index p) { return connection.pieceOfPoint[p]; });
        PartTaker taker(shape);
        for (Index piece = 0; piece < connection.parts; ++piece) {
            if (piece % 256 == 0) run.poll();
            for (Index f : faces.of(piece)) taker.addFace(f);
            for (Index c : curves.of(piece)) taker.addCurve(c, t.curve(c));
            for (Index p : points.of(piece)) taker.addPoint(p);
            out.push_back(taker.take());
        }
    }
    return out;
}

bool usable(const Affine& a) { return isFinite(a.x) && isFinite(a.y) && isFinite(a.z) && isFinite(a.move); }

Geometry computePlaceCopies(OperatorCall& call) {
    const Geometry& points = call.in();
    std::vector<Geometry> given = withSharedMaterials(call.port(1));
    std::erase_if(given, [](const Geometry& shape) { return shape.empty(); });
    if (call.flag("by_piece")) given = piecesOf(given, call.run());
    if (given.empty()) call.fail("copies.no_shape", "There is nothing to copy. Link at least one geometry to Shapes.");
    const Field<float> where = call.weights(points, Element::point);
    const auto id = columnFor(points, points.column(Element::point, "id") ? "id" : "index", Element::point);
    std::vector<Index> shapeOf = shapeOfEach(call, points, *id, Index(given.size()));
    std::vector<Affine> places = placesOf(call, points, shapeOf, given);

    auto copies = std::make_shared<Copies>();
    for (Geometry& shape : given) copies->shapes.push_back(std::make_shared<const Geometry>(std::move(shape)));
    std::vector<Index> kept;
    std::size_t nowhere = 0;
    for (Index i = 0; i < places.size(); ++i) {
        if (!(where[i] > 0.5f)) continue;
        if (usable(places[i])) kept.push_back(i);
        else ++nowhere;
    }
    if (nowhere > 0)
        call.tell(NoticeLevel::warning, "copies.nowhere", fmt::format("{} copies have a place or size that is no number, and were left out.", nowhere));
    const auto pick = [&](auto& values) {
        if (kept.size() == values.size()) return std::move(values);
        std::remove_reference_t<decltype(values)> some;
        some.reserve(kept.size());
        for (Index i : kept) some.push_back(values[i]);
        return some;
    };
    Geometry out;
    for (const auto& [name, column] : points.table(Element::model)) out.setColumn(Element::model, name, column);
    if (kept.empty()) return out;
    copies->shapeOf = pick(shapeOf);
    copies->place = pick(places);
    const std::vector<std::int32_t> shapeNumbers(copies->shapeOf.begin(), copies->shapeOf.end());
    out.setCopies(std::move(copies));
    const bool all = kept.size() == points.pointCount();
    const auto carry = [&](const std::string& name, const Column& column) { out.setColumn(Element::copy, name, all ? column : gather(column, kept)); };
    for (const auto& [name, column] : points.table(Element::point))
        if (name != "position") carry(name, column);
    if (!points.column(Element::point, "id")) carry("id", *id);
    out.setColumn(Element::copy, "shape", Column(shapeNumbers));
    return out;
}

}  // namespace

OperatorSpec placeCopiesOperator() {
    OperatorSpec spec;
    spec.id = "place_copies";
    spec.order = 810;
    spec.label = "Place copies";
    spec.family = Family::scatter;
    spec.sentence = "Puts a copy of a shape on every point.";
    spec.help =
        "Copies are light: they share their shape, and become faces only with Bake copies or in files that know no copies. A shape's +Y stands on the point: "
        "along its normal, upright, or as its orientation says; "
        "along a tangent, +X runs with it. Turn is about that up axis, tilt leans it towards where the turn points, size comes last. Several shapes are taken "
        "in turn, by chance (by the point's id, so that more points "
        "change nothing for those that are there) or by a number of the point, counted from 0. Copies carry the attributes of their points, and the number of "
        "their shape.";
    spec.synonyms = {"instance", "duplicate", "array", "populate", "clone", "stamp", "spread copies"};
    spec.inputs = {{"points", "Points"}, {"shapes", "Shapes", true}};
    spec.settings = {
        choiceSetting("choose", "Choose", {"in turn", "random", "by attribute"}, "in turn").helped("Which of several shapes a point gets."),
        textSetting("weights", "Shares", "").when("choose", {"random"}).helped("How often each shape comes, as in 3 1 1; empty: all alike."),
        numberSetting("seed", "Seed", Unit::none, 0)
            .slider(0, 100)
            .when("choose", {"random"})
            .helped("Another seed chooses other shapes; nothing else changes."),
        textSetting("attribute", "Attribute", "shape").when("choose", {"by attribute"}).helped("The number of the shape, counted from 0."),
        flagSetting("by_piece", "Each piece by itself", false).helped("Takes every connected part of what is linked as a shape of its own."),
        choiceSetting("align", "Align", {"normal", "tangent", "normal and tangent", "none", "orientation"}, "normal")
            .helped("What the copy's up axis, and where it can its long one, follows."),
        vec3Setting("up", "Up", Unit::none, {0, 1, 0}).when("align", {"none", "tangent"}).helped("The direction that copies stand up to."),
        choiceSetting("stand", "Stand", {"origin", "foot", "middle"}, "origin")
            .helped("What of the shape is on the point: its origin, the middle of its lower side, or its middle."),
        numberSetting("size", "Size", Unit::none, 1).slider(0, 2).each().helped("A factor for each copy; three numbers stretch x, y and z."),
        numberSetting("turn", "Turn", Unit::degree, 0).slider(-180, 180).each().helped("About the copy's up axis."),
        numberSetting("tilt", "Tilt", Unit::degree, 0).slider(-90, 90).each().helped("How far the copy leans, after it was turned."),
        numberSetting("lift", "Lift", Unit::metre, 0).slider(-0.5, 0.5).each().helped("How far it is moved along its up axis; below 0 it sinks in."),
        whereSetting(Element::point),
    };
    spec.takes = Takes::points;
    spec.sample = sample::merged(sample::boxesOnHill({{"mode", "spacing"}, {"spacing", 0.22}}), sample::hill());
    spec.compute = computePlaceCopies;
    return spec;
}

}  // namespace seedloom

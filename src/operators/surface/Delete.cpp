// Method: own.
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

/// What goes, by kind of element.
struct Doomed {
    std::vector<std::uint8_t> points, faces, curves;
};

class Chooser {
public:
    Chooser(OperatorCall& call, const Geometry& in) : call_(call), in_(in), keep_(call.flag("keep_instead")) {
        out_.points.resize(in.pointCount());
        out_.faces.resize(in.faceCount());
        out_.curves.resize(in.curveCount());
    }
    Doomed choose(const std::string& of) {
        if (of == "faces") out_.faces = chosen(Element::face);
        else if (of == "curves") out_.curves = chosen(Element::curve);
        else if (of == "pieces") pieces();
        else if (of == "edges") edges();
        else out_.points = chosen(Element::point), facesWithPoints();
        return std::move(out_);
    }

private:
    std::vector<std::uint8_t> chosen(Element element) {
        const Field<float> where = call_.each("where", in_, element);
        std::vector<std::uint8_t> out(in_.count(element));
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = (where[i] > 0.5f) != keep_;
        return out;
    }
    void facesWithPoints() {
        for (std::size_t f = 0; f < out_.faces.size(); ++f)
            for (Index p : in_.topology().face(f)) out_.faces[f] |= out_.points[p];
    }
    /// An edge goes with the faces beside it where both its ends are chosen.
    void edges() {
        const auto points = chosen(Element::point);
        for (std::size_t f = 0; f < out_.faces.size(); ++f) {
            const auto face = in_.topology().face(f);
            for (std::size_t i = 0; i < face.size(); ++i) out_.faces[f] |= points[face[i]] && points[face[i + 1 == face.size() ? 0 : i + 1]];
        }
    }
    /// A piece goes where more than half of its points are chosen.
    void pieces() {
        const auto points = chosen(Element::point);
        const Connection& pieces = in_.topology().connection();
        std::vector<Index> count(pieces.parts), hit(pieces.parts);
        for (std::size_t p = 0; p < points.size(); ++p) ++count[pieces.pieceOfPoint[p]], hit[pieces.pieceOfPoint[p]] += points[p];
        for (std::size_t p = 0; p < points.size(); ++p) out_.points[p] = hit[pieces.pieceOfPoint[p]] * 2 > count[pieces.pieceOfPoint[p]];
        facesWithPoints();
    }
    OperatorCall& call_;
    const Geometry& in_;
    bool keep_;
    Doomed out_;
};

/// Points that only deleted faces and curves used go with them; those that nothing used stay until they are chosen themselves.
Geometry without(const Geometry& in, const Doomed& doomed) {
    const Topology& t = in.topology();
    PartTaker left(in);
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p : t.curvePoint()) used[p] = 1;
    // Loose points first where they stand first: in their own order among themselves.
    for (Index f = 0; f < in.faceCount(); ++f)
        if (!doomed.faces[f]) left.addFace(f);
    for (Index c = 0; c < in.curveCount(); ++c) {
        if (doomed.curves[c]) continue;
        std::vector<Index> points;
        for (Index p : t.curve(c))
            if (!doomed.points[p]) points.push_back(p);
        if (!points.empty()) left.addCurve(c, points);
    }
    for (Index p = 0; p < in.pointCount(); ++p)
        if (!used[p] && !doomed.points[p]) left.addPoint(p);
    return left.take();
}

Geometry withoutCopies(OperatorCall& call, const Geometry& in) {
    const Field<float> where = call.each("where", in, Element::copy);
    const bool keep = call.flag("keep_instead");
    std::vector<Index> rows;
    for (Index i = 0; i < in.copyCount(); ++i)
        if ((where[i] > 0.5f) == keep) rows.push_back(i);
    return rows.size() == in.copyCount() ? in : takeCopies(in, rows);
}

Geometry computeDelete(OperatorCall& call) {
    const Geometry& in = call.in();
    std::string of = call.choice("of");
    if (of == "auto") of = in.faceCount() > 0 ? "faces" : in.curveCount() > 0 ? "curves" : in.copyCount() > 0 ? "copies" : "points";
    Geometry out = of == "copies" ? withoutCopies(call, in) : without(in, Chooser(call, in).choose(of));
    if (out.empty() && !in.empty()) call.tell(NoticeLevel::warning, "delete.all", "Everything was deleted. Choose a part by Where.", "where");
    const bool same =
        out.pointCount() == in.pointCount() && out.faceCount() == in.faceCount() && out.curveCount() == in.curveCount() && out.copyCount() == in.copyCount();
    if (same && !in.empty())
        call.tell(NoticeLevel::info, "delete.nothing", "Nothing is chosen, so nothing was deleted. Choose a part by Where: a tag, a mask or a formula.",
                  "where");
    return out;
}

}  // namespace

OperatorSpec deleteOperator() {
    OperatorSpec spec;
    spec.id = "delete";
    spec.order = 350;
    spec.label = "Delete";
    spec.family = Family::surface;
    spec.sentence = "Removes points, edges, faces, curves, whole pieces or copies that a mask chooses.";
    spec.help =
        "With a point go the faces that use it, and a curve closes up without it. With an edge go the faces beside it. A piece goes where more than half "
        "of its points are chosen. Points that only deleted faces used go as well; what stays keeps its attributes.";
    spec.synonyms = {"remove", "erase", "cut away", "filter", "keep only", "open"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("of", "What", {"auto", "points", "edges", "faces", "curves", "pieces", "copies"}, "auto")
            .helped("What is deleted. Auto takes what there is: faces, else curves, copies or points."),
        flagSetting("keep_instead", "Keep instead", false).helped("Keeps what is chosen, and deletes the rest."),
        whereSetting(Element::face).helped("What is deleted (above 0.5)."),
    };
    spec.settings.back().fallback = false;  // A new node that made all vanish would help nobody.
    spec.sample = sample::step(spec.id, {{"where", {{"formula", "position.x > 0.1 && position.y > 0.1"}}}}, {sample::cells()});
    spec.compute = computeDelete;
    return spec;
}

}  // namespace seedloom

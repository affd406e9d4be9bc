// Method: rings of open edges; a face by ear cutting or a fan each.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Rings of open edges, each as corners of the faces beside it, in the order that makes a face which looks the same way.
class Rings {
public:
    explicit Rings(const Geometry& in) : t_(in.topology()) {
        const EdgeTable& edges = t_.edges();
        cornerTo_.assign(t_.pointCount(), {});
        for (Index c = 0; c < t_.cornerCount(); ++c)
            if (edges.faceCount[edges.cornerEdge[c]] == 1) cornerTo_[end(c)].push_back(c);
    }
    std::vector<std::vector<Index>> find() {
        for (Index p = 0; p < t_.pointCount(); ++p)
            while (!cornerTo_[p].empty()) followFrom(p);
        return std::move(found_);
    }

private:
    Index next(Index c) const {
        const Index f = t_.faceOfCorner()[c];
        return c + 1 == t_.faceStart()[f + 1] ? t_.faceStart()[f] : c + 1;
    }
    Index end(Index c) const { return t_.cornerPoint()[next(c)]; }

    /// Against the direction of the faces beside it, from the end of each open edge to its start. Where the way comes back to a point it
    /// met, a ring is cut off: holes may touch at points. What leads nowhere, by faces that run against each other, is left.
    void followFrom(Index p) {
        std::vector<Index> way;
        for (Index at = p; !cornerTo_[at].empty();) {
            const Index c = cornerTo_[at].back();
            cornerTo_[at].pop_back();
            way.push_back(next(c));
            at = t_.cornerPoint()[c];
            const auto met = std::find_if(way.begin(), way.end(), [&](Index corner) { return t_.cornerPoint()[corner] == at; });
            if (met == way.end()) continue;
            if (way.end() - met >= 3) found_.emplace_back(met, way.end());
            way.erase(met, way.end());
        }
    }
    const Topology& t_;
    std::vector<std::vector<Index>> found_;     ///< rings
    std::vector<std::vector<Index>> cornerTo_;  ///< by point: corners whose open edge ends there
};

Geometry computeFillHoles(OperatorCall& call) {
    const Geometry& in = call.in();
    const auto most = std::size_t(call.integer("most_edges"));
    const bool fan = call.choice("form") == "fan";
    RowPlan plan = planOfPointsAndCurves(in);
    for (Index f = 0; f < in.faceCount(); ++f) addFaceAsItIs(plan, in, f);
    std::vector<Vec3> middles;
    std::size_t filled = 0, left = 0;
    const auto& cornerPoint = in.topology().cornerPoint();
    const auto& faceOf = in.topology().faceOfCorner();
    for (const std::vector<Index>& ring : Rings(in).find()) {
        if (most > 0 && ring.size() > most) {
            ++left;
            continue;
        }
        ++filled;
        if (!fan || ring.size() == 3) {
            for (Index c : ring) plan.addCorner(cornerPoint[c], c);
            plan.endFace(faceOf[ring.front()]);
            continue;
        }
        Vec3 middle{};
        for (Index c : ring) middle += in.positions()[cornerPoint[c]] * (1.0f / float(ring.size()));
        const auto point = static_cast<Index>(plan.points.size());
        plan.points.push_back(cornerPoint[ring.front()]);
        middles.push_back(middle);
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const Index a = ring[i], b = ring[i + 1 == ring.size() ? 0 : i + 1];
            plan.addCorner(cornerPoint[a], a), plan.addCorner(cornerPoint[b], b), plan.addCorner(point, a);
            plan.endFace(faceOf[a]);
        }
    }
    if (left > 0) call.tell(NoticeLevel::info, "fill_holes.left", fmt::format("Left {} holes with more than {} edges open.", left, most), "most_edges");
    if (filled == 0) return in;
    Geometry out = takeRows(in, std::move(plan));
    std::vector<Vec3> points = out.positions();
    std::copy(middles.begin(), middles.end(), points.end() - std::ptrdiff_t(middles.size()));
    out.setPositions(std::move(points));
    std::vector<std::uint8_t> tag(out.faceCount(), 0);
    std::fill(tag.begin() + std::ptrdiff_t(in.faceCount()), tag.end(), std::uint8_t(1));
    out.setColumn(Element::face, "filled", Column(std::move(tag)));
    return out;
}

}  // namespace

OperatorSpec fillHolesOperator() {
    OperatorSpec spec;
    spec.id = "fill_holes";
    spec.order = 400;
    spec.label = "Fill holes";
    spec.family = Family::surface;
    spec.sentence = "Closes rings of open edges with new faces.";
    spec.help =
        "Each ring gets one face, or a fan about a point in its middle, wound like the faces beside it and with their attributes. New faces carry the tag "
        "filled.";
    spec.takes = Takes::faces;
    spec.synonyms = {"cap", "close", "patch", "watertight", "repair", "lid"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("form", "Form", {"face", "fan"}, "face").helped("One face, or triangles about a point in the middle."),
        integerSetting("most_edges", "Most edges", 0).within(0, 1000000000).slider(0, 200).helped("Larger holes stay open; 0 fills all."),
    };
    spec.sample = sample::step(spec.id, Json::object(), {sample::step("cylinder", {{"top", false}, {"sides", 24}})});
    spec.compute = computeFillHoles;
    return spec;
}

}  // namespace seedloom

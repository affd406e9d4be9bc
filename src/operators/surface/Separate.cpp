// Method: connected parts by union and find.
#include "geometry/ElementTransfer.h"
#include "geometry/FaceGroups.h"
#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Groups groupsBy(OperatorCall& call, const Geometry& in) {
    Groups groups(in.faceCount());
    const std::string by = call.choice("by");
    if (by == "angle") {
        const auto normals = faceNormals(in);
        const auto least = float(std::cos(radians(call.number("angle"))));
        joinAcrossEdges(in.topology(), groups, [&](Index a, Index b) { return dot(normals[a], normals[b]) >= least - 1e-6f; });
    } else if (by == "tag") {
        const FoundColumn found = namedAttribute(call, in, "tag", Element::face);
        const Column values = changeElement(in, found.column, found.element, Element::face, Combine::first);
        const auto* texts = values.as<std::string>();
        joinAcrossEdges(in.topology(), groups, [&](Index a, Index b) {
            if (texts) return (*texts)[a] == (*texts)[b];
            for (int c = 0; c < componentCount(values.type()); ++c)
                if (values.component(a, c) != values.component(b, c)) return false;
            return true;
        });
    } else if (by == "piece") {
        joinAcrossEdges(in.topology(), groups, [](Index, Index) { return true; });
    }
    return groups;
}

Geometry computeSeparate(OperatorCall& call) {
    const Geometry& in = call.in();
    Groups groups = groupsBy(call, in);
    // Groups in the order of their first faces; faces keep their order inside.
    std::vector<Index> number(in.faceCount(), ~Index{0});
    std::vector<std::vector<Index>> members;
    for (Index f = 0; f < in.faceCount(); ++f) {
        Index& group = number[groups.find(f)];
        if (group == ~Index{0}) group = Index(members.size()), members.emplace_back();
        members[group].push_back(f);
    }
    PartTaker taker(in);
    std::vector<std::int32_t> piece, pieceOfPoint;
    for (std::size_t g = 0; g < members.size(); ++g) {
        taker.startPart();
        for (Index f : members[g]) taker.addFace(f);
        piece.resize(taker.faceCount(), std::int32_t(g));
        pieceOfPoint.resize(taker.pointCount(), std::int32_t(g));
    }
    taker.startPart();
    const Topology& t = in.topology();
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index c = 0; c < in.curveCount(); ++c) {
        for (Index p : t.curve(c)) used[p] = 1;
        taker.addCurve(c, t.curve(c));
    }
    for (Index p = 0; p < in.pointCount(); ++p)
        if (!used[p]) taker.addPoint(p);
    pieceOfPoint.resize(taker.pointCount(), -1);
    Geometry out = taker.take();
    out.setColumn(Element::face, "piece", Column(std::move(piece)));
    out.setColumn(Element::point, "piece", Column(std::move(pieceOfPoint)));
    return out;
}

}  // namespace

OperatorSpec separateOperator() {
    OperatorSpec spec;
    spec.id = "separate";
    spec.order = 360;
    spec.label = "Separate faces";
    spec.family = Family::surface;
    spec.sentence = "Parts a surface into pieces that share no points, and numbers them.";
    spec.help =
        "Faces stay together across edges as the setting says. Each piece has points of its own and a number, piece, on its faces and points; loose points and "
        "curves have -1.";
    spec.takes = Takes::faces;
    spec.synonyms = {"split", "unweld", "explode", "islands", "detach", "break apart"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("by", "By", {"each face", "tag", "angle", "piece"}, "each face")
            .helped("What stays together: nothing, equal values of an attribute, faces at a small angle, or all that hangs together."),
        textSetting("tag", "Attribute", "piece").helped("Neighbours with equal values stay together.").when("by", {"tag"}),
        numberSetting("angle", "Angle", Unit::degree, 30)
            .within(0, 180)
            .slider(0, 90)
            .helped("Neighbours that meet at no more than this stay together.")
            .when("by", {"angle"}),
    };
    spec.sample = sample::step(spec.id, {{"by", "each face"}}, {sample::cells()});
    spec.compute = computeSeparate;
    return spec;
}

}  // namespace seedloom

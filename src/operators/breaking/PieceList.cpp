#include "operators/breaking/PieceList.h"

#include "geometry/PartTaker.h"

namespace seedloom {

PieceList piecesOf(const OperatorCall& call, const Geometry& g) {
    if (g.faceCount() == 0) call.fail("surface.none", "There are no faces here, and so no pieces.");
    return piecesIn(g);
}

std::vector<float> eachPiece(const Field<float>& values, const PieceList& pieces) {
    if (values.uniform) return std::vector<float>(pieces.count, values.value);
    std::vector<double> sum(pieces.count, 0), count(pieces.count, 0);
    for (std::size_t f = 0; f < pieces.ofFace.size(); ++f) sum[pieces.ofFace[f]] += double(values[f]), ++count[pieces.ofFace[f]];
    std::vector<float> out(pieces.count);
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = float(sum[i] / count[i]);
    return out;
}

Geometry takePieces(const Geometry& g, const PieceList& pieces, const std::vector<std::uint8_t>& keep) {
    std::vector<std::vector<Index>> members(pieces.count);
    for (Index f = 0; f < g.faceCount(); ++f)
        if (keep[pieces.ofFace[f]]) members[pieces.ofFace[f]].push_back(f);
    const Topology& t = g.topology();
    PartTaker taker(g);
    std::vector<std::int32_t> piece;
    std::int32_t next = 0;
    for (const std::vector<Index>& faces : members) {
        taker.startPart();
        for (Index f : faces) taker.addFace(f), piece.push_back(next);
        next += !faces.empty();
    }
    taker.startPart();
    std::vector<std::uint8_t> used(g.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index c = 0; c < g.curveCount(); ++c) {
        taker.addCurve(c, t.curve(c));
        for (Index p : t.curve(c)) used[p] = 1;
    }
    for (Index p = 0; p < used.size(); ++p)
        if (!used[p]) taker.addPoint(p);
    Geometry out = taker.take();
    out.setColumn(Element::face, "piece", Column(std::move(piece)));
    return out;
}

}  // namespace seedloom

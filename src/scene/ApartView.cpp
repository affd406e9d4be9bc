#include "scene/ApartView.h"

#include "breaking/PieceCheckup.h"
#include "breaking/Pieces.h"
#include "geometry/Measures.h"

namespace seedloom {

bool comesApart(const Geometry& g) {
    if (g.values<std::int32_t>(Element::face, "piece")) return inPieces(g);
    return g.faceCount() > 0 && g.topology().connection().pieces > 1;
}

Geometry movedApart(const Geometry& g, double amount) {
    if (!(amount > 0) || !comesApart(g)) return g;
    const PieceList pieces = piecesIn(g);
    std::vector<Bounds> boxes(pieces.count);
    std::vector<Index> of(g.pointCount(), kNone);
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index p : g.topology().face(f)) {
            of[p] = pieces.ofFace[f];
            boxes[of[p]].add(g.positions()[p]);
        }
    const Vec3 middle = boundsOf(g.positions()).centre();
    std::vector<Vec3> at = g.positions();
    for (Index p = 0; p < at.size(); ++p)
        if (of[p] != kNone) at[p] += (boxes[of[p]].centre() - middle) * float(amount);
    Geometry out = g;
    out.setPositions(std::move(at));
    return out;
}

}  // namespace seedloom

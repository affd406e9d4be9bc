#pragma once
// What tests ask of solids that were broken.
#include "geometry/PartTaker.h"
#include "geometry/SelfIntersections.h"
#include "geometry/Triangulate.h"
#include "support/Sound.h"

#include <map>
#include <set>

namespace seedloom::test {

inline const std::vector<std::int32_t>& pieceOf(const Geometry& g) {
    static const std::vector<std::int32_t> none;
    const auto* piece = g.values<std::int32_t>(Element::face, "piece");
    return piece ? *piece : none;
}

inline std::vector<Geometry> eachPieceOf(const Geometry& g) {
    std::map<std::int32_t, std::vector<Index>> members;
    for (Index f = 0; f < g.faceCount(); ++f) members[pieceOf(g)[f]].push_back(f);
    PartTaker taker(g);
    std::vector<Geometry> out;
    for (const auto& [piece, faces] : members) {
        taker.startPart();
        for (Index f : faces) taker.addFace(f);
        out.push_back(taker.take());
    }
    return out;
}

/// Numbers from 0 without gaps; each piece closed, wound alike, right side out, not through itself; each with points of its own.
inline void verifyPieces(const Geometry& g) {
    std::set<std::int32_t> numbers(pieceOf(g).begin(), pieceOf(g).end());
    QVERIFY(!numbers.empty());
    QCOMPARE(*numbers.begin(), 0);
    QCOMPARE(*numbers.rbegin(), std::int32_t(numbers.size()) - 1);
    std::size_t points = 0;
    for (const Geometry& piece : eachPieceOf(g)) {
        const Checkup c = checkupOf(piece);
        const QString which = QString("piece %1").arg(pieceOf(piece)[0]);
        QVERIFY2(c.closed, qPrintable(which));
        QVERIFY2(c.consistentWinding, qPrintable(which));
        QVERIFY2(c.volume > 0, qPrintable(which));
        QVERIFY2(c.degenerateFaces == 0, qPrintable(which));
        QVERIFY2(crossingsOf(piece).pairs == 0, qPrintable(which));
        points += piece.pointCount();
    }
    QCOMPARE(points, g.pointCount());
}

using FacePlaces = std::vector<std::array<float, 3>>;
/// The places of a face's corners from the least on, the other way round where asked.
inline FacePlaces placesOf(const Geometry& g, Index f, bool turned = false) {
    FacePlaces out;
    for (Index p : g.topology().face(f)) out.push_back({g.positions()[p].x, g.positions()[p].y, g.positions()[p].z});
    if (turned) std::reverse(out.begin(), out.end());
    std::rotate(out.begin(), std::min_element(out.begin(), out.end()), out.end());
    return out;
}

/// How many faces made by breaking have none of another piece against them, bit for bit.
inline std::size_t loneInsideFaces(const Geometry& g) {
    const auto& inside = *g.values<std::uint8_t>(Element::face, "inside");
    std::multiset<FacePlaces> sides;
    for (Index f = 0; f < g.faceCount(); ++f)
        if (inside[f]) sides.insert(placesOf(g, f));
    std::size_t lone = 0;
    for (Index f = 0; f < g.faceCount(); ++f)
        if (inside[f]) lone += sides.count(placesOf(g, f, true)) != 1;
    return lone;
}

}  // namespace seedloom::test

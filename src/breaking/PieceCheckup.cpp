#include "breaking/PieceCheckup.h"

#include "breaking/Pieces.h"
#include "geometry/Measures.h"
#include "geometry/Weld.h"

namespace seedloom {

namespace {

constexpr double kSliver = 1e-3;  ///< of the median

const std::vector<std::int32_t>* numbers(const Geometry& g) { return g.values<std::int32_t>(Element::face, "piece"); }

}  // namespace

bool inPieces(const Geometry& g) {
    const auto* piece = numbers(g);
    if (!piece || piece->empty() || std::all_of(piece->begin(), piece->end(), [&](std::int32_t p) { return p == piece->front(); })) return false;
    std::vector<Index> owner(g.pointCount(), ~Index{0});
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index p : g.topology().face(f)) {
            if (owner[p] == ~Index{0}) owner[p] = f;
            else if ((*piece)[owner[p]] != (*piece)[f]) return false;
        }
    return true;
}

std::optional<PieceFigures> pieceFigures(const Geometry& g) {
    if (!inPieces(g)) return {};
    const PieceList pieces = piecesIn(g);
    const std::vector<PieceMeasure> measures = measurePieces(g, pieces);
    PieceFigures out;
    out.count = pieces.count;
    out.closed = std::all_of(measures.begin(), measures.end(), [](const PieceMeasure& m) { return m.closed; });
    std::vector<double> sizes;
    for (const PieceMeasure& m : measures) sizes.push_back(m.size);
    std::sort(sizes.begin(), sizes.end());
    out.smallest = sizes.front(), out.largest = sizes.back(), out.median = sizes[sizes.size() / 2];
    out.sliver = out.median * kSliver;
    out.slivers = std::size_t(std::count_if(sizes.begin(), sizes.end(), [&](double s) { return s < out.sliver; }));
    for (Index f = 0; f < g.faceCount(); ++f)
        if (measures[pieces.ofFace[f]].size < out.sliver) out.facesOfSlivers.push_back(f);
    return out;
}

std::vector<Index> doubledInPieces(const Geometry& g) {
    const PieceList pieces = piecesIn(g);
    std::vector<std::vector<Index>> points(pieces.count + 1);
    std::vector<Index> of(g.pointCount(), pieces.count);  // those of no face together
    for (Index f = 0; f < g.faceCount(); ++f)
        for (Index p : g.topology().face(f)) of[p] = pieces.ofFace[f];
    for (Index p = 0; p < of.size(); ++p) points[of[p]].push_back(p);
    const double near = boundsOf(g.positions()).diagonal() * 1e-6;
    std::vector<Index> out;
    for (const std::vector<Index>& own : points) {
        std::vector<Vec3> at;
        for (Index p : own) at.push_back(g.positions()[p]);
        const std::vector<Index> first = nearestEarlier(at, near);
        for (Index i = 0; i < first.size(); ++i)
            if (first[i] != i) out.push_back(own[i]);
    }
    std::sort(out.begin(), out.end());
    return out;
}

std::vector<Finding> findingsOfPieces(const Geometry& g, const PieceFigures& figures, bool intersections) {
    std::vector<Finding> out = findingsOf(g, intersections);
    std::erase_if(out, [](const Finding& f) { return f.code == "doubled_points" || f.code == "touching_pieces"; });
    const auto add = [&](const char* code, std::size_t count, Element element, std::vector<Index> rows) {
        if (count == 0) return;
        if (rows.size() > kMostFindingRows) rows.resize(kMostFindingRows);
        out.push_back({code, count, element, std::move(rows), {}});
    };
    std::vector<Index> doubled = doubledInPieces(g);
    const std::size_t count = doubled.size();
    add("doubled_points", count, Element::point, std::move(doubled));
    add("slivers", figures.slivers, Element::face, figures.facesOfSlivers);
    return out;
}

}  // namespace seedloom

#include "operators/breaking/PieceList.h"

#include "geometry/Measures.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

/// Groups given by any numbers, counted from 0 in the order of these.
void numberFrom(const std::vector<std::int32_t>& values, PieceList& out) {
    out.number = values;
    std::sort(out.number.begin(), out.number.end());
    out.number.erase(std::unique(out.number.begin(), out.number.end()), out.number.end());
    for (std::int32_t v : values) out.ofFace.push_back(Index(std::lower_bound(out.number.begin(), out.number.end(), v) - out.number.begin()));
    out.count = Index(out.number.size());
}

}  // namespace

PieceList piecesOf(const OperatorCall& call, const Geometry& g) {
    if (g.faceCount() == 0) call.fail("surface.none", "There are no faces here, and so no pieces.");
    PieceList out;
    if (const auto* piece = g.values<std::int32_t>(Element::face, "piece")) {
        numberFrom(*piece, out);
    } else {
        std::vector<std::int32_t> connected(g.faceCount());
        for (std::size_t f = 0; f < connected.size(); ++f) connected[f] = std::int32_t(g.topology().connection().pieceOfPoint[g.topology().face(f)[0]]);
        numberFrom(connected, out);
    }
    return out;
}

std::vector<PieceMeasure> measurePieces(const Geometry& g, const PieceList& pieces) {
    struct Sum {
        std::array<double, 3> byVolume{}, byArea{}, origin{};
        double volume = 0, area = 0;
        bool started = false;
    };
    std::vector<Sum> sums(pieces.count);
    std::vector<PieceMeasure> out(pieces.count);
    const Topology& t = g.topology();
    for (auto& m : out) m.closed = true;
    const EdgeTable& edges = t.edges();
    for (Index c = 0; c < t.cornerCount(); ++c)
        if (edges.faceCount[edges.cornerEdge[c]] % 2 != 0 || edges.balance[edges.cornerEdge[c]] != 0) out[pieces.ofFace[t.faceOfCorner()[c]]].closed = false;
    for (Index f = 0; f < g.faceCount(); ++f) {
        Sum& sum = sums[pieces.ofFace[f]];
        const auto face = t.face(f);
        const auto at = [&](Index p) { return std::array<double, 3>{double(g.positions()[p].x), double(g.positions()[p].y), double(g.positions()[p].z)}; };
        if (!sum.started) sum.origin = at(face[0]), sum.started = true;
        const auto from = [&](Index p) {
            auto v = at(p);
            for (std::size_t c = 0; c < 3; ++c) v[c] -= sum.origin[c];
            return v;
        };
        const auto a = from(face[0]);
        for (std::size_t k = 1; k + 1 < face.size(); ++k) {
            const auto b = from(face[k]), d = from(face[k + 1]);
            const std::array<double, 3> e{b[0] - a[0], b[1] - a[1], b[2] - a[2]}, h{d[0] - a[0], d[1] - a[1], d[2] - a[2]};
            const std::array<double, 3> n{e[1] * h[2] - e[2] * h[1], e[2] * h[0] - e[0] * h[2], e[0] * h[1] - e[1] * h[0]};
            const double area = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) / 2, volume = (a[0] * n[0] + a[1] * n[1] + a[2] * n[2]) / 6;
            sum.area += area, sum.volume += volume;
            for (std::size_t c = 0; c < 3; ++c) sum.byArea[c] += (a[c] + b[c] + d[c]) / 3 * area, sum.byVolume[c] += (a[c] + b[c] + d[c]) / 4 * volume;
        }
    }
    for (std::size_t i = 0; i < out.size(); ++i) {
        const Sum& sum = sums[i];
        out[i].closed = out[i].closed && std::abs(sum.volume) > 0;
        out[i].size = out[i].closed ? std::abs(sum.volume) : sum.area;
        const auto& by = out[i].closed ? sum.byVolume : sum.byArea;
        const double whole = out[i].closed ? sum.volume : sum.area;
        for (std::size_t c = 0; c < 3; ++c) out[i].centre[int(c)] = float(sum.origin[c] + (whole != 0 ? by[c] / whole : 0));
    }
    return out;
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
    RowPlan plan;
    std::vector<Index> number(g.pointCount(), ~Index{0}), owner(g.pointCount(), ~Index{0});
    std::vector<std::int32_t> piece;
    const Topology& t = g.topology();
    const auto point = [&](Index p, Index part) {
        if (owner[p] != part) owner[p] = part, number[p] = Index(plan.points.size()), plan.points.push_back(p);
        return number[p];
    };
    std::int32_t next = 0;
    for (Index i = 0; i < members.size(); ++i) {
        for (Index f : members[i]) {
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.addCorner(point(t.cornerPoint()[c], i), c);
            plan.endFace(f);
            piece.push_back(next);
        }
        next += !members[i].empty();
    }
    for (Index c = 0; c < g.curveCount(); ++c) {
        for (Index p : t.curve(c)) plan.curvePoint.push_back(point(p, pieces.count));
        plan.endCurve(c, t.curveClosed(c));
    }
    std::vector<std::uint8_t> used(g.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p : t.curvePoint()) used[p] = 1;
    for (Index p = 0; p < used.size(); ++p)
        if (!used[p]) point(p, pieces.count);
    Geometry out = takeRows(g, std::move(plan));
    out.setColumn(Element::face, "piece", Column(std::move(piece)));
    return out;
}

}  // namespace seedloom

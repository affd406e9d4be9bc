#include "breaking/Pieces.h"

#include "geometry/Measures.h"

#include <optional>

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

PieceList piecesIn(const Geometry& g) {
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

namespace {

using Triple = std::array<double, 3>;

Triple minus(const Triple& a, const Triple& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
Triple cross(const Triple& a, const Triple& b) { return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]}; }
double dot(const Triple& a, const Triple& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

/// Sums over the faces of a piece, from its first point on so that few digits are lost.
struct PieceSum {
    std::optional<Vec3> origin;
    Triple byVolume{}, byArea{};
    double volume = 0, area = 0;

    void add(std::span<const Index> face, const std::vector<Vec3>& positions) {
        if (!origin) origin = positions[face[0]];
        const auto at = [&](Index p) {
            Triple out;
            for (int c = 0; c < 3; ++c) out[std::size_t(c)] = double(positions[p][c]) - double((*origin)[c]);
            return out;
        };
        const Vec3 whole = normalized(areaVector(face, positions), {});
        const Triple facing{double(whole.x), double(whole.y), double(whole.z)}, a = at(face[0]);
        for (std::size_t k = 1; k + 1 < face.size(); ++k) {
            const Triple b = at(face[k]), d = at(face[k + 1]), n = cross(minus(b, a), minus(d, a));
            // In a fan over a face with a dent some triangles look the other way, and count less than nothing.
            const double part = dot(n, facing) / 2, under = dot(a, n) / 6;
            area += part, volume += under;
            for (std::size_t c = 0; c < 3; ++c) byArea[c] += (a[c] + b[c] + d[c]) / 3 * part, byVolume[c] += (a[c] + b[c] + d[c]) / 4 * under;
        }
    }
    Vec3 centre(const Triple& by, double whole) const {
        Vec3 out = origin.value_or(Vec3{});
        for (int c = 0; whole != 0 && c < 3; ++c) out[c] = float(double(out[c]) + by[std::size_t(c)] / whole);
        return out;
    }
};

}  // namespace

std::vector<PieceMeasure> measurePieces(const Geometry& g, const PieceList& pieces) {
    const Topology& t = g.topology();
    const EdgeTable& edges = t.edges();
    std::vector<PieceSum> sums(pieces.count);
    for (Index f = 0; f < g.faceCount(); ++f) sums[pieces.ofFace[f]].add(t.face(f), g.positions());
    std::vector<PieceMeasure> out(pieces.count);
    for (Index i = 0; i < pieces.count; ++i) out[i].closed = sums[i].volume != 0;
    for (Index c = 0; c < t.cornerCount(); ++c) {
        const Index e = edges.cornerEdge[c];
        if (edges.faceCount[e] % 2 != 0 || edges.balance[e] != 0) out[pieces.ofFace[t.faceOfCorner()[c]]].closed = false;
    }
    for (Index i = 0; i < pieces.count; ++i) {
        const PieceSum& sum = sums[i];
        out[i].size = out[i].closed ? std::abs(sum.volume) : sum.area;
        out[i].centre = out[i].closed ? sum.centre(sum.byVolume, sum.volume) : sum.centre(sum.byArea, sum.area);
    }
    return out;
}

}  // namespace seedloom

#include "breaking/BodyCuts.h"

#include "geometry/PartTaker.h"
#include "geometry/Rows.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

constexpr float kRound = 0.01f;  ///< of a body's size: walls so near to it count as reaching it

Box boxOf(std::span<const Index> face, const std::vector<Vec3>& positions) {
    Box out{positions[face[0]], positions[face[0]]};
    for (Index p : face) out.add(Box{positions[p], positions[p]});
    return out;
}

Box boxAround(const Geometry& body) {
    const Bounds bounds = boundsOf(body.positions());
    const float round = float(bounds.diagonal()) * kRound;
    return {bounds.min - Vec3{round, round, round}, bounds.max + Vec3{round, round, round}};
}

/// The walls' faces that meet a box, and which they are.
Walls reaching(const Walls& walls, const std::vector<Box>& boxes, const Box& box, std::vector<Index>& faces) {
    Walls out;
    PartTaker taker(walls.geometry);
    for (Index f = 0; f < boxes.size(); ++f) {
        if (!boxes[f].meets(box)) continue;
        taker.addFace(f);
        faces.push_back(f);
        out.cells.push_back(walls.cells[f]);
        out.wall.push_back(walls.wall[f]);
        if (!walls.group.empty()) out.group.push_back(walls.group[f]);
    }
    out.geometry = taker.take();
    return out;
}

/// The same faces between the same cells, whatever they are called.
bool sameWalls(const Walls& a, const Walls& b) {
    return a.cells == b.cells && a.group == b.group && a.geometry.positions() == b.geometry.positions() &&
           a.geometry.topology().faceStart() == b.geometry.topology().faceStart() && a.geometry.topology().cornerPoint() == b.geometry.topology().cornerPoint();
}

}  // namespace

BodyCuts::BodyCuts(const Geometry& solid, std::function<Index(Vec3)> cellAt, const RunContext& run)
    : cellAt_(std::move(cellAt)), run_(run), size_(boundsOf(solid.positions()).diagonal()) {
    for (Body& body : bodiesOf(solid)) {
        const Box box = boxAround(body.geometry);
        bodies_.push_back({std::move(body), box, {}, {}, false, {}});
    }
}

void BodyCuts::cut(const Walls& walls) {
    std::vector<Box> boxes;
    for (Index f = 0; f < walls.geometry.faceCount(); ++f) boxes.push_back(boxOf(walls.geometry.topology().face(f), walls.geometry.positions()));
    // With one body the cut itself may use all threads; of several each has its own.
    forEach(
        bodies_.size(), run_,
        [&](std::size_t i) {
            CutBody& b = bodies_[i];
            std::vector<Index> faces;
            Walls near = reaching(walls, boxes, b.box, faces);
            const bool same = b.cut && sameWalls(near, b.near);
            b.wallFaces = std::move(faces);
            if (same) return;
            b.pieces = cutIntoPieces(b.body.geometry, near, cellAt_, size_, run_);
            b.near = std::move(near);
            b.cut = true;
        },
        1);
}

std::vector<Index> BodyCuts::bodyOfPiece() const {
    std::vector<Index> out;
    for (Index b = 0; b < bodies_.size(); ++b) out.insert(out.end(), bodies_[b].pieces.cellOfPiece.size(), b);
    return out;
}

SolidPieces BodyCuts::pieces() const {
    SolidPieces out;
    std::vector<Geometry> parts;
    for (const CutBody& b : bodies_) {
        const auto first = std::int32_t(out.cellOfPiece.size());
        std::vector<std::int32_t> piece = *b.pieces.geometry.values<std::int32_t>(Element::face, "piece");
        for (std::int32_t& p : piece) p += first;
        parts.push_back(b.pieces.geometry);
        parts.back().setColumn(Element::face, "piece", Column(std::move(piece)));
        for (PieceFace face : b.pieces.faces) {
            face.source = face.inside ? b.wallFaces[face.source] : b.body.faces[face.source];
            out.faces.push_back(face);
        }
        out.cellOfPiece.insert(out.cellOfPiece.end(), b.pieces.cellOfPiece.begin(), b.pieces.cellOfPiece.end());
        out.volume += b.pieces.volume;
    }
    out.geometry = parts.size() == 1 ? parts.front() : combine(parts);
    return out;
}

SolidPieces cutBodies(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, const RunContext& run) {
    BodyCuts cuts(solid, cellAt, run);
    cuts.cut(walls);
    return cuts.pieces();
}

}  // namespace seedloom

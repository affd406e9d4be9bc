#include "breaking/BodyCuts.h"

#include "breaking/Bodies.h"
#include "geometry/BoxTree.h"
#include "geometry/PartTaker.h"
#include "geometry/Rows.h"

namespace seedloom {

namespace {

constexpr float kRound = 0.01f;  ///< of a body's size: walls so near to it count as reaching it

Box boxOf(std::span<const Index> face, const std::vector<Vec3>& positions) {
    Box out{positions[face[0]], positions[face[0]]};
    for (Index p : face) out.add(Box{positions[p], positions[p]});
    return out;
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

/// Adds the pieces of one body to those before; its faces and walls are told by their numbers in the whole.
void append(SolidPieces& to, std::vector<Geometry>& parts, SolidPieces from, const std::vector<Index>& bodyFaces, const std::vector<Index>& wallFaces) {
    const auto first = std::int32_t(to.cellOfPiece.size());
    std::vector<std::int32_t> piece = *from.geometry.values<std::int32_t>(Element::face, "piece");
    for (std::int32_t& p : piece) p += first;
    from.geometry.setColumn(Element::face, "piece", Column(std::move(piece)));
    for (PieceFace& face : from.faces) face.source = face.inside ? wallFaces[face.source] : bodyFaces[face.source];
    to.faces.insert(to.faces.end(), from.faces.begin(), from.faces.end());
    to.cellOfPiece.insert(to.cellOfPiece.end(), from.cellOfPiece.begin(), from.cellOfPiece.end());
    to.volume += from.volume;
    parts.push_back(std::move(from.geometry));
}

}  // namespace

SolidPieces cutBodies(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, const RunContext& run) {
    std::vector<Box> boxes;
    for (Index f = 0; f < walls.geometry.faceCount(); ++f) boxes.push_back(boxOf(walls.geometry.topology().face(f), walls.geometry.positions()));
    SolidPieces out;
    std::vector<Geometry> parts;
    for (const Body& body : bodiesOf(solid)) {
        run.poll();
        const Bounds bounds = boundsOf(body.geometry.positions());
        const float round = float(bounds.diagonal()) * kRound;
        std::vector<Index> wallFaces;
        const Walls near = reaching(walls, boxes, {bounds.min - Vec3{round, round, round}, bounds.max + Vec3{round, round, round}}, wallFaces);
        append(out, parts, cutIntoPieces(body.geometry, near, cellAt, run), body.faces, wallFaces);
    }
    out.geometry = parts.size() == 1 ? parts.front() : combine(parts);
    return out;
}

}  // namespace seedloom

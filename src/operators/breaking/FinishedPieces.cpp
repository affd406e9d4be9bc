#include "operators/breaking/FinishedPieces.h"

#include "breaking/InsideFaces.h"
#include "geometry/Measures.h"

#include <fmt/format.h>

namespace seedloom {

SettingSpec insideMaterialSetting() {
    return textSetting("inside_material", "Inside material", "inside").helped("The material of broken faces, by name; empty: none.");
}

namespace {

/// A surface that crosses itself has no inside that could be parted.
void tellOfDoubts(OperatorCall& call, const Geometry& before, const Geometry& pieces, bool filling) {
    const EdgeTable& edges = pieces.topology().edges();
    bool closed = true;
    for (std::size_t e = 0; closed && e < edges.edges.size(); ++e) closed = edges.faceCount[e] % 2 == 0 && edges.balance[e] == 0;
    const double whole = signedVolume(before), parts = signedVolume(pieces);
    if (closed && parts <= whole * (1 + 1e-4) && (!filling || parts >= whole * (1 - 1e-4))) return;
    call.offer(insertFix("Make a voxel remesh before it", "voxel_remesh"));
    call.tell(NoticeLevel::warning, "break.crossing",
              fmt::format("The pieces do not add up to the whole ({:.4g} of {:.4g} m³): its surface crosses itself. Make a voxel remesh of it first.", parts,
                          whole));
}

}  // namespace

Geometry finishedPieces(OperatorCall& call, const Geometry& solid, SolidPieces pieces, const Walls& walls, bool filling) {
    tellOfDoubts(call, solid, pieces.geometry, filling);
    mapInside(pieces, walls, call.run());
    giveInsideMaterial(pieces.geometry, pieces.faces, call.text("inside_material"));
    Geometry out = std::move(pieces.geometry);
    out.setCopies(call.in().sharedCopies());
    for (const auto& [name, column] : call.in().table(Element::copy)) out.setColumn(Element::copy, name, column);
    return out;
}

}  // namespace seedloom

#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// How inside and outside are told: by a flood of the outside, by how often faces go around a place, or by the second where the first leaks in.
enum class VoxelSign { automatic, flood, winding };

struct VoxelShellOptions {
    double voxel = 0.05;  ///< edge of a cell, metres
    double close = 0;     ///< gaps up to about this width are bridged, metres; at least about two cells are
    VoxelSign sign = VoxelSign::automatic;
};

struct VoxelShell {
    Geometry surface;
    bool byWinding = false;
    double lost = 0;  ///< part of the faces' area that has no inside beside it, as what is thinner than a cell
};

/// A closed surface around any triangles: the outside is what can be reached from far away without coming nearer than half of `close` to a face, the
/// surface runs where the faces are, or where the outside would stop in a gap. Distances are exact near faces, so that it lies on them to a small part of
/// a cell. Holes, doubled and crossing faces, and any winding are no obstacle; what is enclosed is filled; separate
/// pieces of less than a cell's volume are left out. Where the outside would leak in through a hole, inside is where the winding number (WindingTree) is above
/// a half, which closes holes as a film would. Faces of three to seven corners, as points lie on the edges of the cells and each face in one cell: the result
/// is closed and every edge has two faces. After: Bischoff, Pavic, Kobbelt, "Automatic restoration of polygon models", ACM TOG 24(4), 2005; cells: Lorensen &
/// Cline, SIGGRAPH 1987, with the table built from its rule. Memory: 31 bytes a cell of the bounds.
VoxelShell voxelShell(const Geometry& geometry, const VoxelShellOptions& options, const RunContext& run);

/// How many cells the bounds need.
double voxelCells(const Geometry& geometry, const VoxelShellOptions& options);

}  // namespace seedloom

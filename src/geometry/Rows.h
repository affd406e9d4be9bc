#pragma once
// Makes a geometry from rows of another: the one place where attributes follow elements that were kept, doubled or dropped.
#include "geometry/Geometry.h"

namespace seedloom {

/// For every new element the row it comes from. Attributes are copied bit for bit.
struct RowPlan {
    std::vector<Index> points;
    std::vector<Index> faceStart{0}, cornerPoint;  ///< new faces; point numbers are new ones
    std::vector<Index> faces, corners;             ///< source rows
    std::vector<Index> curveStart{0}, curvePoint, curves;
    std::vector<std::uint8_t> curveClosed;

    void endFace(Index sourceFace) {
        faceStart.push_back(static_cast<Index>(cornerPoint.size()));
        faces.push_back(sourceFace);
    }
    void addCorner(Index point, Index sourceCorner) {
        cornerPoint.push_back(point);
        corners.push_back(sourceCorner);
    }
    void endCurve(Index sourceCurve, bool closed) {
        curveStart.push_back(static_cast<Index>(curvePoint.size()));
        curves.push_back(sourceCurve);
        curveClosed.push_back(closed);
    }
};

/// Row i is a[i] mixed with b[i] by t[i] (0–1); booleans and texts take the nearer row.
Column mixRows(const Column& column, const std::vector<Index>& a, const std::vector<Index>& b, const std::vector<float>& t);

/// Copies and model attributes pass through.
Geometry takeRows(const Geometry& from, RowPlan plan);

/// All geometries one after the other. An attribute that one of them lacks is zero there; where types differ the first wins
/// and the others' values are converted component by component. Missing normals are computed, missing colours white.
Geometry combine(const std::vector<Geometry>& parts);

/// Only these copies, in this order, with their attributes; everything else stays. Shapes that no copy shows any more are left out.
Geometry takeCopies(const Geometry& geometry, const std::vector<Index>& rows);

/// The geometry mapped by `map`: positions, `normal` (turned), `tangent` (turned), copies; faces are turned over where `map` mirrors.
Geometry transformed(const Geometry& geometry, const Affine& map);
/// All faces in reverse order of corners; each keeps its first corner. `normal` attributes are negated.
Geometry flipped(const Geometry& geometry, const std::vector<std::uint8_t>& which);

}  // namespace seedloom

#pragma once
// Makes a geometry whose elements are mixed from rows of another, by weights: what cuts, insets and rounded edges need.
#include "geometry/Geometry.h"

namespace seedloom {

/// Row i is the sum of weight × source row over its stretch of `row`; a row that has one source is copied bit for bit.
/// Texts, whole numbers and true/false take the heaviest source, of equals the first.
class RowMix {
public:
    Index size() const { return static_cast<Index>(start_.size() - 1); }
    /// A copy of one row.
    Index add(Index row) { return row_.push_back(row), weight_.push_back(1), close(); }
    Index add(Index a, Index b, float t) {
        if (t <= 0 || a == b) return add(a);
        if (t >= 1) return add(b);
        row_.push_back(a), weight_.push_back(1 - t);
        return part(b, t).close();
    }
    /// One more source of the row that `close()` ends.
    RowMix& part(Index row, float weight) { return row_.push_back(row), weight_.push_back(weight), *this; }
    Index close() { return start_.push_back(static_cast<Index>(row_.size())), static_cast<Index>(start_.size() - 2); }
    /// A row like row `i` of this mix once more.
    Index again(Index i);
    /// Takes the last row away.
    void dropLast() {
        start_.pop_back();
        row_.resize(start_.back()), weight_.resize(start_.back());
    }
    Column apply(const Column& column) const;
    /// The heaviest source of each row.
    std::vector<Index> heaviest() const;

private:
    std::vector<Index> start_{0}, row_;
    std::vector<float> weight_;
};

struct MixPlan {
    RowMix points, corners;
    std::vector<Index> faceStart{0}, cornerPoint, faces;  ///< new faces and the source of each
    std::vector<Index> curveStart{0}, curvePoint, curves;
    std::vector<std::uint8_t> curveClosed;

    void endFace(Index sourceFace) {
        faceStart.push_back(static_cast<Index>(cornerPoint.size()));
        faces.push_back(sourceFace);
    }
    void endCurve(Index sourceCurve, bool closed) {
        curveStart.push_back(static_cast<Index>(curvePoint.size()));
        curves.push_back(sourceCurve);
        curveClosed.push_back(closed);
    }
    /// Adds all curves and the points that faces do not use, or that `alsoTaken` says; `number` holds the new number of a point that the plan
    /// has already, or ~0, and is completed.
    void addCurvesAndLoosePoints(const Geometry& from, std::vector<Index>& number);
};

/// Positions are mixed as well; `positions`, where given, replace them. Copies and model attributes pass through.
Geometry takeMixed(const Geometry& from, MixPlan plan, std::vector<Vec3> positions = {});

/// What kind of face an operator made, by face; 0 for one that was there before.
using FaceKinds = std::vector<std::uint8_t>;
/// Writes the tag on the faces of that kind (from 1), takes it off those of other kinds, and leaves faces that were there before as they are.
void tagKind(Geometry& geometry, const char* tag, const FaceKinds& kinds, std::uint8_t kind);

}  // namespace seedloom

#pragma once
// Which points make which faces and curves; immutable and shared between geometries.
// Neighbourhoods are derived on first use and then kept with the topology, so they survive changes of position.
#include <cstdint>
#include <memory>
#include <mutex>
#include <span>
#include <vector>

namespace seedloom {

using Index = std::uint32_t;
inline constexpr Index kNone = ~Index{0};  ///< in place of a number: there is none

/// Undirected edges of the faces, numbered in order of their smaller, then larger, point.
struct EdgeTable {
    struct Edge {
        Index a, b;  ///< a < b
    };
    std::vector<Edge> edges;
    std::vector<Index> cornerEdge;      ///< the edge from each corner's point to the next corner's point
    std::vector<Index> faceCount;       ///< how many face sides use each edge
    std::vector<std::int32_t> balance;  ///< uses from a to b, less uses from b to a
};

/// Rows of varying length: row i is values[start[i]] … values[start[i + 1] - 1].
struct Rows {
    std::vector<Index> start, values;
    std::span<const Index> operator[](std::size_t i) const { return {values.data() + start[i], values.data() + start[i + 1]}; }
};

/// Parts that hang together by shared points (loose points are parts of their own).
struct Connection {
    std::vector<Index> pieceOfPoint;
    Index pieces = 0;  ///< parts that have a face
    Index parts = 0;   ///< all parts, loose points and curves included
};

class Topology {
public:
    Topology() : Topology(0, {0}, {}, {0}, {}, {}) {}
    /// `faceStart` and `curveStart` have one entry more than there are faces and curves.
    /// Precondition: offsets rise from 0, indices are below `points` (checked by `problem()`).
    Topology(std::size_t points, std::vector<Index> faceStart, std::vector<Index> cornerPoint, std::vector<Index> curveStart, std::vector<Index> curvePoint,
             std::vector<std::uint8_t> curveClosed);

    std::size_t pointCount() const { return points_; }
    std::size_t faceCount() const { return faceStart_.size() - 1; }
    std::size_t cornerCount() const { return cornerPoint_.size(); }
    std::size_t curveCount() const { return curveStart_.size() - 1; }

    const std::vector<Index>& faceStart() const { return faceStart_; }
    const std::vector<Index>& cornerPoint() const { return cornerPoint_; }
    const std::vector<Index>& curveStart() const { return curveStart_; }
    const std::vector<Index>& curvePoint() const { return curvePoint_; }
    bool curveClosed(std::size_t curve) const { return curveClosed_[curve] != 0; }
    const std::vector<std::uint8_t>& curveClosed() const { return curveClosed_; }

    std::span<const Index> face(std::size_t f) const { return {cornerPoint_.data() + faceStart_[f], cornerPoint_.data() + faceStart_[f + 1]}; }
    std::span<const Index> curve(std::size_t c) const { return {curvePoint_.data() + curveStart_[c], curvePoint_.data() + curveStart_[c + 1]}; }

    /// Empty where sizes and indices hold together, else what is wrong. Cost: O(corners).
    const char* problem() const;

    const EdgeTable& edges() const;      ///< O(corners) once
    const Rows& cornersOfPoint() const;  ///< O(corners) once
    const std::vector<Index>& faceOfCorner() const;
    const Connection& connection() const;

    std::size_t byteSize() const;

private:
    std::size_t points_;
    std::vector<Index> faceStart_, cornerPoint_, curveStart_, curvePoint_;
    std::vector<std::uint8_t> curveClosed_;

    struct Derived;
    std::shared_ptr<Derived> derived_;
};

}  // namespace seedloom

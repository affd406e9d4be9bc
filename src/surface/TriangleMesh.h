#pragma once
// A mesh of triangles that can be changed edge by edge.
#include "geometry/Geometry.h"

namespace seedloom {

/// Half edge h belongs to face h / 3 and runs from `from(h)` to `from(next(h))`. Removed faces keep their place until `compact`.
class TriangleMesh {
public:
    /// Every face must have three corners, every edge at most two faces that run against each other. Points at which several fans touch are
    /// taken apart; `pointOf` tells where each point came from.
    explicit TriangleMesh(const Geometry& triangles);

    static Index next(Index h) { return h % 3 == 2 ? h - 2 : h + 1; }
    static Index prev(Index h) { return h % 3 == 0 ? h + 2 : h - 1; }
    Index from(Index h) const { return from_[h]; }
    Index to(Index h) const { return from_[next(h)]; }
    Index twin(Index h) const { return twin_[h]; }
    bool alive(Index h) const { return from_[h] != kNone; }
    std::size_t halfEdges() const { return from_.size(); }
    std::size_t points() const { return place.size(); }
    bool pointAlive(Index p) const { return out_[p] != kNone; }
    bool border(Index p) const { return twin_[firstOut(p)] == kNone; }

    /// Half edges that leave a point, in order around it.
    void around(Index p, std::vector<Index>& out) const;

    /// A new point in the middle of an edge; the half edge keeps its start and ends there. Gives the point.
    Index split(Index h);
    /// Whether an edge can be drawn together without folding the surface over itself.
    bool canCollapse(Index h);
    /// Draws an edge together into its start. Precondition: canCollapse(h).
    void collapse(Index h);
    /// From now on collapses are noted, so that each can be taken back, the last one first.
    void noteCollapses() { noting_ = true; }
    /// The number to give to `takeBack` for what is there now.
    std::size_t mark() const { return notes_.size(); }
    void takeBack(std::size_t mark);
    /// Turns the edge between two triangles. False where that edge is there already.
    bool flip(Index h);

    std::vector<Vec3> place;
    std::vector<float> length;       ///< wanted edge length at each point
    std::vector<Index> pointOf;      ///< the point of the source that it came from
    std::vector<std::uint8_t> kept;  ///< by half edge: part of a line that stays

    /// What is left, points in order.
    Geometry compact(std::vector<Index>* pointsOf = nullptr) const;

private:
    Index firstOut(Index p) const;
    struct Note {
        std::vector<Index> TriangleMesh::*list;
        Index at, before;
    };
    void put(std::vector<Index> TriangleMesh::*list, Index at, Index value) {
        if (noting_) notes_.push_back({list, at, (this->*list)[at]});
        (this->*list)[at] = value;
    }
    void link(Index a, Index b) {
        if (a != kNone) put(&TriangleMesh::twin_, a, b);
        if (b != kNone) put(&TriangleMesh::twin_, b, a);
    }
    bool noting_ = false;
    std::vector<Note> notes_;
    std::vector<Index> from_, twin_, out_;
    std::vector<Index> ringA_, ringB_;
};

}  // namespace seedloom

#include "surface/PlaneCut.h"

#include "geometry/Measures.h"
#include "geometry/PlanarFill.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"

#include <unordered_map>

namespace seedloom {

namespace {

/// Rows of the result, each made of two rows of the source and a share of the second.
struct MixedRows {
    std::vector<Index> a, b;
    std::vector<float> t;
    Index add(Index first, Index second, float share) {
        a.push_back(first), b.push_back(second), t.push_back(share);
        return static_cast<Index>(a.size() - 1);
    }
};

class Cutter {
public:
    Cutter(const Geometry& in, const CutPlane& plane) : in_(in), t_(in.topology()), plane_(plane), number_(in.pointCount(), kNone) {
        const double least = boundsOf(in.positions()).diagonal() * 1e-6;
        side_.resize(in.pointCount());
        for (std::size_t p = 0; p < side_.size(); ++p) {
            double d = 0;
            for (int c = 0; c < 3; ++c) d += (double(in.positions()[p][c]) - double(plane.origin[c])) * double(plane.normal[c]);
            side_[p] = std::abs(d) <= least ? 0 : d;
        }
    }

    Geometry run(bool fill, std::size_t* openRings) {
        const Triangles* triangles = nullptr;
        Triangles made;
        for (Index f = 0; f < in_.faceCount(); ++f) {
            corners_.clear();
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) corners_.push_back(c);
            if (crossings() <= 2) {
                cutFace(f);
                continue;
            }
            // A face that crosses more than once falls into several parts: its triangles do not.
            if (!triangles) made = triangulate(in_), triangles = &made;
            for (auto at = std::lower_bound(made.faceOf.begin(), made.faceOf.end(), f); at != made.faceOf.end() && *at == f; ++at) {
                const std::size_t i = std::size_t(at - made.faceOf.begin());
                corners_.assign({made.corners[3 * i], made.corners[3 * i + 1], made.corners[3 * i + 2]});
                cutFace(f);
            }
        }
        for (Index c = 0; c < in_.curveCount(); ++c) cutCurve(c);
        addLoosePoints();
        const std::size_t own = faces_.size();
        if (fill) addCaps(openRings);
        return finish(own, fill);
    }

private:
    double sideAt(Index corner) const { return side_[t_.cornerPoint()[corner]]; }

    std::size_t crossings() const {
        std::size_t count = 0;
        double before = 0;
        for (std::size_t i = 0; i < corners_.size() * 2; ++i) {  // twice around, to begin with a side
            const double now = sideAt(corners_[i % corners_.size()]);
            if (now == 0) continue;
            if (i >= corners_.size() && before != 0 && (before > 0) != (now > 0)) ++count;
            before = now;
        }
        return count;
    }

    Index point(Index p) {
        if (number_[p] == kNone) {
            number_[p] = points_.add(p, p, 0);
            onPlane_.push_back(side_[p] == 0);
        }
        return number_[p];
    }
    /// The point where an edge crosses the plane; the same from both faces beside it.
    Index crossing(Index p, Index q) {
        if (p > q) std::swap(p, q);
        const auto [it, isNew] = cut_.try_emplace(std::uint64_t(p) << 32 | q, 0);
        if (isNew) {
            it->second = points_.add(p, q, float(side_[p] / (side_[p] - side_[q])));
            onPlane_.push_back(1);
        }
        return it->second;
    }

    void cutFace(Index f) {
        const std::size_t first = cornerPoint_.size();
        bool above = false, below = false;
        for (Index c : corners_) above |= sideAt(c) > 0, below |= sideAt(c) < 0;
        if (!above && (below || !closesThisSide(f))) return;
        for (std::size_t i = 0; i < corners_.size(); ++i) {
            const Index c = corners_[i], next = corners_[i + 1 == corners_.size() ? 0 : i + 1];
            const double here = sideAt(c), there = sideAt(next);
            if (here >= 0) addCorner(point(t_.cornerPoint()[c]), c, c, 0);
            if ((here > 0 && there < 0) || (here < 0 && there > 0))
                addCorner(crossing(t_.cornerPoint()[c], t_.cornerPoint()[next]), c, next, float(here / (here - there)));
        }
        faceStart_.push_back(static_cast<Index>(cornerPoint_.size()));
        faces_.push_back(f);
        rememberRim(first);
    }
    bool closesThisSide(Index f) const { return dot(areaVector(t_.face(f), in_.positions()), plane_.normal) <= 0; }

    void addCorner(Index point, Index a, Index b, float t) {
        cornerPoint_.push_back(point);
        cornerRows_.add(a, b, t);
    }
    /// Edges of a face that lie in the plane; where two faces meet there, or a face in the plane closes it, they cancel out.
    void rememberRim(std::size_t first) {
        for (std::size_t i = first; i < cornerPoint_.size(); ++i) {
            const Index p = cornerPoint_[i], q = cornerPoint_[i + 1 == cornerPoint_.size() ? first : i + 1];
            if (onPlane_[p] && onPlane_[q]) rim_.push_back({p, q, static_cast<Index>(i)});
        }
    }

    void cutCurve(Index c) {
        const auto curve = t_.curve(c);
        const std::size_t n = curve.size();
        const bool closed = t_.curveClosed(c), whole = std::all_of(curve.begin(), curve.end(), [&](Index p) { return side_[p] >= 0; });
        if (whole) {
            for (Index p : curve) curvePoint_.push_back(point(p));
            return endCurve(c, closed);
        }
        // A closed curve is followed from a point that goes away.
        std::size_t begin = 0;
        while (closed && begin < n && side_[curve[begin]] >= 0) ++begin;
        const std::size_t startSize = curvePoint_.size();
        std::size_t runStart = startSize;
        const auto endRun = [&] {
            if (curvePoint_.size() > runStart) endCurve(c, false);
            runStart = curvePoint_.size();
        };
        for (std::size_t i = 0; i < n; ++i) {
            const Index p = curve[(begin + i) % n];
            if (side_[p] >= 0) curvePoint_.push_back(point(p));
            if (i + 1 == n && !closed) break;
            const Index q = curve[(begin + i + 1) % n];
            if ((side_[p] > 0 && side_[q] < 0) || (side_[p] < 0 && side_[q] > 0)) curvePoint_.push_back(crossing(p, q));
            if (side_[q] < 0) endRun();
        }
        endRun();
    }
    void endCurve(Index c, bool closed) {
        curveStart_.push_back(static_cast<Index>(curvePoint_.size()));
        curveClosed_.push_back(closed);
        curves_.push_back(c);
    }
    void addLoosePoints() {
        std::vector<std::uint8_t> used(in_.pointCount(), 0);
        for (Index p : t_.cornerPoint()) used[p] = 1;
        for (Index p : t_.curvePoint()) used[p] = 1;
        for (Index p = 0; p < used.size(); ++p)
            if (!used[p] && side_[p] >= 0) point(p);
    }

    struct RimEdge {
        Index from, to, corner;
    };
    /// Rings of rim edges that are left once those that run both ways are taken out, against the direction of the faces.
    std::vector<std::vector<Index>> rings(std::size_t* open) {
        std::unordered_map<std::uint64_t, std::vector<std::size_t>> byEnds;
        for (std::size_t e = 0; e < rim_.size(); ++e) byEnds[std::uint64_t(rim_[e].from) << 32 | rim_[e].to].push_back(e);
        std::vector<std::uint8_t> gone(rim_.size(), 0);
        for (std::size_t e = 0; e < rim_.size(); ++e) {
            const auto back = byEnds.find(std::uint64_t(rim_[e].to) << 32 | rim_[e].from);
            if (gone[e] || back == byEnds.end()) continue;
            auto& list = back->second;
            while (!list.empty() && gone[list.back()]) list.pop_back();
            if (!list.empty()) gone[e] = gone[list.back()] = 1;
        }
        std::unordered_map<Index, std::vector<std::size_t>> into;
        for (std::size_t e = rim_.size(); e-- > 0;)
            if (!gone[e]) into[rim_[e].to].push_back(e);
        std::vector<std::vector<Index>> out;
        for (std::size_t e = 0; e < rim_.size(); ++e)
            if (!gone[e]) follow(rim_[e].to, into, gone, out, open);
        return out;
    }
    void follow(Index start, std::unordered_map<Index, std::vector<std::size_t>>& into, std::vector<std::uint8_t>& gone, std::vector<std::vector<Index>>& out,
                std::size_t* open) {
        std::vector<Index> way;
        for (Index at = start;;) {
            auto& edges = into[at];
            while (!edges.empty() && gone[edges.back()]) edges.pop_back();
            if (edges.empty()) break;
            const std::size_t e = edges.back();
            gone[e] = 1;
            way.push_back(at);
            capCorner_[at] = rim_[e].corner;
            at = rim_[e].from;
            const auto met = std::find(way.begin(), way.end(), at);
            if (met == way.end()) continue;
            if (way.end() - met >= 3) out.emplace_back(met, way.end());
            way.erase(met, way.end());
        }
        if (!way.empty() && open) ++*open;
    }
    void addCaps(std::size_t* openRings) {
        const auto loops = rings(openRings);
        if (loops.empty()) return;
        std::vector<Vec3> places(points_.a.size());
        for (std::size_t p = 0; p < places.size(); ++p) places[p] = placeOf(p);
        for (const auto& [face, outline] : fillRings(places, loops, -plane_.normal)) {
            for (Index p : face) {
                const Index like = capCorner_[p];
                addCorner(p, cornerRows_.a[like], cornerRows_.b[like], cornerRows_.t[like]);
            }
            faceStart_.push_back(static_cast<Index>(cornerPoint_.size()));
            faces_.push_back(faces_[faceOfCorner(capCorner_[face.front()])]);
        }
    }
    std::size_t faceOfCorner(Index corner) const {
        return std::size_t(std::upper_bound(faceStart_.begin(), faceStart_.end(), corner) - faceStart_.begin() - 1);
    }
    /// New points are put onto the plane once more: mixing rounds.
    Vec3 placeOf(std::size_t p) const {
        const Vec3 from = in_.positions()[points_.a[p]];
        if (points_.a[p] == points_.b[p]) return from;
        const Vec3 at = mix(from, in_.positions()[points_.b[p]], points_.t[p]);
        return at - plane_.normal * dot(at - plane_.origin, plane_.normal);
    }

    Geometry finish(std::size_t ownFaces, bool fill) {
        std::vector<Vec3> places(points_.a.size());
        for (std::size_t p = 0; p < places.size(); ++p) places[p] = placeOf(p);
        const std::size_t count = places.size(), faceCount = faces_.size();
        Geometry out(std::move(places),
                     Topology(count, std::move(faceStart_), std::move(cornerPoint_), std::move(curveStart_), std::move(curvePoint_), std::move(curveClosed_)));
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position") out.setColumn(Element::point, name, mixRows(column, points_.a, points_.b, points_.t));
        for (const auto& [name, column] : in_.table(Element::corner))
            out.setColumn(Element::corner, name, mixRows(column, cornerRows_.a, cornerRows_.b, cornerRows_.t));
        for (const auto& [name, column] : in_.table(Element::face)) out.setColumn(Element::face, name, gather(column, faces_));
        for (const auto& [name, column] : in_.table(Element::curve)) out.setColumn(Element::curve, name, gather(column, curves_));
        for (const auto& [name, column] : in_.table(Element::model)) out.setColumn(Element::model, name, column);
        if (fill) {
            const auto* before = out.values<std::uint8_t>(Element::face, "cut");
            std::vector<std::uint8_t> tag = before ? *before : std::vector<std::uint8_t>(faceCount, 0);
            std::fill(tag.begin() + std::ptrdiff_t(ownFaces), tag.end(), std::uint8_t(1));
            out.setColumn(Element::face, "cut", Column(std::move(tag)));
        }
        out.setCopies(in_.sharedCopies());
        for (const auto& [name, column] : in_.table(Element::copy)) out.setColumn(Element::copy, name, column);
        return out;
    }

    const Geometry& in_;
    const Topology& t_;
    CutPlane plane_;
    std::vector<double> side_;
    std::vector<Index> number_, corners_;
    MixedRows points_, cornerRows_;
    std::vector<std::uint8_t> onPlane_;
    std::unordered_map<std::uint64_t, Index> cut_;
    std::vector<Index> faceStart_{0}, cornerPoint_, faces_, curveStart_{0}, curvePoint_, curves_;
    std::vector<std::uint8_t> curveClosed_;
    std::vector<RimEdge> rim_;
    std::unordered_map<Index, Index> capCorner_;  ///< a corner beside the cut whose attributes the cap takes, by point
};

}  // namespace

Geometry cutByPlane(const Geometry& geometry, const CutPlane& plane, bool fill, std::size_t* openRings) { return Cutter(geometry, plane).run(fill, openRings); }

}  // namespace seedloom

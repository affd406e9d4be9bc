#include "surface/Boolean.h"

#include "geometry/Groups.h"
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "surface/Arrangement.h"
#include "surface/SolidWinding.h"

#include <cstring>
#include <functional>
#include <map>
#include <unordered_map>

namespace seedloom {

namespace {

constexpr Index kNone = ~Index{0};
constexpr double kDoubled = 1e-6;  ///< of the size: what the checkup counts as doubled

std::uint64_t edgeKey(Index a, Index b) { return a < b ? std::uint64_t(a) << 32 | b : std::uint64_t(b) << 32 | a; }

/// A triangle of the input with one of its corners' places mixed, or a whole one.
struct Piece {
    std::array<Index, 3> points;
    Index triangle;
    std::array<std::array<float, 3>, 3> weights;
};

/// A place where surfaces run: one triangle's piece, or those of several triangles in one plane.
struct Sheet {
    Piece piece;                              ///< of the first source
    std::vector<std::pair<Piece, int>> more;  ///< further ones, and whether they look to the same side (1) or the other (−1)
};

class SolidCombiner {
public:
    SolidCombiner(const std::vector<Geometry>& base, const std::vector<Geometry>& cutters, const RunContext& run) : run_(run) {
        std::vector<Geometry> all;
        for (const auto* group : {&base, &cutters})
            for (const Geometry& g : *group) all.push_back(outward(g));
        std::size_t baseFaces = 0;
        for (const Geometry& g : base) baseFaces += g.faceCount();
        in_ = combine(all);
        triangles_ = triangulate(in_);
        for (std::size_t t = 0; t < triangles_.count(); ++t) {
            fromCutter_.push_back(triangles_.faceOf[t] >= baseFaces);
            part_.push_back(in_.topology().connection().pieceOfPoint[pointAt(Index(3 * t))]);
        }
    }

    Geometry combined(BooleanForm form, BooleanReport* report) {
        arrangement_ = arrange(in_, triangles_, part_, run_);
        if (report) report->meetings = std::size_t(std::count(arrangement_.cut.begin(), arrangement_.cut.end(), 1));
        makeSheets();
        run_.poll();
        joinSheets();
        run_.poll();
        windPatches();
        const auto inside = [form](SolidWinding w, bool other) {
            switch (form) {
                case BooleanForm::unite: return w.base > 0 || w.cutters > 0;
                case BooleanForm::intersect: return w.base > 0 && w.cutters > 0;
                default: return w.base > 0 && (w.cutters > 0) == other;
            }
        };
        std::vector<Geometry> parts{result([&](SolidWinding w) { return inside(w, false); })};
        if (form == BooleanForm::split) parts.push_back(result([&](SolidWinding w) { return inside(w, true); }));
        Geometry out = combine(parts);
        if (form == BooleanForm::split) {
            std::vector<std::int32_t> piece(out.faceCount());
            for (std::size_t f = 0; f < piece.size(); ++f) piece[f] = std::int32_t(out.topology().connection().pieceOfPoint[out.topology().face(f)[0]]);
            out.setColumn(Element::face, "piece", Column(std::move(piece)));
        }
        return out;
    }

private:
    /// What looks inwards as a whole is turned over; only faces count here.
    static Geometry outward(const Geometry& g) {
        Geometry faces = g;
        faces.setCopies(nullptr);
        return signedVolume(faces) < 0 ? flipped(faces, std::vector<std::uint8_t>(faces.faceCount(), 1)) : faces;
    }
    Index pointAt(Index triangleCorner) const { return in_.topology().cornerPoint()[triangles_.corners[triangleCorner]]; }
    Index standing(Index p) const { return p < in_.pointCount() ? alias(arrangement_.standsFor[p]) : alias(p); }
    Index alias(Index p) const {
        const auto it = sameAs_.find(p);
        return it == sameAs_.end() ? p : it->second;
    }
    Vec3 place(Index p) const { return p < in_.pointCount() ? in_.positions()[p] : arrangement_.newPoints[p - in_.pointCount()]; }

    /// New points that rounding has put onto others count as these.
    void alignRounded() {
        std::unordered_map<std::uint64_t, std::vector<Index>> byPlace;
        const auto hashOf = [&](Index p) {
            const Vec3 at = place(p);
            std::uint64_t h = 1469598103934665603ULL;
            for (int c = 0; c < 3; ++c) {
                std::uint32_t bits;
                const float v = at[c] == 0 ? 0.0f : at[c];
                std::memcpy(&bits, &v, sizeof bits);
                h = (h ^ bits) * 1099511628211ULL;
            }
            return h;
        };
        const auto take = [&](Index p) {
            auto& list = byPlace[hashOf(p)];
            for (Index other : list)
                if (other == p) return;
                else if (place(other) == place(p)) return void(sameAs_[p] = other);
            list.push_back(p);
        };
        for (const Facet& f : arrangement_.facets)
            for (Index p : f.points)
                if (p < in_.pointCount()) take(arrangement_.standsFor[p]);
        for (Index p = 0; p < arrangement_.newPoints.size(); ++p) take(Index(in_.pointCount() + p));
    }

    void makeSheets() {
        alignRounded();
        sheetOf_.assign(triangles_.count(), kNone);
        for (Index t = 0; t < triangles_.count(); ++t) {
            if (arrangement_.cut[t]) continue;
            sheetOf_[t] = Index(sheets_.size());
            sheets_.push_back(
                {{{standing(pointAt(3 * t)), standing(pointAt(3 * t + 1)), standing(pointAt(3 * t + 2))}, t, {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}}, {}});
        }
        firstCut_ = Index(sheets_.size());
        std::map<std::array<Index, 3>, Index> known;
        for (const Facet& f : arrangement_.facets) {
            const Piece piece{{standing(f.points[0]), standing(f.points[1]), standing(f.points[2])}, f.triangle, f.weights};
            if (piece.points[0] == piece.points[1] || piece.points[1] == piece.points[2] || piece.points[2] == piece.points[0]) continue;
            std::array<Index, 3> sorted = piece.points;
            std::sort(sorted.begin(), sorted.end());
            const auto [it, isNew] = known.try_emplace(sorted, Index(sheets_.size()));
            if (isNew) sheets_.push_back({piece, {}});
            else sheets_[it->second].more.push_back({piece, sameSense(sheets_[it->second].piece.points, piece.points) ? 1 : -1});
        }
    }
    static bool sameSense(const std::array<Index, 3>& a, const std::array<Index, 3>& b) {
        const auto at = std::size_t(std::find(b.begin(), b.end(), a[0]) - b.begin());
        return b[(at + 1) % 3] == a[1];
    }

    /// Sheets that go on into each other, with nothing else at their common edge, are one patch.
    void joinSheets() {
        joins_ = std::make_unique<Groups>(sheets_.size());
        std::unordered_map<std::uint64_t, std::vector<Index>> cutEdges;
        for (Index s = firstCut_; s < sheets_.size(); ++s)
            for (std::size_t k = 0; k < 3; ++k) cutEdges[edgeKey(sheets_[s].piece.points[k], sheets_[s].piece.points[(k + 1) % 3])].push_back(s);
        // Of edges of whole triangles, those at cut ones are looked up; the others are known by the topology.
        const auto meet = [&](Index a, Index b, std::uint64_t key) {
            if (a != kNone && b != kNone) return joins_->join(a, b);
            const Index whole = a != kNone ? a : b;
            if (whole != kNone) cutEdges[key].push_back(whole);
        };
        joinAcrossEdges(meet);
        for (const auto& [key, list] : cutEdges)
            if (list.size() == 2) joins_->join(list[0], list[1]);
    }
    void joinAcrossEdges(const std::function<void(Index, Index, std::uint64_t)>& meet) {
        const Topology& t = in_.topology();
        std::vector<Index> triangleOfCorner(t.cornerCount(), kNone);  // that has the edge from the corner to the next
        std::map<std::uint64_t, Index> inner;                         // edges inside of the face at hand
        Index face = kNone;
        for (Index i = 0; i < triangles_.count(); ++i) {
            if (triangles_.faceOf[i] != face) face = triangles_.faceOf[i], inner.clear();
            for (std::size_t k = 0; k < 3; ++k) {
                const Index a = triangles_.corners[3 * i + k], b = triangles_.corners[3 * i + (k + 1) % 3];
                const Index next = a + 1 == t.faceStart()[face + 1] ? t.faceStart()[face] : a + 1;
                if (b == next) {
                    triangleOfCorner[a] = i;
                    continue;
                }
                const auto [it, isNew] = inner.try_emplace(edgeKey(a, b), i);
                if (!isNew) meet(sheetOf_[it->second], sheetOf_[i], edgeKey(standing(t.cornerPoint()[a]), standing(t.cornerPoint()[b])));
            }
        }
        std::vector<Index> first(t.edges().edges.size(), kNone);
        for (Index c = 0; c < t.cornerCount(); ++c) {
            const Index e = t.edges().cornerEdge[c];
            if (triangleOfCorner[c] == kNone || t.edges().faceCount[e] != 2) continue;
            if (first[e] == kNone) first[e] = triangleOfCorner[c];
            else meet(sheetOf_[first[e]], sheetOf_[triangleOfCorner[c]], edgeKey(standing(t.edges().edges[e].a), standing(t.edges().edges[e].b)));
        }
    }

    /// On which side of each patch what is: measured at its largest sheet.
    void windPatches() {
        std::vector<std::array<Vec3, 3>> places(triangles_.count());
        for (std::size_t t = 0; t < places.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) places[t][k] = in_.positions()[pointAt(Index(3 * t + k))];
        const WindingRays rays(std::move(places), fromCutter_);
        std::map<Index, std::pair<double, Index>> largest;
        for (Index s = 0; s < sheets_.size(); ++s) {
            const auto& p = sheets_[s].piece.points;
            const double area = double(length(cross(place(p[1]) - place(p[0]), place(p[2]) - place(p[0]))));
            auto& best = largest.try_emplace(joins_->find(s), -1.0, s).first->second;
            if (area > best.first) best = {area, s};
        }
        std::size_t count = 0;
        for (const auto& [patch, best] : largest) {
            if (++count % 16 == 0) run_.poll();
            const Sheet& sheet = sheets_[best.second];
            std::vector<Index> own{sheet.piece.triangle};
            SolidWinding step;
            addStep(step, sheet.piece.triangle, 1);
            for (const auto& [piece, sense] : sheet.more) own.push_back(piece.triangle), addStep(step, piece.triangle, sense);
            const auto& p = sheet.piece.points;
            const auto before = rays.inFrontOf(place(p[0]), place(p[1]), place(p[2]), own, step);
            front_[patch] = before;
            back_[patch] = {before.base + step.base, before.cutters + step.cutters};
        }
    }
    void addStep(SolidWinding& to, Index triangle, int sense) const { (fromCutter_[triangle] ? to.cutters : to.base) += sense; }

    struct Kept {
        Piece piece;
        bool turned;
    };
    Geometry result(const std::function<bool(SolidWinding)>& inside) {
        std::vector<std::vector<Kept>> ofFace(in_.faceCount());
        for (Index s = 0; s < sheets_.size(); ++s) {
            const Index patch = joins_->find(s);
            const bool front = inside(front_.at(patch)), back = inside(back_.at(patch));
            if (front == back) continue;
            // Of several in one plane that of the base speaks for all.
            const Piece* piece = &sheets_[s].piece;
            int sense = 1;
            for (const auto& [other, otherSense] : sheets_[s].more)
                if (fromCutter_[piece->triangle] && !fromCutter_[other.triangle]) piece = &other, sense = otherSense;
            ofFace[triangles_.faceOf[piece->triangle]].push_back({*piece, front != (sense < 0)});
        }
        MixPlan plan;
        std::vector<Vec3> positions;
        std::unordered_map<Index, Index> number;
        FaceKinds kinds;
        const auto corner = [&](Index point, const Piece& piece, std::size_t k) {
            const auto [it, isNew] = number.try_emplace(point, plan.points.size());
            if (isNew) {
                addMixed(plan.points, piece, k, true);
                positions.push_back(place(point));
            }
            plan.cornerPoint.push_back(it->second);
            addMixed(plan.corners, piece, k, false);
        };
        for (Index f = 0; f < ofFace.size(); ++f) {
            if (f % 8192 == 0) run_.poll();
            const std::uint8_t kind = ofFace[f].empty() ? 0 : std::uint8_t(fromCutter_[ofFace[f].front().piece.triangle]);
            for (const auto& ring : polygons(f, ofFace[f])) {
                for (const auto& [point, piece, k] : ring) corner(point, *piece, k);
                plan.endFace(f);
                kinds.push_back(kind);
            }
        }
        Geometry source = in_;
        source.setCopies(nullptr);
        Geometry cut = takeMixed(source, std::move(plan), std::move(positions));
        tagKind(cut, "inside", kinds, 1);
        Geometry out = withoutShortCuts(std::move(cut), number);
        for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
        return out;
    }
    /// Nearly parallel faces meet in edges of the last bit's length, and faces along these have no area: drawn together where the surface stays as sound.
    Geometry withoutShortCuts(Geometry cut, const std::unordered_map<Index, Index>& number) const {
        std::vector<std::uint8_t> joins(cut.pointCount(), 0);
        for (Index s = firstCut_; s < sheets_.size(); ++s)
            for (Index p : sheets_[s].piece.points)
                if (const auto it = number.find(p); it != number.end()) joins[it->second] = 1;
        WeldResult welded = weld(cut, boundsOf(cut.positions()).diagonal() * kDoubled, joins);
        if (welded.joinedPoints == 0) return cut;
        const auto odd = [](const Geometry& g) {
            return std::count_if(g.topology().edges().faceCount.begin(), g.topology().edges().faceCount.end(), [](auto n) { return n != 2; });
        };
        return odd(welded.geometry) <= odd(cut) ? std::move(welded.geometry) : cut;
    }
    void addMixed(RowMix& rows, const Piece& piece, std::size_t k, bool points) const {
        const auto row = [&](std::size_t i) {
            const Index c = triangles_.corners[3 * piece.triangle + i];
            return points ? in_.topology().cornerPoint()[c] : c;
        };
        for (std::size_t i = 0; i < 3; ++i)
            if (piece.weights[k][i] == 1) return void(rows.add(row(i)));
        for (std::size_t i = 0; i < 3; ++i)
            if (piece.weights[k][i] != 0) rows.part(row(i), piece.weights[k][i]);
        rows.close();
    }

    struct RingCorner {
        Index point;
        const Piece* piece;
        std::size_t corner;
    };
    /// The kept pieces of a face: as one polygon where they are in one plane and have one outline, else each for itself.
    std::vector<std::vector<RingCorner>> polygons(Index f, const std::vector<Kept>& kept) const {
        std::vector<std::vector<RingCorner>> out;
        for (const Kept& k : kept) {
            auto& ring = out.emplace_back();
            for (std::size_t i = 0; i < 3; ++i) ring.push_back({k.piece.points[i], &k.piece, i});
            if (k.turned) std::reverse(ring.begin(), ring.end());
        }
        if (kept.size() < 2 || !flat(f)) return out;
        std::map<std::pair<Index, Index>, RingCorner> edges;
        for (const auto& ring : out)
            for (std::size_t i = 0; i < 3; ++i) {
                const Index a = ring[i].point, b = ring[(i + 1) % 3].point;
                if (edges.erase({b, a}) == 0) edges.insert({{a, b}, ring[i]});
            }
        std::map<Index, std::pair<Index, RingCorner>> leave;
        for (const auto& [ends, from] : edges)
            if (!leave.try_emplace(ends.first, ends.second, from).second) return out;  // two outlines touch here
        if (leave.size() < 3) return out;
        std::vector<RingCorner> ring;
        const Index start = leave.begin()->first;
        for (Index at = start;;) {
            const auto it = leave.find(at);
            if (it == leave.end()) return out;
            ring.push_back(it->second.second);
            at = it->second.first;
            if (at == start) break;
        }
        if (ring.size() != leave.size()) return out;  // holes
        return {std::move(ring)};
    }
    bool flat(Index f) const {
        const auto face = in_.topology().face(f);
        if (face.size() == 3) return true;
        const Vec3 n = normalized(areaVector(face, in_.positions()), {}), at = in_.positions()[face[0]];
        float size = 0, off = 0;
        for (Index p : face) size = std::max(size, distance(at, in_.positions()[p])), off = std::max(off, std::abs(dot(in_.positions()[p] - at, n)));
        return off <= 1e-5f * size;
    }

    const RunContext& run_;
    Geometry in_;
    Triangles triangles_;
    std::vector<std::uint8_t> fromCutter_;
    std::vector<Index> part_;
    Arrangement arrangement_;
    std::unordered_map<Index, Index> sameAs_;
    std::vector<Sheet> sheets_;
    std::vector<Index> sheetOf_;  ///< of whole triangles
    Index firstCut_ = 0;
    std::unique_ptr<Groups> joins_;
    std::map<Index, SolidWinding> front_, back_;
};

}  // namespace

Geometry combineSolids(const std::vector<Geometry>& base, const std::vector<Geometry>& cutters, BooleanForm form, const RunContext& run,
                       BooleanReport* report) {
    return SolidCombiner(base, cutters, run).combined(form, report);
}

}  // namespace seedloom

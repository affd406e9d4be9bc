#include "surface/Boolean.h"

#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"
#include "surface/ArrangedFaces.h"
#include "surface/DrawTogether.h"
#include "surface/PlaceOrder.h"
#include "surface/PointsApart.h"
#include "surface/SolidWinding.h"

#include <functional>
#include <map>
#include <optional>

namespace seedloom {

namespace {

constexpr double kJoined = 2e-7;   ///< of the greatest coordinate: places this near become one where rounding makes faces cross
constexpr double kDoubled = 1e-6;  ///< of the size: what the checkup counts as doubled

class SolidCombiner {
public:
    SolidCombiner(const std::vector<Geometry>& base, const std::vector<Geometry>& cutters, const RunContext& run) : run_(run) {
        std::vector<Geometry> all;
        for (const auto* group : {&base, &cutters})
            for (const Geometry& g : *group) all.push_back(outward(g));
        for (const Geometry& g : base) baseFaces_ += g.faceCount();
        in_ = combine(all);
        triangles_ = triangulate(in_);
        for (std::size_t t = 0; t < triangles_.count(); ++t) {
            fromCutter_.push_back(triangles_.faceOf[t] >= baseFaces_);
            part_.push_back(in_.topology().connection().pieceOfPoint[in_.topology().cornerPoint()[triangles_.corners[3 * t]]]);
        }
    }

    /// Places that the cuts make are joined with others within `joined` metres. Cut faces become polygons where it is 0, else triangles.
    std::vector<Geometry> combined(BooleanForm form, double joined, BooleanReport* report) {
        joined_ = joined;
        const BoxTree tree(boxesOf(in_, triangles_));
        // Of one solid only what crosses; of different ones whatever may meet.
        TrianglePairs pairs;
        const TrianglePairs within = crossingTriangles(
            in_, triangles_, tree, [&](Index t, Index u) { return part_[t] == part_[u]; }, run_, &pairs);
        crossed_ = within.size();
        pairs.insert(pairs.end(), within.begin(), within.end());
        arranged_ = std::make_unique<ArrangedFaces>(in_, triangles_, pairs, std::vector<std::uint8_t>{}, std::nullopt, run_);
        if (report) report->meetings = arranged_->cutTriangles(), report->crossed = crossed_;
        windPatches(tree);
        const auto inside = [form](SolidWinding w, bool other) {
            switch (form) {
                case BooleanForm::unite: return w.base > 0 || w.cutters > 0;
                case BooleanForm::intersect: return w.base > 0 && w.cutters > 0;
                default: return w.base > 0 && (w.cutters > 0) == other;
            }
        };
        std::vector<Geometry> parts{result([&](SolidWinding w) { return inside(w, false); })};
        if (form == BooleanForm::split) parts.push_back(result([&](SolidWinding w) { return inside(w, true); }));
        return parts;
    }

    /// Pairs of triangles of one solid that did so before.
    std::size_t crossed() const { return crossed_; }
    /// Places that this made.
    void addMadePlaces(std::vector<Vec3>& out) const {
        for (Index s = arranged_->firstCut(); s < panels().size(); ++s)
            for (Index p : panels()[s].piece.points)
                if (p >= in_.pointCount()) out.push_back(arranged_->place(p));
    }

private:
    /// What looks inwards as a whole is turned over; only faces count here.
    static Geometry outward(const Geometry& g) {
        Geometry faces = g;
        faces.setCopies(nullptr);
        return signedVolume(faces) < 0 ? flipped(faces, std::vector<std::uint8_t>(faces.faceCount(), 1)) : faces;
    }
    /// On which side of each patch what is: measured at its largest sheet.
    void windPatches(const BoxTree& tree) {
        std::vector<std::array<Vec3, 3>> places(triangles_.count());
        for (std::size_t t = 0; t < places.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) places[t][k] = in_.positions()[arranged_->pointAt(Index(3 * t + k))];
        const WindingRays rays(std::move(places), tree, fromCutter_);
        std::map<Index, std::pair<double, Index>> largest;
        for (Index s = 0; s < panels().size(); ++s) {
            const auto p = arranged_->finePlaces(s);
            const FinePlace across = cross(minus(p[1], p[0]), minus(p[2], p[0]));
            const double area = dot(across, across);
            auto& best = largest.try_emplace(arranged_->patchOf(s), -1.0, s).first->second;
            if (area > best.first) best = {area, s};
        }
        std::size_t count = 0;
        for (const auto& [patch, best] : largest) {
            if (++count % 16 == 0) run_.poll();
            const Panel& panel = panels()[best.second];
            std::vector<Index> own{panel.piece.triangle};
            SolidWinding step;
            addStep(step, panel.piece.triangle, 1);
            for (const auto& [piece, sense] : panel.more) own.push_back(piece.triangle), addStep(step, piece.triangle, sense);
            const auto before = rays.inFrontOf(arranged_->finePlaces(best.second), own, step);
            front_[patch] = before;
            back_[patch] = {before.base + step.base, before.cutters + step.cutters};
        }
    }
    void addStep(SolidWinding& to, Index triangle, int sense) const { (fromCutter_[triangle] ? to.cutters : to.base) += sense; }

    enum class Way : std::uint8_t { gone, kept, turned };
    /// What becomes of each panel.
    std::vector<Way> waysOf(const std::function<bool(SolidWinding)>& inside) const {
        std::map<Index, Way> ofPatch;
        for (const auto& [patch, before] : front_) {
            const bool front = inside(before), back = inside(back_.at(patch));
            ofPatch[patch] = front == back ? Way::gone : front ? Way::turned : Way::kept;  // faces look away from what they enclose
        }
        std::vector<Way> out(panels().size());
        Index last = kNone;
        Way way = Way::gone;
        for (Index s = 0; s < out.size(); ++s) {
            if (const Index patch = arranged_->patchOf(s); patch != last) last = patch, way = ofPatch.at(patch);
            out[s] = way;
        }
        return out;
    }
    /// Triangles that nothing cut, by face; the pieces of all other faces go into `pieces`.
    std::vector<Way> wholeTriangles(const std::vector<Way>& ways, std::vector<std::vector<KeptPiece>>& pieces) const {
        std::vector<Way> out(in_.faceCount(), Way::gone);
        for (Index s = 0; s < panels().size(); ++s) {
            if (ways[s] == Way::gone) continue;
            // Of several in one plane that of the base speaks for all.
            const TrianglePiece* piece = &panels()[s].piece;
            int sense = 1;
            for (const auto& [other, otherSense] : panels()[s].more)
                if (fromCutter_[piece->triangle] && !fromCutter_[other.triangle]) piece = &other, sense = otherSense;
            const Index face = triangles_.faceOf[piece->triangle];
            const bool turned = (ways[s] == Way::turned) != (sense < 0);
            if (s < arranged_->firstCut() && in_.topology().face(face).size() == 3) out[face] = ways[s];
            else pieces[face].push_back({*piece, turned});
        }
        return out;
    }

    Geometry result(const std::function<bool(SolidWinding)>& inside) {
        std::vector<std::vector<KeptPiece>> pieces(in_.faceCount());
        const std::vector<Way> whole = wholeTriangles(waysOf(inside), pieces);
        MixPlan plan;
        std::vector<Vec3> positions;
        std::vector<Index> number(arranged_->pointCount(), kNone);
        FaceKinds kinds;
        const auto isNew = [&](Index point) {
            if (number[point] != kNone) return false;
            number[point] = plan.points.size();
            positions.push_back(arranged_->place(point));
            return true;
        };
        const auto corner = [&](Index point, const TrianglePiece& piece, std::size_t k) {
            if (isNew(point)) arranged_->addMixed(plan.points, piece, k, true);
            plan.cornerPoint.push_back(number[point]);
            arranged_->addMixed(plan.corners, piece, k, false);
        };
        const auto wholeCorner = [&](Index c) {
            const Index point = arranged_->standing(in_.topology().cornerPoint()[c]);
            if (isNew(point)) plan.points.add(in_.topology().cornerPoint()[c]);
            plan.cornerPoint.push_back(number[point]);
            plan.corners.add(c);
        };
        const auto endFace = [&](Index f, std::uint8_t kind) {
            plan.endFace(f);
            kinds.push_back(kind);
        };
        for (Index f = 0; f < in_.faceCount(); ++f) {
            if (f % 8192 == 0) run_.poll();
            if (whole[f] != Way::gone) {
                const Index first = in_.topology().faceStart()[f];
                for (Index k = 0; k < 3; ++k) wholeCorner(whole[f] == Way::kept ? first + k : first + 2 - k);
                endFace(f, f < baseFaces_ ? 0 : 1);
            } else if (!pieces[f].empty()) {
                for (const auto& ring : joined_ == 0 ? arranged_->polygons(f, pieces[f]) : arranged_->triangles(f, pieces[f])) {
                    for (const RingCorner& c : ring) corner(c.point, *c.piece, c.corner);
                    endFace(f, fromCutter_[pieces[f].front().piece.triangle]);
                }
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
    Geometry withoutShortCuts(Geometry cut, const std::vector<Index>& number) const {
        std::vector<std::uint8_t> joins(cut.pointCount(), 0);
        for (Index s = arranged_->firstCut(); s < panels().size(); ++s)
            for (Index p : panels()[s].piece.points)
                if (number[p] != kNone) joins[number[p]] = 1;
        auto shortened = drawnTogether(cut, std::max(joined_, boundsOf(cut.positions()).diagonal() * kDoubled), joins);
        if (!shortened) return cut;
        if (oddEdges(*shortened) == 0) return std::move(*shortened);
        // What rounding put onto one place is one point in any case.
        if (auto least = drawnTogether(cut, joined_, joins)) cut = std::move(*least);
        return oddEdges(*shortened) <= oddEdges(cut) ? std::move(*shortened) : cut;
    }
    const std::vector<Panel>& panels() const { return arranged_->panels(); }

    const RunContext& run_;
    Geometry in_;
    std::size_t baseFaces_ = 0;
    Triangles triangles_;
    std::vector<std::uint8_t> fromCutter_;
    std::vector<Index> part_;
    std::size_t crossed_ = 0;
    double joined_ = 0;
    std::unique_ptr<ArrangedFaces> arranged_;
    std::map<Index, SolidWinding> front_, back_;
};

/// Pairs of triangles that cross, of which one has a corner at one of the places (in order): all that there can be where these were rounded.
std::size_t crossingsAt(const Geometry& solid, const std::vector<Vec3>& places, const RunContext& run) {
    const Triangles triangles = triangulate(solid);
    const std::vector<Box> boxes = boxesOf(solid, triangles);
    std::vector<std::uint8_t> made(solid.pointCount());
    forEach(made.size(), run, [&](std::size_t p) { made[p] = std::binary_search(places.begin(), places.end(), solid.positions()[p], inOrder); });
    std::vector<Index> moved;
    for (Index t = 0; t < triangles.count(); ++t) {
        const auto isMade = [&](std::size_t k) { return made[solid.topology().cornerPoint()[triangles.corners[3 * t + k]]]; };
        if (!isMade(0) && !isMade(1) && !isMade(2)) continue;
        moved.push_back(t);
    }
    if (moved.empty()) return 0;
    const BoxTree changed(boxes, std::move(moved));
    std::vector<std::uint8_t> asked(triangles.count(), 0);
    forEach(asked.size(), run, [&](std::size_t t) { changed.meeting(boxes[t], [&](Index) { asked[t] = 1; }); });
    std::vector<Index> near;
    for (Index t = 0; t < asked.size(); ++t)
        if (asked[t]) near.push_back(t);
    return crossingTriangles(solid, triangles, BoxTree(boxes, std::move(near)), {}, run).size();
}

double greatestCoordinate(const Geometry& g) {
    const Bounds bounds = boundsOf(g.positions());
    double out = 0;
    for (int c = 0; c < 3; ++c) out = std::max({out, std::abs(double(bounds.min[c])), std::abs(double(bounds.max[c]))});
    return out;
}

/// Rounding may turn a face through another: what crosses by that is cut there once more, and drawn together. `made` has the places that may do so.
Geometry withoutTurned(Geometry solid, std::vector<Vec3>& made, std::size_t& crossing, const RunContext& run) {
    constexpr int kMostRounds = 5;
    constexpr std::size_t kMostPairs = 1000;  // more than rounding makes: where hundreds of faces meet in one place, each cut makes more
    crossing = crossingsAt(solid, made, run);
    double joined = greatestCoordinate(solid) * kJoined;
    Geometry last = solid;
    for (int round = 0; round < kMostRounds && crossing > 0 && crossing < kMostPairs; ++round, joined *= 2) {
        SolidCombiner again({last}, {}, run);
        last = again.combined(BooleanForm::unite, joined, nullptr).front();
        again.addMadePlaces(made);
        putInOrder(made);
        const std::size_t left = crossingsAt(last, made, run);
        if (oddEdges(last) > oddEdges(solid)) last = solid;
        else if (left < crossing) solid = last, crossing = left;
        else if (left >= kMostPairs) break;
    }
    return solid;
}

/// Parts that only touch in a point, as surfaces that cross themselves have them, get one each.
Geometry withoutTouching(const Geometry& solid, const std::vector<Vec3>& made, const RunContext& run) {
    std::vector<Vec3> places = made;
    Geometry out = pointsApart(solid, boundsOf(solid.positions()).diagonal() * kPointsApart, places);
    if (places.size() == made.size()) return solid;
    putInOrder(places);
    return crossingsAt(out, places, run) > crossingsAt(solid, places, run) ? solid : out;
}

}  // namespace

Geometry combineSolids(const std::vector<Geometry>& base, const std::vector<Geometry>& cutters, BooleanForm form, const RunContext& run,
                       BooleanReport* report) {
    SolidCombiner combiner(base, cutters, run);
    std::vector<Geometry> parts = combiner.combined(form, 0, report);
    std::vector<Vec3> made;
    combiner.addMadePlaces(made);
    putInOrder(made);
    for (Geometry& part : parts) {
        std::size_t crossing = 0;
        part = withoutTurned(std::move(part), made, crossing, run);
        if (combiner.crossed() > 0) part = withoutTouching(part, made, run);
        if (report) report->crossing += crossing, report->odd += oddEdges(part);
    }
    Geometry out = combine(parts);
    if (form == BooleanForm::split) {
        std::vector<std::int32_t> piece(out.faceCount());
        for (std::size_t f = 0; f < piece.size(); ++f) piece[f] = std::int32_t(out.topology().connection().pieceOfPoint[out.topology().face(f)[0]]);
        out.setColumn(Element::face, "piece", Column(std::move(piece)));
    }
    return out;
}

}  // namespace seedloom

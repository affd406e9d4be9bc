#include "surface/Boolean.h"

#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "surface/ArrangedFaces.h"
#include "surface/SolidWinding.h"

#include <functional>
#include <map>
#include <unordered_map>

namespace seedloom {

namespace {

constexpr double kDoubled = 1e-6;  ///< of the size: what the checkup counts as doubled

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
            part_.push_back(in_.topology().connection().pieceOfPoint[in_.topology().cornerPoint()[triangles_.corners[3 * t]]]);
        }
    }

    Geometry combined(BooleanForm form, BooleanReport* report) {
        arranged_ = std::make_unique<ArrangedFaces>(in_, triangles_, part_, std::vector<std::uint8_t>{}, 0, run_);
        if (report) report->meetings = arranged_->cutTriangles();
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
    /// On which side of each patch what is: measured at its largest sheet.
    void windPatches() {
        std::vector<std::array<Vec3, 3>> places(triangles_.count());
        for (std::size_t t = 0; t < places.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) places[t][k] = in_.positions()[arranged_->pointAt(Index(3 * t + k))];
        const WindingRays rays(std::move(places), fromCutter_);
        std::map<Index, std::pair<double, Index>> largest;
        const auto place = [&](Index p) { return arranged_->place(p); };
        for (Index s = 0; s < panels().size(); ++s) {
            const auto& p = panels()[s].piece.points;
            const double area = double(length(cross(place(p[1]) - place(p[0]), place(p[2]) - place(p[0]))));
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
            const auto& p = panel.piece.points;
            const auto before = rays.inFrontOf(place(p[0]), place(p[1]), place(p[2]), own, step);
            front_[patch] = before;
            back_[patch] = {before.base + step.base, before.cutters + step.cutters};
        }
    }
    void addStep(SolidWinding& to, Index triangle, int sense) const { (fromCutter_[triangle] ? to.cutters : to.base) += sense; }

    Geometry result(const std::function<bool(SolidWinding)>& inside) {
        std::vector<std::vector<KeptPiece>> ofFace(in_.faceCount());
        for (Index s = 0; s < panels().size(); ++s) {
            const Index patch = arranged_->patchOf(s);
            const bool front = inside(front_.at(patch)), back = inside(back_.at(patch));
            if (front == back) continue;
            // Of several in one plane that of the base speaks for all.
            const TrianglePiece* piece = &panels()[s].piece;
            int sense = 1;
            for (const auto& [other, otherSense] : panels()[s].more)
                if (fromCutter_[piece->triangle] && !fromCutter_[other.triangle]) piece = &other, sense = otherSense;
            ofFace[triangles_.faceOf[piece->triangle]].push_back({*piece, front != (sense < 0)});
        }
        MixPlan plan;
        std::vector<Vec3> positions;
        std::unordered_map<Index, Index> number;
        FaceKinds kinds;
        const auto corner = [&](Index point, const TrianglePiece& piece, std::size_t k) {
            const auto [it, isNew] = number.try_emplace(point, plan.points.size());
            if (isNew) {
                arranged_->addMixed(plan.points, piece, k, true);
                positions.push_back(arranged_->place(point));
            }
            plan.cornerPoint.push_back(it->second);
            arranged_->addMixed(plan.corners, piece, k, false);
        };
        for (Index f = 0; f < ofFace.size(); ++f) {
            if (f % 8192 == 0) run_.poll();
            const std::uint8_t kind = ofFace[f].empty() ? 0 : std::uint8_t(fromCutter_[ofFace[f].front().piece.triangle]);
            for (const auto& ring : arranged_->polygons(f, ofFace[f])) {
                for (const RingCorner& c : ring) corner(c.point, *c.piece, c.corner);
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
        for (Index s = arranged_->firstCut(); s < panels().size(); ++s)
            for (Index p : panels()[s].piece.points)
                if (const auto it = number.find(p); it != number.end()) joins[it->second] = 1;
        WeldResult welded = weld(cut, boundsOf(cut.positions()).diagonal() * kDoubled, joins);
        if (welded.joinedPoints == 0) return cut;
        const auto odd = [](const Geometry& g) {
            return std::count_if(g.topology().edges().faceCount.begin(), g.topology().edges().faceCount.end(), [](auto n) { return n != 2; });
        };
        return odd(welded.geometry) <= odd(cut) ? std::move(welded.geometry) : cut;
    }
    const std::vector<Panel>& panels() const { return arranged_->panels(); }

    const RunContext& run_;
    Geometry in_;
    Triangles triangles_;
    std::vector<std::uint8_t> fromCutter_;
    std::vector<Index> part_;
    std::unique_ptr<ArrangedFaces> arranged_;
    std::map<Index, SolidWinding> front_, back_;
};

}  // namespace

Geometry combineSolids(const std::vector<Geometry>& base, const std::vector<Geometry>& cutters, BooleanForm form, const RunContext& run,
                       BooleanReport* report) {
    return SolidCombiner(base, cutters, run).combined(form, report);
}

}  // namespace seedloom

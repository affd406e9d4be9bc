#include "breaking/SolidCells.h"

#include "breaking/MirroredTriangles.h"
#include "breaking/PieceRings.h"
#include "geometry/RayScene.h"
#include "geometry/Rows.h"
#include "scatter/VolumeSamples.h"
#include "surface/PartPairs.h"

#include <deque>
#include <map>
#include <set>
#include <span>
#include <tuple>

namespace seedloom {

namespace {

constexpr double kJoined = 1e-6;  ///< of the size: what the checkup counts as doubled

/// The surface of one part of space: sides of patches that bound it.
struct Shell {
    double volume = 0;                     ///< six times, negative where it bounds from inside
    Index cell = kNoCell;                  ///< by most of its walls
    bool walled = false, skinned = false;  ///< has walls, has faces of the solid
    bool beside = false;                   ///< of walls that do not meet the solid, and are not in it
    Index first = kNone;                   ///< its first panel, and the side of it
    bool front = false;
    double largest = -1;
};

class Breaker {
public:
    Breaker(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, double size, const RunContext& run)
        : solid_(solid), solidFaces_(Index(solid.faceCount())), walls_(walls), cellAt_(cellAt), run_(run), size_(size) {
        Geometry faces = solid;
        faces.setCopies(nullptr);
        in_ = combine({faces, walls.geometry});
        triangles_ = mirroredTriangles(in_);
        for (std::size_t t = 0; t < triangles_.count(); ++t) {
            const bool wall = isWall(Index(t));
            kind_.push_back(wall);
            part_.push_back(!wall ? 0 : 1 + (walls.group.empty() ? 0 : walls.group[triangles_.faceOf[t] - solidFaces_]));
        }
    }

    SolidPieces broken() {
        const ArrangedFaces arranged(in_, triangles_, partPairs(in_, triangles_, part_, run_), kind_, size_ * kJoined, run_);
        arranged_ = &arranged;
        run_.setProgress(0.7f);
        const PatchSides sides(arranged, in_, kind_, size_, run_);
        sides_ = &sides;
        run_.poll();
        measureShells();
        findSurrounding();
        run_.setProgress(0.85f);
        run_.poll();
        return pieces();
    }

private:
    bool isWall(Index triangle) const { return triangles_.faceOf[triangle] >= solidFaces_; }
    const std::vector<Panel>& panels() const { return arranged_->panels(); }
    bool wallPanel(Index panel) const { return kind_[panels()[panel].piece.triangle]; }
    /// Nothing where a panel's side bounds nothing: outside, or a wall with the same part before and behind it.
    std::optional<Index> shellAt(Index panel, bool front) const {
        const Index patch = arranged_->patchOf(panel);
        if (!wallPanel(panel)) return front ? std::nullopt : std::optional(sides_->shellOf(patch, false));
        const Index own = sides_->shellOf(patch, front);
        if (sides_->outside(own) || own == sides_->shellOf(patch, !front)) return {};
        return own;
    }
    double volumeUnder(Index panel) const {
        const auto& p = panels()[panel].piece.points;
        const auto at = [&](std::size_t k) {
            const Vec3 v = arranged_->place(p[k]) - middle();
            return std::array<double, 3>{double(v.x), double(v.y), double(v.z)};
        };
        const auto a = at(0), b = at(1), c = at(2);
        return a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0]);
    }
    Vec3 middle() const { return in_.pointCount() ? in_.positions()[0] : Vec3{}; }
    double areaOf(Index panel) const {
        const auto& p = panels()[panel].piece.points;
        return double(length(cross(arranged_->place(p[1]) - arranged_->place(p[0]), arranged_->place(p[2]) - arranged_->place(p[0]))));
    }

    void measureShells() {
        std::map<std::pair<Index, Index>, double> votes;
        for (Index s = 0; s < panels().size(); ++s)
            for (bool front : {false, true})
                if (const auto shell = shellAt(s, front)) {
                    Shell& to = shells_[*shell];
                    to.volume += front ? -volumeUnder(s) : volumeUnder(s);
                    const double area = areaOf(s);
                    if (area > to.largest) to.largest = area, to.first = s, to.front = front;
                    to.skinned |= !wallPanel(s);
                    if (wallPanel(s)) votes[{*shell, walls_.cells[wallFace(s)][front ? 0 : 1]}] += area;
                }
        std::map<Index, double> most;
        for (const auto& [key, area] : votes) {
            Shell& to = shells_[key.first];
            double& best = most.try_emplace(key.first, -1.0).first->second;
            if (area > best) best = area, to.cell = key.second;
            to.walled = true;
        }
        std::optional<InsideTest> test;
        for (auto& [id, shell] : shells_) {
            if (!shell.walled) shell.cell = cellAt_(centreOf(shell.first));
            if (shell.skinned) continue;
            // Walls alone, all around: in the middle of the solid, or beside it.
            if (!test) test.emplace(solid_);
            if (!test->inside(centreOf(shell.first))) shell.cell = kNoCell, shell.beside = true;
        }
    }
    Index wallFace(Index panel) const { return triangles_.faceOf[panels()[panel].piece.triangle] - solidFaces_; }
    Vec3 centreOf(Index panel) const {
        const auto& p = panels()[panel].piece.points;
        return (arranged_->place(p[0]) + arranged_->place(p[1]) + arranged_->place(p[2])) / 3;
    }

    /// A shell that bounds its part from inside, as a hollow's, belongs to what a ray from it into the part meets first.
    void findSurrounding() {
        std::vector<Index> hollow;
        for (const auto& [id, shell] : shells_) {
            partOf_[id] = id;
            if (shell.volume < 0 && !shell.beside) hollow.push_back(id);
        }
        if (hollow.empty()) return;
        std::vector<Vec3> places;
        std::vector<Index> start{0}, corners, panelOf;
        for (Index s = 0; s < panels().size(); ++s) {
            if (!shellAt(s, false) && !shellAt(s, true)) continue;
            for (Index p : panels()[s].piece.points) corners.push_back(Index(places.size())), places.push_back(arranged_->place(p));
            start.push_back(Index(corners.size()));
            panelOf.push_back(s);
        }
        const std::size_t count = places.size();
        const RayScene rays(Geometry(std::move(places), Topology(count, std::move(start), std::move(corners), {0}, {}, {})));
        for (Index id : hollow) {
            const Shell& shell = shells_.at(id);
            const Vec3 n = normalOf(shell.first), way = normalized((shell.front ? n : -n) + Vec3{0.0131f, 0.0173f, 0.0119f});
            float from = float(size_ * 1e-6);
            for (int tries = 0; tries < 1000; ++tries) {
                const auto hit = rays.hit(centreOf(shell.first), way, from);
                if (!hit) break;
                const Index panel = panelOf[hit->face];
                const bool front = dot(normalOf(panel), way) < 0;
                const auto met = shellAt(panel, front);
                if (met && *met != id) {
                    partOf_[id] = *met;
                    break;
                }
                from = std::nextafter(hit->distance, hit->distance * 2 + 1) + hit->distance * 1e-6f;
            }
        }
    }
    Vec3 normalOf(Index panel) const {
        const Index t = panels()[panel].piece.triangle;
        const auto at = [&](Index k) { return in_.positions()[arranged_->pointAt(3 * t + k)]; };
        return normalized(cross(at(1) - at(0), at(2) - at(0)), {});
    }
    Index partOf(Index shell) const {
        for (int steps = 0; steps < 1000; ++steps) {
            const Index next = partOf_.at(shell);
            if (next == shell) break;
            shell = next;
        }
        return shell;
    }

    struct Kept {
        Index piece, face, patch, panel;
        bool turned;
    };
    SolidPieces pieces() {
        std::vector<Kept> kept;
        std::map<Index, std::pair<Index, Index>> order;  // of a part: its cell, and its first face
        for (Index s = 0; s < panels().size(); ++s)
            for (bool front : {false, true})
                if (const auto shell = shellAt(s, front)) {
                    const Index part = partOf(*shell), cell = shells_.at(part).cell;
                    if (cell == kNoCell) continue;
                    const Index face = triangles_.faceOf[panels()[s].piece.triangle];
                    kept.push_back({part, face, arranged_->patchOf(s), s, front});
                    auto& first = order.try_emplace(part, cell, face).first->second;
                    first.second = std::min(first.second, face);
                }
        std::vector<std::tuple<Index, Index, Index>> sorted;
        for (const auto& [part, place] : order) sorted.push_back({place.first, place.second, part});
        std::sort(sorted.begin(), sorted.end());
        SolidPieces out;
        out.volume = signedVolume(solid_);
        std::map<Index, Index> number;
        for (const auto& [cell, face, part] : sorted) number[part] = Index(out.cellOfPiece.size()), out.cellOfPiece.push_back(cell);
        for (Kept& k : kept) k.piece = number.at(k.piece);
        std::sort(kept.begin(), kept.end(), [](const Kept& a, const Kept& b) {
            return std::tie(a.piece, a.face, a.patch, a.panel, a.turned) < std::tie(b.piece, b.face, b.patch, b.panel, b.turned);
        });
        write(kept, touchingThemselves(number), out);
        return out;
    }

    std::vector<PieceRing> ringsOf(std::span<const Kept> kept, std::deque<std::vector<KeptPiece>>& together) const {
        std::vector<PieceRing> out;
        for (std::size_t i = 0; i < kept.size();) {
            auto& list = together.emplace_back();
            const std::size_t first = i;
            for (; i < kept.size() && kept[i].face == kept[first].face && kept[i].patch == kept[first].patch; ++i)
                list.push_back({panels()[kept[i].panel].piece, kept[i].turned});
            for (auto& ring : arranged_->polygons(kept[first].face, list)) {
                std::vector<Index> sides;
                for (const RingCorner& c : ring) sides.push_back(kept[first + c.kept].panel);
                out.push_back({kept[first].face, kept[first].face >= solidFaces_, kept[first].turned, std::move(ring), std::move(sides)});
            }
        }
        absorbFlat(out, *arranged_, together);
        return out;
    }
    /// Pieces that meet themselves along an edge, where walls cross and opposite parts hang together elsewhere.
    std::set<Index> touchingThemselves(const std::map<Index, Index>& number) const {
        std::set<Index> out;
        for (const auto& edge : arranged_->edges()) {
            if (edge.panels.size() < 4) continue;
            std::map<Index, int> sides;
            for (Index s : edge.panels)
                for (bool front : {false, true})
                    if (const auto shell = shellAt(s, front))
                        if (const auto piece = number.find(partOf(*shell)); piece != number.end() && ++sides[piece->second] == 3) out.insert(piece->second);
        }
        return out;
    }
    void write(const std::vector<Kept>& kept, const std::set<Index>& touching, SolidPieces& out) const {
        MixPlan plan;
        std::vector<Vec3> positions;
        std::vector<std::int32_t> piece;
        FaceKinds kinds;
        std::unordered_map<std::uint64_t, Index> number;
        for (std::size_t i = 0; i < kept.size();) {
            run_.poll();
            std::size_t end = i;
            while (end < kept.size() && kept[end].piece == kept[i].piece) ++end;
            std::deque<std::vector<KeptPiece>> together;  // rings point into it
            const std::vector<PieceRing> rings = ringsOf(std::span(kept).subspan(i, end - i), together);
            const std::vector<Index> fans = touching.count(kept[i].piece) ? fansOf(rings, *sides_) : std::vector<Index>();
            number.clear();
            std::size_t at = 0;
            for (const PieceRing& ring : rings) {
                for (const RingCorner& c : ring.corners) {
                    const std::uint64_t fan = fans.empty() ? 0 : fans[at++];
                    const auto [it, isNew] = number.try_emplace(fan << 32 | c.point, plan.points.size());
                    if (isNew) {
                        arranged_->addMixed(plan.points, *c.piece, c.corner, true);
                        positions.push_back(arranged_->place(c.point));
                    }
                    plan.cornerPoint.push_back(it->second);
                    arranged_->addMixed(plan.corners, *c.piece, c.corner, false);
                }
                plan.endFace(ring.source);
                kinds.push_back(ring.inside);
                piece.push_back(std::int32_t(kept[i].piece));
                out.faces.push_back({ring.inside ? ring.source - solidFaces_ : ring.source, ring.inside, ring.turned});
            }
            i = end;
        }
        Geometry source = in_;
        source.setCopies(nullptr);
        out.geometry = takeMixed(source, std::move(plan), std::move(positions));
        tagKind(out.geometry, "inside", kinds, 1);
        out.geometry.setColumn(Element::face, "piece", Column(std::move(piece)));
        for (Element element : {Element::point, Element::corner, Element::face}) out.geometry.removeColumn(element, "normal");
    }

    const Geometry& solid_;
    Index solidFaces_;
    const Walls& walls_;
    const std::function<Index(Vec3)>& cellAt_;
    const RunContext& run_;
    double size_;
    Geometry in_;
    Triangles triangles_;
    std::vector<std::uint8_t> kind_;
    std::vector<Index> part_;
    const ArrangedFaces* arranged_ = nullptr;
    const PatchSides* sides_ = nullptr;
    std::map<Index, Shell> shells_;
    std::map<Index, Index> partOf_;
};

}  // namespace

SolidPieces cutIntoPieces(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, double size, const RunContext& run) {
    return Breaker(solid, walls, cellAt, size, run).broken();
}

}  // namespace seedloom

#include "operators/surface/BevelKernel.h"

#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "operators/surface/CornerPatch.h"

namespace seedloom {

namespace {

constexpr float kLongestSlide = 6;  ///< times the width, along an edge at a small angle

/// A row mixed of others.
using Mix = std::vector<std::pair<Index, float>>;

Mix mixed(const Mix& a, const Mix& b, float t) {
    if (t <= 0) return a;
    if (t >= 1) return b;
    Mix out = a;
    for (auto& [row, weight] : out) weight *= 1 - t;
    for (const auto& [row, weight] : b) out.push_back({row, weight * t});
    return out;
}

void addTo(RowMix& rows, const Mix& mix) {
    if (mix.size() == 1) {
        rows.add(mix[0].first);
        return;
    }
    for (const auto& [row, weight] : mix) rows.part(row, weight);
    rows.close();
}

/// A corner's place on the border of its face: v moved towards its neighbours in the face by parts of the ways to them.
struct Station {
    Index point = kNone;  ///< number in the result
    float toPrev = 0, toNext = 0;
};

/// The faces around a point that hang together by edges, in order.
struct Fan {
    Index point = 0;
    std::vector<Index> corners;
    bool closed = false;
    std::vector<std::vector<Station>> stations;  ///< by corner: the face's border there, from its edge in to its edge out
    std::vector<std::vector<Index>> arcs;        ///< by slot: points across a strip, from the face where the edge leaves to the one where it arrives
    int chosen = 0;

    std::size_t slots() const { return closed ? corners.size() : corners.size() + 1; }
    std::size_t in(std::size_t i) const { return closed ? (i + corners.size() - 1) % corners.size() : i; }
    std::size_t out(std::size_t i) const { return closed ? i : i + 1; }
};

class Beveller {
public:
    Beveller(const Geometry& in, const BevelOptions& options)
        : in_(in), t_(in.topology()), options_(options), twin_(twinCorners(t_)), width_(options.width), fanOfCorner_(t_.cornerCount(), kNone),
          placeInFan_(t_.cornerCount(), 0) {}

    Geometry run(const RunContext& run, std::size_t* held) {
        makeFans();
        *held = holdWidths(run);
        run.poll();
        number_.assign(in_.pointCount(), kNone);
        for (Fan& fan : fans_) makeStations(fan, true);
        for (Fan& fan : fans_) makeArcs(fan);
        addFaces();
        addStrips(run);
        for (Fan& fan : fans_) addPatch(fan);
        addRest();
        Geometry out = takeMixed(in_, std::move(plan_), std::move(positions_));
        for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
        tagKind(out, "bevel", kinds_, 1);
        return out;
    }

private:
    Vec3 place(Index p) const { return in_.positions()[p]; }
    Index pointOf(Index c) const { return t_.cornerPoint()[c]; }
    Index next(Index c) const {
        const Index f = t_.faceOfCorner()[c];
        return c + 1 == t_.faceStart()[f + 1] ? t_.faceStart()[f] : c + 1;
    }
    Index prev(Index c) const {
        const Index f = t_.faceOfCorner()[c];
        return c == t_.faceStart()[f] ? t_.faceStart()[f + 1] - 1 : c - 1;
    }
    bool chosenEdge(Index c) const { return !options_.edges.empty() && twin_[c] != kNone && options_.edges[t_.edges().cornerEdge[c]]; }

    void makeFans() {
        for (Index start = 0; start < t_.cornerCount(); ++start) {
            if (fanOfCorner_[start] != kNone) continue;
            Index first = start;
            bool closed = false;
            while (twin_[prev(first)] != kNone) {
                first = twin_[prev(first)];
                if (first == start) {
                    closed = true;
                    break;
                }
            }
            Fan fan;
            fan.point = pointOf(start);
            fan.closed = closed;
            for (Index c = first;;) {
                fanOfCorner_[c] = static_cast<Index>(fans_.size());
                placeInFan_[c] = static_cast<Index>(fan.corners.size());
                fan.corners.push_back(c);
                fan.chosen += chosenEdge(c);
                if (twin_[c] == kNone) break;
                c = next(twin_[c]);
                if (c == first) break;
            }
            if (!closed) fan.chosen += chosenEdge(prev(first));
            fan.arcs.resize(fan.slots());
            fans_.push_back(std::move(fan));
        }
    }

    bool cut(const Fan& fan) const { return !options_.points.empty() && options_.points[fan.point]; }
    bool touched(const Fan& fan) const { return fan.chosen > 0 || cut(fan); }
    bool slotChosen(const Fan& fan, std::size_t slot) const {
        if (fan.closed) return chosenEdge(fan.corners[slot]);
        return slot == 0 ? chosenEdge(prev(fan.corners.front())) : chosenEdge(fan.corners[slot - 1]);
    }
    Index otherEnd(const Fan& fan, std::size_t slot) const {
        if (fan.closed) return pointOf(next(fan.corners[slot]));
        return slot == 0 ? pointOf(prev(fan.corners.front())) : pointOf(next(fan.corners[slot - 1]));
    }

    /// How far the point on each edge that stays lies from the fan's point, or −1 where there is none.
    std::vector<float> slides(const Fan& fan) const {
        std::vector<float> sum(fan.slots(), 0), count(fan.slots(), 0);
        const float w = width_[fan.point];
        for (std::size_t i = 0; i < fan.corners.size(); ++i) {
            const bool inChosen = slotChosen(fan, fan.in(i)), outChosen = slotChosen(fan, fan.out(i));
            if (inChosen == outChosen) continue;
            const Index c = fan.corners[i];
            const Vec3 a = normalized(place(pointOf(prev(c))) - place(fan.point), {}), b = normalized(place(pointOf(next(c))) - place(fan.point), {});
            const float sine = length(cross(a, b));
            const std::size_t slot = inChosen ? fan.out(i) : fan.in(i);
            sum[slot] += std::min(w / std::max(sine, 1e-6f), w * kLongestSlide);
            count[slot] += 1;
        }
        std::vector<float> out(fan.slots(), -1);
        const bool all = fan.chosen >= 2 || cut(fan);
        for (std::size_t s = 0; s < out.size(); ++s) {
            if (slotChosen(fan, s)) continue;
            if (count[s] > 0) out[s] = sum[s] / count[s];
            else if (all) out[s] = w;
        }
        return out;
    }
    /// As a part of the edge.
    float part(const Fan& fan, float slide, Index end) const {
        const float whole = distance(place(fan.point), place(end));
        return whole > 0 ? slide / whole : 0;
    }
    /// The place at the width from both edges of a corner, as parts of the ways to its neighbours.
    Station insetStation(Index c) const {
        const Vec3 v = place(pointOf(c)), a = place(pointOf(prev(c))) - v, b = place(pointOf(next(c))) - v;
        const float sine = length(cross(normalized(a, {}), normalized(b, {}))), w = width_[pointOf(c)];
        // Straight on: beside the corner, in the face.
        if (sine < 1e-3f) return {kNone, 0, 0};
        return {kNone, std::min(w / sine, w * kLongestSlide) / std::max(length(a), 1e-30f),
                std::min(w / sine, w * kLongestSlide) / std::max(length(b), 1e-30f)};
    }
    Vec3 placeOf(Index c, const Station& s) const {
        const Vec3 v = place(pointOf(c));
        return v + (place(pointOf(prev(c))) - v) * s.toPrev + (place(pointOf(next(c))) - v) * s.toNext;
    }
    /// For straight corners of an outline: at a right angle to the edge, in the face.
    Vec3 insetPlace(Index c, const Station& s) const {
        if (s.toPrev != 0 || s.toNext != 0) return placeOf(c, s);
        const Vec3 n = normalized(areaVector(t_.face(t_.faceOfCorner()[c]), in_.positions()), {});
        return place(pointOf(c)) + cross(n, normalized(place(pointOf(next(c))) - place(pointOf(prev(c))), {})) * width_[pointOf(c)];
    }

    Index addPoint(Vec3 at, const Mix& mix) {
        addTo(plan_.points, mix);
        positions_.push_back(at);
        mixes_.push_back(mix);
        return plan_.points.size() - 1;
    }
    Index oldPoint(Index p) {
        if (number_[p] == kNone) number_[p] = addPoint(place(p), {{p, 1.0f}});
        return number_[p];
    }
    Mix pointMix(Index c, const Station& s) const {
        if (s.toPrev == 0 && s.toNext == 0) return {{pointOf(c), 1.0f}};
        return {{pointOf(c), 1 - s.toPrev - s.toNext}, {pointOf(prev(c)), s.toPrev}, {pointOf(next(c)), s.toNext}};
    }
    Mix cornerMix(Index c, const Station& s) const {
        if (s.toPrev == 0 && s.toNext == 0) return {{c, 1.0f}};
        return {{c, 1 - s.toPrev - s.toNext}, {prev(c), s.toPrev}, {next(c), s.toNext}};
    }

    /// Where each face's border runs near the fan's point. Without `number`, only for the test whether there is room.
    void makeStations(Fan& fan, bool number) {
        fan.stations.assign(fan.corners.size(), {});
        if (!touched(fan)) {
            for (std::size_t i = 0; i < fan.corners.size(); ++i) fan.stations[i] = {Station{number ? oldPoint(fan.point) : kNone, 0, 0}};
            return;
        }
        const std::vector<float> slide = slides(fan);
        std::vector<Index> slidePoint(fan.slots(), kNone);
        const auto onEdge = [&](std::size_t i, std::size_t slot, bool isIn) {
            const Index c = fan.corners[i], end = otherEnd(fan, slot);
            Station s;
            (isIn ? s.toPrev : s.toNext) = part(fan, slide[slot], end);
            if (number && slidePoint[slot] == kNone) slidePoint[slot] = addPoint(placeOf(c, s), pointMix(c, s));
            s.point = slidePoint[slot];
            return s;
        };
        for (std::size_t i = 0; i < fan.corners.size(); ++i) {
            const Index c = fan.corners[i];
            const std::size_t in = fan.in(i), out = fan.out(i);
            const bool inChosen = slotChosen(fan, in), outChosen = slotChosen(fan, out);
            auto& stations = fan.stations[i];
            if (inChosen && outChosen) {
                Station s = insetStation(c);
                if (number) s.point = addPoint(insetPlace(c, s), pointMix(c, s));
                stations = {s};
            } else if (inChosen || outChosen) {
                stations = {onEdge(i, inChosen ? out : in, outChosen)};
            } else {
                if (slide[in] >= 0) stations.push_back(onEdge(i, in, true));
                if (slide[in] < 0 || slide[out] < 0) stations.push_back({number ? oldPoint(fan.point) : kNone, 0, 0});
                if (slide[out] >= 0) stations.push_back(onEdge(i, out, false));
            }
        }
    }

    /// Makes widths smaller, a tenth at a time, until no edge of a face runs backwards.
    std::size_t holdWidths(const RunContext& run) {
        constexpr int kMostRounds = 80;
        for (int round = 0; round < kMostRounds; ++round) {
            run.poll();
            for (Fan& fan : fans_) makeStations(fan, false);
            std::vector<std::uint8_t> tight(in_.pointCount(), 0);
            bool any = false;
            for (Index c = 0; c < t_.cornerCount(); ++c) {
                const Index d = next(c);
                const Fan &here = fans_[fanOfCorner_[c]], &there = fans_[fanOfCorner_[d]];
                if (!touched(here) && !touched(there)) continue;
                const Vec3 from = insetOf(c, here.stations[placeInFan_[c]].back()), to = insetOf(d, there.stations[placeInFan_[d]].front());
                // A little of every edge is left, so that no face loses a side.
                const Vec3 whole = place(pointOf(d)) - place(pointOf(c));
                if (dot(to - from, whole) > 1e-3f * dot(whole, whole)) continue;
                tight[pointOf(c)] = tight[pointOf(d)] = 1;
                any = true;
            }
            if (!any) break;
            for (std::size_t p = 0; p < tight.size(); ++p)
                if (tight[p]) width_[p] *= 0.9f;
        }
        std::size_t held = 0;
        for (std::size_t p = 0; p < width_.size(); ++p) held += width_[p] < options_.width[p];
        return held;
    }
    Vec3 insetOf(Index c, const Station& s) const {
        const Fan& fan = fans_[fanOfCorner_[c]];
        const std::size_t i = placeInFan_[c];
        return slotChosen(fan, fan.in(i)) && slotChosen(fan, fan.out(i)) ? insetPlace(c, s) : placeOf(c, s);
    }

    /// Circles (rational quadratic curves) from border to border across each strip's end.
    void makeArcs(Fan& fan) {
        if (fan.chosen == 0) return;
        std::vector<Index> shared;
        for (std::size_t i = 0; i < fan.corners.size(); ++i) {
            const std::size_t slot = fan.out(i);
            if (!slotChosen(fan, slot) || twin_[fan.corners[i]] == kNone) continue;
            const std::size_t j = (i + 1) % fan.corners.size();
            const Index a = fan.stations[i].back().point, b = fan.stations[j].front().point;
            // Two strips that go on into each other have one end in common.
            if (fan.chosen == 2 && !shared.empty() && shared.front() == b && shared.back() == a) {
                fan.arcs[slot].assign(shared.rbegin(), shared.rend());
                continue;
            }
            fan.arcs[slot] = arc(fan, otherEnd(fan, slot), a, b);
            shared = fan.arcs[slot];
        }
    }
    std::vector<Index> arc(const Fan& fan, Index towards, Index a, Index b) {
        std::vector<Index> out{a};
        const Vec3 v = place(fan.point), pa = positions_[a], pb = positions_[b], e = normalized(place(towards) - v, {});
        // Two strips in line share an end at the old point; else the arc stands where its ends are along the edge.
        const Vec3 q = v + e * ((dot(pa - v, e) + dot(pb - v, e)) / 2);
        const Vec3 toA = normalized(pa - q, {}), toB = normalized(pb - q, {});
        const float weight = std::sqrt(std::max(0.0f, (1 - dot(toA, toB)) / 2));
        for (int s = 1; s < options_.segments; ++s) {
            const float t = float(s) / float(options_.segments);
            if (a == b) {
                out.push_back(a);
                continue;
            }
            const float wa = (1 - t) * (1 - t), wq = 2 * t * (1 - t) * weight, wb = t * t;
            out.push_back(addPoint((pa * wa + q * wq + pb * wb) / (wa + wq + wb), mixed(mixes_[a], mixes_[b], t)));
        }
        out.push_back(b);
        return out;
    }

    void corner(Index point, const Mix& rows) {
        // A point that is there already would make an empty edge.
        if (plan_.cornerPoint.size() > plan_.faceStart.back() && plan_.cornerPoint.back() == point) return;
        plan_.cornerPoint.push_back(point);
        faceCorners_.push_back(rows);
    }
    void endFace(Index source, std::uint8_t kind) {
        const std::size_t begin = plan_.faceStart.back();
        while (plan_.cornerPoint.size() > begin + 1 && plan_.cornerPoint.back() == plan_.cornerPoint[begin])
            plan_.cornerPoint.pop_back(), faceCorners_.pop_back();
        if (plan_.cornerPoint.size() < begin + 3 && kind != 0) {
            plan_.cornerPoint.resize(begin);
            faceCorners_.clear();
            return;
        }
        for (const Mix& rows : faceCorners_) addTo(plan_.corners, rows);
        faceCorners_.clear();
        plan_.endFace(source);
        kinds_.push_back(kind);
    }

    /// The single arc that ends in the open, where its other side is the border of just one face.
    const std::vector<Index>* arcInto(const Fan& fan, std::size_t i) const {
        if (fan.chosen != 1 || fan.stations[i].size() != 2 || options_.segments < 2) return nullptr;
        const Index first = fan.stations[i].front().point, last = fan.stations[i].back().point;
        for (const auto& arc : fan.arcs)
            if (!arc.empty() && arc.front() == last && arc.back() == first) return &arc;
        return nullptr;
    }
    void addFaces() {
        for (Index f = 0; f < t_.faceCount(); ++f) {
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) {
                const Fan& fan = fans_[fanOfCorner_[c]];
                const std::size_t i = placeInFan_[c];
                const auto& stations = fan.stations[i];
                const auto* round = arcInto(fan, i);
                for (std::size_t s = 0; s < stations.size(); ++s) {
                    corner(stations[s].point, cornerMix(c, stations[s]));
                    if (!round || s != 0) continue;
                    for (std::size_t k = round->size() - 1; k-- > 1;)
                        corner((*round)[k], mixed(cornerMix(c, stations[0]), cornerMix(c, stations[1]), 1 - float(k) / float(round->size() - 1)));
                }
            }
            endFace(f, 0);
        }
    }

    void addStrips(const RunContext& run) {
        for (Index c = 0; c < t_.cornerCount(); ++c) {
            const Index d = twin_[c];
            if (!chosenEdge(c) || d < c) continue;
            if (c % 4096 == 0) run.poll();
            const Fan &from = fans_[fanOfCorner_[c]], &to = fans_[fanOfCorner_[d]];
            const auto& a = from.arcs[from.out(placeInFan_[c])];
            std::vector<Index> b = to.arcs[to.out(placeInFan_[d])];
            std::reverse(b.begin(), b.end());
            const int half = (options_.segments + 1) / 2;
            for (int s = 0; s < options_.segments; ++s) {
                // Each half belongs to the face beside it, so that a seam of the texture stays where it was.
                const bool first = s < half;
                const Index f = t_.faceOfCorner()[first ? c : d];
                const auto row = [&](bool near, int k) {
                    const Index at = first ? (near ? c : next(c)) : (near ? next(d) : d);
                    const Fan& fan = fans_[fanOfCorner_[at]];
                    const auto& stations = fan.stations[placeInFan_[at]];
                    const Station& border = (first == near) ? stations.back() : stations.front();
                    const float t = first ? float(k) / float(options_.segments) * 2 : float(options_.segments - k) / float(options_.segments) * 2;
                    return mixed(cornerMix(at, border), {{at, 1.0f}}, std::min(t, 1.0f));
                };
                corner(b[std::size_t(s)], row(false, s)), corner(a[std::size_t(s)], row(true, s));
                corner(a[std::size_t(s) + 1], row(true, s + 1)), corner(b[std::size_t(s) + 1], row(false, s + 1));
                endFace(f, 1);
            }
        }
    }

    struct BorderPoint {
        Index point;
        Mix rows;
    };
    /// The border of the hole at a fan's point, in the order of a face that fills it.
    std::vector<BorderPoint> holeOf(const Fan& fan) const {
        std::vector<BorderPoint> ring;
        const auto add = [&](Index point, Mix rows) {
            if (ring.empty() || ring.back().point != point) ring.push_back({point, std::move(rows)});
        };
        for (std::size_t i = 0; i < fan.corners.size(); ++i) {
            const Index c = fan.corners[i];
            for (const Station& s : fan.stations[i]) add(s.point, cornerMix(c, s));
            const auto& arc = fan.arcs[fan.out(i)];
            const std::size_t j = (i + 1) % fan.corners.size();
            for (std::size_t k = 1; k + 1 < arc.size(); ++k)
                add(arc[k], 2 * k < arc.size() ? mixed(cornerMix(c, fan.stations[i].back()), {{c, 1.0f}}, 0.5f)
                                               : mixed(cornerMix(fan.corners[j], fan.stations[j].front()), {{fan.corners[j], 1.0f}}, 0.5f));
        }
        while (ring.size() > 1 && ring.back().point == ring.front().point) ring.pop_back();
        std::reverse(ring.begin(), ring.end());
        return ring;
    }

    void addPatch(const Fan& fan) {
        if (!touched(fan)) return;
        // A single strip that runs out into one face's border, or two in line, leave no hole.
        for (std::size_t i = 0; i < fan.corners.size(); ++i)
            if (arcInto(fan, i)) return;
        if (fan.chosen == 1 && !fan.closed) return;
        const auto ring = holeOf(fan);
        std::vector<Index> different;
        for (const BorderPoint& p : ring) different.push_back(p.point);
        std::sort(different.begin(), different.end());
        if (ring.size() < 3 || std::adjacent_find(different.begin(), different.end()) != different.end()) return;
        const Index f = t_.faceOfCorner()[fan.corners.front()];
        if (options_.segments < 2 || fan.chosen == 2 || fan.chosen == 1) {
            for (const BorderPoint& p : ring) corner(p.point, p.rows);
            return endFace(f, 1);
        }
        std::vector<Vec3> border;
        for (const BorderPoint& p : ring) border.push_back(positions_[p.point]);
        const CornerPatch patch = cornerPatch(border, place(fan.point), std::max(1, options_.segments / 2));
        std::vector<Index> outer, inner;
        for (const BorderPoint& p : ring) outer.push_back(p.point);
        for (std::size_t r = 0; r < patch.rings.size(); ++r) {
            inner.clear();
            for (std::size_t i = 0; i < ring.size(); ++i) inner.push_back(addPoint(patch.rings[r][i], mixes_[ring[i].point]));
            for (std::size_t i = 0; i < ring.size(); ++i) {
                const std::size_t j = (i + 1) % ring.size();
                corner(outer[i], ring[i].rows), corner(outer[j], ring[j].rows), corner(inner[j], ring[j].rows), corner(inner[i], ring[i].rows);
                endFace(f, 1);
            }
            outer = inner;
        }
        const Index middle = addPoint(patch.middle, {{fan.point, 1.0f}});
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const std::size_t j = (i + 1) % ring.size();
            corner(outer[i], ring[i].rows), corner(outer[j], ring[j].rows), corner(middle, {{fan.corners.front(), 1.0f}});
            endFace(f, 1);
        }
    }
    void addRest() {
        plan_.addCurvesAndLoosePoints(in_, number_);
        while (positions_.size() < plan_.points.size()) positions_.push_back(place(plan_.points.heaviest()[positions_.size()]));
    }

    const Geometry& in_;
    const Topology& t_;
    const BevelOptions& options_;
    std::vector<Index> twin_;
    std::vector<float> width_;
    std::vector<Fan> fans_;
    std::vector<Index> fanOfCorner_, placeInFan_, number_;
    MixPlan plan_;
    std::vector<Vec3> positions_;
    std::vector<Mix> mixes_, faceCorners_;
    FaceKinds kinds_;
};

}  // namespace

std::vector<Index> twinCorners(const Topology& t) {
    const EdgeTable& edges = t.edges();
    std::vector<Index> first(edges.edges.size(), kNone), out(t.cornerCount(), kNone);
    for (Index c = 0; c < t.cornerCount(); ++c) {
        const Index e = edges.cornerEdge[c];
        if (edges.faceCount[e] != 2 || edges.balance[e] != 0) continue;
        if (first[e] == kNone) first[e] = c;
        else out[c] = first[e], out[first[e]] = c;
    }
    return out;
}

Geometry bevel(const Geometry& in, const BevelOptions& options, const RunContext& run, std::size_t* held) { return Beveller(in, options).run(run, held); }

}  // namespace seedloom

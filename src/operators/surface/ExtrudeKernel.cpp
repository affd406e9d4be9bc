#include "operators/surface/ExtrudeKernel.h"

#include "geometry/Groups.h"
#include "geometry/LeastOffset.h"
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "geometry/Rows.h"

#include <numeric>

namespace seedloom {

namespace {

constexpr std::uint8_t kFront = 1, kSide = 2, kBack = 3;
constexpr double kLongestMitre = 8;  ///< an offset at a needle's tip is at most this many times its width

/// Turns the new faces over where together they enclose less than nothing: what was pushed in and closed at the back.
Geometry outward(const Geometry& made, const FaceKinds& kinds) {
    double volume = 0;
    for (std::size_t f = 0; f < kinds.size(); ++f) {
        const auto face = made.topology().face(f);
        if (kinds[f] == 0 || face.empty()) continue;
        volume += double(dot(areaVector(face, made.positions()), centreOf(face, made.positions()) - made.positions()[made.topology().cornerPoint().back()]));
    }
    if (volume >= 0) return made;
    std::vector<std::uint8_t> which(kinds.size());
    for (std::size_t f = 0; f < kinds.size(); ++f) which[f] = kinds[f] != 0;
    return flipped(made, which);
}

class FaceExtruder {
public:
    FaceExtruder(const Geometry& in, const ExtrudeOptions& options) : in_(in), t_(in.topology()), options_(options) {}

    Geometry run(const RunContext& run, std::size_t* held) {
        groupCorners();
        run.poll();
        placeGroups();
        *held = holdInsets(run);
        run.poll();
        addUntouched();
        addLifted();
        std::vector<Vec3> positions = std::move(positions_);
        Geometry out = takeMixed(in_, std::move(plan_), std::move(positions));
        for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
        tagKind(out, "front", kinds_, kFront);
        if (options_.sides) tagKind(out, "side", kinds_, kSide);
        if (!options_.keepBack) return out;
        tagKind(out, "back", kinds_, kBack);
        return outward(out, kinds_);
    }

private:
    struct Group {
        LeastOffset lift, inset;
        Vec3 at, lifted, inward;
        double longest = 0, insetMost = 0, distance = 0;
        Index faces = 0, point = 0;
        float part = 1;  ///< of the inset, where it has to be held
        bool border = false;
    };

    Index next(Index c) const {
        const Index f = t_.faceOfCorner()[c];
        return c + 1 == t_.faceStart()[f + 1] ? t_.faceStart()[f] : c + 1;
    }
    /// Corners of chosen faces that share one lifted point: those around a point that hang together by edges inside the region.
    void groupCorners() {
        const EdgeTable& edges = t_.edges();
        together_ = Groups(t_.cornerCount());
        inner_.assign(t_.cornerCount(), 0);
        if (!options_.alone) {
            std::vector<Index> first(edges.edges.size(), kNone);
            for (Index c = 0; c < t_.cornerCount(); ++c) {
                if (!options_.chosen[t_.faceOfCorner()[c]]) continue;
                const Index e = edges.cornerEdge[c];
                if (edges.faceCount[e] != 2 || edges.balance[e] != 0) continue;  // only where two faces meet properly
                if (first[e] == kNone) {
                    first[e] = c;
                    continue;
                }
                const Index other = first[e];
                together_.join(c, next(other)), together_.join(next(c), other);
                inner_[c] = inner_[other] = 1;
            }
        }
        groupOf_.assign(t_.cornerCount(), kNone);
        for (Index c = 0; c < t_.cornerCount(); ++c) {
            if (!options_.chosen[t_.faceOfCorner()[c]]) continue;
            const Index r = together_.find(c);
            if (groupOf_[r] == kNone) {
                groupOf_[r] = static_cast<Index>(groups_.size());
                Group group;
                group.at = in_.positions()[t_.cornerPoint()[c]];
                group.point = t_.cornerPoint()[c];
                groups_.push_back(group);
            }
            groupOf_[c] = groupOf_[r];
        }
    }

    void placeGroups() {
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (!options_.chosen[f]) continue;
            const Vec3 n = normalized(areaVector(t_.face(f), in_.positions()), {});
            const double distance = double(options_.distance[f]), inset = double(options_.inset[f]);
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) {
                Group& group = groups_[groupOf_[c]];
                group.lift.add(n, distance);
                group.inset.add(n, 0);
                group.distance += distance;
                ++group.faces;
                group.longest = std::max(group.longest, std::abs(distance) * 3);
                if (inner_[c]) continue;
                Group& there = groups_[groupOf_[next(c)]];
                const Vec3 edge = normalized(there.at - group.at, {});
                const Vec3 inwards = cross(n, edge);
                for (Group* end : {&group, &there}) {
                    end->border = true;
                    end->inset.add(inwards, inset);
                    end->insetMost = std::max(end->insetMost, std::abs(inset) * kLongestMitre);
                }
            }
        }
        for (Group& group : groups_) {
            group.inward = group.insetMost > 0 ? group.inset.solve(group.insetMost) : Vec3{};
            group.lifted =
                options_.direction ? *options_.direction * float(group.distance / double(std::max<Index>(group.faces, 1))) : group.lift.solve(group.longest);
        }
    }

    Vec3 insetPlace(const Group& group) const { return group.at + group.inward * group.part; }
    /// Makes insets smaller, a fifth at a time, until no border edge runs backwards.
    std::size_t holdInsets(const RunContext& run) {
        constexpr int kMostRounds = 60;
        if (std::none_of(groups_.begin(), groups_.end(), [](const Group& g) { return g.insetMost > 0; })) return 0;
        for (int round = 0; round < kMostRounds; ++round) {
            run.poll();
            std::vector<Index> turned;
            for (Index f = 0; f < t_.faceCount(); ++f) {
                if (!options_.chosen[f]) continue;
                bool bad = false;
                for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1] && !bad; ++c) {
                    const Group &a = groups_[groupOf_[c]], &b = groups_[groupOf_[next(c)]];
                    bad = dot(b.at - a.at, insetPlace(b) - insetPlace(a)) < 0;
                }
                if (bad)
                    for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) turned.push_back(groupOf_[c]);
            }
            if (turned.empty()) break;
            std::sort(turned.begin(), turned.end());
            turned.erase(std::unique(turned.begin(), turned.end()), turned.end());
            for (Index g : turned) groups_[g].part *= 0.8f;
        }
        return std::size_t(std::count_if(groups_.begin(), groups_.end(), [](const Group& g) { return g.part < 1; }));
    }

    Index oldPoint(Index p) {
        if (number_[p] == kNone) {
            number_[p] = plan_.points.add(p);
            positions_.push_back(in_.positions()[p]);
        }
        return number_[p];
    }
    void corner(Index point, Index from) {
        plan_.cornerPoint.push_back(point);
        plan_.corners.add(from);
    }
    void endFace(Index f, std::uint8_t kind) {
        plan_.endFace(f);
        kinds_.push_back(kind);
    }

    /// Old points keep their order; those that nothing uses any more go.
    void addUntouched() {
        std::vector<std::uint8_t> stays(in_.pointCount(), 0), used(in_.pointCount(), 0);
        for (Index p : t_.curvePoint()) stays[p] = 1;
        for (Index c = 0; c < t_.cornerCount(); ++c) {
            const Index f = t_.faceOfCorner()[c];
            used[t_.cornerPoint()[c]] = 1;
            if (!options_.chosen[f] || options_.keepBack) stays[t_.cornerPoint()[c]] = 1;
            else if (options_.sides && !inner_[c]) stays[t_.cornerPoint()[c]] = stays[t_.cornerPoint()[next(c)]] = 1;
        }
        number_.assign(in_.pointCount(), kNone);
        for (Index p = 0; p < stays.size(); ++p)
            if (stays[p] || !used[p]) oldPoint(p);
        for (Index c = 0; c < t_.curveCount(); ++c) {
            for (Index p : t_.curve(c)) plan_.curvePoint.push_back(oldPoint(p));
            plan_.endCurve(c, t_.curveClosed(c));
        }
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (options_.chosen[f]) continue;
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) corner(oldPoint(t_.cornerPoint()[c]), c);
            endFace(f, 0);
        }
    }

    /// The lifted points of all rows up to the front, row by row.
    void addLifted() {
        const auto rows = static_cast<Index>(options_.sides ? options_.divisions : 1);
        firstOfRow_.assign(rows, {});
        for (Index row = 0; row < rows; ++row) {
            const float part = float(row + 1) / float(rows);
            firstOfRow_[row].assign(groups_.size(), kNone);
            for (Index g = 0; g < groups_.size(); ++g) {
                if (row + 1 < rows && !groups_[g].border) continue;
                firstOfRow_[row][g] = plan_.points.add(groups_[g].point);
                positions_.push_back(row + 1 == rows ? insetPlace(groups_[g]) + groups_[g].lifted
                                                     : mix(groups_[g].at, insetPlace(groups_[g]) + groups_[g].lifted, part));
            }
        }
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (!options_.chosen[f]) continue;
            for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) corner(firstOfRow_[rows - 1][groupOf_[c]], c);
            endFace(f, kFront);
        }
        if (options_.sides)
            for (Index c = 0; c < t_.cornerCount(); ++c)
                if (groupOf_[c] != kNone && !inner_[c]) addSide(c, rows);
        if (!options_.keepBack) return;
        for (Index f = 0; f < t_.faceCount(); ++f) {
            if (!options_.chosen[f]) continue;
            for (Index c = t_.faceStart()[f + 1]; c-- > t_.faceStart()[f];) corner(oldPoint(t_.cornerPoint()[c]), c);
            endFace(f, kBack);
        }
    }
    void addSide(Index c, Index rows) {
        const Index d = next(c);
        Index a = oldPoint(t_.cornerPoint()[c]), b = oldPoint(t_.cornerPoint()[d]);
        for (Index row = 0; row < rows; ++row) {
            const Index upA = firstOfRow_[row][groupOf_[c]], upB = firstOfRow_[row][groupOf_[d]];
            corner(a, c), corner(b, d), corner(upB, d), corner(upA, c);
            endFace(t_.faceOfCorner()[c], kSide);
            a = upA, b = upB;
        }
    }

    const Geometry& in_;
    const Topology& t_;
    const ExtrudeOptions& options_;
    Groups together_;
    std::vector<Index> groupOf_, number_;
    std::vector<std::uint8_t> inner_;  ///< corners whose edge lies inside a region
    std::vector<Group> groups_;
    std::vector<std::vector<Index>> firstOfRow_;
    MixPlan plan_;
    std::vector<Vec3> positions_;
    FaceKinds kinds_;
};

/// Rows of points between each chosen point and where it goes, after the points that are there.
class Rungs {
public:
    Rungs(const Geometry& in, const std::vector<Vec3>& by, int divisions, MixPlan& plan, std::vector<Vec3>& positions)
        : in_(in), by_(by), rows_(divisions), plan_(plan), positions_(positions), first_(in.pointCount(), kNone) {}
    Index at(Index p, int row) {
        if (row == 0) return p;
        if (first_[p] == kNone) {
            first_[p] = plan_.points.size();
            for (int r = 1; r <= rows_; ++r) {
                plan_.points.add(p);
                positions_.push_back(in_.positions()[p] + by_[p] * (float(r) / float(rows_)));
            }
        }
        return first_[p] + static_cast<Index>(row - 1);
    }

private:
    const Geometry& in_;
    const std::vector<Vec3>& by_;
    int rows_;
    MixPlan& plan_;
    std::vector<Vec3>& positions_;
    std::vector<Index> first_;
};

}  // namespace

Geometry extrudeFaces(const Geometry& in, const ExtrudeOptions& options, const RunContext& run, std::size_t* held) {
    return FaceExtruder(in, options).run(run, held);
}

Geometry extrudeEdges(const Geometry& in, const std::vector<std::uint8_t>& points, const std::vector<Vec3>& by, int divisions) {
    const Topology& t = in.topology();
    MixPlan plan;
    for (Index p = 0; p < in.pointCount(); ++p) plan.points.add(p);
    std::vector<Vec3> positions = in.positions();
    std::vector<Index> number(in.pointCount());
    std::iota(number.begin(), number.end(), 0u);
    plan.addCurvesAndLoosePoints(in, number);
    plan.faceStart = t.faceStart();
    plan.cornerPoint = t.cornerPoint();
    for (Index c = 0; c < t.cornerCount(); ++c) plan.corners.add(c);
    plan.faces.resize(t.faceCount());
    std::iota(plan.faces.begin(), plan.faces.end(), 0u);
    FaceKinds kinds(t.faceCount(), 0);
    Rungs rungs(in, by, divisions, plan, positions);
    for (Index f = 0; f < t.faceCount(); ++f)
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
            const Index next = c + 1 == t.faceStart()[f + 1] ? t.faceStart()[f] : c + 1, a = t.cornerPoint()[c], b = t.cornerPoint()[next];
            if (t.edges().faceCount[t.edges().cornerEdge[c]] != 1 || !points[a] || !points[b]) continue;
            for (int row = 0; row < divisions; ++row) {
                const std::pair<Index, Index> corners[] = {{rungs.at(b, row), next},
                                                           {rungs.at(a, row), c},
                                                           {rungs.at(a, row + 1), c},
                                                           {rungs.at(b, row + 1), next}};
                for (const auto& [point, corner] : corners) plan.cornerPoint.push_back(point), plan.corners.add(corner);
                plan.endFace(f);
                kinds.push_back(kSide);
            }
        }
    Geometry out = takeMixed(in, std::move(plan), std::move(positions));
    out.removeColumn(Element::point, "normal");
    tagKind(out, "side", kinds, kSide);
    return out;
}

Geometry extrudeCurves(const Geometry& in, const std::vector<Vec3>& by, int divisions, bool caps) {
    const Topology& t = in.topology();
    MixPlan plan;
    for (Index p = 0; p < in.pointCount(); ++p) plan.points.add(p);
    std::vector<Vec3> positions = in.positions();
    plan.faceStart = t.faceStart();
    plan.cornerPoint = t.cornerPoint();
    for (Index c = 0; c < t.cornerCount(); ++c) plan.corners.add(c);
    plan.faces.resize(t.faceCount());
    std::iota(plan.faces.begin(), plan.faces.end(), 0u);
    FaceKinds kinds(t.faceCount(), 0);
    std::vector<Index> curveOfFace;
    Rungs rungs(in, by, divisions, plan, positions);
    const auto endFace = [&](Index curve, std::uint8_t kind) {
        plan.faceStart.push_back(static_cast<Index>(plan.cornerPoint.size()));
        curveOfFace.push_back(curve);
        kinds.push_back(kind);
    };
    for (Index c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        const std::size_t n = curve.size(), spans = t.curveClosed(c) && n > 2 ? n : n - 1;
        if (n < 2) continue;
        for (std::size_t s = 0; s < spans; ++s) {
            const Index a = curve[s], b = curve[(s + 1) % n];
            for (int row = 0; row < divisions; ++row) {
                for (Index p : {rungs.at(a, row), rungs.at(b, row), rungs.at(b, row + 1), rungs.at(a, row + 1)}) plan.cornerPoint.push_back(p);
                endFace(c, kSide);
            }
        }
        if (!caps || spans != n) continue;
        for (Index p : curve) plan.cornerPoint.push_back(rungs.at(p, divisions));
        endFace(c, kFront);
        for (std::size_t i = n; i-- > 0;) plan.cornerPoint.push_back(curve[i]);
        endFace(c, kBack);
    }
    const std::size_t oldFaces = t.faceCount(), oldCorners = t.cornerCount(), points = positions.size();
    Geometry out(std::move(positions), Topology(points, std::move(plan.faceStart), std::move(plan.cornerPoint), {0}, {}, {}));
    for (const auto& [name, column] : in.table(Element::point))
        if (name != "position" && name != "normal") out.setColumn(Element::point, name, plan.points.apply(column));
    // What a curve knows goes to its faces; faces and corners that were there keep theirs.
    const auto extended = [](const Column& column, std::size_t keep, std::size_t count) {
        return std::visit(
            [&](const auto& shared) {
                auto values = *shared;
                values.resize(keep), values.resize(count);
                return Column(std::move(values));
            },
            column.data());
    };
    for (const auto& [name, column] : in.table(Element::corner)) out.setColumn(Element::corner, name, extended(column, oldCorners, out.cornerCount()));
    for (const auto& [name, column] : in.table(Element::face)) out.setColumn(Element::face, name, extended(column, oldFaces, out.faceCount()));
    if (oldFaces == 0)
        for (const auto& [name, column] : in.table(Element::curve)) out.setColumn(Element::face, name, gather(column, curveOfFace));
    for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
    tagKind(out, "side", kinds, kSide);
    if (!caps) return out;
    tagKind(out, "front", kinds, kFront);
    tagKind(out, "back", kinds, kBack);
    return outward(out, kinds);
}

}  // namespace seedloom

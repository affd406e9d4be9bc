#include "operators/surface/WallRoom.h"

#include "geometry/Groups.h"
#include "geometry/Measures.h"
#include "geometry/Neighbours.h"
#include "operators/GreatestFit.h"
#include "operators/surface/WallFolds.h"
#include "surface/FaultyFaces.h"

#include <limits>
#include <map>

namespace seedloom {

namespace {

constexpr double kMargin = 1.02;       ///< of what is offered as fitting
constexpr float kAlikeOffsets = 0.5f;  ///< cosine between offsets that go about the same way

bool turned(std::span<const Index> face, const Geometry& in, const std::vector<Vec3>& after) {
    return !(dot(areaVector(face, in.positions()), areaVector(face, after)) > 0);
}

std::size_t markTurned(const Geometry& in, const std::vector<Vec3>& after, std::vector<std::uint8_t>& points) {
    std::size_t count = 0;
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const auto face = in.topology().face(f);
        if (!turned(face, in, after)) continue;
        ++count;
        for (Index p : face) points[p] = 1;
    }
    return count;
}

std::vector<Vec3> offsetBy(const Geometry& in, const std::vector<Vec3>& by, float side) {
    std::vector<Vec3> after = in.positions();
    for (std::size_t p = 0; p < after.size(); ++p) after[p] += by[p] * side;
    return after;
}

/// Corners of a sliver go the same way where they would turn it over otherwise: along the border of a cut stand points far closer to each other than the
/// surface's own.
void evenOutSlivers(const Geometry& in, float side, std::vector<Vec3>& by) {
    constexpr int kMostRounds = 40;
    constexpr float kSmall = 0.7f;  // of the mean edge
    constexpr float kOneWay = 0.85f;
    const Topology& t = in.topology();
    double whole = 0;
    for (const auto& e : t.edges().edges) whole += double(distance(in.positions()[e.a], in.positions()[e.b]));
    const float small = kSmall * float(whole / double(std::max<std::size_t>(1, t.edges().edges.size())));
    for (int round = 0; round < kMostRounds && side != 0; ++round) {
        const std::vector<Vec3> after = offsetBy(in, by, side);
        std::vector<Vec3> sum(in.pointCount());
        std::vector<float> count(in.pointCount(), 0);
        for (std::size_t f = 0; f < in.faceCount(); ++f) {
            const auto face = t.face(f);
            if (!turned(face, in, after)) continue;
            Vec3 mean{};
            float shortest = std::numeric_limits<float>::max(), lengths = 0;
            for (std::size_t k = 0; k < face.size(); ++k) {
                mean += by[face[k]] / float(face.size());
                const Index a = face[k], b = face[(k + 1) % face.size()];
                shortest = std::min(shortest, distance(in.positions()[a], in.positions()[b]));
                lengths += length(by[a]) / float(face.size());
            }
            // The narrow side of a plate and the end of a rod are no slivers: their corners go different ways for good.
            if (shortest > std::min(small, length(mean)) || length(mean) < kOneWay * lengths) continue;
            for (Index p : face) sum[p] += mean, ++count[p];
        }
        bool moved = false;
        for (std::size_t p = 0; p < by.size(); ++p)
            if (count[p] > 0) by[p] = sum[p] / count[p], moved = true;
        if (!moved) break;
    }
}

/// Shortens the wall where it would turn faces over, a fifth at a time, until none does. `part` is what is left of it at each point.
std::size_t thinWhereNarrow(const Geometry& in, const std::vector<Vec3>& by, float side, std::vector<float>& part, const RunContext& run) {
    constexpr int kMostRounds = 40;
    std::size_t thinned = 0;
    for (int round = 0; round < kMostRounds && side != 0; ++round) {
        run.poll();
        std::vector<Vec3> after = in.positions();
        for (std::size_t p = 0; p < after.size(); ++p) after[p] += by[p] * (side * part[p]);
        std::vector<std::uint8_t> points(in.pointCount(), 0);
        if (markTurned(in, after, points) == 0) break;
        for (std::size_t p = 0; p < part.size(); ++p)
            if (points[p]) part[p] *= 0.8f;
    }
    for (float v : part) thinned += v < 1;
    return thinned;
}

std::vector<Vec3> wallPositions(const Geometry& in, const WallOffsets& o) {
    const std::size_t n = in.pointCount();
    std::vector<Vec3> out(n * 2);
    for (std::size_t p = 0; p < n; ++p) {
        // The untouched side keeps its positions bit for bit.
        out[p] = o.outPart == 0 ? in.positions()[p] : in.positions()[p] + o.by[p] * (o.outPart * o.outward[p]);
        out[p + n] = o.outPart == 1 ? in.positions()[p] : in.positions()[p] - o.by[p] * ((1 - o.outPart) * o.inward[p]);
    }
    return out;
}

/// Points at which the surface crosses itself, or has no area, without any wall.
std::vector<std::uint8_t> crossedBefore(const Geometry& in, const RunContext& run) {
    std::vector<std::uint8_t> out(in.pointCount(), 0);
    for (Index f : faultyFaces(in, run))
        for (Index p : in.topology().face(f)) out[p] = 1;
    return out;
}

/// Marked points that stand almost in one place, against the thickness of the wall, go the same way: what is between them is moved, not turned.
void goTogether(const Geometry& in, const Rows& around, const std::vector<std::uint8_t>& points, std::vector<Vec3>& by) {
    constexpr float kOnePlace = 0.1f;
    Groups groups(points.size());
    bool any = false;
    for (Index p = 0; p < points.size(); ++p)
        for (Index q : around[p])
            if (q > p && points[p] && points[q] && distance(in.positions()[p], in.positions()[q]) < kOnePlace * length(by[p])) groups.join(p, q), any = true;
    if (!any) return;
    std::map<Index, std::pair<Vec3, float>> sums;
    for (Index p = 0; p < points.size(); ++p)
        if (points[p]) sums[groups.find(p)].first += by[p], ++sums[groups.find(p)].second;
    for (Index p = 0; p < points.size(); ++p)
        if (points[p]) by[p] = sums[groups.find(p)].first / sums[groups.find(p)].second;
}

/// Lets the offset of each marked point become more like those of its neighbours that go about the same way, the nearest most. False where there are none.
bool goAlike(const Geometry& in, const Rows& around, const std::vector<std::uint8_t>& points, std::vector<Vec3>& by) {
    const std::vector<Vec3> before = by;
    bool any = false;
    for (Index p = 0; p < points.size(); ++p) {
        if (!points[p]) continue;
        Vec3 sum{};
        float weight = 0, nearest = std::numeric_limits<float>::max();
        const auto take = [&](Index q, float far) {
            const float w = 1 / std::max(far, 1e-12f);
            sum += before[q] * w, weight += w;
            nearest = std::min(nearest, far);
        };
        for (Index q : around[p])
            if (dot(before[q], before[p]) > kAlikeOffsets * length(before[q]) * length(before[p])) take(q, distance(in.positions()[p], in.positions()[q]));
        if (weight == 0) continue;
        any = true;
        take(p, nearest);
        by[p] = sum / weight;
    }
    if (any) goTogether(in, around, points, by);
    return any;
}

std::vector<std::uint8_t> withNeighbours(const std::vector<std::uint8_t>& points, const Rows& around) {
    std::vector<std::uint8_t> out = points;
    for (Index p = 0; p < points.size(); ++p)
        for (Index q : around[p]) out[p] |= points[q];
    return out;
}

/// Lets neighbours of points where the wall folds go more alike, the nearest most, and makes it thinner there where that does not help.
GaveWay unfold(const Geometry& in, WallOffsets& o, Geometry& solid, const RunContext& run) {
    constexpr int kRounds = 40, kAlike = 20, kPatience = 5, kWider = 30;
    std::vector<std::uint8_t> thinner(in.pointCount(), 0), before;
    Rows around;
    bool alike = true;
    int bestRound = 0;
    std::size_t least = std::numeric_limits<std::size_t>::max();
    std::vector<Vec3> best;
    GaveWay out;
    for (int round = 0;; ++round) {
        solid.setPositions(wallPositions(in, o));
        std::vector<std::uint8_t> folds = foldsOf(in, solid, run);
        if (round == 0 && std::find(folds.begin(), folds.end(), 1) != folds.end()) {
            around = pointNeighbours(in.topology());
            before = crossedBefore(in, run);
        }
        for (std::size_t p = 0; p < before.size(); ++p) folds[p] &= std::uint8_t(!before[p]);
        out.folds = std::size_t(std::count(folds.begin(), folds.end(), 1));
        if (out.folds == 0 || round == kRounds) break;
        if (alike) {
            if (out.folds < least) least = out.folds, best = o.by, bestRound = round;
            // Two points that stand close take a few rounds; where walls meet from opposite sides it only makes them worse.
            if (round < kAlike && round - bestRound < kPatience && goAlike(in, around, folds, o.by)) continue;
            alike = false;
            if (bestRound < round) {
                o.by = best;
                continue;
            }
        }
        if (round >= kWider) folds = withNeighbours(folds, around);
        for (std::size_t p = 0; p < folds.size(); ++p)
            if (folds[p]) o.outward[p] *= 0.8f, o.inward[p] *= 0.8f, thinner[p] = 1;
    }
    out.thinned = std::size_t(std::count(thinner.begin(), thinner.end(), 1));
    return out;
}

/// Whether that part of a wall fits without giving way anywhere. `solid` has its faces, and gets its places.
bool fits(const Geometry& in, const std::vector<Vec3>& wall, double part, float outPart, Geometry& solid, const RunContext& run) {
    std::vector<Vec3> by = wall;
    for (Vec3& v : by) v *= float(part);
    for (float side : {outPart, outPart - 1}) {
        evenOutSlivers(in, side, by);
        std::vector<std::uint8_t> points(in.pointCount(), 0);
        if (side != 0 && markTurned(in, offsetBy(in, by, side), points) > 0) return false;
    }
    solid.setPositions(wallPositions(in, WallOffsets(outPart, std::move(by))));
    const auto folds = foldsOf(in, solid, run);
    return std::find(folds.begin(), folds.end(), 1) == folds.end();
}

}  // namespace

GaveWay makeRoom(const Geometry& in, WallOffsets& offsets, Geometry& solid, const RunContext& run) {
    for (float side : {offsets.outPart, offsets.outPart - 1}) evenOutSlivers(in, side, offsets.by);
    const std::size_t thinned = std::max(thinWhereNarrow(in, offsets.by, offsets.outPart, offsets.outward, run),
                                         thinWhereNarrow(in, offsets.by, offsets.outPart - 1, offsets.inward, run));
    GaveWay out = unfold(in, offsets, solid, run);
    out.thinned = std::max(out.thinned, thinned);
    return out;
}

double partThatFits(const Geometry& in, const std::vector<Vec3>& by, double wished, float outPart, Geometry& solid, const RunContext& run) {
    const auto fitting = [&](double part) { return fits(in, by, part, outPart, solid, run); };
    // Not to the last bit, where two walls would touch.
    const double part = greatestFit(wished, [&](double thickness) { return fitting(kMargin * thickness / wished) && fitting(thickness / wished); }) / wished;
    if (part > 0) fitting(part);  // its places, whatever was tried last
    return part;
}

}  // namespace seedloom

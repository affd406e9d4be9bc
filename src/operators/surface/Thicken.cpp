// Method: own: offset surfaces whose points are pulled back where faces would turn (decision 5).
#include "geometry/LeastOffset.h"
#include "geometry/Measures.h"
#include "geometry/Neighbours.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/surface/WallFolds.h"

#include <fmt/format.h>

#include <numeric>

namespace seedloom {

namespace {

/// The offset for unit thickness at each point, so that walls keep their thickness at edges and corners. Limited to 3, where faces meet in
/// a needle.
std::vector<Vec3> unitOffsets(const Geometry& in, const RunContext& run) {
    const Topology& t = in.topology();
    std::vector<LeastOffset> offsets(in.pointCount());
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const Vec3 n = normalized(areaVector(t.face(f), in.positions()), {});
        for (Index p : t.face(f)) offsets[p].add(n, 1);
    }
    run.poll();
    std::vector<Vec3> out(in.pointCount());
    for (std::size_t p = 0; p < out.size(); ++p) {
        out[p] = offsets[p].solve(3);
        if (length(out[p]) < 1e-6f) out[p] = {};
    }
    return out;
}

/// Keeps open edges flat: there the offset runs within the plane of the opening, so that a foot stays on the ground and a rim
/// stays level. Openings that lie in the surface itself (the border of a sheet) have no such plane and stay as they are.
void flattenRims(const Geometry& in, std::vector<Vec3>& offset) {
    const Topology& t = in.topology();
    const EdgeTable& edges = t.edges();
    const auto normals = pointNormals(in);
    std::vector<Vec3> arriving(in.pointCount()), leaving(in.pointCount());
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
        for (Index c = begin; c < end; ++c) {
            if (edges.faceCount[edges.cornerEdge[c]] != 1) continue;
            const Index a = t.cornerPoint()[c], b = t.cornerPoint()[c + 1 == end ? begin : c + 1];
            leaving[a] = arriving[b] = normalized(in.positions()[b] - in.positions()[a], {});
        }
    }
    for (std::size_t p = 0; p < offset.size(); ++p) {
        const Vec3 across = cross(arriving[p], leaving[p]);
        if (length(across) < 1e-4f) continue;
        const Vec3 plane = normalized(across);
        if (std::abs(dot(plane, normals[p])) > 0.8f) continue;
        const Vec3 flat = offset[p] - plane * dot(plane, offset[p]);
        const float gain = dot(flat, normals[p]);
        if (gain > 0.2f) offset[p] = flat * (dot(offset[p], normals[p]) / gain);
    }
}

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
            float shortest = std::numeric_limits<float>::max();
            for (std::size_t k = 0; k < face.size(); ++k) {
                mean += by[face[k]] / float(face.size());
                shortest = std::min(shortest, distance(in.positions()[face[k]], in.positions()[face[(k + 1) % face.size()]]));
            }
            if (shortest > std::min(small, length(mean))) continue;
            for (Index p : face) sum[p] += mean, ++count[p];
        }
        bool moved = false;
        for (std::size_t p = 0; p < by.size(); ++p)
            if (count[p] > 0) by[p] = sum[p] / count[p], moved = true;
        if (!moved) break;
    }
}

/// Shortens the wall where it would turn faces over, a fifth at a time, until none does. `part` is what is left of it at each point.
std::size_t thinWhereNarrow(OperatorCall& call, const Geometry& in, const std::vector<Vec3>& by, float side, std::vector<float>& part) {
    constexpr int kMostRounds = 40;
    std::size_t thinned = 0;
    for (int round = 0; round < kMostRounds && side != 0; ++round) {
        call.run().poll();
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

/// How far the wall goes from each point.
struct Offsets {
    float outPart;                        ///< of the thickness, in front
    std::vector<float>&outward, &inward;  ///< what is left of it
    std::vector<Vec3>& by;
};

std::vector<Vec3> wallPositions(const Geometry& in, const Offsets& o) {
    const std::size_t n = in.pointCount();
    std::vector<Vec3> out(n * 2);
    for (std::size_t p = 0; p < n; ++p) {
        // The untouched side keeps its positions bit for bit.
        out[p] = o.outPart == 0 ? in.positions()[p] : in.positions()[p] + o.by[p] * (o.outPart * o.outward[p]);
        out[p + n] = o.outPart == 1 ? in.positions()[p] : in.positions()[p] - o.by[p] * ((1 - o.outPart) * o.inward[p]);
    }
    return out;
}

/// Lets neighbours of points where the wall folds go more alike, the nearest most, and makes it thinner there where that does not help. Tells at how many
/// points it got thinner, and where it folds to the last.
std::size_t unfold(OperatorCall& call, const Geometry& in, const Offsets& o, Geometry& solid) {
    constexpr int kRounds = 24, kAlike = 10;
    std::vector<std::uint8_t> thinner(in.pointCount(), 0);
    Rows around;
    for (int round = 0;; ++round) {
        solid.setPositions(wallPositions(in, o));
        const std::vector<std::uint8_t> folds = foldsOf(in, solid, call.run());
        const auto count = std::count(folds.begin(), folds.end(), 1);
        if (count == 0) break;
        if (round == kRounds) {
            call.tell(NoticeLevel::warning, "thicken.folds",
                      fmt::format("The wall crosses itself at {} points. Make it thinner, or the shape smoother.", count), "thickness");
            break;
        }
        if (round == 0) around = pointNeighbours(in.topology());
        const std::vector<Vec3> before = o.by;
        for (Index p = 0; p < folds.size(); ++p) {
            if (!folds[p]) continue;
            Vec3 sum{};
            float weight = 0, nearest = std::numeric_limits<float>::max();
            const auto take = [&](Index q, float far) {
                const float w = 1 / std::max(far, 1e-12f);
                sum += before[q] * w, weight += w;
                nearest = std::min(nearest, far);
            };
            for (Index q : around[p]) take(q, distance(in.positions()[p], in.positions()[q]));
            take(p, nearest);
            o.by[p] = sum / weight;
            if (round >= kAlike) o.outward[p] *= 0.8f, o.inward[p] *= 0.8f, thinner[p] = 1;
        }
    }
    return std::size_t(std::count(thinner.begin(), thinner.end(), 1));
}

/// Plan of the solid: the front as it was, the back with its faces turned over, and a strip of faces along open edges.
struct SolidPlan {
    RowPlan rows;
    std::vector<std::uint8_t> inside, rim;
};

SolidPlan planSolid(const Geometry& in, bool withRim) {
    const Topology& t = in.topology();
    const auto points = static_cast<Index>(in.pointCount());
    SolidPlan plan;
    for (int copy = 0; copy < 2; ++copy)
        for (Index p = 0; p < points; ++p) plan.rows.points.push_back(p);
    const auto endFace = [&](Index f, bool inside, bool rim) {
        plan.rows.endFace(f);
        plan.inside.push_back(inside);
        plan.rim.push_back(rim);
    };
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.rows.addCorner(t.cornerPoint()[c], c);
        endFace(f, false, false);
    }
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f + 1]; c-- > t.faceStart()[f];) plan.rows.addCorner(t.cornerPoint()[c] + points, c);
        endFace(f, true, false);
    }
    if (!withRim) return plan;
    const EdgeTable& edges = t.edges();
    for (Index f = 0; f < t.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
        for (Index c = begin; c < end; ++c) {
            if (edges.faceCount[edges.cornerEdge[c]] != 1) continue;
            const Index next = c + 1 == end ? begin : c + 1, a = t.cornerPoint()[c], b = t.cornerPoint()[next];
            plan.rows.addCorner(b, next), plan.rows.addCorner(a, c), plan.rows.addCorner(a + points, c), plan.rows.addCorner(b + points, next);
            endFace(f, false, true);
        }
    }
    return plan;
}

Geometry facesOnly(const Geometry& in) {
    RowPlan plan;
    const Topology& t = in.topology();
    std::vector<Index> number(in.pointCount(), 0);
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p = 0; p < used.size(); ++p)
        if (used[p]) number[p] = static_cast<Index>(plan.points.size()), plan.points.push_back(p);
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.addCorner(number[t.cornerPoint()[c]], c);
        plan.endFace(f);
    }
    return takeRows(in, std::move(plan));
}

void checkInput(OperatorCall& call, const Geometry& in) {
    if (in.faceCount() == 0) call.fail("surface.none", "Thicken needs a surface, and there are no faces here.");
    call.run().require(3.0 * double(in.cornerCount()), "corners");
    const EdgeTable& edges = in.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] > 2)
            call.fail("mesh.non_manifold_edge", "Three or more faces meet at one edge, so there is no inside and outside. Remove one of them first.");
        if (edges.faceCount[e] == 2 && edges.balance[e] != 0)
            call.fail("mesh.winding", "Neighbouring faces look to opposite sides. Turn some over with Flip faces first.");
    }
}

Geometry computeThicken(OperatorCall& call) {
    const Geometry in = facesOnly(call.in());
    checkInput(call, in);
    const Field<float> thickness = call.each("thickness", in);
    const std::string side = call.choice("side");
    const float outPart = side == "out" ? 1.0f : side == "both" ? 0.5f : 0.0f;
    const std::size_t n = in.pointCount();
    std::vector<Vec3> by = unitOffsets(in, call.run());
    if (call.flag("flat_rims")) flattenRims(in, by);
    for (std::size_t p = 0; p < n; ++p) {
        if (!(thickness[p] > 0)) call.fail("setting.range", "Thickness must be above 0 everywhere, or there is no solid.", "thickness");
        by[p] *= thickness[p];
    }
    for (float part : {outPart, outPart - 1}) evenOutSlivers(in, part, by);
    std::vector<float> outward(n, 1), inward(n, 1);
    std::size_t thinned = thinWhereNarrow(call, in, by, outPart, outward);
    thinned = std::max(thinned, thinWhereNarrow(call, in, by, outPart - 1, inward));
    SolidPlan plan = planSolid(in, call.flag("rim"));
    Geometry out = takeRows(in, std::move(plan.rows));
    thinned = std::max(thinned, unfold(call, in, {outPart, outward, inward, by}, out));
    if (thinned > 0)
        call.tell(NoticeLevel::warning, "thicken.narrow",
                  fmt::format("The wall is thinner than asked at {} of {} points, where the shape is too narrow for it. Make it thinner, or the shape wider.",
                              thinned, n),
                  "thickness");
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    out.setColumn(Element::face, "inside_wall", Column(std::move(plan.inside)));
    out.setColumn(Element::face, "rim", Column(std::move(plan.rim)));
    return out;
}

}  // namespace

OperatorSpec thickenOperator() {
    OperatorSpec spec;
    spec.id = "thicken";
    spec.order = 300;
    spec.label = "Thicken";
    spec.family = Family::surface;
    spec.sentence = "Gives a surface a wall, so that it becomes a closed solid.";
    spec.help =
        "An open surface gets a front, a back and a rim along its open edges; a closed one becomes hollow. The wall keeps its "
        "thickness at edges and corners, and gets thinner, with a notice, where it would turn faces over. Tags inside_wall and rim tell the new faces apart; "
        "curves and loose points are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"wall", "solid", "shell", "hollow", "watertight", "thickness", "depth"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("thickness", "Thickness", Unit::metre, 0.05).within(0, 1e6).slider(0.005, 0.5).each().helped("From front to back."),
        choiceSetting("side", "Side", {"in", "out", "both"}, "in").helped("Where the wall grows: behind the faces, before them, or half on each side."),
        flagSetting("flat_rims", "Flat rims", true).helped("Keeps open edges in their plane: a foot stays on the ground, a rim stays level."),
        flagSetting("rim", "Rim", true).helped("Closes the wall along open edges."),
    };
    spec.sample = sample::step(spec.id, {{"thickness", 0.08}}, {sample::cells()});
    spec.compute = computeThicken;
    return spec;
}

}  // namespace seedloom

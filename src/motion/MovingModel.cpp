#include "motion/MovingModel.h"

#include "geometry/Bake.h"
#include "geometry/Buckets.h"
#include "geometry/Triangulate.h"
#include "motion/Hulls.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

constexpr std::size_t kMostCorners = 80;  // of a shape
constexpr std::size_t kMostParts = 16;    // of a hollow body

using Rotation = std::array<Triple, 3>;  // rows

Rotation rotationOf(const std::array<double, 4>& q) {
    const auto [x, y, z, w] = q;
    return {{{1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)},
             {2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)},
             {2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)}}};
}

/// Of a rotation by columns. Method: Shepperd (1978).
std::array<double, 4> quaternionOf(const std::array<Triple, 3>& column) {
    const auto at = [&](int row, int col) { return column[std::size_t(col)][std::size_t(row)]; };
    const double trace = at(0, 0) + at(1, 1) + at(2, 2);
    std::array<double, 4> q;
    int largest = 3;
    double most = trace;
    for (int i = 0; i < 3; ++i)
        if (at(i, i) > most) most = at(i, i), largest = i;
    if (largest == 3) {
        q = {at(2, 1) - at(1, 2), at(0, 2) - at(2, 0), at(1, 0) - at(0, 1), 1 + trace};
    } else {
        const int i = largest, j = (i + 1) % 3, k = (i + 2) % 3;
        q[std::size_t(i)] = 1 - trace + 2 * at(i, i);
        q[std::size_t(j)] = at(i, j) + at(j, i);
        q[std::size_t(k)] = at(i, k) + at(k, i);
        q[3] = at(k, j) - at(j, k);
    }
    const double length = std::sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3]);
    for (double& one : q) one /= length;
    return q;
}

/// A solid as bodies are made of it: its surface, and how its mass lies.
struct Solid {
    std::vector<Triangle3> surface;
    std::vector<Vec3> points;
    SolidMoments moments;
};

Solid solidOf(std::vector<Triangle3> surface, std::vector<Vec3> points, bool closed) {
    Solid out{std::move(surface), std::move(points), {}};
    if (closed) out.moments = momentsOf(out.surface);
    if (out.moments.volume < 0) {
        out.moments.volume = -out.moments.volume;
        for (auto& row : out.moments.second)
            for (double& one : row) one = -one;
    }
    // What is open, or holds nothing, weighs what its hull does.
    const Hull hull = hullOf(out.points, kEveryCorner);
    if (!(out.moments.volume > hull.volume * 1e-6)) out.moments = momentsOf(hull.surface);
    return out;
}

Solid mappedSolid(const Solid& solid, const Affine& map) {
    Solid out{{}, solid.points, mapped(solid.moments, map)};
    for (Vec3& p : out.points) p = map.point(p);
    return out;
}

std::vector<Hull> shapesOf(const Solid& solid, BodyShape shape) {
    if (shape == BodyShape::parts && !solid.surface.empty()) return convexPartsOf(solid.surface, kMostParts, kMostCorners);
    if (shape == BodyShape::box) return {boxOf(solid.points, inertiaAxesOf(solid.moments))};
    return {hullOf(solid.points, kMostCorners)};
}

bool usable(const SolidMoments& moments) {
    return moments.volume > 0 && std::isfinite(moments.volume) && std::isfinite(moments.second[0][0] + moments.second[1][1] + moments.second[2][2]) &&
           std::isfinite(moments.centre[0] + moments.centre[1] + moments.centre[2]);
}

/// A grain in the place of what has no extent, or one that can't be reckoned with.
SolidMoments grainAt(Vec3 at, std::vector<std::vector<Vec3>>& shapes) {
    const Hull grain = hullOf(std::vector<Vec3>{isFinite(at) ? at : Vec3{}}, kMostCorners);
    shapes = {grain.corners};
    return momentsOf(grain.surface);
}

/// The body whose mass lies as told, with shapes that stand in the world; `at`: where it is if it has no extent.
void makeBody(SolidMoments moments, std::vector<std::vector<Vec3>> shapes, Vec3 at, double density, RigidBody& body, BodyState& start) {
    std::erase_if(shapes, [](const std::vector<Vec3>& corners) { return corners.size() < 4 || !std::all_of(corners.begin(), corners.end(), isFinite); });
    if (shapes.empty() || !usable(moments)) moments = grainAt(at, shapes);
    const InertiaAxes axes = inertiaAxesOf(moments);
    start.at = moments.centre;
    start.turn = quaternionOf(axes.axis);
    body.mass = std::max(moments.volume * density, 1e-9);
    // Thin bodies are a little thicker to the solver than they are: it can't turn what has next to no inertia.
    const double most = axes.moment[2];
    for (std::size_t a = 0; a < 3; ++a) body.inertia[a] = std::max({axes.moment[a], most * 0.02, 1e-30}) * density;
    for (auto& corners : shapes)
        for (Vec3& p : corners) {
            const Triple from{double(p.x) - start.at[0], double(p.y) - start.at[1], double(p.z) - start.at[2]};
            std::array<double, 3> own;
            for (std::size_t a = 0; a < 3; ++a) own[a] = axes.axis[a][0] * from[0] + axes.axis[a][1] * from[1] + axes.axis[a][2] * from[2];
            p = {float(own[0]), float(own[1]), float(own[2])};
        }
    body.parts = std::move(shapes);
}

std::vector<std::vector<Vec3>> cornersOf(std::vector<Hull> hulls) {
    std::vector<std::vector<Vec3>> out;
    for (Hull& hull : hulls) out.push_back(std::move(hull.corners));
    return out;
}

/// Moments and shapes of a piece, which may be told apart only by its faces.
class PieceSolids {
public:
    PieceSolids(const Geometry& geometry, const PieceList& pieces)
        : geometry_(geometry), triangles_(triangulate(geometry)), measures_(measurePieces(geometry, pieces)),
          ofPiece_(triangles_.count(), pieces.count, [&](std::size_t t) { return pieces.ofFace[triangles_.faceOf[t]]; }) {}

    Solid of(std::size_t piece) const {
        std::vector<Triangle3> surface;
        std::vector<Vec3> points;
        const auto& corner = geometry_.topology().cornerPoint();
        for (const Index t : ofPiece_.of(Index(piece))) {
            Triangle3& one = surface.emplace_back();
            for (std::size_t c = 0; c < 3; ++c) one[c] = geometry_.positions()[corner[triangles_.corners[std::size_t(t) * 3 + c]]];
            points.insert(points.end(), one.begin(), one.end());
        }
        return solidOf(std::move(surface), std::move(points), measures_[piece].closed);
    }

private:
    const Geometry& geometry_;
    Triangles triangles_;
    std::vector<PieceMeasure> measures_;
    Buckets ofPiece_;
};

Solid solidOfShape(const Geometry& shape) {
    const Geometry whole = bakeCopies(shape);
    PieceList one;
    one.ofFace.assign(whole.faceCount(), 0), one.count = 1, one.number = {0};
    if (whole.faceCount() > 0) return PieceSolids(whole, one).of(0);
    return solidOf({}, whole.positions(), false);
}

Vec3 toVec3(const Triple& v) { return {float(v[0]), float(v[1]), float(v[2])}; }

}  // namespace

MovingModel movingModelOf(const Geometry& geometry, const PieceList& pieces, BodyShape shape, const std::vector<float>& density, const RunContext& run) {
    MovingModel out;
    out.geometry = geometry;
    out.pieces = pieces.count;
    const std::size_t copies = geometry.copyCount(), count = out.pieces + copies;
    out.bodies.resize(count), out.start.resize(count);
    out.bodyOfPoint.assign(geometry.pointCount(), Index(count));
    for (Index f = 0; f < geometry.faceCount(); ++f)
        for (const Index p : geometry.topology().face(f)) out.bodyOfPoint[p] = pieces.ofFace[f];
    if (out.pieces > 0) {
        const PieceSolids solids(geometry, pieces);
        forEach(out.pieces, run, [&](std::size_t i) {
            const Solid solid = solids.of(i);
            makeBody(solid.moments, cornersOf(shapesOf(solid, shape)), solid.points.empty() ? Vec3{} : solid.points.front(), double(density[i]), out.bodies[i],
                     out.start[i]);
        });
    }
    if (copies == 0) return out;
    const Copies& list = *geometry.copies();
    std::vector<Solid> solids(list.shapes.size());
    std::vector<std::vector<Hull>> parts(list.shapes.size());
    forEach(solids.size(), run, [&](std::size_t s) {
        solids[s] = solidOfShape(*list.shapes[s]);
        if (!solids[s].points.empty() && shape != BodyShape::box) parts[s] = shapesOf(solids[s], shape);
    });
    forEach(copies, run, [&](std::size_t c) {
        const Index of = list.shapeOf[c];
        const Affine& place = list.place[c];
        const SolidMoments moments = mapped(solids[of].moments, place);
        std::vector<std::vector<Vec3>> shapes;
        if (shape == BodyShape::box) {
            shapes = cornersOf(shapesOf(mappedSolid(solids[of], place), shape));
        } else {
            for (const Hull& hull : parts[of]) {
                std::vector<Vec3>& corners = shapes.emplace_back(hull.corners);
                for (Vec3& p : corners) p = place.point(p);
            }
        }
        makeBody(moments, std::move(shapes), place.move, double(density[out.pieces + c]), out.bodies[out.pieces + c], out.start[out.pieces + c]);
    });
    return out;
}

Affine wayOf(const BodyState& start, const BodyState& now) {
    const Rotation from = rotationOf(start.turn), to = rotationOf(now.turn);
    std::array<Triple, 3> turn{};  // to · fromᵀ, by columns
    for (std::size_t row = 0; row < 3; ++row)
        for (std::size_t col = 0; col < 3; ++col)
            for (std::size_t k = 0; k < 3; ++k) turn[col][row] += to[row][k] * from[col][k];
    Triple move = now.at;
    for (std::size_t row = 0; row < 3; ++row)
        for (std::size_t col = 0; col < 3; ++col) move[row] -= turn[col][row] * start.at[col];
    return {toVec3(turn[0]), toVec3(turn[1]), toVec3(turn[2]), toVec3(move)};
}

Geometry movedModel(const MovingModel& model, const std::vector<BodyState>& states, const RunContext& run) {
    const std::size_t count = model.count();
    std::vector<Affine> way(count);
    std::vector<std::uint8_t> moves(count);
    for (std::size_t i = 0; i < count; ++i) {
        moves[i] = states[i].at != model.start[i].at || states[i].turn != model.start[i].turn;
        if (moves[i]) way[i] = wayOf(model.start[i], states[i]);
    }
    Geometry out = model.geometry;
    if (model.pieces > 0) {
        std::vector<Vec3> at = out.positions(), velocity(at.size());
        forEach(at.size(), run, [&](std::size_t p) {
            const Index body = model.bodyOfPoint[p];
            if (body >= count) return;
            if (moves[body]) at[p] = way[body].point(at[p]);
            const BodyState& state = states[body];
            velocity[p] = toVec3(state.velocity) + cross(toVec3(state.spin), at[p] - toVec3(state.at));
        });
        out.setPositions(std::move(at));
        out.setColumn(Element::point, "velocity", Column(std::move(velocity)));
    }
    if (!out.copies()) return out;
    auto copies = std::make_shared<Copies>(*out.copies());
    std::vector<Vec3> velocity(copies->place.size());
    for (std::size_t c = 0; c < velocity.size(); ++c) {
        const std::size_t body = model.pieces + c;
        if (moves[body]) copies->place[c] = way[body] * copies->place[c];
        velocity[c] = toVec3(states[body].velocity);
    }
    out.setCopies(std::move(copies));
    out.setColumn(Element::copy, "velocity", Column(std::move(velocity)));
    return out;
}

}  // namespace seedloom

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

Vec3 toVec3(const Triple& v) { return {float(v[0]), float(v[1]), float(v[2])}; }

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
    start.turn = turnOf(transposed(axes.axis));
    body.mass = std::max(moments.volume * density, 1e-9);
    // Thin bodies are a little thicker to the solver than they are: it can't turn what has next to no inertia.
    const double most = axes.moment[2];
    for (std::size_t a = 0; a < 3; ++a) body.inertia[a] = std::max({axes.moment[a], most * 0.02, 1e-30}) * density;
    for (auto& corners : shapes)
        for (Vec3& p : corners) {
            p = toVec3(axes.axis * (Triple{double(p.x), double(p.y), double(p.z)} - start.at));
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
        std::vector<Triangle3> surface = surfaceOf(piece);
        std::vector<Vec3> points;
        for (const Triangle3& one : surface) points.insert(points.end(), one.begin(), one.end());
        return solidOf(std::move(surface), std::move(points), measures_[piece].closed);
    }
    std::vector<Triangle3> surfaceOf(std::size_t piece) const {
        std::vector<Triangle3> out;
        const auto& corner = geometry_.topology().cornerPoint();
        for (const Index t : ofPiece_.of(Index(piece))) {
            Triangle3& one = out.emplace_back();
            for (std::size_t c = 0; c < 3; ++c) one[c] = geometry_.positions()[corner[triangles_.corners[std::size_t(t) * 3 + c]]];
        }
        return out;
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

}  // namespace

MovingModel movingModelOf(const Geometry& geometry, const PieceList& pieces, BodyShape shape, const std::vector<float>& density,
                          const std::vector<std::uint8_t>& plain, const RunContext& run) {
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
        const auto make = [&](std::size_t i) {
            const Solid solid = solids.of(i);
            auto shapes = cornersOf(shapesOf(solid, plain[i] ? BodyShape::hull : shape));
            makeBody(solid.moments, std::move(shapes), solid.points.empty() ? Vec3{} : solid.points.front(), double(density[i]), out.bodies[i], out.start[i]);
        };
        // One by one: they differ in size by far.
        forEach(out.pieces, run, make, 1);
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

std::vector<std::vector<Triangle3>> surfacesOf(const MovingModel& model, const PieceList& pieces, const RunContext& run) {
    std::vector<std::vector<Triangle3>> out(model.count());
    if (model.pieces > 0) {
        const PieceSolids solids(model.geometry, pieces);
        forEach(model.pieces, run, [&](std::size_t i) { out[i] = solids.surfaceOf(i); });
    }
    if (!model.geometry.copies()) return out;
    const Copies& list = *model.geometry.copies();
    std::vector<Solid> shapes;
    for (const auto& shape : list.shapes) shapes.push_back(solidOfShape(*shape));
    forEach(list.place.size(), run, [&](std::size_t c) {
        std::vector<Triangle3>& own = out[model.pieces + c];
        own = shapes[list.shapeOf[c]].surface;
        for (Triangle3& one : own) {
            for (Vec3& p : one) p = list.place[c].point(p);
            if (list.place[c].determinant() < 0) std::swap(one[1], one[2]);
        }
    });
    return out;
}

std::vector<Triangle3> inFrameOf(const BodyState& body, std::vector<Triangle3> surface) {
    const Rotation turn = transposed(rotationOf(body.turn));
    for (Triangle3& one : surface)
        for (Vec3& p : one) p = toVec3(turn * (Triple{double(p.x), double(p.y), double(p.z)} - body.at));
    return surface;
}

Affine wayOf(const BodyState& start, const BodyState& now) {
    const Rotation from = rotationOf(start.turn), to = rotationOf(now.turn);
    const Rotation turn = to * transposed(from), columns = transposed(turn);
    return {toVec3(columns[0]), toVec3(columns[1]), toVec3(columns[2]), toVec3(now.at - turn * start.at)};
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

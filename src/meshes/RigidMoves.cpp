#include "meshes/RigidMoves.h"

#include "parallel/Loops.h"

#include <fmt/format.h>
#include <Eigen/Dense>

#include <algorithm>
#include <utility>

namespace seedloom {

namespace {

constexpr double kShape = 1e-4;     // of a part's size: as much may its points differ from where the movement takes them
constexpr double kRounding = 4e-7;  // of how far away they are
constexpr double kStays = 1e-6;     // of its size: as little is no movement

using Vector3 = Eigen::Vector3d;
using Matrix3 = Eigen::Matrix3d;

Vector3 vectorOf(Vec3 p) { return {double(p.x), double(p.y), double(p.z)}; }

struct Move {
    Triple at{};
    Turn turn{0, 0, 0, 1};
    double farthest = 0, size = 0, away = 0;  ///< of its points from where it takes them; of the part; from the origin
};

Move moveBetween(const MovingPart& part, const std::vector<Vec3>& from, const std::vector<Vec3>& to) {
    Vector3 middle = Vector3::Zero();
    for (const Index p : part.points) middle += vectorOf(to[p]);
    middle /= double(part.points.size());
    Matrix3 spread = Matrix3::Zero();
    const Vector3 centre = vectorOf(part.centre);
    for (const Index p : part.points) spread += (vectorOf(to[p]) - middle) * (vectorOf(from[p]) - centre).transpose();
    const Eigen::JacobiSVD<Matrix3> parted(spread, Eigen::ComputeFullU | Eigen::ComputeFullV);
    Matrix3 mirror = Matrix3::Identity();
    mirror(2, 2) = (parted.matrixU() * parted.matrixV().transpose()).determinant() < 0 ? -1 : 1;
    const Matrix3 turn = parted.matrixU() * mirror * parted.matrixV().transpose();
    Move out;
    Rotation rows;
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j) rows[std::size_t(i)][std::size_t(j)] = turn(i, j);
    out.at = {middle.x(), middle.y(), middle.z()};
    out.turn = turnOf(rows);
    for (const Index p : part.points) {
        const Vector3 own = vectorOf(from[p]) - centre;
        out.farthest = std::max(out.farthest, (middle + turn * own - vectorOf(to[p])).norm());
        out.size = std::max(out.size, own.norm()), out.away = std::max(out.away, vectorOf(to[p]).norm());
    }
    return out;
}

/// The same turn on the side of the one before, so that what lies between is the short way.
Turn alongside(Turn turn, const Turn& before) {
    double along = 0;
    for (std::size_t i = 0; i < 4; ++i) along += turn[i] * before[i];
    if (along < 0)
        for (double& one : turn) one = -one;
    return turn;
}

Error otherElements() {
    return {"animate.elements",
            "The model has other points, faces or copies from frame to frame: only what keeps them can move in one file. Write one file a frame instead."};
}

}  // namespace

Result<RigidMoves> RigidMoves::from(Geometry first, const RunContext& run) {
    RigidMoves out;
    out.first_ = std::move(first);
    const Geometry& g = out.first_;
    const Connection& connection = g.topology().connection();
    out.parts_.resize(connection.parts);
    std::vector<std::uint8_t> used(g.pointCount());
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto corners = g.topology().face(f);
        const Index piece = connection.pieceOfPoint[corners.front()];
        out.parts_[piece].faces.push_back(f);
        for (const Index p : corners)
            if (!std::exchange(used[p], std::uint8_t(1))) out.parts_[piece].points.push_back(p);
    }
    std::erase_if(out.parts_, [](const MovingPart& part) { return part.faces.empty(); });
    for (Index p = 0; p < g.pointCount(); ++p)
        if (!used[p]) out.loose_.push_back(p);
    for (MovingPart& part : out.parts_) {
        Vector3 middle = Vector3::Zero();
        for (const Index p : part.points) middle += vectorOf(g.positions()[p]);
        middle /= double(part.points.size());
        part.centre = {float(middle.x()), float(middle.y()), float(middle.z())};
        part.at.push_back({double(part.centre.x), double(part.centre.y), double(part.centre.z)});
        part.turn.push_back({0, 0, 0, 1});
    }
    run.poll();
    if (!g.copies()) return out;
    for (std::size_t c = 0; c < g.copyCount(); ++c) {
        const auto place = gltfPlaceOf(g.copies()->place[c]);
        if (!place)
            return Error{"animate.leaning",
                         fmt::format("Copy {} leans, or has no extent: its place can't be told as a turn and a size. Bake the copies before the "
                                     "output, or write one file a frame.",
                                     c)};
        out.copies_.push_back({{*place}, false});
    }
    return out;
}

std::optional<Error> RigidMoves::add(const Geometry& frame, const RunContext& run) {
    if (frame.pointCount() != first_.pointCount() || frame.topology().cornerPoint() != first_.topology().cornerPoint() ||
        frame.faceCount() != first_.faceCount() || frame.copyCount() != first_.copyCount())
        return otherElements();
    const auto &from = first_.positions(), &to = frame.positions();
    for (const Index p : loose_)
        if (to[p] != from[p])
            return Error{"animate.shape",
                         "Points or curves move that belong to no face: only faces and copies can move in one file. Write one file a frame instead."};
    std::vector<Move> moves(parts_.size());
    forEach(
        parts_.size(), run, [&](std::size_t i) { moves[i] = moveBetween(parts_[i], from, to); }, 16);
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        MovingPart& part = parts_[i];
        const Move& move = moves[i];
        if (!(move.farthest <= kShape * move.size + kRounding * move.away))
            return Error{"animate.shape",
                         fmt::format("What is at {:.2f} {:.2f} {:.2f} at first changes its shape, by {:.2g} m: only what moves as a whole can move in one "
                                     "file. Write one file a frame instead.",
                                     part.centre.x, part.centre.y, part.centre.z, move.farthest)};
        const Triple start = part.at.front();
        const double turned = 2 * std::sqrt(std::max(0.0, 1 - move.turn[3] * move.turn[3]));
        part.moves = part.moves || lengthOf(move.at - start) > kStays * move.size + kRounding * move.away || turned > 1e-5;
        part.at.push_back(move.at);
        part.turn.push_back(alongside(move.turn, part.turn.back()));
    }
    ++frames_;
    return addCopies(frame);
}

std::optional<Error> RigidMoves::addCopies(const Geometry& frame) {
    for (std::size_t c = 0; c < copies_.size(); ++c) {
        MovingCopy& copy = copies_[c];
        const GltfPlace& before = copy.place.back();
        auto place = gltfPlaceOf(frame.copies()->place[c]);
        if (!place || frame.copies()->shapeOf[c] != first_.copies()->shapeOf[c] || length(place->size - before.size) > 1e-3f * length(before.size))
            return Error{"animate.shape",
                         fmt::format("Copy {} changes its size or its shape: only what moves as a whole can move in one file. Write one file a frame "
                                     "instead.",
                                     c)};
        const Vec4 &q = place->turn, &p = before.turn;
        if (q.x * p.x + q.y * p.y + q.z * p.z + q.w * p.w < 0) place->turn = place->turn * -1.0f;
        const Affine &now = frame.copies()->place[c], &then = first_.copies()->place[c];
        copy.moves = copy.moves || now.x != then.x || now.y != then.y || now.z != then.z || now.move != then.move;
        copy.place.push_back(*place);
    }
    return {};
}

bool RigidMoves::anyMoves() const {
    const auto moves = [](const auto& one) { return one.moves; };
    return std::any_of(parts_.begin(), parts_.end(), moves) || std::any_of(copies_.begin(), copies_.end(), moves);
}

}  // namespace seedloom

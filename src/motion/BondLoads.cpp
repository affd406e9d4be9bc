#include "motion/BondLoads.h"

#include <Eigen/Dense>
#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace seedloom {

namespace {

using Vector3 = Eigen::Vector3d;
using Matrix3 = Eigen::Matrix3d;
using Matrix6 = Eigen::Matrix<double, 6, 6>;
using Vector6 = Eigen::Matrix<double, 6, 1>;

constexpr double kShear = 0.4;           // stiffness against shear, of that against stretching: of a material with a Poisson's ratio of 0.25
constexpr double kPressed = 0.1;         // concrete and stone bear about ten times as much when they are pressed
constexpr double kTwistModulus = 0.208;  // of a square section, of its side cubed (Roark)

Vector3 vectorOf(const Triple& v) { return {v[0], v[1], v[2]}; }
Matrix3 matrixOf(const Rotation& m) {
    Matrix3 out;
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j) out(i, j) = m[std::size_t(i)][std::size_t(j)];
    return out;
}
Matrix3 crossing(const Vector3& v) {
    Matrix3 out;
    out << 0, -v.z(), v.y(), v.z(), 0, -v.x(), -v.y(), v.x(), 0;
    return out;
}

/// A bond between two members of the clump.
struct Joint {
    int a = 0, b = 0;
    Vector3 normal;
    double area = 0;
    Matrix3 stretch, bend;                 ///< stiffness, for a modulus of elasticity of 1
    Eigen::Matrix<double, 6, 6> toA, toB;  ///< from a body's motion (shift, turn) to that of its side of the joint

    Vector6 strain(const Vector6& moveA, const Vector6& moveB) const { return toB * moveB - toA * moveA; }
    Matrix6 stiffness() const {
        Matrix6 out = Matrix6::Zero();
        out.topLeftCorner<3, 3>() = stretch, out.bottomRightCorner<3, 3>() = bend;
        return out;
    }
};

Matrix6 sideOf(const Vector3& arm) {
    Matrix6 out = Matrix6::Identity();
    out.topRightCorner<3, 3>() = -crossing(arm);
    return out;
}

Joint jointOf(const Bond& bond, int a, int b, const Vector3& centreA, const Vector3& centreB) {
    Joint out{a, b, vectorOf(bond.normal), bond.area, {}, {}, {}, {}};
    const double apart = std::max((centreB - centreA).norm(), 1e-3 * std::sqrt(bond.area));
    const Matrix3 along = out.normal * out.normal.transpose(), across = Matrix3::Identity() - along;
    const double second = bond.area * bond.area / 12;  // of a square
    out.stretch = (bond.area / apart) * (along + kShear * across);
    out.bend = (second / apart) * (across + 2 * kShear * along);
    out.toA = sideOf(vectorOf(bond.at) - centreA), out.toB = sideOf(vectorOf(bond.at) - centreB);
    return out;
}

/// The largest pull over the section, from a force and a moment in it; or what pressing comes to.
double pullIn(const Joint& joint, const Vector6& load) {
    const double side = std::sqrt(joint.area), cube = side * joint.area;
    const Vector3 force = load.head<3>(), moment = load.tail<3>();
    const double along = force.dot(joint.normal), twist = std::abs(moment.dot(joint.normal));
    const double bend = (moment - moment.dot(joint.normal) * joint.normal).norm();
    const double stretch = along / joint.area + bend * 6 / cube;
    const double shear = (force - along * joint.normal).norm() / joint.area + twist / (kTwistModulus * cube);
    const double press = bend * 6 / cube - along / joint.area;
    return std::max(stretch / 2 + std::sqrt(stretch * stretch / 4 + shear * shear), press * kPressed);
}

}  // namespace

struct BondFrame::Own {
    std::vector<std::uint32_t> members;
    std::vector<Joint> joints;
    std::vector<Vector3> centre;  ///< from the clump's, at the start
    std::vector<double> mass;
    std::vector<Matrix3> inertia;  ///< about each one's own centre
    double allMass = 0;
    Matrix3 allInertia;
    bool free = true;        ///< nothing is held
    std::vector<int> place;  ///< of a member's motion among the unknowns; below 0 where it is held
    Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> solver;
    bool usable = false;

    void assemble(int unknowns) {
        std::vector<Eigen::Triplet<double>> entries;
        const auto put = [&](int a, int b, const Matrix6& block) {
            if (place[std::size_t(a)] < 0 || place[std::size_t(b)] < 0) return;
            for (int i = 0; i < 6; ++i)
                for (int j = 0; j < 6; ++j) entries.emplace_back(place[std::size_t(a)] + i, place[std::size_t(b)] + j, block(i, j));
        };
        for (const Joint& joint : joints) {
            const Matrix6 stiff = joint.stiffness();
            put(joint.a, joint.a, joint.toA.transpose() * stiff * joint.toA);
            put(joint.b, joint.b, joint.toB.transpose() * stiff * joint.toB);
            put(joint.a, joint.b, -joint.toA.transpose() * stiff * joint.toB);
            put(joint.b, joint.a, -joint.toB.transpose() * stiff * joint.toA);
        }
        Eigen::SparseMatrix<double> matrix(unknowns, unknowns);
        matrix.setFromTriplets(entries.begin(), entries.end());
        solver.compute(matrix);
        usable = solver.info() == Eigen::Success;
    }

    /// Forces of inertia: what is left holds itself in balance.
    void takeOffMotion(std::vector<Vector6>& load) const {
        Vector3 force = Vector3::Zero(), torque = Vector3::Zero();
        for (std::size_t i = 0; i < load.size(); ++i) {
            force += load[i].head<3>();
            torque += load[i].tail<3>() + centre[i].cross(Vector3(load[i].head<3>()));
        }
        const Vector3 speeding = force / allMass, turning = allInertia.ldlt().solve(torque);
        for (std::size_t i = 0; i < load.size(); ++i) {
            load[i].head<3>() -= mass[i] * (speeding + turning.cross(centre[i]));
            load[i].tail<3>() -= inertia[i] * turning;
        }
    }
};

BondFrame::BondFrame(std::vector<std::uint32_t> members, std::vector<Bond> bonds, const std::vector<RigidBody>& bodies, const std::vector<BodyState>& start,
                     const std::vector<std::uint8_t>& held)
    : own_(std::make_unique<Own>()) {
    Own& own = *own_;
    own.members = std::move(members);
    std::unordered_map<std::uint32_t, int> memberOf;
    Vector3 weighted = Vector3::Zero();
    for (const std::uint32_t body : own.members) {
        memberOf.emplace(body, int(own.mass.size()));
        own.mass.push_back(bodies[body].mass), own.centre.push_back(vectorOf(start[body].at));
        own.allMass += own.mass.back(), weighted += own.mass.back() * own.centre.back();
        const Matrix3 axes = matrixOf(rotationOf(start[body].turn));
        own.inertia.push_back(axes * vectorOf(bodies[body].inertia).asDiagonal() * axes.transpose());
        own.free = own.free && !held[body];
    }
    own.allInertia = Matrix3::Zero();
    for (const Bond& bond : bonds) {
        const int a = memberOf.at(bond.a), b = memberOf.at(bond.b);
        own.joints.push_back(jointOf(bond, a, b, own.centre[std::size_t(a)], own.centre[std::size_t(b)]));
    }
    for (std::size_t i = 0; i < own.members.size(); ++i) {
        own.centre[i] -= weighted / own.allMass;
        own.allInertia += own.inertia[i] + own.mass[i] * (own.centre[i].squaredNorm() * Matrix3::Identity() - own.centre[i] * own.centre[i].transpose());
    }
    // Where nothing is held, the first one is: with forces in balance nothing presses on it.
    int unknowns = 0;
    for (std::size_t i = 0; i < own.members.size(); ++i) {
        const bool fixed = held[own.members[i]] || (own.free && i == 0);
        own.place.push_back(fixed ? -1 : unknowns);
        if (!fixed) unknowns += 6;
    }
    if (unknowns > 0 && !own.joints.empty()) own.assemble(unknowns);
}

BondFrame::~BondFrame() = default;

std::vector<double> BondFrame::pulls(const std::vector<BodyLoad>& loads, const Rotation& turn) const {
    const Own& own = *own_;
    std::vector<double> out(own.joints.size());
    if (!own.usable) return out;
    const Matrix3 back = matrixOf(turn).transpose();
    std::vector<Vector6> load(own.members.size());
    for (std::size_t i = 0; i < load.size(); ++i) load[i] << back * vectorOf(loads[own.members[i]].force), back * vectorOf(loads[own.members[i]].torque);
    if (own.free) own.takeOffMotion(load);
    Eigen::VectorXd right(own.solver.rows());
    for (std::size_t i = 0; i < load.size(); ++i)
        if (own.place[i] >= 0) right.segment<6>(own.place[i]) = load[i];
    const Eigen::VectorXd moves = own.solver.solve(right);
    const auto moveOf = [&](int member) -> Vector6 {
        const int at = own.place[std::size_t(member)];
        return at < 0 ? Vector6(Vector6::Zero()) : Vector6(moves.segment<6>(at));
    };
    for (std::size_t j = 0; j < out.size(); ++j) {
        const Joint& joint = own.joints[j];
        const double pull = pullIn(joint, joint.stiffness() * joint.strain(moveOf(joint.a), moveOf(joint.b)));
        out[j] = std::isfinite(pull) ? pull : 0;
    }
    return out;
}

}  // namespace seedloom

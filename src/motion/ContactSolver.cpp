#include "motion/ContactSolver.h"

#include <algorithm>

namespace seedloom {

namespace {

void copy(const btVector3& from, btScalar* to) { std::copy_n(static_cast<const btScalar*>(from), 3, to); }

btScalar dot(const btScalar* a, const btScalar* b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

void add(btScalar* to, const btScalar* way, btScalar times) {
    for (int i = 0; i < 3; ++i) to[i] += way[i] * times;
}

}  // namespace

/// The impulse that is still missing, however large.
inline btScalar ContactSolver::Row::missing(const Motion& first, const Motion& second) const {
    const btScalar nearer = dot(way, first.way) + dot(leverA, first.turn) - dot(way, second.way) + dot(leverB, second.turn);
    return wanted - impulse * soft - nearer * share;
}

inline void ContactSolver::Row::push(btScalar more, Motion& first, Motion& second) {
    impulse += more;
    add(first.way, way, more * lightA), add(first.turn, turnA, more);
    add(second.way, way, -more * lightB), add(second.turn, turnB, more);
}

ContactSolver::Row ContactSolver::rowOf(const btSolverConstraint& from, const btSolverBody& a, const btSolverBody& b) {
    Row out;
    // What cannot move has no direction.
    copy(from.m_contactNormal1.isZero() ? -from.m_contactNormal2 : from.m_contactNormal1, out.way);
    copy(from.m_relpos1CrossNormal, out.leverA), copy(from.m_relpos2CrossNormal, out.leverB);
    copy(from.m_angularComponentA, out.turnA), copy(from.m_angularComponentB, out.turnB);
    out.lightA = a.m_invMass.x(), out.lightB = b.m_invMass.x();
    out.wanted = from.m_rhs, out.share = from.m_jacDiagABInv, out.soft = from.m_cfm, out.impulse = from.m_appliedImpulse, out.friction = from.m_friction;
    out.a = from.m_solverBodyIdA, out.b = from.m_solverBodyIdB;
    return out;
}

void ContactSolver::gather() {
    motions_.clear(), presses_.clear(), rubs_.clear(), pressOf_.clear();
    for (int i = 0; i < m_tmpSolverBodyPool.size(); ++i) {
        Motion& motion = motions_.emplace_back();
        copy(m_tmpSolverBodyPool[i].m_deltaLinearVelocity, motion.way), copy(m_tmpSolverBodyPool[i].m_deltaAngularVelocity, motion.turn);
    }
    const auto row = [&](const btSolverConstraint& from) {
        return rowOf(from, m_tmpSolverBodyPool[from.m_solverBodyIdA], m_tmpSolverBodyPool[from.m_solverBodyIdB]);
    };
    for (int i = 0; i < m_tmpSolverContactConstraintPool.size(); ++i) presses_.push_back(row(m_tmpSolverContactConstraintPool[i]));
    for (int i = 0; i < m_tmpSolverContactFrictionConstraintPool.size(); ++i) {
        rubs_.push_back(row(m_tmpSolverContactFrictionConstraintPool[i]));
        pressOf_.push_back(m_tmpSolverContactFrictionConstraintPool[i].m_frictionIndex);
    }
}

void ContactSolver::round() {
    for (Row& row : presses_) {
        Motion &first = motions_[std::size_t(row.a)], &second = motions_[std::size_t(row.b)];
        row.push(std::max(row.missing(first, second), -row.impulse), first, second);
    }
    for (std::size_t i = 0; i < rubs_.size(); ++i) {
        Row& row = rubs_[i];
        const btScalar most = row.friction * presses_[std::size_t(pressOf_[i])].impulse;
        if (most <= 0 && row.impulse == 0) continue;
        Motion &first = motions_[std::size_t(row.a)], &second = motions_[std::size_t(row.b)];
        row.push(std::clamp(row.missing(first, second), -most - row.impulse, most - row.impulse), first, second);
    }
}

void ContactSolver::handBack() {
    for (int i = 0; i < m_tmpSolverBodyPool.size(); ++i) {
        const Motion& motion = motions_[std::size_t(i)];
        m_tmpSolverBodyPool[i].m_deltaLinearVelocity.setValue(motion.way[0], motion.way[1], motion.way[2]);
        m_tmpSolverBodyPool[i].m_deltaAngularVelocity.setValue(motion.turn[0], motion.turn[1], motion.turn[2]);
    }
    for (std::size_t i = 0; i < presses_.size(); ++i) m_tmpSolverContactConstraintPool[int(i)].m_appliedImpulse = presses_[i].impulse;
    for (std::size_t i = 0; i < rubs_.size(); ++i) m_tmpSolverContactFrictionConstraintPool[int(i)].m_appliedImpulse = rubs_[i].impulse;
}

btScalar ContactSolver::solveGroupCacheFriendlyIterations(btCollisionObject** bodies, int bodyCount, btPersistentManifold** touching, int touchingCount,
                                                          btTypedConstraint** constraints, int constraintCount, const btContactSolverInfo& info,
                                                          btIDebugDraw* drawer) {
    solveGroupCacheFriendlySplitImpulseIterations(bodies, bodyCount, touching, touchingCount, constraints, constraintCount, info, drawer);
    gather();
    for (int i = 0; i < info.m_numIterations; ++i) round();
    handBack();
    return 0;
}

}  // namespace seedloom

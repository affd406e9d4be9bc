#pragma once
// What bodies that touch do to each other in one step.
#include <BulletDynamics/ConstraintSolver/btSequentialImpulseConstraintSolver.h>

#include <vector>

namespace seedloom {

/// The library's solver with rounds of our own: first all that presses, then all that rubs, as there (Catto 2005, sequential impulses). All that a round needs
/// lies close together; and what no longer presses no longer rubs. In the library friction keeps what it had when the pressure was last above 0: between a
/// heavy body, a light one and the ground that grows from round to round until the light one is flung away.
class ContactSolver : public btSequentialImpulseConstraintSolver {
protected:
    /// There must be nothing but contacts, and two directions of friction at each.
    btScalar solveGroupCacheFriendlyIterations(btCollisionObject** bodies, int bodyCount, btPersistentManifold** touching, int touchingCount,
                                               btTypedConstraint** constraints, int constraintCount, const btContactSolverInfo& info,
                                               btIDebugDraw* drawer) override;

private:
    /// Changes of velocity since the step began.
    struct Motion {
        btScalar way[3], turn[3];
    };
    /// One direction in which two bodies change each other's motion.
    struct Row {
        btScalar way[3];  ///< from b to a
        btScalar leverA[3], leverB[3];
        btScalar turnA[3], turnB[3];  ///< change of spin by an impulse of 1
        btScalar lightA, lightB;      ///< 1 / mass
        btScalar wanted, share, soft, impulse, friction;
        int a, b;
        btScalar missing(const Motion& first, const Motion& second) const;
        void push(btScalar more, Motion& first, Motion& second);
    };
    static Row rowOf(const btSolverConstraint& from, const btSolverBody& a, const btSolverBody& b);
    void gather();
    void round();
    void handBack();

    std::vector<Motion> motions_;
    std::vector<Row> presses_, rubs_;
    std::vector<int> pressOf_;  ///< of what rubs
};

}  // namespace seedloom

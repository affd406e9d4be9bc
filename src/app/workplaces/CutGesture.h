#pragma once
// A straight line across the view: the plane through it that goes straight away from the eye.
#include "app/session/Session.h"
#include "app/stage/Gesture.h"

namespace seedloom::app {

class CutGesture : public Gesture {
public:
    /// `shortest`: metres that the hand must have gone for a line.
    CutGesture(Session& session, double shortest) : session_(session), shortest_(shortest) {}
    /// `towardsEye`: of the ray that the hand points along.
    void begin(Vec3 at, Vec3 towardsEye) override;
    void move(Vec3 at, Vec3 towardsEye) override;
    void end() override { session_.document().endGesture(); }

private:
    Session& session_;
    double shortest_;
    int gesture_ = 0;
    Vec3 from_{}, fromEye_{};
};

}  // namespace seedloom::app

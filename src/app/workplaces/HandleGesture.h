#pragma once
// Dragging a handle of the chosen node: each move writes the settings that the handle stands for.
#include "app/session/Session.h"
#include "app/stage/Gesture.h"
#include "geometry/Measures.h"

#include <optional>

namespace seedloom::app {

class HandleGesture : public Gesture {
public:
    /// `input`: the bounds of what goes into the node; `line`: of drawn lines only that one has handles.
    HandleGesture(Session& session, int handle, const Bounds& input, std::optional<std::size_t> line)
        : session_(session), handle_(handle), input_(input), line_(line) {}
    void begin(Vec3, Vec3) override { gesture_ = session_.document().newGesture(); }
    void move(Vec3 at, Vec3) override;
    void end() override { session_.document().endGesture(); }

private:
    Session& session_;
    int handle_, gesture_ = 0;
    Bounds input_;
    std::optional<std::size_t> line_;
};

}  // namespace seedloom::app

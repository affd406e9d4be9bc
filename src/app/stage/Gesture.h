#pragma once
// What a hand does on the stage with the chosen node: pointer events become edits. One class for each kind; no window knows any of them.
#include "geometry/Vec.h"

namespace seedloom::app {

class Gesture {
public:
    virtual ~Gesture() = default;
    /// At a place in space; `normal` is that of the model there, where it lies on it.
    virtual void begin(Vec3 at, Vec3 normal) = 0;
    virtual void move(Vec3 at, Vec3 normal) = 0;
    /// The hand lets go. All of it is one step back.
    virtual void end() = 0;
};

}  // namespace seedloom::app

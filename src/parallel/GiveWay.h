#pragma once

namespace seedloom {

/// From now on this thread runs where no other of the machine wants to: a hand on the window is never held up by it. It can't be taken back.
void giveWay();

}  // namespace seedloom

#pragma once
// Work behind the interface, one piece after the other on a thread of its own; each tells what is to be done in front afterwards.
#include "app/session/Doorbell.h"

#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace seedloom::app {

class Background {
public:
    using Then = std::function<void()>;
    Background();
    /// Drops what waits, and waits for what runs; nothing is done in front any more.
    ~Background();

    /// `work` runs behind, what it returns in front (nothing where it is empty, or where `work` throws).
    void start(std::function<Then()> work);
    /// Drops what has not begun yet.
    void clear();
    /// Waits until all work is done; what follows in front is still to come.
    void wait();

private:
    void run();
    void deliver();

    std::mutex mutex_;
    std::condition_variable wake_, idle_;
    std::deque<std::function<Then()>> waiting_;
    std::vector<Then> done_;
    bool quit_ = false, busy_ = false;
    Doorbell bell_;
    std::thread thread_;  ///< started by the first work
};

}  // namespace seedloom::app

#include "app/session/Background.h"

namespace seedloom::app {

Background::Background() {
    QObject::connect(&bell_, &Doorbell::rung, &bell_, [this] { deliver(); });
}

Background::~Background() {
    {
        const std::lock_guard lock(mutex_);
        quit_ = true;
        waiting_.clear();
    }
    wake_.notify_all();
    if (thread_.joinable()) thread_.join();
}

void Background::start(std::function<Then()> work) {
    {
        const std::lock_guard lock(mutex_);
        waiting_.push_back(std::move(work));
    }
    if (!thread_.joinable()) thread_ = std::thread([this] { run(); });
    wake_.notify_one();
}

void Background::clear() {
    const std::lock_guard lock(mutex_);
    waiting_.clear();
}

void Background::wait() {
    std::unique_lock lock(mutex_);
    idle_.wait(lock, [this] { return waiting_.empty() && !busy_; });
}

void Background::run() {
    for (;;) {
        std::function<Then()> work;
        {
            std::unique_lock lock(mutex_);
            busy_ = false;
            idle_.notify_all();
            wake_.wait(lock, [this] { return quit_ || !waiting_.empty(); });
            if (quit_) return;
            work = std::move(waiting_.front());
            waiting_.pop_front();
            busy_ = true;
        }
        Then then;
        try {
            then = work();
        } catch (...) {
            // What can't be made for want of memory is missing, not the program.
        }
        work = nullptr;
        {
            const std::lock_guard lock(mutex_);
            if (then) done_.push_back(std::move(then));
        }
        bell_.ring();
    }
}

void Background::deliver() {
    std::vector<Then> done;
    {
        const std::lock_guard lock(mutex_);
        done.swap(done_);
    }
    for (const Then& then : done) then();
}

}  // namespace seedloom::app

#pragma once
// What ends a command: a status with a message, or a limit of time.
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <string>
#include <thread>

namespace seedloom {

/// Ends the command with a status and a message.
struct Ending {
    int status;
    std::string text;
};

/// Raises the stop flag after a while, unless it is done before.
class TimeLimit {
public:
    TimeLimit(double seconds, std::atomic<bool>& stop) {
        if (seconds <= 0) return;
        thread_ = std::thread([this, seconds, &stop] {
            std::unique_lock lock(mutex_);
            if (!done_.wait_for(lock, std::chrono::duration<double>(seconds), [this] { return finished_; })) stop = true;
        });
    }
    ~TimeLimit() {
        {
            const std::lock_guard lock(mutex_);
            finished_ = true;
        }
        done_.notify_all();
        if (thread_.joinable()) thread_.join();
    }

private:
    std::mutex mutex_;
    std::condition_variable done_;
    bool finished_ = false;
    std::thread thread_;
};

}  // namespace seedloom

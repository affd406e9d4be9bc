#pragma once
// What a running computation may know about the outside: whether to stop, how large it may become, how far it is.
#include <atomic>
#include <cstdint>
#include <stdexcept>
#include <string>

namespace seedloom {

/// Thrown by RunContext::poll; unwinds an operator without a partial result. Caught by the rebuilding engine only.
struct Cancelled {};

/// A result would be larger than allowed. Thrown before anything is allocated.
class LimitExceeded : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

struct Limits {
    std::uint64_t elements = 50'000'000;  ///< most points or corners that one node may make
};

class RunContext {
public:
    /// `progress` is where others see how far it is, 0–1; it must outlive this.
    explicit RunContext(const std::atomic<bool>* cancel = nullptr, Limits limits = {}, std::atomic<float>* progress = nullptr)
        : cancel_(cancel), limits_(limits), progress_(progress) {}

    /// Throws Cancelled where a stop was asked for. Call it at least every 10 ms.
    void poll() const {
        if (cancel_ && cancel_->load(std::memory_order_relaxed)) throw Cancelled{};
    }
    /// Throws LimitExceeded where `estimate` (in `what`, as "points") is over the limit. A NaN counts as too large.
    void require(double estimate, const char* what) const;

    void setProgress(float part) const {
        if (progress_) progress_->store(part, std::memory_order_relaxed);
    }
    const Limits& limits() const { return limits_; }

private:
    const std::atomic<bool>* cancel_;
    Limits limits_;
    std::atomic<float>* progress_;
};

}  // namespace seedloom

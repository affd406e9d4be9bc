#pragma once
// Makes visible to the thread sanitizer what oneTBB's library orders out of its sight: that whatever happened before a
// task was handed over comes before the task, and the task before whatever follows the wait for it. The library itself
// is not instrumented; without this, each task would be reported. Elsewhere both calls are nothing.

#if defined(__SANITIZE_THREAD__)
extern "C" void __tsan_acquire(void* address);
extern "C" void __tsan_release(void* address);
#define SEEDLOOM_UNSEEN __attribute__((no_sanitize_thread))
#else
#define SEEDLOOM_UNSEEN
#endif

namespace seedloom {

#if defined(__SANITIZE_THREAD__)
inline void handOver(const void* token) { __tsan_release(const_cast<void*>(token)); }
inline void takeOver(const void* token) { __tsan_acquire(const_cast<void*>(token)); }
#else
inline void handOver(const void*) {}
inline void takeOver(const void*) {}
#endif

/// Around a task: takes over what came before it, hands over what it did, also where it ends by an exception.
class TaskOrder {
public:
    explicit TaskOrder(const void* token) : token_(token) { takeOver(token_); }
    ~TaskOrder() { handOver(token_); }
    TaskOrder(const TaskOrder&) = delete;
    TaskOrder& operator=(const TaskOrder&) = delete;

private:
    const void* token_;
};
/// Around a wait for tasks, also where it ends by an exception.
class WaitOrder {
public:
    explicit WaitOrder(const void* token) : token_(token) { handOver(token_); }
    ~WaitOrder() { takeOver(token_); }
    WaitOrder(const WaitOrder&) = delete;
    WaitOrder& operator=(const WaitOrder&) = delete;

private:
    const void* token_;
};

}  // namespace seedloom

#pragma once
// What a list of a step comes to, kept while a hand adds one more entry to it: so a move of the hand costs the same however much was drawn before.
#include "geometry/Digest.h"

#include <memory>
#include <mutex>
#include <typeindex>

namespace seedloom {

/// Holds the work of one step at a time. Thread-safe.
class UnfinishedWork {
public:
    /// What was kept under this key, a digest of all that went into it; nothing where it was something else.
    template <class T> std::shared_ptr<const T> find(const Digest& key) const {
        const std::lock_guard lock(mutex_);
        return value_ && key_ == key && type_ == std::type_index(typeid(T)) ? std::static_pointer_cast<const T>(value_) : nullptr;
    }
    template <class T> void keep(const Digest& key, std::shared_ptr<const T> value) {
        const std::lock_guard lock(mutex_);
        key_ = key, type_ = std::type_index(typeid(T)), value_ = std::move(value);
    }
    void clear() {
        const std::lock_guard lock(mutex_);
        value_.reset();
    }

private:
    mutable std::mutex mutex_;
    Digest key_;
    std::type_index type_ = std::type_index(typeid(void));
    std::shared_ptr<const void> value_;
};

}  // namespace seedloom

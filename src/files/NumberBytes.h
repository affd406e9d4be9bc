#pragma once
// Numbers as bytes, one after the other, as this machine holds them: for files that no other machine reads.
#include <cstring>
#include <string>
#include <string_view>

namespace seedloom {

class NumberBytes {
public:
    template <class T> void add(const T& value) { text.append(reinterpret_cast<const char*>(&value), sizeof value); }
    std::string text;
};

/// What is not there leaves values as they were, and nothing more is read.
class NumbersRead {
public:
    explicit NumbersRead(std::string_view bytes) : left_(bytes) {}
    template <class T> void take(T& value) {
        if (left_.size() < sizeof value) failed_ = true;
        if (failed_) return;
        std::memcpy(&value, left_.data(), sizeof value);
        left_.remove_prefix(sizeof value);
    }
    bool whole() const { return !failed_ && left_.empty(); }
    std::size_t left() const { return left_.size(); }

private:
    std::string_view left_;
    bool failed_ = false;
};

}  // namespace seedloom

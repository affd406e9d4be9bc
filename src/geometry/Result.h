#pragma once
// A value, or an error with a stable code for tests and a text for people.
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace seedloom {

struct Error {
    std::string code;                    ///< stable, as "formula.unknown_name"
    std::string text;                    ///< says what happened, where, and what can be done
    int line = 0, column = 0;            ///< place in a formula, from 1; 0 where it has none
    std::string unknown = {};            ///< a word in that formula that names nothing, where that is what is wrong
    std::vector<std::string> near = {};  ///< what it may have been meant for, the likeliest first
};

template <class T> class Result {
public:
    Result(T value) : state_(std::move(value)) {}
    Result(Error error) : state_(std::move(error)) {}
    explicit operator bool() const { return std::holds_alternative<T>(state_); }
    T& operator*() { return std::get<T>(state_); }
    const T& operator*() const { return std::get<T>(state_); }
    T* operator->() { return &std::get<T>(state_); }
    const T* operator->() const { return &std::get<T>(state_); }
    const Error& error() const { return std::get<Error>(state_); }

private:
    std::variant<T, Error> state_;
};

}  // namespace seedloom

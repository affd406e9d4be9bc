#pragma once
// Deterministic parallel loops: chunks have a fixed size, whatever the number of threads, and are numbered in order.
#include "parallel/HandOver.h"
#include "parallel/RunContext.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cstddef>

namespace seedloom {

struct Range {
    std::size_t begin, end;
};

inline constexpr std::size_t kChunk = 8192;

namespace detail {
/// No chunk is larger. Only tests change it: with small chunks a small input is split as a large one is.
inline std::size_t mostOfChunk = ~std::size_t{0};
inline std::size_t sizeOfChunk(std::size_t wanted) { return std::min(wanted, mostOfChunk); }
}  // namespace detail

inline std::size_t chunkCount(std::size_t count, std::size_t size = kChunk) {
    size = detail::sizeOfChunk(size);
    return (count + size - 1) / size;
}

/// While it lives, no chunk is larger than this. For tests; nothing may run while it comes and goes.
class SmallChunks {
public:
    explicit SmallChunks(std::size_t size) { detail::mostOfChunk = size; }
    ~SmallChunks() { detail::mostOfChunk = ~std::size_t{0}; }
    SmallChunks(const SmallChunks&) = delete;
    SmallChunks& operator=(const SmallChunks&) = delete;
};

namespace detail {
/// Calls a loop's body on whichever thread takes the chunk.
template <class Body> struct SeenTask {
    const Body* body;
    SEEDLOOM_UNSEEN void operator()(std::size_t chunk) const {
        const TaskOrder order(body);
        (*body)(chunk);
    }
};
}  // namespace detail

/// Calls body(chunk number, range) for every chunk; polls for cancellation before each. Work of one chunk stays on the
/// calling thread. Combine partial results by chunk number to stay deterministic.
template <class Body> void forChunks(std::size_t count, const RunContext& run, Body&& body, std::size_t size = kChunk) {
    size = detail::sizeOfChunk(size);
    const std::size_t chunks = chunkCount(count, size);
    const auto one = [&](std::size_t chunk) {
        run.poll();
        body(chunk, Range{chunk * size, std::min(count, (chunk + 1) * size)});
    };
    if (chunks <= 1) {
        if (chunks == 1) one(0);
        return;
    }
    const WaitOrder order(&one);
    tbb::parallel_for(std::size_t{0}, chunks, detail::SeenTask<decltype(one)>{&one});
}

/// Calls body(i) for every i below `count`.
template <class Body> void forEach(std::size_t count, const RunContext& run, Body&& body, std::size_t size = kChunk) {
    forChunks(
        count, run,
        [&](std::size_t, Range range) {
            for (std::size_t i = range.begin; i < range.end; ++i) body(i);
        },
        size);
}

}  // namespace seedloom

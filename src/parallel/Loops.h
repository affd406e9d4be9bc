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

inline std::size_t chunkCount(std::size_t count, std::size_t size = kChunk) { return (count + size - 1) / size; }

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

#pragma once
// 128-bit content digests (XXH3): equal values give equal digests on every run and for any number of threads.
#include "geometry/Geometry.h"

namespace seedloom {

struct Digest {
    std::uint64_t high = 0, low = 0;
    auto operator<=>(const Digest&) const = default;
    std::string hex() const;
};

/// Collects bytes; the order of calls counts.
class Digester {
public:
    Digester();
    ~Digester();
    Digester(const Digester&) = delete;
    Digester& operator=(const Digester&) = delete;
    void add(const void* bytes, std::size_t size);
    void add(std::string_view text);  ///< length and bytes, so that neighbours cannot run together
    void add(std::uint64_t number) { add(&number, sizeof number); }
    void add(const Digest& digest) { add(&digest, sizeof digest); }
    Digest finish() const;

private:
    void* state_;
};

/// Over counts, topology, all attributes by name, and copies.
Digest digestOf(const Geometry& geometry);

struct DigestHash {
    std::size_t operator()(const Digest& d) const { return static_cast<std::size_t>(d.low ^ d.high); }
};

}  // namespace seedloom

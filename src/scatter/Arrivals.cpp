#include "scatter/Arrivals.h"

#include "parallel/Loops.h"
#include "scatter/Streams.h"

#include <tuple>

namespace seedloom {

namespace {

bool earlier(const Arrival& a, const Arrival& b) { return std::tie(a.time, a.part, a.number) < std::tie(b.time, b.part, b.number); }

}  // namespace

Arrivals::Arrivals(std::vector<double> rates, std::vector<std::uint32_t> keys, std::uint32_t seed) : rates_(std::move(rates)), phase_(rates_.size()) {
    for (std::size_t p = 0; p < rates_.size(); ++p) {
        if (!(rates_[p] > 0) || !std::isfinite(rates_[p])) rates_[p] = 0;
        total_ += rates_[p];
        phase_[p] = evenly(keys[p], seed);
    }
}

double Arrivals::countUntil(double time) const {
    double count = 0;
    for (std::size_t p = 0; p < rates_.size(); ++p) count += std::max(0.0, std::floor(rates_[p] * time - phase_[p]) + 1);
    return count;
}

std::vector<Arrival> Arrivals::between(double from, double to, const RunContext& run, Order order) const {
    run.require(total_ * (to - from), "points");
    std::vector<Arrival> out;
    out.reserve(std::size_t(total_ * (to - from)) + 16);
    for (std::size_t p = 0; p < rates_.size(); ++p) {
        if (p % kChunk == 0) run.poll();
        if (rates_[p] == 0) continue;
        const double last = rates_[p] * to - phase_[p];
        for (auto k = Index(std::max(0.0, std::floor(rates_[p] * from - phase_[p]) + 1)); double(k) <= last; ++k)
            out.push_back({(double(k) + phase_[p]) / rates_[p], Index(p), k});
    }
    run.poll();
    if (order == Order::time) std::sort(out.begin(), out.end(), earlier);
    return out;
}

std::vector<Arrival> Arrivals::first(std::size_t count, const RunContext& run) const {
    run.require(double(count), "points");
    if (count == 0 || !(total_ > 0)) return {};
    // A little more than enough, so that little is thrown away.
    double margin = 1 + 2 / std::sqrt(double(count)), time = 0;
    do {
        time = double(count) / total_ * margin;
        margin *= 1.5;
    } while (countUntil(time) < double(count));
    std::vector<Arrival> out = between(0, time, run);
    if (out.size() > count) out.resize(count);
    return out;
}

std::vector<std::int32_t> idsOf(const std::vector<std::uint64_t>& hashes) {
    constexpr std::uint32_t kSmall = 1u << 24;  // whole numbers below are exact as floats
    constexpr int kTries = 4;
    std::vector<bool> taken(kSmall, false);
    std::int32_t beyond = kSmall;
    std::vector<std::int32_t> out;
    out.reserve(hashes.size());
    for (std::uint64_t hash : hashes) {
        std::int32_t id = -1;
        for (int i = 0; i < kTries && id < 0; ++i, hash = mixBits(hash + 1))
            if (const auto small = std::uint32_t(hash % kSmall); !taken[small]) taken[small] = true, id = std::int32_t(small);
        out.push_back(id < 0 ? beyond++ : id);
    }
    return out;
}

}  // namespace seedloom

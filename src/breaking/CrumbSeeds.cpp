#include "breaking/CrumbSeeds.h"

#include "geometry/Measures.h"
#include "scatter/PointGrid.h"
#include "scatter/Streams.h"

#include <bit>
#include <tuple>

namespace seedloom {

namespace {

constexpr double kApart = 0.8;    ///< of both radii together: crumbs that lie nearer would be discs
constexpr double kOnLine = 0.3;   ///< of its radius: how far from the line a crumb lies that both sides share
constexpr double kBeside = 1.35;  ///< of its radius: from here on one side has all of it
constexpr double kDeep = 0.3;     ///< of its radius: how far under the surface it lies at most

struct Candidate {
    Crumb crumb;
    double time;
    std::uint64_t stream;
};

/// The same for a stretch and its reverse.
std::uint64_t stretchBits(const LineStretch& s, std::uint64_t seed) {
    const std::uint64_t a = placeBits(s.from), b = placeBits(s.to);
    return mixThree(std::min(a, b), std::max(a, b), seed);
}

bool turned(const LineStretch& s) { return std::tie(s.to.x, s.to.y, s.to.z) < std::tie(s.from.x, s.from.y, s.from.z); }

double at(const std::array<double, 2>& ends, double t) { return ends[0] + (ends[1] - ends[0]) * t; }

class StretchCrumbs {
public:
    StretchCrumbs(const LineStretch& s, std::array<double, 2> sizes, std::uint64_t seed) : s_(s), sizes_(sizes), stream_(stretchBits(s, seed)) {
        along_ = normalized(s.to - s.from, {});
        if (turned(s)) along_ = -along_;
        across_ = normalized(cross(along_, s.out), {});
    }
    void addTo(std::vector<Candidate>& out) const {
        const double length = double(distance(s_.from, s_.to)), most = std::max(s_.rate[0], s_.rate[1]);
        if (!(length > 0) || !(most > 0)) return;
        for (std::uint32_t k = 0;; ++k) {
            const std::uint64_t stream = mixThree(stream_, k, 1);
            const double time = (double(k) + chance(stream, 0)) / length;
            if (!(time < most)) return;
            double t = evenly(k, std::uint32_t(stream_));
            if (turned(s_)) t = 1 - t;
            if (time < at(s_.rate, t)) add(t, time, stream, out);
        }
    }

private:
    static double chance(std::uint64_t stream, std::uint64_t i) { return unitOf(mixThree(stream, i, 2)); }

    void add(double t, double time, std::uint64_t stream, std::vector<Candidate>& out) const {
        const double width = at(s_.width, t), small = chance(stream, 1);
        const double radius = width * (sizes_[0] + (sizes_[1] - sizes_[0]) * small * small);
        if (!(radius > 0)) return;
        // Whole ones beside the line where there is room for them.
        const double room = width - radius, least = radius * kBeside;
        const double side = chance(stream, 2) * 2 - 1;
        const bool beside = room >= least && chance(stream, 3) < (room - least) / width;
        const double off = beside ? std::copysign(least + (room - least) * std::abs(side), side) : radius * kOnLine * side;
        const double deep = radius * kDeep * chance(stream, 4);
        const Vec3 on = mix(s_.from, s_.to, float(t));
        out.push_back({{on + across_ * float(off) - s_.out * float(deep), radius}, time, stream});
    }

    const LineStretch& s_;
    std::array<double, 2> sizes_;
    std::uint64_t stream_;
    Vec3 along_, across_;
};

}  // namespace

std::vector<Crumb> crumbsAlong(const std::vector<LineStretch>& lines, std::array<double, 2> sizes, double seed, const RunContext& run) {
    double estimate = 0;
    for (const LineStretch& s : lines) estimate += double(distance(s.from, s.to)) * std::max({s.rate[0], s.rate[1], 0.0});
    run.require(estimate * 300, "corners of crumbs");
    std::vector<Candidate> all;
    for (const LineStretch& s : lines) {
        run.poll();
        StretchCrumbs(s, sizes, mixBits(std::bit_cast<std::uint64_t>(seed + 0.0) + 23)).addTo(all);
    }
    std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) { return std::tie(a.time, a.stream) < std::tie(b.time, b.stream); });
    std::vector<Vec3> centres;
    double largest = 0;
    for (const Candidate& c : all) centres.push_back(c.crumb.centre), largest = std::max(largest, c.crumb.radius);
    if (all.empty()) return {};
    const PointGrid grid(centres, float(largest * 2 * kApart));
    std::vector<std::uint8_t> taken(all.size(), 0);
    std::vector<Crumb> out;
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (i % 64 == 0) run.poll();
        bool room = isFinite(centres[i]);
        grid.within(centres[i], float((all[i].crumb.radius + largest) * kApart), [&](Index k) {
            room = room && !(taken[k] && double(distance(centres[k], centres[i])) < (all[k].crumb.radius + all[i].crumb.radius) * kApart);
        });
        if (!room) continue;
        taken[i] = 1;
        out.push_back(all[i].crumb);
    }
    return out;
}

}  // namespace seedloom
